"""Sets of dimensions: chains, parallel and running ones, made of places and of each other."""

from __future__ import annotations

import numpy as np

from ..drawing import Anchor, Dimension, Place, Sheet
from ..drawing.annotations.dimension import Row, rows_of
from ..errors import Unmeasurable
from .anchor_geometry import AnchorGeometry, resolve
from .context import Array, LayoutContext
from .inference import placed
from .measuring import Linear, measure

STACKED = ("parallel", "symmetrical")
"""Sets whose lines stand side by side."""
NEAR = 1e-6
"""mm within which two places of a set are one."""


def members_of(sheet: Sheet, dimension: Dimension) -> list[Dimension]:
    """All dimensions of the set that one belongs to, in their order on the sheet; it alone where it is in none."""
    if dimension.row is None:
        return [dimension]
    return rows_of(sheet.annotations).get(dimension.row.id, [])


def places_of(members: list[Dimension]) -> list[Anchor]:
    """The places that a set goes through; for parallel and running ones the datum first."""
    found: list[Anchor] = []
    for member in members:
        found += [a for a in member.anchors if a not in found]
    return found


def row_direction(context: LayoutContext, anchors: list[Anchor], aim: Array) -> str:
    """Level or upright: square to the lines among the places, else by where the pointer is beside them."""
    geometries = [resolve(context.view.projected, a) for a in anchors]
    for anchor_geometry in geometries:
        if anchor_geometry.kind == "line":
            gap = np.abs(anchor_geometry.points[1] - anchor_geometry.points[0])
            if gap.min() < 1e-6 * gap.max():
                return "vertical" if gap[0] > gap[1] else "horizontal"
    points = context.view.transform.to_sheet(np.array([s.points.mean(axis=0) for s in geometries]))
    low, high = points.min(axis=0), points.max(axis=0)
    wide, tall = high - low
    if min(wide, tall) < NEAR:
        # one way there is nothing between them
        return "horizontal" if wide >= tall else "vertical"
    off = np.maximum(np.maximum(low - aim, aim - high), 0.0)
    if off.max() > 0:
        return "horizontal" if off[1] >= off[0] else "vertical"
    return "horizontal" if high[0] - low[0] >= high[1] - low[1] else "vertical"


def _along(anchor_geometry: AnchorGeometry, axis: int) -> float:
    return float(
        anchor_geometry.points[:, axis].mean() if anchor_geometry.kind == "line" else anchor_geometry.points[0, axis]
    )


def row_of(
    context: LayoutContext,
    anchors: list[Anchor],
    form: str,
    direction: str,
    draft: Place | None,
    aim: Array,
    ids: list[str],
) -> list[Dimension]:
    """The dimensions of a set through places; its line where ``draft`` has it, or else at the pointer (mm from the view's
    zero).

    Raises
    ------
    Unmeasurable
        Where there are no two places along the direction.
    """
    axis = 0 if direction == "horizontal" else 1
    geometries = [resolve(context.view.projected, a) for a in anchors]
    at = [_along(s, axis) for s in geometries]
    if form == "symmetrical":
        pairs = _mirrored(geometries, at)
    elif form == "chain":
        order = sorted(range(len(at)), key=lambda k: at[k])
        kept = [k for n, k in enumerate(order) if n == 0 or at[k] - at[order[n - 1]] > NEAR]
        pairs = list(zip(kept, kept[1:], strict=False))
    else:
        far = sorted(range(1, len(at)), key=lambda k: (abs(at[k] - at[0]), k))
        pairs = []
        for k in far:
            if all(abs(at[k] - at[j]) > NEAR for j in (0, *(j for _, j in pairs))):
                pairs.append((0, k))
    if not pairs:
        raise Unmeasurable("There is no distance between them", f"All places lie in one {direction} line.")
    name = Row.model_validate({"id": ids[0], "form": form})
    drafts = [
        Dimension.model_validate(
            {
                "id": own,
                "on": context.view.view.id,
                "measure": "distance",
                "anchors": [anchors[a], anchors[b]],
                "direction": direction,
                "row": name,
            }
        )
        for own, (a, b) in zip(ids, pairs, strict=False)
    ]
    place = draft or placed(context, drafts[0], (float(aim[0]), float(aim[1]))).place
    return laid(context, drafts, place)


def _mirrored(geometries: list[AnchorGeometry], at: list[float]) -> list[tuple[int, int]]:
    """Pairs of places as far from a middle to both sides, the nearest first: the middle is the first place, where all others
    lie about it, else that between the outermost."""
    near = 1e-5 * max(float(np.ptp(at)), 1e-9)
    best: list[tuple[int, int]] = []
    alone = len(at)
    for middle, own in ((at[0], [0]), ((min(at) + max(at)) / 2, list[int]())):
        left = [k for k in range(len(at)) if k not in own and abs(at[k] - middle) > near]
        pairs = []
        for k in sorted(left, key=lambda k: abs(at[k] - middle)):
            there = [j for j in left if k in left and j != k and abs(at[j] + at[k] - 2 * middle) < near + 1e-6]
            if k in left and there:
                other = min(there, key=lambda j: _aside(geometries[j], geometries[k]))
                pairs.append((k, other) if at[k] < at[other] else (other, k))
                left = [x for x in left if x not in (k, other)]
        if len(left) < alone:
            best, alone = pairs, len(left)
    if alone:
        one = "One of them has" if alone == 1 else f"{alone} of them have"
        raise Unmeasurable(f"{one} no counterpart", "Point at places that lie in pairs about one middle.")
    spans: list[tuple[int, int]] = []
    for a, b in best:
        if not any(abs(at[a] - at[c]) < near for c, _ in spans):
            spans.append((a, b))
    return spans


def _aside(one: AnchorGeometry, other: AnchorGeometry) -> float:
    return float(np.linalg.norm(one.points.mean(axis=0) - other.points.mean(axis=0)))


def laid(context: LayoutContext, members: list[Dimension], place: Place) -> list[Dimension]:
    """Members of a set with their lines where the first one's is to be: side by side in parallel ones."""
    found, step = [], context.style.row
    for k, member in enumerate(members):
        assert member.row is not None
        more = 0.0
        if member.row.form in STACKED:
            more = k * step if place.frame == "outline" else k * step / context.view.scale
        own = place.model_copy(update={"offset": place.offset + more, "along": 0.0})
        if member.row.form in STACKED and place.frame == "model" and k:
            first = measure(context.view.projected, members[0])
            assert isinstance(first, Linear)
            own = own.model_copy(update={"offset": place.offset + (more if place.offset >= 0 else -more)})
        found.append(member.model_copy(update={"place": own}))
    return found


def kept_looks(old: list[Dimension], new: list[Dimension]) -> list[Dimension]:
    """New members with the id, tolerance, count, texts and style of those old ones that measure between the same places, else of
    those that end at the same place: what a set carries goes with it into another form, and back. The others take over the ids
    that are left, in their order."""

    def ends(d: Dimension) -> frozenset[str]:
        return frozenset(a.model_dump_json() for a in d.anchors)

    by_ends = {ends(d): d for d in old}
    same = [by_ends.pop(ends(d), None) for d in new]
    by_last = {d.anchors[-1].model_dump_json(): d for d in by_ends.values()}
    same = [
        by_last.pop(d.anchors[-1].model_dump_json(), None) if was is None else was
        for d, was in zip(new, same, strict=True)
    ]
    left = [d.id for d in by_last.values()]
    keep = ("anchors", "place", "row", "direction", "on", "measure", "kind")
    found = []
    for d, was in zip(new, same, strict=True):
        if was is not None:
            looks = {k: getattr(was, k) for k in type(was).model_fields if k not in keep}
        else:
            looks = {"id": left.pop(0)} if left else {}
        found.append(d.model_copy(update=looks))
    return found
