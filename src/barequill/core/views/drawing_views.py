"""The lines of a view in the display list."""

from __future__ import annotations

import numpy as np
import shapely

from ..display import Sketch
from ..drawing.views import SectionView
from ..geometry.curves2 import line
from ..geometry.planar import lines_of, united
from ..part.chosen import body_nodes
from .conventions import ALL, NONE, Conventions
from .ends import draw_ends
from .placed_view import PlacedView
from .precedence import SHARE, parted
from .tones import colours_of, tints_of

CLEAR, SHORT = 0.6, 1.0
"""mm by which trace lines stay clear of bodies, and that they are long at least."""
PENS = {"limit": "limit", "adjacent": "adjacent"}
"""Lines that are drawn as such wherever they are."""


def draw_view(sketch: Sketch, placed_view: PlacedView, instead: Conventions = NONE) -> None:
    """Put the lines of a view into the ink; those of what is drawn otherwise ``instead`` lie under it."""
    view, projected, transform = placed_view.view, placed_view.projected, placed_view.transform
    pens = {"shown": "visible", "thin": "tangent"}
    near = SHARE * sketch.lines.width("visible")
    if view.shaded:
        # under the lines
        colours = colours_of(view, projected.part) if view.coloured else None
        sketch.marks += tints_of(projected.shading, projected.centre, transform, colours)
    left_out = set(view.left_out)
    unseen_out = left_out | set(view.hidden_out)
    placed = []
    for c, flat in placed_view.placed:
        kept = [] if c.source in (left_out if c.visible else unseen_out) else instead.kept(c)
        if kept:
            placed += [(c, flat if kept == ALL or not transform.plain else flat.piece(*span)) for span in kept]
        elif c.visible or (view.hidden_lines and c.cls != "smooth"):
            # it can still be pointed at, and brought back
            sketch.lie_under(flat, "visible" if c.visible else "hidden", c.source)
    hidden = [(c, flat) for c, flat in placed if not c.visible and c.cls != "smooth" and view.hidden_lines]
    tangent = [(c, flat) for c, flat in placed if c.visible and c.cls == "smooth" and view.tangent_edges != "off"]
    firm = [(c, flat) for c, flat in placed if c.visible and c.cls != "smooth"]
    over = [flat for c, flat in firm if c.cls != "adjacent"]
    # hidden lines first, so that visible ones lie over them where they meet
    for lines, pen in ((hidden, "hidden"), (tangent, pens.get(view.tangent_edges, ""))):
        for (curve, _), (stay, give) in zip(lines, parted([flat for _, flat in lines], over, near), strict=True):
            for flat in stay:
                sketch.stroke(flat, pen, curve.source)
            for flat in give:
                sketch.lie_under(flat, pen, curve.source)
    _half_line(sketch, placed_view)
    _traces(sketch, placed_view)
    draw_ends(sketch, placed_view)
    within = isinstance(view, SectionView) and view.within
    for curve, flat in firm:
        sketch.stroke(flat, PENS.get(curve.cls, "revolved" if within else "visible"), curve.source)


def _traces(sketch: Sketch, placed_view: PlacedView) -> None:
    """The lines along which bodies of an exploded view were pulled apart, where they run clear of all bodies."""
    projected = placed_view.projected
    part = projected.part
    if not any(any(step) for step in part.apart):
        return
    corners = placed_view.on_sheet(part.mesh.nodes)[part.mesh.triangles]
    one, two = corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0]
    facing = np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) > 1e-6
    bodies = united(shapely.polygons(corners[facing]), 1e-3).buffer(CLEAR)
    seen: set[tuple[float, ...]] = set()
    for k, step in enumerate(part.apart):
        nodes = body_nodes(part, k)
        if not any(step) or not len(nodes):
            continue
        middle = (nodes.min(axis=0) + nodes.max(axis=0)) / 2
        ends = placed_view.on_sheet(np.array([middle - step, middle]))
        name = tuple(np.round(ends, 3).ravel().tolist())
        if name in seen:
            continue
        seen.add(name)
        for piece in lines_of(shapely.LineString(ends).difference(bodies), SHORT):
            sketch.stroke(line(piece[0], piece[-1]), "centre")


def _half_line(sketch: Sketch, placed_view: PlacedView) -> None:
    """The centre line between the halves of a half section: no line of the part stands there."""
    view, scene = placed_view.view, placed_view.projected.scene
    if not isinstance(view, SectionView) or "half" not in view.line.ends or not scene.cut.cells:
        return
    step = next((w for w in scene.cut.cells[0].cutting_planes if not w.shown), None)
    if step is None:
        return
    camera_ = placed_view.projected.view
    n = np.array([np.array(step.normal) @ camera_.right, np.array(step.normal) @ camera_.up])
    spot = n * step.offset - n * float(n @ placed_view.projected.centre)
    along = np.array([-n[1], n[0]])
    reach = placed_view.projected.hull @ along
    beyond = 3.0 / placed_view.transform.scale
    ends = [spot + (reach.min() - beyond) * along, spot + (reach.max() + beyond) * along]
    sketch.stroke(line(*placed_view.transform.to_sheet(np.array(ends))), "centre")
