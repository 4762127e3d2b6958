"""Details, auxiliary, broken and cropped views of real parts, checked one by one.

``python -m tools.closeups PARTS…``: reads each part file of some folders (at most so many faces), makes the views, and
prints what does not hold: a line drawn beyond its outline, lengths that a plain cut of the finely drawn view does not
have, a face that an auxiliary view does not show in its true area, and whatever raises; then what was proposed.
"""

from __future__ import annotations

import sys
import time
import traceback
from collections import Counter
from pathlib import Path

import numpy as np
import shapely

from barequill.core import Part, read_part
from barequill.core.acts import ActContext, NewDrawing, new_drawing
from barequill.core.acts.break_view import BreakView
from barequill.core.acts.crop_view import CropView
from barequill.core.acts.enlarge import Enlarge
from barequill.core.acts.look_square import LookSquare
from barequill.core.acts.outlining import DrawnOutline
from barequill.core.display import Stroke
from barequill.core.drawing import Drawing, apply
from barequill.core.errors import UserError
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.breaking import proposed
from barequill.core.views.placed_view import PlacedView, ProjectionCache
from barequill.core.writers import write_dxf, write_pdf

MOST = 600
"""Faces of a part up to which it is taken."""


def lengths_within(placed_view: PlacedView, frame: shapely.Geometry) -> float:
    """How long the visible lines of a view's shot are within a shape (view mm), by cutting fine polylines."""
    lines = [
        shapely.LineString(c.curve.points(2e-6 * placed_view.projected.whole.size) - placed_view.projected.centre)
        for c in placed_view.projected.curves
        if c.visible and c.cls != "smooth"
    ]
    return float(sum(line.intersection(frame).length for line in lines if line.length > 0))


def drawn_length(placed_view: PlacedView) -> float:
    """How long the visible lines are that a view draws, view mm."""
    own = [flat for c, flat in placed_view.placed if c.visible and c.cls != "smooth"]
    return float(sum(flat.length() for flat in own)) / placed_view.scale


def faces_true(
    part: Part, drawing: Drawing, projections: ProjectionCache, front: str, dice: np.random.Generator
) -> list[str]:
    """What auxiliary views onto slanted plane faces show wrong."""
    sheet = drawing.front_sheet
    frame = projections.placed_views(drawing, sheet)[front].projected.view
    slanted = [
        k
        for k, f in enumerate(part.faces)
        if f.surface.kind == "plane"
        and abs(f.surface.axes[2] @ frame.toward) < 1e-9
        and 0.02 < abs(f.surface.axes[2] @ frame.up) < 0.98
        and all(part.edges[e].curve.kind in ("line", "conic") for e in f.boundary)
    ]
    faults = []
    for k in dice.permutation(slanted)[:3].tolist():
        act = LookSquare(view=front, ref=part.faces[k].ref, to=(40.0, 250.0), partial=False)
        after = apply(drawing, act.plan(drawing, ActContext(projections)))
        own = projections.placed_views(after, after.front_sheet)[after.front_sheet.views[-1].id]
        view = own.projected.view
        loops = [view.flat(part.edges[e].curve.points(_fine(part, e))) for e in part.faces[k].boundary]
        rings = shapely.get_parts(shapely.polygonize([shapely.LineString(np.round(p, 7)) for p in loops if len(p) > 1]))
        if not len(rings):
            continue
        # the face is one of the pieces into which its edges part the plane, or all of them together
        true = part.faces[k].area
        area = min((*(r.area for r in rings), shapely.union_all(rings).area), key=lambda a: abs(a - true))
        # a face's own area is that of its mesh; places are rounded to 1e-7 mm to join the edges
        bent = any(part.edges[e].curve.kind != "line" for e in part.faces[k].boundary)
        if abs(area - true) > (2e-3 if bent else 1e-6) * true + 2e-7 * sum(r.length for r in rings):
            faults.append(f"face {k}: {area:.9g} in place of {true:.9g} mm²")
    return faults


def _fine(part: Part, edge: int) -> np.ndarray:
    curve = part.edges[edge].curve
    return np.linspace(curve.t0, curve.t1, 2 if curve.kind == "line" else 20_001)


def checked(part: Part, seed: int) -> tuple[list[str], Counter[str]]:
    """Faults of the close-ups of a part, and how often each was made."""
    dice, made, faults = np.random.default_rng(seed), Counter(), []
    projections = ProjectionCache(lambda key: part)
    drawing = new_drawing(projections, NewDrawing(part=part.key, size="A1", views=["front", "top", "left", "iso"]))
    sheet = drawing.front_sheet
    tools = ActContext(projections)
    for view in sheet.views:
        placed_view = projections.placed_views(drawing, sheet)[view.id]
        edges = [c.source for c in placed_view.projected.curves if c.visible and c.source in part.index]
        for ref in dice.permutation(edges)[:3].tolist():
            act = Enlarge(view=view.id, outline=DrawnOutline(centre=(0, 0), ref=ref), to=(300.0, 300.0))
            try:
                after = apply(drawing, act.plan(drawing, tools))
            except UserError:
                # large enough already
                made["details refused"] += 1
                continue
            own = projections.placed_views(after, after.front_sheet)[after.front_sheet.views[-1].id]
            made["details"] += 1
            frame = shapely.Polygon(own.transform.window)
            wanted, found = lengths_within(own, frame), drawn_length(own)
            if abs(wanted - found) > 1e-4 * max(wanted, part.size * 1e-2):
                faults.append(f"detail of {ref} in {view.look}: {found:.6g} in place of {wanted:.6g} mm of lines")
            corners = np.array(own.transform.window)
            reach = np.linalg.norm(corners - corners.mean(axis=0), axis=1).max() * own.scale
            for mark in draw_sheet(after, after.front_sheet, projections).of(own.view.id).marks:
                if isinstance(mark, Stroke) and np.linalg.norm(mark.curve.points(0.01), axis=1).max() > reach + 0.02:
                    faults.append(f"detail of {ref} in {view.look}: a line beyond its ring")
                    break
        box = placed_view.box
        half = ((box.x1 - box.x0) / 4 + 1.0, (box.y1 - box.y0) / 4 + 1.0)
        middle = ((box.x0 + box.x1) / 2, (box.y0 + box.y1) / 2)
        crop = CropView(view=view.id, outline=DrawnOutline(form="rectangle", centre=middle, half=half), edge="ragged")
        after = apply(drawing, crop.plan(drawing, tools))
        draw_sheet(after, after.front_sheet, projections)
        made["crops"] += 1
        if not view.pictorial and proposed(placed_view.projected, placed_view.scale):
            after = apply(drawing, BreakView(view=view.id).plan(drawing, tools))
            own = projections.placed_views(after, after.front_sheet)[view.id]
            gone = shapely.union_all(
                [
                    shapely.box(*((g.start, -1e4, g.end, 1e4) if g.axis == 0 else (-1e4, g.start, 1e4, g.end)))
                    for g in own.transform.gaps
                ]
            )
            made["breaks"] += len(own.transform.gaps)
            forms = {g.form for g in own.transform.gaps}
            wanted = lengths_within(own, shapely.box(-1e4, -1e4, 1e4, 1e4).difference(gone))
            # irregular ends stray by a mm on the sheet at either side
            spare = 0.0 if "freehand" not in forms else 4.0 / own.scale * len(own.transform.gaps) * 40
            if abs(wanted - drawn_length(own)) > 1e-4 * wanted + spare:
                faults.append(f"{view.look} broken: {drawn_length(own):.6g} in place of {wanted:.6g} mm of lines")
            ink = draw_sheet(after, after.front_sheet, projections)
            write_pdf([ink])
            write_dxf(ink)
        if view.look in ("front", "top", "left"):
            try:
                faults += faces_true(part, drawing, projections, view.id, dice)
                made["auxiliary"] += 1
            except UserError as error:
                faults.append(f"auxiliary: {error}")
    return faults, made


def main() -> None:
    """Check the parts of a folder."""
    paths = sorted(
        p for folder in sys.argv[1:] for p in Path(folder).iterdir() if p.suffix.lower() in (".step", ".stp")
    )
    total: Counter[str] = Counter()
    bad = 0
    for k, path in enumerate(paths):
        try:
            part = read_part(path)
        except UserError:
            continue
        if not part.faces or len(part.faces) > MOST:
            continue
        start = time.perf_counter()
        try:
            faults, made = checked(part, k)
        except Exception:
            faults, made = [traceback.format_exc(limit=-4)], Counter()
        total += made
        bad += bool(faults)
        print(
            f"{path.name:50} {len(part.faces):5} faces {time.perf_counter() - start:6.1f} s  {dict(made)}", flush=True
        )
        for fault in faults:
            print("   ", fault, flush=True)
    print(f"{dict(total)}; {bad} parts with faults")


if __name__ == "__main__":
    main()
