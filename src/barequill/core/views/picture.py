"""A view placed on its sheet: what it shows, and the way from the part to the sheet and back."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from threading import Lock

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..cutting.limits import Cut
from ..drawing import Drawing, Sheet
from ..drawing.views import SectionView, View
from ..geometry.curves2 import line
from ..ink import Sketch, Tint
from ..part.chosen import only
from ..part.model import Part
from ..projection import Camera, ProjectedCurve, camera
from ..projection.shading import Shading, shade
from ..standards.sheets import Rectangle
from .chart import Chart
from .precedence import SHARE, parted
from .scene import Leg, Scene
from .sections import scenes_of
from .taking import NOTHING, Taken

Array = NDArray[np.float64]
Shader = Callable[[Scene], Shading]
Projector = Callable[[Scene], Taken]
"""Gives what a scene shows."""
COARSE = 1e-4
"""How far, in sizes of the part, the hull of a view may lie within its curves."""


@dataclass(frozen=True, eq=False)
class Shot:
    """A scene taken, in view mm about the centre of the whole part's box: also where some of its bodies are shown."""

    scene: Scene
    whole: Part
    take: Callable[[], Taken]
    """Gives what is seen; asked for only where it is wanted, since projecting may take its time."""
    tone: Callable[[], Shading] | None = None
    """Gives the shaded picture; None has it made here."""

    @cached_property
    def part(self) -> Part:
        """What is shown of the part."""
        return only(self.whole, self.scene.bodies)

    @cached_property
    def view(self) -> Camera:
        """The camera."""
        return camera(self.scene.toward, self.scene.up)

    @cached_property
    def taken(self) -> Taken:
        """What is seen."""
        return self.take()

    @property
    def curves(self) -> Sequence[ProjectedCurve]:
        """The lines that are seen, in the part's mm along right and up of the camera."""
        return self.taken.curves

    @cached_property
    def shading(self) -> Shading:
        """The same view in tones of ink."""
        if self.tone is not None:
            return self.tone()
        return shade(self.part, self.view.toward, self.view.up, self.scene.cut)

    @cached_property
    def centre(self) -> Array:
        """Projection (2,) of the centre of the whole part's box."""
        return self.view.flat(((self.whole.low + self.whole.high) / 2)[None])[0]

    def flat(self, points: Array) -> Array:
        """Points (m, 3) of one thing of the part to view mm (m, 2).

        In an aligned section the leg shows it in whose stretch it lies; what reaches into the main one, as all does that
        turns about the corner, is seen there.
        """
        p = np.atleast_2d(points)
        for leg in sorted(self.scene.legs, key=lambda leg: leg.shift != (0.0, 0.0)):
            if (~_windows(leg).takes(p, -1e-6)).any():
                return self._of_leg(leg, p)
        return self.view.flat(p) - self.centre

    def flat_each(self, points: Array) -> Array:
        """Points (m, 3) of the part to view mm (m, 2), each for itself."""
        p = np.atleast_2d(points)
        found = self.view.flat(p) - self.centre
        for leg in self.scene.legs:
            own = ~_windows(leg).takes(p, 0.0)
            found[own] = self._of_leg(leg, p[own])
        return found

    def _of_leg(self, leg: Leg, p: Array) -> Array:
        return camera(leg.toward, leg.up).flat(p) + leg.shift - self.centre

    @cached_property
    def hull(self) -> Array:
        """Corners (k, 2) of the convex hull of all that is drawn; of the mesh where nothing is drawn yet."""
        lines = [c.curve for c in self.curves if c.cls != "smooth"]
        if lines:
            near = COARSE * self.part.size
            bent = [c.points(near) for c in lines if c.kind == "conic"]
            points = np.concatenate([c.extremes(near / 10) for c in lines] + bent) - self.centre
        else:
            points = self.flat_each(self.part.mesh.nodes) if len(self.part.mesh.nodes) else np.zeros((1, 2))
        try:
            return points[ConvexHull(points).vertices]
        except (QhullError, ValueError):
            return points[[points[:, 0].argmin(), points[:, 0].argmax()]]

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view about the centre of the part's box, view mm."""
        low, high = self.hull.min(axis=0), self.hull.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _windows(leg: Leg) -> Cut:
    """What of the part does not belong to a leg."""
    return Cut(tuple(c for c in leg.cut.cells if not any(w.shown for w in c.walls)))


@dataclass(frozen=True, eq=False)
class Picture:
    """A view on the sheet."""

    view: View
    shot: Shot
    chart: Chart

    @property
    def scale(self) -> float:
        """Sheet mm for each view mm."""
        return self.chart.scale

    def still(self) -> Picture:
        """The same with its zero at the sheet's: what is drawn so can be moved."""
        return replace(self, chart=replace(self.chart, place=(0.0, 0.0)))

    @cached_property
    def hull(self) -> Array:
        """Corners (k, 2) of the convex hull of the view on the sheet."""
        return self.chart.to_sheet(self.shot.hull)

    def reach(self, direction: Array) -> float:
        """How far the view reaches along a unit direction (2,) of the sheet, in sheet mm."""
        return float((self.hull @ direction).max())

    def seat(self, points: Array) -> Array:
        """Points (m, 3) of the part on the sheet (m, 2)."""
        return self.chart.to_sheet(self.shot.flat(points))

    def seat_each(self, points: Array) -> Array:
        """The same of points that have nothing to do with each other."""
        return self.chart.to_sheet(self.shot.flat_each(points))

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view on the sheet."""
        low, high = self.hull.min(axis=0), self.hull.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


class Studio:
    """Takes shots of the parts of a drawing and keeps those last used."""

    def __init__(
        self, parts: Callable[[str], Part], projector: Projector, shader: Shader | None = None, most: int = 60
    ) -> None:
        self._most = most
        self._parts = parts
        self._projector = projector
        self._shader = shader
        self._shots: OrderedDict[Scene, Shot] = OrderedDict()
        self._lock = Lock()

    def shot(self, scene: Scene) -> Shot:
        """A scene, taken."""
        with self._lock:
            found = self._shots.get(scene)
            if found is not None:
                self._shots.move_to_end(scene)
                return found
        shader = self._shader
        tone = None if shader is None else lambda: shader(scene)
        made = Shot(scene, self._parts(scene.part), lambda: self._projector(scene), tone)
        with self._lock:
            found = self._shots.setdefault(scene, made)
            while len(self._shots) > self._most:
                self._shots.popitem(last=False)
            return found

    def part(self, key: str) -> Part:
        """The part of that key."""
        return self._parts(key)

    def scenes(self, drawing: Drawing, sheet: Sheet) -> dict[str, Scene]:
        """What each view of a sheet shows, by its id."""
        return scenes_of(drawing, sheet, self._parts)

    def extent(self, scene: Scene) -> Rectangle:
        """Box of a view about the centre of the part's box, in view mm, without projecting it."""
        return Shot(scene, self._parts(scene.part), lambda: NOTHING).box

    def pictures(self, drawing: Drawing, sheet: Sheet) -> dict[str, Picture]:
        """All views of a sheet, placed."""
        scenes = self.scenes(drawing, sheet)
        return {v.id: Picture(v, self.shot(scenes[v.id]), Chart(v.place, sheet.scale_of(v))) for v in sheet.views}


def draw_view(sketch: Sketch, picture: Picture) -> None:
    """Put the lines of a view into the ink."""
    view, shot, chart = picture.view, picture.shot, picture.chart
    pens = {"shown": "visible", "thin": "tangent"}
    near = SHARE * sketch.lines.width("visible")
    if view.shaded and (tint := shot.shading).png:
        # under the lines; tones are not turned
        corners = chart.to_sheet(np.array([tint.low, tint.high]) - shot.centre)
        sketch.marks.append(Tint(tint.png, *corners.ravel().tolist()))
    left_out = set(view.left_out)
    placed = [(c, chart.curve(c.curve, shot.centre)) for c in shot.curves if c.source not in left_out]
    hidden = [(c, flat) for c, flat in placed if not c.visible and c.cls != "smooth" and view.hidden_lines]
    tangent = [(c, flat) for c, flat in placed if c.visible and c.cls == "smooth" and view.tangent_edges != "off"]
    firm = [(c, flat) for c, flat in placed if c.visible and c.cls != "smooth"]
    over = [flat for _, flat in firm]
    # hidden lines first, so that visible ones lie over them where they meet
    for lines, pen in ((hidden, "hidden"), (tangent, pens.get(view.tangent_edges, ""))):
        for (curve, _), (stay, give) in zip(lines, parted([flat for _, flat in lines], over, near), strict=True):
            for flat in stay:
                sketch.stroke(flat, pen, curve.source)
            for flat in give:
                sketch.lie_under(flat, pen, curve.source)
    _half_line(sketch, picture)
    within = isinstance(view, SectionView) and view.within
    for curve, flat in firm:
        sketch.stroke(flat, "limit" if curve.cls == "limit" else "revolved" if within else "visible", curve.source)


def _half_line(sketch: Sketch, picture: Picture) -> None:
    """The centre line between the halves of a half section: no line of the part stands there."""
    view, scene = picture.view, picture.shot.scene
    if not isinstance(view, SectionView) or "half" not in view.line.ends or not scene.cut.cells:
        return
    step = next((w for w in scene.cut.cells[0].walls if not w.shown), None)
    if step is None:
        return
    camera_ = picture.shot.view
    n = np.array([np.array(step.normal) @ camera_.right, np.array(step.normal) @ camera_.up])
    spot = n * step.offset - n * float(n @ picture.shot.centre)
    along = np.array([-n[1], n[0]])
    reach = picture.shot.hull @ along
    beyond = 3.0 / picture.chart.scale
    ends = [spot + (reach.min() - beyond) * along, spot + (reach.max() + beyond) * along]
    sketch.stroke(line(*picture.chart.to_sheet(np.array(ends))), "centre")
