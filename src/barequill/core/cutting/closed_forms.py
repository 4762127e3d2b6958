"""Compiled loops for the lines and conics in which walls meet faces of closed form.

Chains are those of the mesh: the exact surface tells where they run.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.forms import CONIC
from ..geometry.recognition import frame_about

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
TURN = 2 * np.pi
OTHER, PLANE, CYLINDER, CONE, SPHERE, TORUS = range(6)
FORMS = ("other", "plane", "cylinder", "cone", "sphere", "torus")
LEFT, NOTHING, STRAIGHT, CURVED = range(4)
"""What is known of where a wall meets a face: not of closed form, next to nothing, a line, a circle or ellipse."""


class Faces(NamedTuple):
    """The f faces of a part: ``form`` as a place in FORMS, ``origin`` (f, 3), ``axes`` (f, 3, 3), ``radius``, ``minor``
    radius, ``half`` angle, and ``sense``: +1 where the natural normal is the outward one."""

    form: Ints
    origin: Array
    axes: Array
    radius: Array
    minor: Array
    half: Array
    sense: Array


@compiled
def dot(a, b):  # type: ignore[no-untyped-def]
    """The scalar product of two vectors (3,)."""
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@compiled
def _cross(a, b):  # type: ignore[no-untyped-def]
    found = np.empty(3)
    for x in range(3):
        y, z = (x + 1) % 3, (x + 2) % 3
        found[x] = a[y] * b[z] - a[z] * b[y]
    return found


@compiled
def norm(a):  # type: ignore[no-untyped-def]
    """The length of a vector (3,)."""
    return np.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


@compiled
def outward_at(faces, f, p, out):  # type: ignore[no-untyped-def]
    """The outward normal of a face of closed form at a point (3,) on it, into ``out``."""
    z0, z1, z2 = faces.axes[f, 2]
    form, sense = faces.form[f], faces.sense[f]
    if form == PLANE:
        out[0], out[1], out[2] = sense * z0, sense * z1, sense * z2
        return
    n0, n1, n2 = p[0] - faces.origin[f, 0], p[1] - faces.origin[f, 1], p[2] - faces.origin[f, 2]
    if form != SPHERE:
        along = n0 * z0 + n1 * z1 + n2 * z2
        r0, r1, r2 = n0 - along * z0, n1 - along * z1, n2 - along * z2
        size = max(np.sqrt(r0 * r0 + r1 * r1 + r2 * r2), 1e-300)
        r0, r1, r2 = r0 / size, r1 / size, r2 / size
        if form == TORUS:
            n0, n1, n2 = n0 - faces.radius[f] * r0, n1 - faces.radius[f] * r1, n2 - faces.radius[f] * r2
        elif form == CONE:
            sine, cosine = np.sin(faces.half[f]), np.cos(faces.half[f])
            side = np.sign(faces.radius[f] * cosine + along * sine) * cosine
            n0, n1, n2 = side * r0 - sine * z0, side * r1 - sine * z1, side * r2 - sine * z2
        else:
            n0, n1, n2 = r0, r1, r2
    size = sense / max(np.sqrt(n0 * n0 + n1 * n1 + n2 * n2), 1e-300)
    out[0], out[1], out[2] = size * n0, size * n1, size * n2


@compiled
def _circle(centre, n, radius, out):  # type: ignore[no-untyped-def]
    axes = frame_about(n)
    out[0], out[1], out[2] = centre, radius * axes[0], radius * axes[1]
    return CURVED


@compiled
def _met(faces, f, n, offset, p, near, out):  # type: ignore[no-untyped-def]
    """How the plane n · q = offset meets a face of closed form next to points (m, 3); a circle or ellipse (3, 3: centre, x, y)
    into ``out``. What is ``near`` (mm) to a special case is one."""
    o, z, form = faces.origin[f], faces.axes[f, 2], faces.form[f]
    radius = faces.radius[f]
    height = offset - dot(o, n)
    if form == SPHERE:
        square = radius**2 - height**2
        return _circle(o + height * n, n, np.sqrt(square), out) if square > 0 else LEFT
    slope, turn = dot(z, n), _cross(z, n)
    across = norm(turn)
    if across < 1e-9:
        # square to the axis
        middle = o + height * n
        if form == CYLINDER:
            return _circle(middle, n, radius, out)
        rise = height * np.sign(slope)
        if form == CONE:
            own = abs(radius + rise * np.tan(faces.half[f]))
            return _circle(middle, n, own, out) if own > near else LEFT
        if abs(rise) < faces.minor[f] - near:
            reach = np.sqrt(faces.minor[f] ** 2 - rise**2)
            far = np.empty(len(p))
            for i in range(len(p)):
                far[i] = norm(p[i] - middle)
            middle_far = np.median(far)
            one, other = abs(radius + reach), abs(radius - reach)
            return _circle(middle, n, one if abs(one - middle_far) <= abs(other - middle_far) else other, out)
        return LEFT
    if form == CYLINDER:
        if abs(slope) < 1e-9:
            return STRAIGHT
        # the axis meets the plane in the centre
        minor = turn / across
        out[0], out[1], out[2] = o + height / slope * z, _cross(minor, n) * radius / abs(slope), radius * minor
        return CURVED
    if form == CONE:
        return _met_cone(
            o=o,
            z=z,
            radius=radius,
            tan=np.tan(faces.half[f]),
            n=n,
            height=height,
            slope=slope,
            across=across,
            near=near,
            out=out,
        )
    if abs(slope) < 1e-9 and abs(height) < near and faces.minor[f] < abs(radius):
        # through the axis: two circles, or one that is met twice
        way = _cross(n, z)
        sides = np.empty(len(p))
        for i in range(len(p)):
            sides[i] = dot(p[i] - o, way)
        side = 1.0 if np.median(sides) * radius >= 0 else -1.0
        return _circle(o + side * radius * way, n, faces.minor[f], out)
    return LEFT


@compiled
def _met_cone(o, z, radius, tan, n, height, slope, across, near, out):  # type: ignore[no-untyped-def]
    apex = o - z * radius / tan
    drop = dot(apex - o, n) - height
    if abs(drop) < near:
        return STRAIGHT
    # in the plane that holds the axis and the normal: along the cut, out = tan · rise on one side and on the other
    down = (z - slope * n) / across
    radial = _cross(_cross(z, n) / across, z)
    ends = np.empty((2, 3))
    for k in range(2):
        ray = z + (1.0 if k == 0 else -1.0) * abs(tan) * radial
        along = dot(ray, n)
        if abs(along) < 1e-9:
            return LEFT
        ends[k] = apex - drop / along * ray
    if (dot(ends[0] - apex, z) > 0) != (dot(ends[1] - apex, z) > 0):
        return LEFT
    centre = (ends[0] + ends[1]) / 2
    major = dot(ends[0] - ends[1], down) / 2
    rise = dot(centre - apex, z)
    off = centre - apex - rise * z
    minor = (rise * tan) ** 2 - dot(off, off)
    if minor <= near**2:
        return LEFT
    out[0], out[1], out[2] = centre, major * down, np.sqrt(minor) * _cross(n, down)
    return CURVED


@compiled
def closed_forms(faces, points, ways, begin, snaps, place, closed, chain_face, normal, offset, size, near):  # type: ignore[no-untyped-def]
    """Of chains on curved faces what they are exactly, with the material at the left as one looks against the normal.

    Returns by chain: what is known of it, both ends (c, 2, 3), the conic (c, 3, 3: centre, x, y), its parameters (c, 2),
    and whether the chain was turned about.
    """
    n = len(begin) - 1
    known, ends = np.full(n, NOTHING), np.empty((n, 2, 3))
    conic, span, turned = np.zeros((n, 3, 3)), np.zeros((n, 2)), np.zeros(n, np.bool_)
    for c in range(n):
        f, a, b = chain_face[c], begin[c], begin[c + 1]
        if faces.form[f] == PLANE or b - a < 2:
            continue
        p = points[a:b].copy()
        for e in range(2):
            if snaps[c, e] >= 0:
                p[0 if e == 0 else len(p) - 1] = place[snaps[c, e]]
        side = 0.0
        low, high = p[0].copy(), p[0].copy()
        for i in range(len(p)):
            for x in range(3):
                low[x], high[x] = min(low[x], p[i, x]), max(high[x], p[i, x])
            if i + 1 < len(p):
                ux, uy, uz = p[i + 1, 0] - p[i, 0], p[i + 1, 1] - p[i, 1], p[i + 1, 2] - p[i, 2]
                vx, vy, vz = (
                    ways[a + i, 0] + ways[a + i + 1, 0],
                    ways[a + i, 1] + ways[a + i + 1, 1],
                    ways[a + i, 2] + ways[a + i + 1, 2],
                )
                side += (
                    (uy * vz - uz * vy) * normal[0] + (uz * vx - ux * vz) * normal[1] + (ux * vy - uy * vx) * normal[2]
                )
        turned[c] = side > 0
        if side > 0:
            p = p[::-1].copy()
        gap = norm(p[-1] - p[0])
        loop = closed[c] or (gap < 1e-9 * size and len(p) > 3)
        ends[c, 0], ends[c, 1] = p[0], p[-1]
        if not loop and gap < 1e-7 * size and (high - low).max() < 1e-6 * size:
            continue
        known[c] = LEFT
        if faces.form[f] == OTHER:
            continue
        known[c] = _met(faces=faces, f=f, n=normal, offset=offset, p=p, near=near, out=conic[c])
        if known[c] != CURVED:
            continue
        # run through as the points on it are
        o, x, y = conic[c]
        angle = first = 0.0
        xx, yy = dot(x, x), dot(y, y)
        for i in range(len(p)):
            q0, q1, q2 = p[i, 0] - o[0], p[i, 1] - o[1], p[i, 2] - o[2]
            now = np.arctan2((q0 * y[0] + q1 * y[1] + q2 * y[2]) / yy, (q0 * x[0] + q1 * x[1] + q2 * x[2]) / xx)
            if i == 0:
                angle = first = now
            else:
                angle += (now - angle + np.pi) % TURN - np.pi
        turns = TURN * np.round(first / TURN)
        first, angle = first - turns, angle - turns
        if angle < first:
            conic[c, 2] = -y
            first, angle = -first, -angle
        span[c, 0], span[c, 1] = first, first + TURN if loop else angle
    return known, ends, conic, span, turned


@compiled
def steps_along(conic, span, chord):  # type: ignore[no-untyped-def]
    """Even steps along a conic whose chords stay within ``chord`` (mm) of it."""
    step = 2 * np.arccos(1 - min(chord / max(norm(conic[1]), 1e-12), 0.3))
    return max(2, int(np.ceil((span[1] - span[0]) / step)))


@compiled
def lines_and_conics(faces, ends, line_face, conic, span, conic_face, chord):  # type: ignore[no-untyped-def]
    """Lines (k, 2, 3) and conics (c, 3, 3) on faces, the lines first: the face of each, what they are as in
    :class:`Forms`: kind, parameters (k + c, 2), conic (k + c, 3, 3); as wires start, t, points, cubic; and by row of these
    the outward normal of the face."""
    k, c = len(ends), len(conic)
    start = np.zeros(k + c + 1, np.int64)
    for i in range(k):
        start[i + 1] = start[i] + 2
    for i in range(c):
        start[k + i + 1] = start[k + i] + steps_along(conic[i], span[i], chord) + 1
    m = start[k + c]
    t, points, cubic, normals = np.zeros(m), np.empty((m, 3)), np.zeros((3, m, 3)), np.empty((m, 3))
    for i in range(k):
        points[2 * i], points[2 * i + 1] = ends[i, 0], ends[i, 1]
        cubic[0, 2 * i] = ends[i, 1] - ends[i, 0]
        t[2 * i + 1] = norm(cubic[0, 2 * i])
    for i in range(c):
        a, b = start[k + i], start[k + i + 1]
        h, width = (span[i, 1] - span[i, 0]) / (b - a - 1), 0.0
        before, rise = 0.0, 0.0
        cosine, sine = np.cos(span[i, 0]), np.sin(span[i, 0])
        for j in range(a, b):
            t[j] = span[i, 0] + (j - a) * h if j < b - 1 else span[i, 1]
            if j > a:
                width = t[j] - t[j - 1]
                before, rise = cosine, sine
                cosine, sine = np.cos(t[j]), np.sin(t[j])
            for d in range(3):
                x, y = conic[i, 1, d], conic[i, 2, d]
                points[j, d] = conic[i, 0, d] + cosine * x + sine * y
                if j > a:
                    d0, d1 = width * (before * y - rise * x), width * (cosine * y - sine * x)
                    step = points[j, d] - points[j - 1, d]
                    cubic[0, j - 1, d], cubic[1, j - 1, d] = d0, 3 * step - 2 * d0 - d1
                    cubic[2, j - 1, d] = d0 + d1 - 2 * step
    face, kind = np.empty(k + c, np.int64), np.zeros(k + c, np.int64)
    reach, own = np.zeros((k + c, 2)), np.zeros((k + c, 3, 3))
    face[:k], face[k:], kind[k:], reach[k:], own[k:] = line_face, conic_face, CONIC, span, conic
    for i in range(k + c):
        f = face[i]
        for j in range(start[i], start[i + 1]):
            if j > start[i] and faces.form[f] == PLANE:
                normals[j] = normals[j - 1]
            else:
                outward_at(faces, f, points[j], normals[j])
    return face, kind, reach, own, start, t, points, cubic, normals


@compiled
def both_sides(faces, f, nodes, uv, chain, about):  # type: ignore[no-untyped-def]
    """The parameters (k, 2) of both ends of the sides (k, 2) of a chain on a face, near together also where the surface closes:
    where it turns ``about`` an axis. Of cones and tori they are found anew: the mesh has those that the file gives it."""
    n, form = len(chain), faces.form[f]
    found = np.empty((2, n, 2))
    x, y, z = faces.axes[f, 0], faces.axes[f, 1], faces.axes[f, 2]
    for e in range(2):
        for i in range(n):
            k = chain[i, e]
            if form != CONE and form != TORUS:
                found[e, i] = uv[k]
                continue
            q = nodes[k] - faces.origin[f]
            a, b, rise = dot(q, x), dot(q, y), dot(q, z)
            found[e, i, 0] = np.arctan2(b, a)
            found[e, i, 1] = (
                rise / np.cos(faces.half[f]) if form == CONE else np.arctan2(rise, np.hypot(a, b) - faces.radius[f])
            )
    for d in range(2):
        if not (form == TORUS or (d == 0 and (form == CONE or about))):
            continue
        drift, before = 0.0, found[0, 0, d]
        for i in range(n):
            now = found[0, i, d]
            drift += TURN * np.round((now - before) / TURN)
            before = now
            found[0, i, d] = now - drift
            found[1, i, d] -= TURN * np.round((found[1, i, d] - found[0, i, d]) / TURN)
    return found[0], found[1]
