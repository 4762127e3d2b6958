"""Directions of views: which face is the front, what a projected or pictorial view looks along."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import numpy as np

from ..drawing import Drawing
from ..drawing.views import (
    ISOMETRIC,
    AuxiliaryView,
    DetailView,
    FreeView,
    Look,
    PictorialView,
    PrincipalView,
    SectionView,
    View,
)
from ..errors import UserError
from ..features.derived import Steps, apart_key, flat_key, mirrored_key
from ..geometry.vectors import cross
from ..part.model import Part
from ..part.transforming import LEFT
from ..projection import camera
from .cutting_lines import camera_of_section, camera_square

Vector = tuple[float, float, float]
Side = Literal["left", "right", "above", "below"]
FACES: dict[str, tuple[Vector, Vector]] = {
    "-Y": ((0, -1, 0), (0, 0, 1)),
    "+Y": ((0, 1, 0), (0, 0, 1)),
    "+Z": ((0, 0, 1), (0, 1, 0)),
    "-Z": ((0, 0, -1), (0, -1, 0)),
    "-X": ((-1, 0, 0), (0, 0, 1)),
    "+X": ((1, 0, 0), (0, 0, 1)),
}
"""The six faces of a part that can be its front: toward the viewer, and up."""

_SIDES: dict[str, tuple[int, int]] = {"left": (-1, 0), "right": (1, 0), "above": (0, 1), "below": (0, -1)}
_LOOKS: dict[str, tuple[int, int]] = {
    "left": (-1, 0),
    "right": (1, 0),
    "top": (0, 1),
    "bottom": (0, -1),
    "back": (2, 0),
}


def turned(toward: Vector, up: Vector, quarter_turns: int) -> tuple[Vector, Vector]:
    """The same face turned counter-clockwise on the sheet by quarter turns."""
    d, u = np.array(toward, float), np.array(up, float)
    for _ in range(quarter_turns % 4):
        u = cross(u, d)
    return _plain(d), _plain(u)


def squared(toward: Vector, up: Vector) -> tuple[Vector, Vector]:
    """Directions of length 1, up made square to the line of sight.

    Raises
    ------
    UserError
        Where they do not make a camera.
    """
    seen = camera(toward, up)
    return _plain(seen.toward), _plain(seen.up)


def _plain(v: np.ndarray) -> Vector:
    w = [round(float(x), 12) + 0.0 for x in v]
    return (w[0], w[1], w[2])


def camera_of(
    look: Look,
    toward: Vector,
    up: Vector,
    corner: tuple[int, int] = (1, 1),
    angles: tuple[float, float] = ISOMETRIC,
) -> tuple[Vector, Vector]:
    """Direction toward the viewer and up of a view that looks at its parent's part from another side; out of a corner with
    the axes of width and depth at these ``angles`` (degrees) from the horizontal (ISO 5456-3)."""
    d, u = np.array(toward, float), np.array(up, float)
    d, u = d / np.linalg.norm(d), u / np.linalg.norm(u)
    r = cross(u, d)
    table = {
        "front": (d, u),
        "left": (-r, u),
        "right": (r, u),
        "top": (u, -d),
        "bottom": (-u, d),
        "back": (-d, u),
        "corner": (_of_corner(d, u, r, corner, angles), u),
    }
    if look not in table:
        raise UserError(f"There is no view named {look}", "Choose front, back, top, bottom, left, right or iso.")
    return _plain(table[look][0]), _plain(table[look][1])


def side_of(look: str, angle: str) -> tuple[int, int]:
    """Column and row, from the parent, at which a projected view stands (ISO 5456-2).

    In first angle the view from the left stands right of its parent, in third angle left of it; the
    view from behind stands far right.
    """
    column, row = _LOOKS[look]
    if look == "back":
        return column, row
    return (-column, -row) if angle == "first" else (column, row)


def _of_corner(
    d: np.ndarray, u: np.ndarray, r: np.ndarray, corner: tuple[int, int], angles: tuple[float, float]
) -> np.ndarray:
    """The direction toward the viewer in which the axes r and d lean by these angles, u standing upright.

    With the view turned by p about u and raised by e, tan a = tan p · sin e and tan b = sin e / tan p.
    """
    width, depth = (float(np.tan(np.radians(a))) for a in angles)
    if width * depth >= 1:
        raise UserError(
            "Axes cannot lean so far", "The two angles are less than 90° together; 30 and 30 are isometric."
        )
    rise, turn = np.sqrt(width * depth), np.sqrt(width / depth)
    flat = (d + corner[0] * turn * r) / np.hypot(1.0, turn)
    found: np.ndarray = np.sqrt(1 - rise * rise) * flat + corner[1] * rise * u
    return found * np.sqrt(3)


def oblique_of(
    form: str, toward: Vector, up: Vector, corner: tuple[int, int]
) -> tuple[Vector, tuple[Vector, Vector]] | None:
    """The sight of an oblique projection (ISO 5456-3) of what a view shows, toward the viewer, and what of the part counts to the right
    and upward on its plane; None for an axonometric one.

    In cavalier and cabinet projection the front is true and its depth leans by 45°, in full and in half length; in military
    (planometric) projection the plan is true and turned by 45°, heights stand upright in full length.
    """
    seen, (cx, cy) = camera(toward, up), corner
    d, u, r = seen.toward, seen.up, seen.right
    half = np.sqrt(0.5)
    if form in ("cavalier", "cabinet"):
        lean = half * (1.0 if form == "cavalier" else 0.5)
        return _plain(d + lean * (cx * r + cy * u)), (_plain(r - lean * cx * d), _plain(u - lean * cy * d))
    if form == "military":
        right, upward = half * (r - cx * d), u - half * cy * (cx * r + d)
        return _plain(cx * r + d + np.sqrt(2) * cy * u), (_plain(right), _plain(upward))
    return None


def look_of(side: Side, angle: str) -> Look:
    """What a view pulled out to a side of its parent looks at."""
    if side not in _SIDES:
        raise UserError(f"There is no side named {side}", "Choose left, right, above or below.")
    column, row = _SIDES[side]
    for look in ("left", "right", "top", "bottom"):
        if side_of(look, angle) == (column, row):
            return look  # type: ignore[return-value]
    raise AssertionError("each side has its view")


def _left(v: Vector) -> Vector:
    """A direction as the part of the other hand has it."""
    x, y, z = (LEFT @ np.array(v) + 0.0).tolist()
    return x, y, z


def shown_key(drawing: Drawing, view: View, parts: Callable[[str], Part]) -> str:
    """The key of what a view shows of its part: the part, or what is made of it for the view from which it is projected. Where that
    cannot be made it is the part as it is."""
    root = drawing.root_of(view)
    if isinstance(view, PictorialView) and view.apart and view.apart_by > 0:
        return apart_key(_of_root(root, view, parts), steps_of(view))
    return _of_root(root, view, parts)


def steps_of(view: PictorialView) -> Steps:
    """By how much the bodies of an exploded view are moved."""
    s = view.apart_by
    return tuple((a.body, (a.by[0] * s, a.by[1] * s, a.by[2] * s)) for a in view.apart)


def _of_root(root: View, view: View, parts: Callable[[str], Part]) -> str:
    """The key of what a view shows, as the view from which it is projected tells."""
    key = view.part
    if not isinstance(root, PrincipalView | FreeView) or root.part != view.part:
        return key
    if root.flat is not None:
        flat = flat_key(parts(key), root.flat.body, root.flat.k)
        try:
            parts(flat)
        except UserError:
            return key
        key = flat
    return mirrored_key(key) if root.mirrored else key


def cameras(drawing: Drawing, parts: Callable[[str], Part] | None = None) -> dict[str, tuple[Vector, Vector]]:
    """Directions toward the viewer and up of all views by id: a projected view follows its parent, a section the line on
    it (which stands where it last stood, where the ``parts`` are not given)."""
    views = {v.id: v for s in drawing.sheets for v in s.views}
    found: dict[str, tuple[Vector, Vector]] = {}

    def of(view: View, seen: int = 0) -> tuple[Vector, Vector]:
        if view.id not in found:
            if isinstance(view, PrincipalView | FreeView):
                ways = view.toward, view.up
                found[view.id] = (_left(ways[0]), _left(ways[1])) if view.mirrored else ways
            elif view.parent not in views or seen > len(views):
                found[view.id] = FACES["-Y"]
            elif isinstance(view, SectionView):
                part = None if parts is None else parts(shown_key(drawing, view, parts))
                found[view.id] = camera_of_section(view, part, *of(views[view.parent], seen + 1))
            elif isinstance(view, DetailView):
                found[view.id] = of(views[view.parent], seen + 1)
            elif isinstance(view, AuxiliaryView):
                part = None if parts is None else parts(shown_key(drawing, view, parts))
                found[view.id] = camera_square(view, part, *of(views[view.parent], seen + 1))
            else:
                toward, up = of(views[view.parent], seen + 1)
                slanted = oblique_of(view.form, toward, up, view.corner) if isinstance(view, PictorialView) else None
                if slanted is not None:
                    found[view.id] = slanted[0], up
                elif isinstance(view, PictorialView):
                    found[view.id] = camera_of(view.look, toward, up, view.corner, view.angles)
                else:
                    found[view.id] = camera_of(view.look, toward, up)
        return found[view.id]

    for view in views.values():
        of(view)
    return found
