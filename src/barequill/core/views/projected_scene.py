"""A projected scene: its lines and tones, and the way from the part into the view."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..cutting.limits import Cut
from ..features.bent_sheet import bent_sheets
from ..geometry.curves2 import moved_all, spanned
from ..geometry.within import Strings
from ..part.chosen import only
from ..part.model import Part
from ..projection import Camera, ProjectedCurve, camera
from ..projection.shading import Shading, shade
from ..standards.sheets import Rectangle
from ..values import value
from .cutting_lines import Frame, frame_of
from .projecting import ProjectionResult, camera_of_scene
from .scene import Leg, Scene

Array = NDArray[np.float64]
COARSE = 1e-4
"""How far, in sizes of the part, the hull of a view may lie within its curves."""


@value
class ProjectedScene:
    """A scene with what is seen of it, in view mm about the centre of the whole part's box: also where some of its bodies are shown."""

    scene: Scene
    whole: Part
    take: Callable[[], ProjectionResult]
    """Gives what is seen; asked for only where it is wanted, since projecting may take its time."""
    tone: Callable[[], Shading] | None = None
    """Gives the shaded picture; None has it made here."""

    @cached_property
    def part(self) -> Part:
        """What is shown of the part."""
        return only(self.whole, self.scene.bodies)

    @property
    def pictorial(self) -> bool:
        """Whether the view is measured along directions of the part, not of the paper."""
        return self.scene.own is not None

    @property
    def bent(self) -> bool:
        """Whether its part is, or holds, a bent sheet."""
        return bool(bent_sheets(self.whole))

    @cached_property
    def view(self) -> Camera:
        """The camera."""
        return camera_of_scene(self.scene)

    @cached_property
    def frame(self) -> Frame:
        """The view's plane in the part, about the middle of the whole part."""
        frame = frame_of(self.whole, self.scene.toward, self.scene.up)
        if self.scene.oblique is None:
            return frame
        return replace(frame, right=self.view.right, up=self.view.up)

    @cached_property
    def taken(self) -> ProjectionResult:
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
        return shade(self.part, self.view, self.scene.cut)

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
    def mesh_box(self) -> Array:
        """How far (2, 2; view mm) the mesh of what is shown reaches along both axes."""
        flat = self.flat_each(self.part.mesh.nodes) if len(self.part.mesh.nodes) else np.zeros((1, 2))
        return np.array([flat.min(axis=0), flat.max(axis=0)]).T

    @cached_property
    def strings(self) -> Strings:
        """The lines about the centre of the part, as strings that can be asked for pieces."""
        return Strings(moved_all([c.curve for c in self.curves], offset=-self.centre), 3e-6 * self.whole.size)

    @cached_property
    def hull(self) -> Array:
        """Corners (k, 2) of the convex hull of all that is drawn; of the mesh where nothing is drawn yet."""
        lines = [c.curve for c in self.curves if c.cls != "smooth"]
        if lines:
            points = spanned(lines, COARSE * self.part.size) - self.centre
        else:
            points = self.flat_each(self.part.mesh.nodes) if len(self.part.mesh.nodes) else np.zeros((1, 2))
        return hull_of(points)

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view about the centre of the part's box, view mm."""
        low, high = self.hull.min(axis=0), self.hull.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


def hull_of(points: Array) -> Array:
    """Corners (k, 2) of the convex hull of points (m, 2); two ends where they lie in a line."""
    try:
        return points[ConvexHull(points).vertices]
    except (QhullError, ValueError):
        return points[[points[:, 0].argmin(), points[:, 0].argmax()]]


def _windows(leg: Leg) -> Cut:
    """What of the part does not belong to a leg."""
    return Cut(tuple(c for c in leg.cut.cells if not any(w.shown for w in c.cutting_planes)))
