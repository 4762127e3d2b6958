"""All features of a part in one list, those alike together, and what is said of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import lru_cache

from ..part.model import Part
from ..values import value
from .bent_sheet import Bend, bent_sheets
from .blends import blends_of, chamfers_of
from .feature import Feature
from .helices import Helix, helices_of
from .holes import Hole, holes_of
from .patterns import Pattern, patterns_of
from .slots import slots_of
from .turned import turned_of
from .walls import channels_of, ribs_of, slot_feature

SPOT = 0.15
"""Of its diameter: how deep a counterbore is at most that only faces a spot."""


@value
class Alike:
    """Features that are made alike, by row of the list, and how they stand to each other."""

    members: tuple[int, ...]
    pattern: Pattern | None


@lru_cache(maxsize=16)
def features_of(part: Part) -> tuple[Feature, ...]:
    """All features of a part: holes, slots and keyways, channels, bosses, steps, grooves, chamfers, fillets, ribs, bends of
    sheet."""
    found = [_of_hole(h) for h in holes_of(part)]
    found += [slot_feature(part, s) for s in slots_of(part)]
    found += channels_of(part)
    cut = {f for h in helices_of(part) for f in h.faces}
    found += [f for f in turned_of(part) if not cut & set(f.faces)]
    found += chamfers_of(part)
    found += [_of_helix(h) for h in helices_of(part)]
    bends = [b for sheet in bent_sheets(part).values() for b in sheet.bends]
    bent = {f for b in bends for f in b.faces}
    found += [f for f in blends_of(part) if not bent & set(f.faces)]
    return (*found, *map(_of_bend, bends), *ribs_of(part))


def _of_bend(bend: Bend) -> Feature:
    figures = (("radius", bend.radius), ("angle", bend.angle), ("length", bend.length))
    return Feature("bend", bend.faces, bend.place, bend.axis, figures, ("up" if bend.up else "down",))


def _of_helix(helix: Helix) -> Feature:
    figures = (
        ("major", helix.major),
        ("minor", helix.minor),
        ("pitch", helix.pitch),
        ("length", helix.high - helix.low),
    )
    more: tuple[str, ...] = ("in a hole",) if helix.internal else ()
    more += ("left handed",) if helix.left else ()
    place = helix.origin + (helix.low + helix.high) / 2 * helix.axis
    return Feature("thread", helix.faces, place, helix.axis, figures, more)


def _of_hole(hole: Hole) -> Feature:
    figures = [("diameter", hole.bore.diameter)]
    more = ["through"] if hole.through else []
    if hole.depth is not None:
        figures.append(("depth", hole.depth))
    if hole.point is not None:
        figures.append(("point", hole.point.angle))
        more.append("with a point")
    if not hole.through and hole.steps[-1].kind == "round":
        more.append("with a round bottom")
    for c in hole.counterbores:
        shallow = c.end - c.start < SPOT * c.diameter
        more.append("spot-faced" if shallow else "counterbored" if len(hole.counterbores) == 1 else "stepped")
        figures += [("counterbore", c.diameter), ("counterbore depth", c.end)]
    if hole.countersink is not None:
        more.append("countersunk")
        figures += [("countersink", hole.countersink.diameter), ("countersink angle", hole.countersink.angle)]
    return Feature("hole", hole.faces, hole.mouth, hole.out, tuple(figures), tuple(dict.fromkeys(more)))


@lru_cache(maxsize=16)
def alike_of(part: Part) -> tuple[Alike, ...]:
    """The features of a part with those alike together, in the order of the list."""
    features = list(features_of(part))
    patterns = {p.members: p for p in patterns_of(part, features)}
    within = {k: p for members, p in patterns.items() for k in members}
    groups: dict[tuple[object, ...], list[int]] = {}
    for k, f in enumerate(features):
        pattern = within.get(k)
        body = part.faces[f.faces[0]].body
        groups.setdefault(("pattern", pattern.members) if pattern else (body, f.alike()), []).append(k)
    return tuple(Alike(tuple(m), within.get(m[0])) for m in groups.values())


def feature_at(part: Part, row: int) -> Feature | None:
    """The feature that a face belongs to; of several the one with the fewest faces."""
    found = [f for f in features_of(part) if row in f.faces]
    return min(found, key=lambda f: len(f.faces)) if found else None


def words_of(feature: Feature, size: Callable[[float], str]) -> str:
    """What a feature is, in words; ``size`` writes a length."""
    f = dict(feature.figures)
    kind, more = feature.kind, feature.more
    if kind == "hole":
        text = f"hole Ø{size(f['diameter'])}" + (f" ↧ {size(f['depth'])}" if "depth" in f else "")
        return ", ".join([text, *more])
    if kind in ("slot", "keyway", "channel"):
        text = f"{kind} {size(f['width'])} wide, {size(f['length'])} long"
        return ", ".join([text + (f", {size(f['depth'])} deep" if "depth" in f else ""), *more])
    if kind == "boss":
        return f"boss Ø{size(f['diameter'])}, {size(f['height'])} high"
    if kind == "step":
        return f"step Ø{size(f['diameter'])}, {size(f['length'])} long"
    if kind in ("groove", "recess"):
        return f"{kind} Ø{size(f['diameter'])}, {size(f['width'])} wide"
    if kind == "chamfer":
        return f"chamfer {size(f['length'])} × {f['angle']:.4g}°"
    if kind == "thread":
        return ", ".join([f"modelled thread Ø{size(f['major'])} × {size(f['pitch'])}, {size(f['length'])} long", *more])
    if kind == "bend":
        return ", ".join([f"bend R{size(f['radius'])}, {f['angle']:.6g}°", *more])
    if kind == "rib":
        return f"rib {size(f['thickness'])} thick, {size(f['height'])} high"
    return f"{'rounded edge' if kind == 'round' else kind} R{size(f['radius'])}"


def words_of_pattern(pattern: Pattern, size: Callable[[float], str]) -> str:
    """How features stand to each other, in words."""
    if pattern.kind == "circle":
        return f"on Ø{size(pattern.diameter)}, {'equally spaced' if pattern.even else 'unequally spaced'}"
    if pattern.kind == "row":
        return f"in a row, {size(pattern.pitches[0])} apart"
    if pattern.kind == "grid":
        (n, m), (p, q) = pattern.counts, pattern.pitches
        return f"in a grid of {n} × {m}, {size(p)} and {size(q)} apart"
    return ""


def told(part: Part) -> list[dict[str, object]]:
    """The features of a part as plain JSON values: kind, how many are alike, figures (mm, degrees), words, how they stand to
    each other, and by member its place and the references of its faces."""
    features = features_of(part)
    found: list[dict[str, object]] = []
    for group in alike_of(part):
        first = features[group.members[0]]
        found.append(
            {
                "kind": first.kind,
                "count": len(group.members),
                "figures": {n: round(v, 6) for n, v in first.figures},
                "more": list(first.more),
                "words": words_of(first, lambda v: f"{v:.6g}"),
                "pattern": _told_pattern(group.pattern),
                "members": [
                    {
                        "place": [round(float(x), 6) for x in features[k].place],
                        "axis": [round(float(x), 9) + 0.0 for x in features[k].axis],
                        "faces": [part.faces[r].ref for r in features[k].faces],
                    }
                    for k in group.members
                ],
            }
        )
    return found


def _told_pattern(pattern: Pattern | None) -> dict[str, object] | None:
    if pattern is None or pattern.kind == "free":
        return None
    if pattern.kind == "circle":
        return {"kind": "circle", "diameter": round(pattern.diameter, 6), "even": pattern.even}
    return {"kind": pattern.kind, "counts": list(pattern.counts), "pitches": [round(p, 6) for p in pattern.pitches]}
