"""Compiled loops for the lines and conics in which cutting planes meet faces of closed form.

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
FAR = 1e4
"""So many times as far away as its points the centre of a hyperbola may lie: beyond that it is all but a parabola."""
OTHER, PLANE, CYLINDER, CONE, SPHERE, TORUS = range(6)
FORMS = ("other", "plane", "cylinder", "cone", "sphere", "torus")
LEFT, NOTHING, STRAIGHT, CURVED, BOWED, FOLDED = range(6)
"""What is known of where a cutting plane meets a face: not of closed form, next to nothing, a line, a circle or ellipse, a hyperbola, two
lines by way of an apex."""


class Faces(NamedTuple):
    """The f faces of a part: ``form`` as a place in FORMS, ``origin`` (f, 3), ``axes`` (f, 3, 3), ``radius``, ``minor``
    radius, ``half`` angle, and ``sense``: +1 where the natural normal is the outward one."""

    form: Ints
    origin: Array
    axes: Array
    radius: Array
    minor: Array
    half: Array
    lean: Array
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
def _outward(figures, x, y, z):  # type: ignore[no-untyped-def]
    """As :func:`outward_at`, of plain numbers alone: a loop that hands arrays on takes five times as long."""
    form, sense, o0, o1, o2, z0, z1, z2, radius, sine, cosine = figures
    if form == PLANE:
        return sense * z0, sense * z1, sense * z2
    n0, n1, n2 = x - o0, y - o1, z - o2
    if form != SPHERE:
        along = n0 * z0 + n1 * z1 + n2 * z2
        r0, r1, r2 = n0 - along * z0, n1 - along * z1, n2 - along * z2
        size = 1.0 / max(np.sqrt(r0 * r0 + r1 * r1 + r2 * r2), 1e-300)
        r0, r1, r2 = size * r0, size * r1, size * r2
        if form == TORUS:
            n0, n1, n2 = n0 - radius * r0, n1 - radius * r1, n2 - radius * r2
        elif form == CONE:
            side = np.sign(radius * cosine + along * sine) * cosine
            n0, n1, n2 = side * r0 - sine * z0, side * r1 - sine * z1, side * r2 - sine * z2
        else:
            return sense * r0, sense * r1, sense * r2
    size = sense / max(np.sqrt(n0 * n0 + n1 * n1 + n2 * n2), 1e-300)
    return size * n0, size * n1, size * n2


@compiled
def _figures_at(faces, f):  # type: ignore[no-untyped-def]
    """What :func:`_outward` takes of a face."""
    o0, o1, o2 = faces.origin[f, 0], faces.origin[f, 1], faces.origin[f, 2]
    z0, z1, z2 = faces.axes[f, 2, 0], faces.axes[f, 2, 1], faces.axes[f, 2, 2]
    sine, cosine = faces.lean[f, 0], faces.lean[f, 1]
    return faces.form[f], faces.sense[f], o0, o1, o2, z0, z1, z2, faces.radius[f], sine, cosine


@compiled
def outward_at(faces, f, x, y, z):  # type: ignore[no-untyped-def]
    """The outward normal, as three numbers, of a face of closed form at a point on it."""
    return _outward(_figures_at(faces, f), x, y, z)


@compiled
def outward_along(faces, f, points, begin, end, out):  # type: ignore[no-untyped-def]
    """The outward normals of a face of closed form at points on it from one row to before another, into ``out``."""
    figures = _figures_at(faces, f)
    for j in range(begin, end):
        out[j, 0], out[j, 1], out[j, 2] = _outward(figures, points[j, 0], points[j, 1], points[j, 2])


@compiled
def _circle(centre, n, radius, out):  # type: ignore[no-untyped-def]
    axes = frame_about(n)
    out[0], out[1], out[2] = centre, radius * axes[0], radius * axes[1]
    return CURVED


@compiled
def _met(faces, f, n, offset, p, near, out):  # type: ignore[no-untyped-def]
    """How the plane n · q = offset meets a face of closed form next to points (m, 3); a circle, ellipse or hyperbola (3, 3:
    centre, x, y) into ``out``. What is ``near`` (mm) to a special case is one."""
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
            p=p,
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
def _met_cone(o, z, radius, tan, n, height, slope, across, near, p, out):  # type: ignore[no-untyped-def]
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
    bowed = (dot(ends[0] - apex, z) > 0) != (dot(ends[1] - apex, z) > 0)
    centre = (ends[0] + ends[1]) / 2
    major = dot(ends[0] - ends[1], down) / 2
    rise = dot(centre - apex, z)
    off = centre - apex - rise * z
    minor = (rise * tan) ** 2 - dot(off, off)
    if bowed:
        minor = -minor
        # of both branches that on which the points lie
        if dot(p[len(p) // 2] - centre, down) * major < 0:
            major = -major
        if norm(centre - apex) > FAR * norm(p[0] - apex):
            return LEFT
    if minor <= near**2:
        return LEFT
    out[0], out[1], out[2] = centre, major * down, np.sqrt(minor) * _cross(n, down)
    return BOWED if bowed else CURVED


@compiled
def _folded(faces, f, plane, p, near, out):  # type: ignore[no-untyped-def]
    """Whether points (m, 3) in a plane by the apex of a cone run down one of its lines and up another; the apex, put in the
    plane, into ``out`` (3,)."""
    n, offset = plane
    z = faces.axes[f, 2]
    step = faces.radius[f] / np.tan(faces.half[f])
    for x in range(3):
        out[x] = faces.origin[f, x] - step * z[x]
    drop = dot(out, n) - offset
    for x in range(3):
        out[x] -= drop * n[x]
    one, other = p[0] - out, p[-1] - out
    return norm(one) > 10 * near and norm(other) > 10 * near and dot(one, other) < (1 - 1e-9) * norm(one) * norm(other)


@compiled
def closed_forms(faces, chains, normal, offset, fine):  # type: ignore[no-untyped-def]
    """Of :class:`Chains` (c) on curved ``faces`` what they are exactly in the plane normal (3,) · q = offset (mm), with the material at
    the left as one looks against the normal; ``fine``: :class:`Fine`.

    Returns by chain: what is known of it, both ends (c, 2, 3), the conic (c, 3, 3: centre, x, y; or in the first row the apex
    where it is folded), and its parameters (c, 2).
    """
    points, begin, snaps, place = chains.points, chains.begin, chains.snaps, chains.place
    size, near = fine.size, fine.near
    n = len(begin) - 1
    known, ends = np.full(n, NOTHING), np.empty((n, 2, 3))
    conic, span = np.zeros((n, 3, 3)), np.zeros((n, 2))
    for c in range(n):
        f, a, b = chains.face[c], begin[c], begin[c + 1]
        if faces.form[f] == PLANE or b - a < 2:
            continue
        p = points[a:b].copy()
        for e in range(2):
            if snaps[c, e] >= 0:
                p[0 if e == 0 else len(p) - 1] = place[snaps[c, e]]
        low, high = p[0].copy(), p[0].copy()
        for i in range(len(p)):
            for x in range(3):
                low[x], high[x] = min(low[x], p[i, x]), max(high[x], p[i, x])
        if not chains.leftward[c]:
            p = p[::-1].copy()
        gap = norm(p[-1] - p[0])
        loop = chains.closed[c] or (gap < 1e-9 * size and len(p) > 3)
        ends[c, 0], ends[c, 1] = p[0], p[-1]
        if not loop and gap < 1e-7 * size and (high - low).max() < 1e-6 * size:
            continue
        known[c] = LEFT
        if faces.form[f] == OTHER:
            continue
        known[c] = _met(faces=faces, f=f, n=normal, offset=offset, p=p, near=near, out=conic[c])
        if known[c] == STRAIGHT and faces.form[f] == CONE and _folded(faces, f, (normal, offset), p, near, conic[c, 0]):
            known[c] = FOLDED
        if known[c] == BOWED:
            y = conic[c, 2].copy()
            rises = dot(p[0] - conic[c, 0], y), dot(p[-1] - conic[c, 0], y)
            if rises[0] > rises[1]:
                y, rises = -y, (-rises[0], -rises[1])
            conic[c, 2] = y
            span[c, 0], span[c, 1] = np.arcsinh(rises[0] / dot(y, y)), np.arcsinh(rises[1] / dot(y, y))
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
    return known, ends, conic, span


@compiled
def steps_along(conic, span, chord):  # type: ignore[no-untyped-def]
    """Even steps along a conic whose chords stay within ``chord`` (mm) of it."""
    step = 2 * np.arccos(1 - min(chord / max(norm(conic[1]), 1e-12), 0.3))
    return max(2, int(np.ceil((span[1] - span[0]) / step)))


@compiled
def conic_along(conic, span, begin, end, t, points, cubic):  # type: ignore[no-untyped-def]
    """A conic (3, 3: centre, x, y) over a span (2,) as a wire, in rows from ``begin`` to before ``end``."""
    o0, o1, o2, x0, x1, x2 = conic[0, 0], conic[0, 1], conic[0, 2], conic[1, 0], conic[1, 1], conic[1, 2]
    y0, y1, y2 = conic[2, 0], conic[2, 1], conic[2, 2]
    h = (span[1] - span[0]) / (end - begin - 1)
    cosine, sine, turn, rise = np.cos(span[0]), np.sin(span[0]), np.cos(h), np.sin(h)
    p0 = p1 = p2 = d0 = d1 = d2 = 0.0
    for j in range(begin, end):
        t[j] = span[0] + (j - begin) * h
        if j == end - 1:
            t[j] = span[1]
            cosine, sine = np.cos(t[j]), np.sin(t[j])
        q0, q1, q2 = o0 + cosine * x0 + sine * y0, o1 + cosine * x1 + sine * y1, o2 + cosine * x2 + sine * y2
        e0, e1, e2 = h * (cosine * y0 - sine * x0), h * (cosine * y1 - sine * x1), h * (cosine * y2 - sine * x2)
        points[j, 0], points[j, 1], points[j, 2] = q0, q1, q2
        if j > begin:
            k, g0, g1, g2 = j - 1, q0 - p0, q1 - p1, q2 - p2
            cubic[0, k, 0], cubic[0, k, 1], cubic[0, k, 2] = d0, d1, d2
            cubic[1, k, 0], cubic[2, k, 0] = 3 * g0 - 2 * d0 - e0, d0 + e0 - 2 * g0
            cubic[1, k, 1], cubic[2, k, 1] = 3 * g1 - 2 * d1 - e1, d1 + e1 - 2 * g1
            cubic[1, k, 2], cubic[2, k, 2] = 3 * g2 - 2 * d2 - e2, d2 + e2 - 2 * g2
        p0, p1, p2, d0, d1, d2 = q0, q1, q2, e0, e1, e2
        cosine, sine = cosine * turn - sine * rise, sine * turn + cosine * rise


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
        conic_along(
            conic=conic[i], span=span[i], begin=start[k + i], end=start[k + i + 1], t=t, points=points, cubic=cubic
        )
    face, kind = np.empty(k + c, np.int64), np.zeros(k + c, np.int64)
    reach, own = np.zeros((k + c, 2)), np.zeros((k + c, 3, 3))
    face[:k], face[k:], kind[k:], reach[k:], own[k:] = line_face, conic_face, CONIC, span, conic
    for i in range(k + c):
        outward_along(faces, face[i], points, start[i], start[i + 1], normals)
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
