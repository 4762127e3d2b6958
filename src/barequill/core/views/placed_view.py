"""A view placed on its sheet: what it shows, and the way from the part to the sheet and back."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import cached_property, partial
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray

from ..drawing import Break, Drawing, Sheet
from ..drawing.views import DetailView, SectionView, View
from ..errors import UserError
from ..features.derived import part_of
from ..geometry.curves2 import Curve2
from ..geometry.planar import lines_of
from ..part.model import Part
from ..projection import ProjectedCurve
from ..projection.shading import Shading
from ..recent import Recent
from ..standards.sheets import Rectangle
from ..values import value
from .covering import form_of
from .cutting_lines import left_of, main_of, run_of, stretches_of
from .projected_scene import ProjectedScene, hull_of
from .projecting import NOTHING, ProjectionResult, take
from .scene import Scene
from .sections import scenes_of
from .view_transform import ViewTransform
from .windows import view_transform_of

Array = NDArray[np.float64]
Shader = Callable[[Scene], Shading]
Projector = Callable[[Scene], ProjectionResult]
"""Gives what a scene shows."""
SHEETS = 4
"""Of how many sheets is held what their views show."""
BEYOND = 2.0
"""mm by which centre lines go beyond the edge of what is kept of a view."""


@value
class PlacedView:
    """A view on the sheet."""

    view: View
    projected: ProjectedScene
    transform: ViewTransform

    @property
    def scale(self) -> float:
        """Sheet mm for each view mm."""
        return self.transform.scale

    def still(self) -> PlacedView:
        """The same with its zero at the sheet's: what is drawn so can be moved."""
        return replace(self, transform=replace(self.transform, place=(0.0, 0.0)))

    @cached_property
    def placed(self) -> list[tuple[ProjectedCurve, Curve2]]:
        """All that is drawn, on the sheet, in pieces where the view is cropped or broken."""
        curves = self.projected.curves
        return [(curves[k], flat) for k, flat in self.transform.laid(self.projected.strings)]

    @cached_property
    def hull(self) -> Array:
        """Corners (k, 2) of the convex hull of the view on the sheet."""
        if self.transform.plain:
            return self.transform.to_sheet(self.projected.hull)
        if isinstance(self.view, DetailView) and (self.view.edge == "plain" or self.view.border):
            return hull_of(self.transform.to_sheet(np.array(self.transform.window)))
        pieces = [flat.points(0.01) for c, flat in self.placed if c.cls != "smooth"]
        return hull_of(np.concatenate(pieces)) if pieces else self.transform.to_sheet(self.projected.hull)

    def reach(self, direction: Array) -> float:
        """How far the view reaches along a unit direction (2,) of the sheet, in sheet mm."""
        return float((self.hull @ direction).max())

    def in_gap(self, points: Array) -> NDArray[np.bool_]:
        """True (m,) where points (m, 2; view mm) lie in a stretch that is taken out."""
        p = np.atleast_2d(points)
        return np.any(
            [(p[:, g.axis] > g.start) & (p[:, g.axis] < g.end) for g in self.transform.gaps] or [p[:, 0] != p[:, 0]],
            axis=0,
        )

    @cached_property
    def _frame(self) -> Any:
        """Within what lines that go a little beyond the view end, where it is cropped: a shape of the sheet, or None."""
        if not self.transform.window:
            return None
        frame = shapely.Polygon(self.transform.to_sheet(np.array(self.transform.window)))
        return (frame if frame.is_valid else frame.buffer(0)).buffer(BEYOND)

    def kept(self, ends: Array) -> Array:
        """Lines (k, 2, 2) of the sheet as far as they lie over what is kept of the view."""
        if self._frame is None or not len(ends):
            return ends
        pieces = shapely.intersection(shapely.linestrings(ends), self._frame)
        return np.array([c[[0, -1]] for p in pieces for c in lines_of(p, 1e-3)]).reshape(-1, 2, 2)

    def shown(self, points: Array) -> NDArray[np.bool_]:
        """True (m,) where points (m, 3) of the part lie in a piece of the view that is drawn."""
        return self.transform.shows(self.projected.flat_each(points))

    def on_sheet(self, points: Array) -> Array:
        """Points (m, 3) of the part on the sheet (m, 2)."""
        return self.transform.to_sheet(self.projected.flat(points))

    def on_sheet_each(self, points: Array) -> Array:
        """The same of points that have nothing to do with each other."""
        return self.transform.to_sheet(self.projected.flat_each(points))

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view on the sheet."""
        low, high = self.hull.min(axis=0), self.hull.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def _turned_in(view: SectionView, parent: PlacedView) -> tuple[float, float]:
    """Where a section stands that is turned into a broken view: on its line."""
    try:
        main = main_of(stretches_of(run_of(view.line, parent.projected.frame, parent.projected.whole).points))
    except UserError:
        return view.place
    way = parent.transform.direction(left_of(main.along))
    off = float((parent.transform.stands(main.start[None])[0] - parent.transform.place) @ way)
    return parent.transform.place[0] + off * float(way[0]), parent.transform.place[1] + off * float(way[1])


class ProjectionCache:
    """Projected scenes of the parts of a drawing, those last used, and the views that they are placed as; projected here where no
    ``projector`` is given."""

    def __init__(
        self,
        parts: Callable[[str], Part],
        projector: Projector | None = None,
        shader: Shader | None = None,
        most: int = 60,
    ) -> None:
        self._parts = partial(part_of, parts=parts)
        self._projector = projector or (lambda scene: take(self._parts(scene.part), scene))
        self._shader = shader
        self._scenes: Recent[Scene, ProjectedScene] = Recent(most)
        # a drawing is a value that never changes, and sheets of it are asked for more than once
        self._last: tuple[tuple[Drawing, Sheet, dict[str, Scene]], ...] = ()

    def projected(self, scene: Scene) -> ProjectedScene:
        """A scene with what is seen of it, which is projected when that is asked for."""
        shader = self._shader
        tone = None if shader is None else lambda: shader(scene)
        return self._scenes.made(
            scene, lambda: ProjectedScene(scene, self._parts(scene.part), lambda: self._projector(scene), tone)
        )

    def drop(self) -> None:
        """Let go of all projections that are held."""
        self._scenes.clear()

    def part(self, key: str) -> Part:
        """The part of that key."""
        return self._parts(key)

    def scenes(self, drawing: Drawing, sheet: Sheet) -> dict[str, Scene]:
        """What each view of a sheet shows, by its id."""
        for known, own, scenes in self._last:
            if known is drawing and own is sheet:
                return scenes
        made = scenes_of(drawing, sheet, self._parts)
        self._last = ((drawing, sheet, made), *self._last[: SHEETS - 1])
        return made

    def extent(self, scene: Scene) -> Rectangle:
        """Box of a view about the centre of the part's box, in view mm, without projecting it."""
        return ProjectedScene(scene, self._parts(scene.part), lambda: NOTHING).box

    def elsewhere(self, drawing: Drawing, sheet: Sheet) -> dict[str, PlacedView]:
        """Views on other sheets that have their parent on this one, and those that are parents of views on this one, placed."""
        own = {v.id for v in sheet.views}
        parents = {v.parent for v in sheet.views} - own
        found: dict[str, PlacedView] = {}
        for other in drawing.sheets:
            if other.id != sheet.id:
                near = [v.id for v in other.views if v.parent in own or v.id in parents]
                placed_views = self.placed_views(drawing, other) if near else {}
                found |= {view: placed_views[view] for view in near}
        return found

    def placed_views(self, drawing: Drawing, sheet: Sheet) -> dict[str, PlacedView]:
        """All views of a sheet, placed."""
        scenes = self.scenes(drawing, sheet)
        found = {}
        for view in sheet.views:
            projected = self.projected(scenes[view.id])

            def form(b: Break, projected: ProjectedScene = projected, scale: float = sheet.scale_of(view)) -> str:
                return form_of(b, projected, scale)

            found[view.id] = PlacedView(
                view, projected, view_transform_of(drawing, sheet, view, projected.frame, projected.whole, form)
            )
        for view in sheet.views:
            parent = found.get(view.parent or "")
            if isinstance(view, SectionView) and view.within and parent is not None and parent.transform.gaps:
                own = found[view.id]
                found[view.id] = replace(own, transform=replace(own.transform, place=_turned_in(view, parent)))
        return found
