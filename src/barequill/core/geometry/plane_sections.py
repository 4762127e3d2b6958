"""Where a plane meets an elementary surface: lines, circles and ellipses, exactly."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .curves3 import Curve3, line
from .recognition import frame_about
from .surfaces import Surface
from .vectors import cross

Array = NDArray[np.float64]
TURN = 2 * np.pi


def plane_section(s: Surface, n: Array, offset: float, p: Array, near: float) -> Curve3 | None:
    """The whole line or ellipse in which the plane n · q = offset meets an elementary surface, next to points (m, 3);
    None where it is neither. What is ``near`` (mm) to a special case is one."""
    z, o = s.axes[2], s.origin
    height = offset - float(o @ n)
    if s.kind == "sphere":
        radius = s.radius**2 - height**2
        return _circle(o + height * n, n, float(np.sqrt(radius))) if radius > 0 else None
    slope = float(z @ n)
    across = float(np.linalg.norm(cross(z, n)))
    if across < 1e-9:
        # square to the axis
        middle = o + height * n
        if s.kind == "cylinder":
            return _circle(middle, n, s.radius)
        rise = height * np.sign(slope)
        if s.kind == "cone":
            radius = abs(s.radius + rise * np.tan(s.half_angle))
            return _circle(middle, n, float(radius)) if radius > near else None
        if s.kind == "torus" and abs(rise) < s.minor_radius - near:
            reach = np.sqrt(s.minor_radius**2 - rise**2)
            q = p - middle
            far = float(np.median(np.linalg.norm(q, axis=1)))
            radius = min((abs(s.radius + reach), abs(s.radius - reach)), key=lambda r: abs(r - far))
            return _circle(middle, n, float(radius))
        return None
    if s.kind == "cylinder":
        if abs(slope) < 1e-9:
            return line(p[0], p[-1])
        # the axis meets the plane in the centre
        centre = o + height / slope * z
        minor = cross(z, n) / across
        major = cross(minor, n) * s.radius / abs(slope)
        return Curve3("conic", 0.0, TURN, origin=centre, x=major, y=s.radius * minor)
    if s.kind == "cone":
        return _cone_section(s=s, n=n, height=height, slope=slope, across=across, p=p, near=near)
    if s.kind == "torus" and abs(slope) < 1e-9 and abs(height) < near:
        # through the axis: two circles, or one that is met twice
        out = cross(n, z)
        side = 1.0 if float(np.median((p - o) @ out)) * s.radius >= 0 else -1.0
        if s.spindle:
            return None
        return _circle(o + side * s.radius * out, n, s.minor_radius)
    return None


def _cone_section(
    s: Surface, n: Array, height: float, slope: float, across: float, p: Array, near: float
) -> Curve3 | None:
    z, o = s.axes[2], s.origin
    tan = np.tan(s.half_angle)
    apex = o - z * s.radius / tan
    drop = float((apex - o) @ n) - height
    if abs(drop) < near:
        return line(p[0], p[-1])
    # in the plane that holds the axis and the normal: along the cut, out = tan · rise on one side and on the other
    down = (z - slope * n) / across
    ends = []
    for side in (1.0, -1.0):
        radial = side * cross(cross(z, n) / across, z)
        ray = z + abs(tan) * radial
        along = float(ray @ n)
        if abs(along) < 1e-9:
            return None
        ends.append(apex - drop / along * ray)
    if (float((ends[0] - apex) @ z) > 0) != (float((ends[1] - apex) @ z) > 0):
        return None
    centre = (ends[0] + ends[1]) / 2
    major = float((ends[0] - ends[1]) @ down) / 2
    rise = float((centre - apex) @ z)
    off = centre - apex - rise * z
    minor = (rise * tan) ** 2 - float(off @ off)
    if minor <= near**2:
        return None
    return Curve3("conic", 0.0, TURN, origin=centre, x=major * down, y=np.sqrt(minor) * cross(n, down))


def _circle(centre: Array, n: Array, radius: float) -> Curve3:
    x, y, _ = frame_about(n)
    return Curve3("conic", 0.0, TURN, origin=centre, x=radius * x, y=radius * y)
