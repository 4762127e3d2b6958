"""A view placed on its sheet: what it shows, and the way from the part to the sheet and back."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from threading import Lock

import numpy as np
from numpy.typing import NDArray
from scipy.spatial import ConvexHull, QhullError

from ..drawing.document import Drawing, Sheet, View
from ..ink import Ink
from ..ink.marks import Tint
from ..part.model import Part
from ..projection import Camera, ProjectedCurve, camera
from ..projection.shading import Shading, shade
from ..standards.sheets import Rectangle
from .precedence import SHARE, parted

Array = NDArray[np.float64]
Vector = tuple[float, float, float]
Shader = Callable[[str, Vector, Vector], Shading]
Projector = Callable[[str, Vector, Vector], Sequence[ProjectedCurve]]
"""Gives the projected curves of a part (by key), for directions toward the viewer and up."""


@dataclass(frozen=True, eq=False)
class Shot:
    """A part as one camera sees it, in view mm about the centre of the part's box."""

    part: Part
    view: Camera
    take: Callable[[], Sequence[ProjectedCurve]]
    """Gives the curves; asked for only where they are wanted, since projecting may take its time."""
    tone: Callable[[], Shading] | None = None
    """Gives the shaded picture; None has it made here."""

    @cached_property
    def curves(self) -> Sequence[ProjectedCurve]:
        """What is seen, in the part's mm along right and up of the camera."""
        return self.take()

    @cached_property
    def shading(self) -> Shading:
        """The same view in tones of ink."""
        return self.tone() if self.tone is not None else shade(self.part, self.view.toward, self.view.up)

    @cached_property
    def centre(self) -> Array:
        """Projection (2,) of the centre of the part's box."""
        return self.view.flat(((self.part.low + self.part.high) / 2)[None])[0]

    def flat(self, points: Array) -> Array:
        """Points (m, 3) of the part to view mm (m, 2)."""
        return self.view.flat(np.atleast_2d(points)) - self.centre

    @cached_property
    def hull(self) -> Array:
        """Corners (k, 2) of the convex hull of all that is seen."""
        points = self.flat(self.part.mesh.nodes)
        try:
            return points[ConvexHull(points).vertices]
        except (QhullError, ValueError):
            return points[[points[:, 0].argmin(), points[:, 0].argmax()]]

    def support(self, direction: Array) -> float:
        """How far the view reaches along a unit direction (2,), in view mm."""
        return float((self.hull @ direction).max())

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view about the centre of the part's box, view mm."""
        low, high = self.hull.min(axis=0), self.hull.max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


@dataclass(frozen=True, eq=False)
class Picture:
    """A view on the sheet."""

    view: View
    shot: Shot
    scale: float

    @property
    def place(self) -> Array:
        """Where the centre of the part's box stands, sheet mm."""
        return np.array(self.view.place)

    def to_sheet(self, points: Array) -> Array:
        """View mm (m, 2) to sheet mm."""
        return np.asarray(points) * self.scale + self.place

    def from_sheet(self, points: Array) -> Array:
        """Sheet mm (m, 2) to view mm."""
        return (np.asarray(points) - self.place) / self.scale

    @cached_property
    def box(self) -> Rectangle:
        """Box of the view on the sheet."""
        b = self.shot.box
        x, y = self.view.place
        return Rectangle(x + b.x0 * self.scale, y + b.y0 * self.scale, x + b.x1 * self.scale, y + b.y1 * self.scale)


class Studio:
    """Takes shots of the parts of a drawing and keeps those last used."""

    def __init__(
        self, parts: Callable[[str], Part], projector: Projector, shader: Shader | None = None, most: int = 60
    ) -> None:
        self._most = most
        self._parts = parts
        self._projector = projector
        self._shader = shader
        self._shots: OrderedDict[tuple[str, Vector, Vector], Shot] = OrderedDict()
        self._lock = Lock()

    def shot(self, key: str, toward: Vector, up: Vector) -> Shot:
        """The part of that key from one direction."""
        d, u = (toward[0], toward[1], toward[2]), (up[0], up[1], up[2])
        name = (key, d, u)
        with self._lock:
            found = self._shots.get(name)
            if found is not None:
                self._shots.move_to_end(name)
                return found
        shader = self._shader
        tone = None if shader is None else lambda: shader(key, d, u)
        made = Shot(self._parts(key), camera(toward, up), lambda: self._projector(key, d, u), tone)
        with self._lock:
            found = self._shots.setdefault(name, made)
            while len(self._shots) > self._most:
                self._shots.popitem(last=False)
            return found

    def part(self, key: str) -> Part:
        """The part of that key."""
        return self._parts(key)

    def extent(self, key: str, toward: Vector, up: Vector) -> Rectangle:
        """Box of a view about the centre of the part's box, in view mm, without projecting it."""
        part = self._parts(key)
        return Shot(part, camera(toward, up), list).box

    def pictures(self, sheet: Sheet) -> dict[str, Picture]:
        """All views of a sheet, placed."""
        return {v.id: Picture(v, self.shot(v.part, v.toward, v.up), sheet.scale_of(v)) for v in sheet.views}


def draw_view(ink: Ink, picture: Picture, drawing: Drawing) -> None:
    """Put the lines of a view into the ink."""
    view, shot = picture.view, picture.shot
    offset = picture.place - shot.centre * picture.scale
    pens = {"shown": "visible", "thin": "tangent"}
    near = SHARE * ink.width_of("visible")
    if view.shaded and (tint := shot.shading).png:
        # under the lines
        x0, y0 = np.array(tint.low) * picture.scale + offset
        x1, y1 = np.array(tint.high) * picture.scale + offset
        ink.marks.append(Tint(tint.png, float(x0), float(y0), float(x1), float(y1), view.id))
    placed = [(c, c.curve.moved(picture.scale, 0.0, offset)) for c in shot.curves]
    hidden = [(c, flat) for c, flat in placed if not c.visible and c.cls != "smooth" and view.hidden_lines]
    tangent = [(c, flat) for c, flat in placed if c.visible and c.cls == "smooth" and view.tangent_edges != "off"]
    firm = [(c, flat) for c, flat in placed if c.visible and c.cls != "smooth"]
    over = [flat for _, flat in firm]
    # hidden lines first, so that visible ones lie over them where they meet
    for lines, pen in ((hidden, "hidden"), (tangent, pens.get(view.tangent_edges, ""))):
        for (curve, _), (stay, give) in zip(lines, parted([flat for _, flat in lines], over, near), strict=True):
            for flat in stay:
                ink.stroke(flat, pen, view.id, curve.source)
            for flat in give:
                ink.lie_under(flat, pen, view.id, curve.source)
    for curve, flat in firm:
        ink.stroke(flat, "visible", view.id, curve.source)
    ink.group_of[view.id] = view.id
