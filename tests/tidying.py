"""Sheets put in order, counted: ``python -m tests.tidying PARTS…`` prints what lies on what before and after, and with the views
spread too.

Each part gets a drawing with sizes over all, notes of its holes, and straight edges, circles and arcs pulled this way and
that, by a seed; then all of it is tidied.
"""

from __future__ import annotations

import random
import sys
import time
from collections import Counter
from pathlib import Path

from barequill.core import Part, read_part
from barequill.core.acts import Bench, NewDrawing, new_drawing
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.tidy import Tidy
from barequill.core.annotation import Pick, draw_sheet, infer
from barequill.core.annotation.clashes import clashes
from barequill.core.drawing import Drawing
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.errors import UserError
from barequill.core.part.features.holes import holes_of
from barequill.core.views.picture import Studio
from barequill.core.views.taking import take

MOST = 400
"""Faces of a part up to which it is taken."""
EACH = 7
"""Sizes that are pulled in each view."""
DATE = "2026-01-01"


def done(drawing: Drawing, tools: Bench, act) -> Drawing:
    """The drawing after an act, or as it was where it cannot be done."""
    try:
        return apply(drawing, act.plan(drawing, tools))
    except UserError:
        return drawing


def dimensioned(part: Part, seed: int, each: int = EACH) -> tuple[Drawing, Bench]:
    """A drawing of a part with sizes here and there."""
    dice = random.Random(seed)
    studio = Studio(lambda key: part, lambda scene: take(part, scene))
    tools = Bench(studio)
    drawing = new_drawing(studio, NewDrawing(part=part.key, views=["front", "top", "left"]))
    views = [v.id for v in drawing.front_sheet.views]
    drawing = done(drawing, tools, OverallSizes(views=views))
    for view in views:
        picture = studio.pictures(drawing, drawing.front_sheet)[view]
        toward, seen = picture.shot.view.toward, set()
        for hole in holes_of(part):
            if hole.alike() in seen or abs(float(hole.out @ toward)) < 0.999 or len(seen) > 3:
                continue
            seen.add(hole.alike())
            x, y = picture.chart.to_sheet(picture.shot.flat(hole.mouth[None]))[0]
            act = StateHole(view=view, ref=part.faces[hole.faces[0]].ref, pointer=(float(x) + 15, float(y) + 15))
            drawing = done(drawing, tools, act)
        edges = {c.source for c in picture.shot.curves if c.visible and part.index.get(c.source, ("",))[0] == "edge"}
        chosen = dice.sample(sorted(edges), min(each, len(edges)))
        for ref in chosen:
            stage, (x, y) = tools.stage(drawing, drawing.front_sheet, view)
            curve = part.edges[part.index[ref][1]].curve
            px, py = picture.seat_each(curve.point(curve.t0)[None])[0] - (x, y)
            way = dice.choice([(0, 18), (18, 0), (0, -18), (-18, 0)])
            try:
                made = infer(stage, [Pick(ref, px, py)], (px + way[0], py + way[1]), drawing.fresh()[0])
            except UserError:
                continue
            drawing = apply(drawing, Annotate(sheet=drawing.front_sheet.id, annotations=[made]))
    return drawing, tools


def main() -> None:
    """Print the table."""
    before: Counter[str] = Counter()
    after: Counter[str] = Counter()
    spread: Counter[str] = Counter()
    sheets = clean = sizes = roomy = 0
    took = []
    paths = [
        p for folder in sys.argv[1:] for p in sorted(Path(folder).iterdir()) if p.suffix.lower() in (".step", ".stp")
    ]
    for k, path in enumerate(paths):
        try:
            part = read_part(path)
            if not part.faces or len(part.faces) > MOST:
                continue
            drawing, tools = dimensioned(part, k)
        except UserError:
            continue
        sheet = drawing.front_sheet
        first = clashes(draw_sheet(drawing, sheet, tools.studio, DATE))
        start = time.perf_counter()
        tidy = done(drawing, tools, Tidy(sheet=sheet.id))
        took.append(time.perf_counter() - start)
        last = clashes(draw_sheet(tidy, tidy.front_sheet, tools.studio, DATE))
        apart = done(tidy, tools, Tidy(sheet=sheet.id, spread=True)) if sum(last.values()) else tidy
        once_more = clashes(draw_sheet(apart, apart.front_sheet, tools.studio, DATE))
        before += first
        after += last
        spread += once_more
        roomy += not sum(once_more.values())
        sheets += 1
        clean += not sum(last.values())
        sizes += len(sheet.annotations)
        print(
            f"{path.name[:52]:52} {len(sheet.annotations):4} {dict(+first)} -> {dict(+last)} -> {dict(+once_more)}  {took[-1]:.2f} s",
            flush=True,
        )
    print(f"{sheets} sheets, {sizes} sizes and marks: {dict(before)} before, {dict(after)} after; {clean} sheets clean")
    print(f"with the views spread where something was left: {dict(spread)}; {roomy} sheets clean")


if __name__ == "__main__":
    main()
