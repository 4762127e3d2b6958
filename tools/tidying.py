"""Sheets put in order, counted: ``python -m tools.tidying PARTS…`` prints what lies on what before and after, and with the views
spread too.

Each part gets a drawing with sizes over all, notes of its holes, and straight edges, circles and arcs pulled this way and
that, by a seed; then all of it is tidied.
"""

from __future__ import annotations

import math
import random
import sys
import time
from collections import Counter
from pathlib import Path

from barequill.core import Part, read_part
from barequill.core.acts import ActContext, NewDrawing, new_drawing
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.state_datum import StateDatum
from barequill.core.acts.state_frame import StateFrame
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.state_note import StateNote
from barequill.core.acts.state_texture import StateTexture
from barequill.core.acts.tidy import Tidy
from barequill.core.arranging.clashes import clashes
from barequill.core.drawing import Drawing
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.errors import UserError
from barequill.core.features.holes import holes_of
from barequill.core.measuring.inference import infer
from barequill.core.measuring.picking import Pick
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.placed_view import ProjectionCache

MOST = 400
"""Faces of a part up to which it is taken."""
EACH = 7
"""Sizes that are pulled in each view."""
DATE = "2026-01-01"


def done(drawing: Drawing, tools: ActContext, act) -> Drawing:
    """The drawing after an act, or as it was where it cannot be done."""
    try:
        return apply(drawing, act.plan(drawing, tools))
    except UserError:
        return drawing


def dimensioned(part: Part, seed: int, each: int = EACH) -> tuple[Drawing, ActContext]:
    """A drawing of a part with sizes here and there."""
    dice = random.Random(seed)
    projections = ProjectionCache(lambda key: part)
    tools = ActContext(projections)
    drawing = new_drawing(projections, NewDrawing(part=part.key, views=["front", "top", "left"]))
    views = [v.id for v in drawing.front_sheet.views]
    drawing = done(drawing, tools, OverallSizes(views=views))
    for view in views:
        placed_view = projections.placed_views(drawing, drawing.front_sheet)[view]
        toward, seen = placed_view.projected.view.toward, set()
        for hole in holes_of(part):
            if hole.alike() in seen or abs(float(hole.out @ toward)) < 0.999 or len(seen) > 3:
                continue
            seen.add(hole.alike())
            x, y = placed_view.transform.to_sheet(placed_view.projected.flat(hole.mouth[None]))[0]
            act = StateHole(view=view, ref=part.faces[hole.faces[0]].ref, pointer=(float(x) + 15, float(y) + 15))
            drawing = done(drawing, tools, act)
        edges = {
            c.source for c in placed_view.projected.curves if c.visible and part.index.get(c.source, ("",))[0] == "edge"
        }
        chosen = dice.sample(sorted(edges), min(each, len(edges)))
        for ref in chosen:
            context, (x, y) = tools.context(drawing, drawing.front_sheet, view)
            curve = part.edges[part.index[ref][1]].curve
            px, py = placed_view.on_sheet_each(curve.point(curve.t0)[None])[0] - (x, y)
            way = dice.choice([(0, 18), (18, 0), (0, -18), (-18, 0)])
            try:
                made = infer(context, [Pick(ref, px, py)], (px + way[0], py + way[1]), drawing.fresh()[0])
            except UserError:
                continue
            drawing = apply(drawing, Annotate(sheet=drawing.front_sheet.id, annotations=[made]))
    return drawing, tools


def signed(drawing: Drawing, tools: ActContext, part: Part, seed: int, each: int = 5) -> Drawing:
    """The drawing with a datum, tolerance frames, textures and notes pulled out of edges of each view, this way and that, and frames
    under its sizes."""
    dice = random.Random(seed)
    for view in [v.id for v in drawing.front_sheet.views]:
        placed_view = tools.projections.placed_views(drawing, drawing.front_sheet)[view]
        lines = sorted(
            {
                c.source
                for c in placed_view.projected.curves
                if c.visible and part.index.get(c.source, ("",))[0] == "edge"
            }
        )
        for k, ref in enumerate(dice.sample(lines, min(each, len(lines)))):
            curve = part.edges[part.index[ref][1]].curve
            x, y = placed_view.on_sheet_each(curve.point((curve.t0 + curve.t1) / 2)[None])[0]
            a = dice.uniform(0, 2 * math.pi)
            pulled = {"view": view, "ref": ref, "at": (x, y), "pointer": (x + 18 * math.cos(a), y + 18 * math.sin(a))}
            acts = [
                StateDatum(**pulled),
                StateFrame(**pulled, text="flatness 0.05"),
                StateTexture(**{**pulled, "pointer": (x, y)} if seed % 2 else pulled, text="Ra 3.2"),
                StateNote(**pulled, text="Break edges 0.3\nboth sides"),
                StateFrame(**pulled, text="profile of a surface 0.2 CZ"),
            ]
            drawing = done(drawing, tools, acts[k % len(acts)])
    sizes = [a.id for a in drawing.front_sheet.annotations if a.kind in ("dimension", "hole_note")]
    for own in dice.sample(sizes, min(4, len(sizes))):
        drawing = done(drawing, tools, StateFrame(on=own, pointer=(0, 0), text="straightness 0.1"))
    return drawing


def main() -> None:
    """Print the table; with ``--signs`` also of sheets with signs on them."""
    signs = "--signs" in sys.argv
    sys.argv = [a for a in sys.argv if a != "--signs"]
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
            drawing = signed(drawing, tools, part, k) if signs else drawing
        except UserError:
            continue
        sheet = drawing.front_sheet
        first = clashes(draw_sheet(drawing, sheet, tools.projections))
        start = time.perf_counter()
        tidy = done(drawing, tools, Tidy(sheet=sheet.id))
        took.append(time.perf_counter() - start)
        last = clashes(draw_sheet(tidy, tidy.front_sheet, tools.projections))
        apart = done(tidy, tools, Tidy(sheet=sheet.id, spread=True)) if sum(last.values()) else tidy
        once_more = clashes(draw_sheet(apart, apart.front_sheet, tools.projections))
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
