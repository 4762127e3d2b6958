"""Kept ink against fresh: ``python -m tools.kept_ink 2000`` changes so many fields of drawings, each field in turn, and draws each change twice,
with the ink that is kept and without.
"""

from __future__ import annotations

import random
import sys
from collections import defaultdict
from collections.abc import Iterator
from typing import Any

from pydantic import ValidationError

from barequill.core.acts import ActContext, NewDrawing, new_drawing
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.enlarge import Enlarge
from barequill.core.acts.outlining import DrawnOutline
from barequill.core.acts.overall import OverallSizes
from barequill.core.display import DisplayList, Element
from barequill.core.drawing import Anchor, Dimension, DimensionStyle, Drawing, apply
from barequill.core.drawing.annotations import BY_NAME
from barequill.core.drawing.annotations.drawn_line import DrawnLine
from barequill.core.drawing.annotations.hole_note import HoleNote
from barequill.core.drawing.operations import Annotate
from barequill.core.drawing.soundness import check_all
from barequill.core.drawing.threads import Thread
from barequill.core.errors import UserError
from barequill.core.features.holes import holes_of
from barequill.core.part.model import Part
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.placed_view import ProjectionCache

DATE = "2026-01-01"
STRUCTURE = {"id", "kind", "last_id", "key", "version", "part", "parent"}
"""Fields that say what a thing is and not how it looks."""
TRIES = 40
Path = tuple[str | int, ...]


def signs(sheet: str, front: str, edges: list[str]) -> list[Any]:
    """Signs and notes of every kind: on edges, on the first lengths, on each other and on the sheet."""
    foot = [{"ref": r, "spot": [0.4, 0.6]} for r in edges]
    row = {"characteristic": "flatness", "value": 0.05}
    said: list[dict[str, Any]] = [
        {"kind": "datum_feature", "on": front, "letter": "G", "foot": foot[0]},
        {"kind": "tolerance_frame", "on": front, "foot": foot[1], "frame": {"rows": [row]}},
        {"kind": "tolerance_frame", "on": "e80", "frame": {"rows": [row | {"value": 0.1}]}},
        {"kind": "tolerance_frame", "on": "e892", "frame": {"rows": [row | {"modifiers": ["CZ"]}]}},
        {"kind": "datum_feature", "on": "e80", "letter": "H"},
        {"kind": "datum_feature", "on": "e893", "letter": "J"},
        {"kind": "surface_texture", "on": front, "foot": foot[2]},
        {"kind": "text_note", "on": front, "foot": foot[3], "text": "{size e81} of {title}, {Ø}", "more": [foot[0]]},
        {
            "kind": "notes_block",
            "on": sheet,
            "notes": [{"id": "n1", "text": "{size e82}"}, {"id": "n2", "text": "Two"}],
        },
        {"kind": "note_flag", "on": front, "foot": foot[4], "block": "e898", "line": "n2"},
        {"kind": "weld", "on": front, "foot": foot[5], "near": {"form": "fillet", "letter": "a", "size": 5}},
        {"kind": "edge_sign", "on": front, "foot": foot[0], "upper": "−0.3"},
        {"kind": "datum_target", "on": front, "foot": foot[1], "letter": "G", "number": 1, "area": [6]},
        {"kind": "centre_hole", "on": front, "foot": foot[2], "pilot": 4, "outer": 8.5},
        {"kind": "knurl", "on": "e82"},
        {"kind": "general_texture", "on": sheet},
        {"kind": "table", "on": sheet, "columns": [{}, {}], "rows": [["Module", "{size e81}"]]},
        {"kind": "treated_stretch", "on": front, "foot": foot[3], "text": "hardened"},
    ]
    return [BY_NAME[a["kind"]].model_validate({**a, "id": f"e{890 + k}"}) for k, a in enumerate(said)]


def richly(part: Part) -> tuple[Drawing, ProjectionCache]:
    """A drawing of a part with something of every kind on it."""
    projections = ProjectionCache(lambda key: part)
    tools = ActContext(projections)
    drawing = new_drawing(projections, NewDrawing(part=part.key, size="A2"))
    sheet = drawing.front_sheet
    front, views = sheet.views[0].id, [v.id for v in sheet.views]

    def done(act: Any) -> None:
        nonlocal drawing
        try:
            drawing = apply(drawing, act.plan(drawing, tools))
        except UserError as error:
            print(f"without {type(act).__name__}: {error}", file=sys.stderr)

    done(OverallSizes(views=views))
    box = projections.placed_views(drawing, drawing.front_sheet)[front].box
    x, y = (box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2
    done(CutView(view=front, points=[CutPoint(x=x, y=box.y0 - 3), CutPoint(x=x, y=box.y1 + 3)], to=(box.x1 + 90, y)))
    done(Enlarge(view=front, outline=DrawnOutline(centre=(x, y), half=(8, 8)), to=(60, 60)))
    edges = [e.ref for e in part.edges if e.curve.kind == "line"][:6]
    corners = [Anchor(ref=r, at="point") for r in part.vertex_refs[:4]]
    row = {"id": "r1", "form": "running"}
    own: list[Any] = [
        Dimension.model_validate(
            {"id": f"e8{k}", "on": front, "measure": "length", "anchors": [{"ref": r, "at": "line"}]}
        )
        for k, r in enumerate(edges)
    ]
    own += [
        Dimension(id=f"e85{k}", on=front, measure="distance", anchors=[corners[0], c], row=row, direction="horizontal")
        for k, c in enumerate(corners[1:])
    ]
    own += [
        Dimension(id=f"e86{k}", on=front, measure="length", anchors=[Anchor(ref=f"E{k}00000000", at="line")])
        for k in range(3)
    ]
    own += [HoleNote(id=f"e87{k}", on=front, ref=part.faces[h.faces[0]].ref) for k, h in enumerate(holes_of(part)[:2])]
    own.append(DrawnLine.model_validate({"id": "e880", "on": front, "form": "symmetry", "ties": [], "axis": "y"}))
    own += signs(sheet.id, front, edges)
    drawing = apply(drawing, Annotate(sheet=sheet.id, annotations=own))
    threads = [
        Thread(part=part.key, ref=part.faces[h.faces[0]].ref, size="M10", diameter=10.0, pitch=1.5)
        for h in holes_of(part)[:1]
    ]
    styles = [DimensionStyle(name="Own", decimals=1, second_unit=True), DimensionStyle(name="Other", arrow="stroke")]
    fields = {"general_tolerance": "ISO 2768-mK", "title": "Cover", "number": "WL-1"}
    return drawing.model_copy(
        update={"threads": threads, "styles": styles, "style": "Own", "fields": fields}
    ), projections


def fields_of(value: Any, path: Path = ()) -> Iterator[tuple[Path, Any]]:
    """All fields of a document, with where they are."""
    items = value.items() if isinstance(value, dict) else enumerate(value) if isinstance(value, list) else ()
    for name, held in items:
        if name not in STRUCTURE:
            yield (*path, name), held
            yield from fields_of(held, (*path, name))


def _words() -> dict[str, list[Any]]:
    """By the name of a field the words that it may hold."""
    found: dict[str, list[Any]] = defaultdict(list)

    def walk(schema: Any, name: str) -> None:
        if isinstance(schema, dict):
            found[name] += [*schema.get("enum", ()), *([schema["const"]] if "const" in schema else ())]
            for key, held in schema.items():
                if key == "properties":
                    for own, of in held.items():
                        walk(of, own)
                elif key != "enum":
                    walk(held, name)
        elif isinstance(schema, list):
            for held in schema:
                walk(held, name)

    walk(Drawing.model_json_schema(), "")
    return {k: v for k, v in found.items() if v}


WORDS = _words()


def _other(dice: random.Random, name: str, value: Any, known: dict[str, list[Any]]) -> Any:
    """Another value for a field of that name."""
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        return dice.choice([value + 1, value * 1.5, -value, 0, 3.5, dice.uniform(0, 60), round(value) + 2])
    if isinstance(value, list):
        fewer = [v for v in value if dice.random() < 0.7]
        return dice.choice([value[::-1], fewer, value + value[:1]])
    if isinstance(value, dict):
        return dice.choice(known.get(name) or [value])
    return dice.choice([*WORDS.get(name, []), *known.get(name, []), "A", "mm", 3.5, [], {}, None, True])


def changes(drawing: Drawing, seed: int) -> Iterator[tuple[str, Drawing]]:
    """The drawing with one field changed, each field in turn, over and over."""
    dice = random.Random(seed)
    document = drawing.model_dump(mode="json")
    places: dict[str, list[Path]] = defaultdict(list)
    known: dict[str, list[Any]] = defaultdict(list)
    for path, held in fields_of(document):
        places[".".join("*" if isinstance(p, int) else p for p in path)].append(path)
        if isinstance(path[-1], str):
            known[path[-1]].append(held)
    while True:
        for field in dice.sample(sorted(places), len(places)):
            for _ in range(TRIES):
                path = dice.choice(places[field])
                new = drawing.model_dump(mode="json")
                at = new
                for step in path[:-1]:
                    at = at[step]
                name = next(str(p) for p in reversed(path) if isinstance(p, str))
                at[path[-1]] = _other(dice, name, at[path[-1]], known)
                try:
                    made = Drawing.model_validate(new)
                    check_all(made)
                except (ValidationError, UserError, TypeError):
                    continue
                if made != drawing:
                    yield field, made
                    break


def unlike(kept: DisplayList, fresh: DisplayList) -> list[str]:
    """The elements, by their words, that are not drawn alike."""

    def of(e: Element) -> tuple[Any, ...]:
        return e.id, e.kind, e.group, e.words, e.at, e.loose, repr(e.record), repr(e.marks), repr(e.under)

    found = [a.words for a, b in zip(kept.elements, fresh.elements, strict=False) if of(a) != of(b)]
    if len(kept.elements) != len(fresh.elements):
        found.append(f"{len(kept.elements)} elements for {len(fresh.elements)}")
    return found


def main(parts: list[Part], count: int) -> list[tuple[str, list[str]]]:
    """Draw so many changes twice; the fields whose change was not drawn alike, and what was not."""
    found = []
    fields = set()
    for seed, part in enumerate(parts):
        drawing, projections = richly(part)
        display_cache = DisplayCache()
        draw_sheet(drawing, drawing.front_sheet, projections, display_cache)
        for k, (field, made) in enumerate(changes(drawing, seed)):
            if k >= count // len(parts):
                break
            fields.add(field)
            try:
                fresh = draw_sheet(made, made.front_sheet, projections)
            except UserError:
                continue
            kept = draw_sheet(made, made.front_sheet, projections, display_cache)
            if bad := unlike(kept, fresh):
                found.append((field, bad))
            # and back, as undoing does
            if k % 3 == 0 and (
                bad := unlike(
                    draw_sheet(drawing, drawing.front_sheet, projections, display_cache),
                    draw_sheet(drawing, drawing.front_sheet, projections),
                )
            ):
                found.append((f"{field} and back", bad))
    print(f"{count} changes of {len(fields)} fields: {len(found)} not drawn alike")
    return found


if __name__ == "__main__":
    from .common import demo_file, part_of

    stems = ("round-gear-cover", "spindle-pedestal", "catch-box", "long-pinion-spindle")
    wrong = main([part_of(demo_file(s)) for s in stems], int(sys.argv[1]) if len(sys.argv) > 1 else 2000)
    for field, bad in wrong[:60]:
        print(field, bad[:4])
    sys.exit(bool(wrong))
