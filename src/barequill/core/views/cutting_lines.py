"""Cutting lines: where one runs on its view, which of its legs are cut along, and how a section looks at it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..cutting.limits import CuttingPlane
from ..drawing.cutting import CuttingLine, Tie
from ..drawing.views import AuxiliaryView, SectionView
from ..errors import UserError
from ..part.model import Part
from ..projection import camera
from ..values import value

Array = NDArray[np.float64]
Vector = tuple[float, float, float]
SQUARE = 1e-6
"""Sine of the angle below which legs run alike."""


def tie_point(part: Part, tie: Tie) -> Array | None:
    """The place (3,) of the part that something is tied to, mm; None where it is loose."""
    if tie.at == "box":
        return np.asarray((part.low + part.high) / 2)
    kind, row = part.find(tie.ref) or ("", 0)
    if kind == "vertex":
        return part.vertices[row]
    if kind == "face":
        face = part.faces[row]
        return face.surface.origin if face.surface.kind in ("cylinder", "cone", "sphere", "torus") else face.centre
    if kind != "edge":
        return None
    curve = part.edges[row].curve
    if tie.at in ("centre", "round", "axis") and curve.kind == "conic":
        return curve.origin
    return curve.point({"start": curve.t0, "end": curve.t1}.get(tie.at, (curve.t0 + curve.t1) / 2))


@value
class Frame:
    """A view's own plane in the part: mm right and up about the middle of the part."""

    right: Array
    up: Array
    toward: Array
    middle: Array

    def flat(self, p: Array) -> Array:
        """A point (3,) of the part in the plane (2,)."""
        q = np.asarray(p) - self.middle
        return np.array([q @ self.right, q @ self.up])

    def space(self, v: Array) -> Array:
        """A direction (2,) of the plane in the part (3,)."""
        return v[0] * self.right + v[1] * self.up

    def cutting_plane(self, normal: Array, offset: float, shown: bool = True) -> CuttingPlane:
        """The cutting plane normal · q = offset of the plane, square to it."""
        n = self.space(normal)
        return CuttingPlane((float(n[0]), float(n[1]), float(n[2])), offset + float(n @ self.middle), shown)


def frame_of(part: Part, toward: Vector, up: Vector) -> Frame:
    """The plane of a view of a part."""
    view = camera(toward, up)
    return Frame(view.right, view.up, view.toward, (part.low + part.high) / 2)


@value
class Run:
    """A cutting line as it runs on its parent view: ``points`` (n, 2), mm of the view about the middle of the part, and
    which of its corners have lost what they were tied to."""

    points: Array
    loose: tuple[int, ...]


def run_of(line: CuttingLine, frame: Frame, part: Part) -> Run:
    """Where a cutting line runs: tied corners stand where the part has them, the others follow along their legs."""
    stored = np.array([c.place for c in line.corners], float)
    points, firm, loose = stored.copy(), [], []
    for k, corner in enumerate(line.corners):
        there = None if corner.tie is None else tie_point(part, corner.tie)
        if there is not None:
            points[k] = frame.flat(there) + corner.off
        elif corner.tie is not None:
            loose.append(k)
        firm.append(there is not None)
    moved = list(firm)
    for order in (range(len(line.courses)), range(len(line.courses) - 1, -1, -1)):
        for k in order:
            course = line.courses[k]
            forward = order.step > 0
            a, b = (k, k + 1) if forward else (k + 1, k)
            if firm[b] or not (moved[a] or course != "lean"):
                continue
            if course == "lean":
                if not moved[b]:
                    points[b] = points[a] + stored[b] - stored[a]
            elif forward or firm[a] or moved[a]:
                axis = 1 if course == "level" else 0
                points[b, axis] = points[a, axis]
            moved[b] = moved[b] or moved[a]
    # of two firm ends of a straight leg the first tells where it runs
    for k, course in enumerate(line.courses):
        if course != "lean":
            axis = 1 if course == "level" else 0
            points[k + 1, axis] = points[k, axis]
    return Run(points, tuple(loose))


@value
class Stretch:
    """A leg along which is cut: its ends (2,) and unit direction, and whether it is the first or last of its line."""

    start: Array
    end: Array
    along: Array
    first: bool
    last: bool


def stretches_of(points: Array) -> list[Stretch]:
    """The legs of a line along which is cut; those between, square to two that run alike, are steps.

    Raises
    ------
    UserError
        Where the line has no length, or turns back on itself.
    """
    steps = np.diff(points, axis=0)
    lengths = np.linalg.norm(steps, axis=1)
    reach = max(float(np.ptp(points, axis=0).max()), 1e-9)
    keep = [k for k in range(len(steps)) if lengths[k] > 1e-6 * reach]
    if not keep:
        raise UserError("The cutting line has no length", "Draw it from one place to another.")
    ways = {k: steps[k] / lengths[k] for k in keep}
    legs: list[int] = []
    for n, k in enumerate(keep):
        before, after = (legs[-1] if legs else None), (keep[n + 1] if n + 1 < len(keep) else None)
        step = (
            before is not None
            and after is not None
            and abs(float(ways[k] @ ways[before])) < SQUARE
            and float(ways[before] @ ways[after]) > 1 - SQUARE
        )
        if not step:
            if before is not None and float(ways[k] @ ways[legs[0]]) < -SQUARE:
                raise UserError("The cutting line turns back on itself", "Let each leg go on the same way.")
            legs.append(k)
    # legs that run on in one line are one
    runs: list[list[Array]] = []
    for n, k in enumerate(legs):
        on = n > 0 and legs[n - 1] == k - 1 and float(ways[k] @ ways[legs[n - 1]]) > 1 - SQUARE
        if on:
            runs[-1][1] = points[k + 1]
        else:
            runs.append([points[k], points[k + 1], ways[k]])
    return [Stretch(a, b, way, n == 0, n == len(runs) - 1) for n, (a, b, way) in enumerate(runs)]


def left_of(v: Array) -> Array:
    """A direction (2,) a quarter turn counter-clockwise from another."""
    return np.array([-v[1], v[0]])


def section_camera(frame: Frame, along: Array, main: Array, side: int) -> tuple[Vector, Vector]:
    """Toward and up of a section along a leg, its picture turned so that the ``main`` leg keeps its direction."""
    look, e = side * left_of(along), frame.space(along)
    upright = main[1] * e + side * left_of(main)[1] * frame.toward
    return _plain(-frame.space(look)), _plain(upright)


def _plain(v: Array) -> Vector:
    w = [round(float(x), 12) + 0.0 for x in v]
    return (w[0], w[1], w[2])


def main_of(stretches: list[Stretch]) -> Stretch:
    """The leg whose direction the section keeps: the first that is level or upright, else the first."""
    return next((s for s in stretches if min(abs(s.along)) < SQUARE), stretches[0])


def is_aligned(stretches: list[Stretch]) -> bool:
    """True where the legs do not all run alike."""
    return any(float(s.along @ stretches[0].along) < 1 - SQUARE for s in stretches)


def camera_of_section(view: SectionView, part: Part | None, toward: Vector, up: Vector) -> tuple[Vector, Vector]:
    """Directions of a section whose parent has these."""
    seen = camera(toward, up)
    middle = np.zeros(3) if part is None else (part.low + part.high) / 2
    frame = Frame(seen.right, seen.up, seen.toward, middle)
    points = (
        run_of(view.line, frame, part).points if part is not None else np.array([c.place for c in view.line.corners])
    )
    try:
        main = main_of(stretches_of(points)).along
    except UserError:
        main = np.array([1.0, 0.0])
    return section_camera(frame, main, main, view.side)


def slant_of(view: AuxiliaryView, part: Part | None, frame: Frame) -> Array:
    """The direction (2,) in its parent of the edge that an auxiliary view is square to: that of a straight edge, or the
    trace of a plane face; as it last was where that is gone, or is not seen so."""
    stored = np.array(view.along, float)
    stored = stored / max(float(np.linalg.norm(stored)), 1e-12)
    kind, row = (part.find(view.onto) if part is not None else None) or ("", 0)
    if part is None or not kind:
        return stored
    if kind == "edge" and part.edges[row].curve.kind == "line":
        ends = part.edges[row].curve.points(np.array([part.edges[row].curve.t0, part.edges[row].curve.t1]))
        way = frame.flat(ends[1]) - frame.flat(ends[0])
    elif kind == "face" and part.faces[row].surface.kind == "plane":
        n = part.faces[row].surface.axes[2]
        way = left_of(np.array([n @ frame.right, n @ frame.up]))
    else:
        return stored
    length = float(np.linalg.norm(way))
    if (length < 1e-6 * part.size and kind == "edge") or length < 1e-6:
        return stored
    way = way / length
    return way if float(way @ stored) >= 0 else -way


def camera_square(view: AuxiliaryView, part: Part | None, toward: Vector, up: Vector) -> tuple[Vector, Vector]:
    """Directions of an auxiliary view whose parent has these: square to its edge, and turned so that this keeps its
    direction."""
    seen = camera(toward, up)
    middle = np.zeros(3) if part is None else (part.low + part.high) / 2
    way = slant_of(view, part, Frame(seen.right, seen.up, seen.toward, middle))
    return section_camera(Frame(seen.right, seen.up, seen.toward, middle), way, way, view.side)
