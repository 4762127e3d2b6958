"""Operations at random, out of their schema: nearly right and quite wrong; what is taken has to be drawn, written and undone."""

from __future__ import annotations

import json
import random
import sys
import time
import traceback
from collections import Counter
from typing import Any

from pydantic import TypeAdapter, ValidationError

from barequill.core.drawing import Drawing, Operation, Sheet, apply, label
from barequill.core.drawing.differences import changed_by, difference
from barequill.core.errors import UserError
from barequill.core.part.model import Part
from barequill.core.sheet.display_cache import DisplayCache
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.directions import FACES
from barequill.core.views.placed_view import ProjectionCache
from barequill.core.views.projecting import take
from barequill.core.views.proposal import views_for
from barequill.core.writers import write_dxf, write_pdf, write_svg

ADAPTER: TypeAdapter[Any] = TypeAdapter(Operation)
SCHEMA = ADAPTER.json_schema()


class Maker:
    """Values at random that fit a schema, mostly, with ids and references that are there, mostly."""

    def __init__(self, part: Part, seed: int) -> None:
        self.dice = random.Random(seed)
        self.part, self.refs = part, [e.ref for e in part.edges] + [f.ref for f in part.faces]
        self.drawing: Drawing | None = None
        self.named: list[str] = []

    def operation(self, drawing: Drawing) -> dict[str, Any]:
        self.drawing = drawing
        self.named = []
        found: dict[str, Any] = self.value(SCHEMA, "", 0)
        return found

    def value(self, schema: dict[str, Any], name: str, depth: int) -> Any:
        """A value of a schema, for a field of that name."""
        dice = self.dice
        if "$ref" in schema:
            schema = SCHEMA["$defs"][schema["$ref"].rpartition("/")[2]]
        if dice.random() < 0.004:
            return dice.choice([None, "", -1, 1e308, [], {}, "x" * 500, True, "\u0000", 2**70])
        if "const" in schema:
            return schema["const"]
        if "enum" in schema:
            return dice.choice(schema["enum"])
        for key in ("anyOf", "oneOf"):
            if key in schema:
                kinds = [k for k in schema[key] if depth < 6 or "$ref" not in k] or schema[key]
                return self.value(dice.choice(kinds), name, depth + 1)
        kind = schema.get("type")
        if kind == "object":
            return self.fields(schema, depth)
        if kind == "array":
            return self.several(schema, name, depth)
        if kind == "string":
            return self.text(schema, name)
        if kind in ("number", "integer"):
            return self.figure(schema, name, kind == "integer")
        if kind == "boolean":
            return dice.random() < 0.5
        return None

    def fields(self, schema: dict[str, Any], depth: int) -> dict[str, Any]:
        found, must = {}, set(schema.get("required", ()))
        for name, inner in schema.get("properties", {}).items():
            if name in must or name in ("op", "kind") or self.dice.random() < 0.3:
                found[name] = self.value(inner, name, depth + 1)
        extra = schema.get("additionalProperties")
        if isinstance(extra, dict):
            found = {self.text({}, "id"): self.value(extra, "", depth + 1) for _ in range(self.dice.randrange(3))}
        return found

    def several(self, schema: dict[str, Any], name: str, depth: int) -> list[Any]:
        if "prefixItems" in schema:
            return [self.value(s, name, depth + 1) for s in schema["prefixItems"]]
        count = max(schema.get("minItems", 0), self.dice.choice([0, 1, 1, 2, 3]))
        count = min(count, schema.get("maxItems", count)) if self.dice.random() < 0.98 else count + 2
        return [self.value(schema.get("items", {}), name.rstrip("s"), depth + 1) for _ in range(count)]

    def text(self, schema: dict[str, Any], name: str) -> str:
        dice, drawing = self.dice, self.drawing
        assert drawing is not None
        views = [v.id for s in drawing.sheets for v in s.views]
        ids = [*views, *(a.id for s in drawing.sheets for a in s.annotations), *(s.id for s in drawing.sheets)]
        if dice.random() < 0.03:
            return dice.choice(["e1", "e2", "e99999999999999", "", "nothing", "E0", "-1", "e" * 40, *self.named[:3]])
        if name == "id":
            self.named.append(dice.choice([*drawing.fresh(5), *drawing.fresh(40)[-1:]]))
            return self.named[-1] if dice.random() < 0.8 else dice.choice(ids)
        if name in ("on", "view", "parent"):
            return dice.choice(views or ids) if dice.random() < 0.9 else dice.choice([*ids, *self.named])
        if name == "sheet":
            return dice.choice([s.id for s in drawing.sheets])
        if name in ("part", "key", "by"):
            return self.part.key if dice.random() < 0.95 else "0" * 24
        if name in ("ref", "other", "onto", "along", "rib", "left_out", "hidden_out"):
            return dice.choice(self.refs)
        if "pattern" in schema and name in ("letter", "left_out"):
            return dice.choice(["", "A", "B", "AB", "C1", "I"])
        if name == "fit":
            return dice.choice(["H7", "g6", "H7/g6", "JS13", "zz99", "", "A1"])
        return dice.choice([*ids, "Pawl", "body", "title", "Ø — 5", "6×", "", "water  line", "×" * 50])

    def figure(self, schema: dict[str, Any], name: str, whole: bool) -> float:
        low = schema.get("minimum", schema.get("exclusiveMinimum", -300.0))
        high = schema.get("maximum", schema.get("exclusiveMaximum", 300.0))
        way = self.dice.random()
        if way < 0.06:
            found = self.dice.choice([low, high, low - 1, high + 1, 0, -0.0, 1e-9])
        elif way < 0.3:
            found = self.dice.choice([0, 1, 2, 10, 45, 90, 180])
        else:
            found = self.dice.uniform(max(low, -300.0), min(high, 300.0))
        return int(found) if whole else found


def tried(part: Part, count: int, seed: int = 1, every: int = 1) -> Counter:
    """So many operations; how each ended. What is taken is drawn, written (each format at every ``every``th), kept as a
    difference, and taken back now and then.

    Raises
    ------
    AssertionError
        Where one that is taken cannot be drawn, written, kept or taken back; its message holds operation and document.
    """
    maker, ends = Maker(part, seed), Counter()
    kept: dict[Any, Any] = {}

    def taken(scene: Any) -> Any:
        if scene not in kept:
            if len(kept) > 300:
                kept.clear()
            kept[scene] = take(part, scene)
        return kept[scene]

    toward, up = FACES["-Y"]
    views = views_for(part.key, ["front", "top", "iso"], toward, up, ["e2", "e3", "e4"])
    start = Drawing(parts=[{"key": part.key, "name": "Pawl"}], sheets=[Sheet(id="e1", views=views)], last_id=4)
    drawing, display_cache = start, DisplayCache()
    projections = ProjectionCache(lambda key: part, taken)
    for turn in range(count):
        wish = maker.operation(drawing)
        before = drawing
        try:
            operation = ADAPTER.validate_python(wish)
            after = apply(drawing, operation)
        except (ValidationError, UserError) as error:
            ends["malformed" if isinstance(error, ValidationError) else "refused"] += 1
            assert not isinstance(error, UserError) or error.detail, wish
            continue
        start_at = time.process_time()
        try:
            text = label(operation)
            assert text and len(text) <= 400
            plain = after.to_json()
            assert Drawing.load(json.loads(json.dumps(plain))) == after, "it is not what is kept of it"
            assert changed_by(before.to_json(), difference(before, after)) == plain
            for sheet in after.sheets:
                ink = draw_sheet(after, sheet, projections, display_cache)
                if turn % every == 0:
                    assert write_pdf([ink]) and write_svg(ink) and write_dxf(ink)
        except Exception as error:
            raise AssertionError(f"{type(error).__name__} {error}: {json.dumps(wish)}") from error
        took = time.process_time() - start_at
        assert took < 20, f"{took:.0f} s for {json.dumps(wish)}"
        ends["taken"] += 1
        drawing = after
        size = sum(len(s.views) * 3 + len(s.annotations) for s in after.sheets)
        if size > 40 or not after.sheets[0].views or maker.dice.random() < 0.01:
            drawing = start
        elif maker.dice.random() < 0.1:
            drawing = before.model_copy(update={"last_id": after.last_id})
            ends["taken back"] += 1
    return ends


if __name__ == "__main__":
    from .common import demo_file, part_of

    begin, bad = int(sys.argv[2]) if len(sys.argv) > 2 else 1, 0
    for seed in range(begin, begin + int(sys.argv[1])):
        try:
            print(seed, dict(tried(part_of(demo_file("pawl")), 250, seed, 5)), flush=True)
        except AssertionError as error:
            bad += 1
            print(seed, str(error)[:700], flush=True)
            if error.__cause__ is not None:
                print("".join(traceback.format_tb(error.__cause__.__traceback__)[-4:]))
    print(bad)
