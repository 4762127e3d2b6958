"""Compiled loops for the lines and conics in which walls meet faces of closed form, and for the regions these bound.

Chains are those of the mesh: the exact surface tells where they run.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
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
def _dot(a, b):  # type: ignore[no-untyped-def]
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


@compiled
def _cross(a, b):  # type: ignore[no-untyped-def]
    found = np.empty(3)
    for x in range(3):
        y, z = (x + 1) % 3, (x + 2) % 3
        found[x] = a[y] * b[z] - a[z] * b[y]
    return found


@compiled
def _length(a):  # type: ignore[no-untyped-def]
    return np.sqrt(a[0] * a[0] + a[1] * a[1] + a[2] * a[2])


@compiled
def outward_at(faces, f, p, out):  # type: ignore[no-untyped-def]
    """The outward normal of a face of closed form at a point (3,) on it, into ``out``."""
    z = faces.axes[f, 2]
    form, sense = faces.form[f], faces.sense[f]
    if form == PLANE:
        out[:] = sense * z
        return
    q = p - faces.origin[f]
    along = _dot(q, z)
    radial = q - along * z
    if form == SPHERE:
        n = q
    else:
        ring = radial / max(_length(radial), 1e-300)
        n = ring
        if form == TORUS:
            n = q - faces.radius[f] * ring
        elif form == CONE:
            sine, cosine = np.sin(faces.half[f]), np.cos(faces.half[f])
            n = np.sign(faces.radius[f] * cosine + along * sine) * cosine * ring - sine * z
    out[:] = sense / max(_length(n), 1e-300) * n


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
    height = offset - _dot(o, n)
    if form == SPHERE:
        square = radius**2 - height**2
        return _circle(o + height * n, n, np.sqrt(square), out) if square > 0 else LEFT
    slope, turn = _dot(z, n), _cross(z, n)
    across = _length(turn)
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
                far[i] = _length(p[i] - middle)
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
            sides[i] = _dot(p[i] - o, way)
        side = 1.0 if np.median(sides) * radius >= 0 else -1.0
        return _circle(o + side * radius * way, n, faces.minor[f], out)
    return LEFT


@compiled
def _met_cone(o, z, radius, tan, n, height, slope, across, near, out):  # type: ignore[no-untyped-def]
    apex = o - z * radius / tan
    drop = _dot(apex - o, n) - height
    if abs(drop) < near:
        return STRAIGHT
    # in the plane that holds the axis and the normal: along the cut, out = tan · rise on one side and on the other
    down = (z - slope * n) / across
    radial = _cross(_cross(z, n) / across, z)
    ends = np.empty((2, 3))
    for k in range(2):
        ray = z + (1.0 if k == 0 else -1.0) * abs(tan) * radial
        along = _dot(ray, n)
        if abs(along) < 1e-9:
            return LEFT
        ends[k] = apex - drop / along * ray
    if (_dot(ends[0] - apex, z) > 0) != (_dot(ends[1] - apex, z) > 0):
        return LEFT
    centre = (ends[0] + ends[1]) / 2
    major = _dot(ends[0] - ends[1], down) / 2
    rise = _dot(centre - apex, z)
    off = centre - apex - rise * z
    minor = (rise * tan) ** 2 - _dot(off, off)
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
                side += _dot(_cross(p[i + 1] - p[i], (ways[a + i] + ways[a + i + 1]) / 2), normal)
        turned[c] = side > 0
        if side > 0:
            p = p[::-1].copy()
        gap = _length(p[-1] - p[0])
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
        for i in range(len(p)):
            q = p[i] - o
            now = np.arctan2(_dot(q, y) / _dot(y, y), _dot(q, x) / _dot(x, x))
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
def _steps(conic, span, chord):  # type: ignore[no-untyped-def]
    """Even steps along a conic whose chords stay within ``chord`` (mm) of it."""
    step = 2 * np.arccos(1 - min(chord / max(_length(conic[1]), 1e-12), 0.3))
    return max(2, int(np.ceil((span[1] - span[0]) / step)))


@compiled
def lines_and_conics(faces, ends, line_face, conic, span, conic_face, chord):  # type: ignore[no-untyped-def]
    """Lines (k, 2, 3) and conics (c, 3, 3) on faces as wires, the lines first: start, t, points, cubic, and by row the outward
    normal of the face."""
    k, c = len(ends), len(conic)
    start = np.zeros(k + c + 1, np.int64)
    for i in range(k):
        start[i + 1] = start[i] + 2
    for i in range(c):
        start[k + i + 1] = start[k + i] + _steps(conic[i], span[i], chord) + 1
    m = start[k + c]
    t, points, cubic, normals = np.zeros(m), np.empty((m, 3)), np.zeros((3, m, 3)), np.empty((m, 3))
    for i in range(k):
        points[2 * i], points[2 * i + 1] = ends[i, 0], ends[i, 1]
        cubic[0, 2 * i] = ends[i, 1] - ends[i, 0]
        t[2 * i + 1] = _length(cubic[0, 2 * i])
    for i in range(c):
        a, b = start[k + i], start[k + i + 1]
        o, x, y = conic[i]
        h = (span[i, 1] - span[i, 0]) / (b - a - 1)
        for j in range(a, b):
            t[j] = span[i, 0] + (j - a) * h if j < b - 1 else span[i, 1]
            points[j] = o + np.cos(t[j]) * x + np.sin(t[j]) * y
        for j in range(a, b - 1):
            d0 = (t[j + 1] - t[j]) * (np.cos(t[j]) * y - np.sin(t[j]) * x)
            d1 = (t[j + 1] - t[j]) * (np.cos(t[j + 1]) * y - np.sin(t[j + 1]) * x)
            step = points[j + 1] - points[j]
            cubic[0, j], cubic[1, j], cubic[2, j] = d0, 3 * step - 2 * d0 - d1, d0 + d1 - 2 * step
    for i in range(k + c):
        f = line_face[i] if i < k else conic_face[i - k]
        for j in range(start[i], start[i + 1]):
            if j > start[i] and faces.form[f] == PLANE:
                normals[j] = normals[j - 1]
            else:
                outward_at(faces, f, points[j], normals[j])
    return start, t, points, cubic, normals


@compiled
def in_wall(ends, conic, span, origin, right, up, fine):  # type: ignore[no-untyped-def]
    """Lines (k, 2, 3) and conics (c, 3, 3) of a wall as polylines (m, 2) in its own frame, within ``fine`` (mm) of them; where
    each begins (k + c + 1,), and the area between each and its polyline, above 0 where it lies at the right of that."""
    k, c = len(ends), len(conic)
    begin, bulge = np.zeros(k + c + 1, np.int64), np.zeros(k + c)
    for i in range(k):
        begin[i + 1] = begin[i] + 2
    for i in range(c):
        begin[k + i + 1] = begin[k + i] + _steps(conic[i], span[i], fine) + 1
    flat = np.empty((begin[k + c], 2))
    for i in range(k):
        for e in range(2):
            p = ends[i, e] - origin
            flat[2 * i + e, 0], flat[2 * i + e, 1] = _dot(p, right), _dot(p, up)
    for i in range(c):
        a, b = begin[k + i], begin[k + i + 1]
        o = conic[i, 0] - origin
        ox, oy = _dot(o, right), _dot(o, up)
        xx, xy = _dot(conic[i, 1], right), _dot(conic[i, 1], up)
        yx, yy = _dot(conic[i, 2], right), _dot(conic[i, 2], up)
        h = (span[i, 1] - span[i, 0]) / (b - a - 1)
        chords = 0.0
        for j in range(a, b):
            t = span[i, 0] + (j - a) * h if j < b - 1 else span[i, 1]
            flat[j, 0], flat[j, 1] = ox + np.cos(t) * xx + np.sin(t) * yx, oy + np.cos(t) * xy + np.sin(t) * yy
            if j > a:
                chords += ((flat[j - 1, 0] - ox) * (flat[j, 1] - oy) - (flat[j, 0] - ox) * (flat[j - 1, 1] - oy)) / 2
        # about the centre the sector of a conic is as large as its angle
        bulge[k + i] = (xx * yy - xy * yx) * (span[i, 1] - span[i, 0]) / 2 - chords
    return flat, begin, bulge


@compiled
def wires_in_wall(start, points, cubic, which, origin, right, up, fine):  # type: ignore[no-untyped-def]
    """Wires by their rows in a set (k,) as polylines in a wall's own frame, as :func:`in_wall` gives them: exactly, since a wire
    is a cubic from each row to the next."""
    begin, bulge = np.zeros(len(which) + 1, np.int64), np.zeros(len(which))
    steps = np.ones(start[-1], np.int64)
    for k in range(len(which)):
        begin[k + 1] = begin[k] + 1
        for i in range(start[which[k]], start[which[k] + 1] - 1):
            off = _length(2 * cubic[1, i] + 3 * cubic[2, i]) / 8
            steps[i] = max(1, int(np.ceil(np.sqrt(off / fine))))
            begin[k + 1] += steps[i]
    flat = np.empty((begin[-1], 2))
    c = np.empty((4, 2))
    # Gauss's three places: exact for the area under a cubic
    places, weights = (0.5 - np.sqrt(0.15), 0.5, 0.5 + np.sqrt(0.15)), (5 / 18, 8 / 18, 5 / 18)
    for k in range(len(which)):
        m = begin[k]
        for i in range(start[which[k]], start[which[k] + 1]):
            p = points[i] - origin
            c[0, 0], c[0, 1] = _dot(p, right), _dot(p, up)
            for d in range(3):
                c[d + 1, 0], c[d + 1, 1] = _dot(cubic[d, i], right), _dot(cubic[d, i], up)
            last = i == start[which[k] + 1] - 1
            for j in range(1 if last else steps[i]):
                u = j / steps[i]
                for x in range(2):
                    flat[m, x] = c[0, x] + u * (c[1, x] + u * (c[2, x] + u * c[3, x]))
                m += 1
            if not last:
                for g in range(3):
                    u = places[g]
                    x, y = c[0] + u * (c[1] + u * (c[2] + u * c[3]))
                    dx, dy = c[1] + u * (2 * c[2] + 3 * u * c[3])
                    bulge[k] += weights[g] * (x * dy - y * dx) / 2
        for j in range(begin[k] + 1, begin[k + 1]):
            bulge[k] -= (flat[j - 1, 0] * flat[j, 1] - flat[j, 0] * flat[j - 1, 1]) / 2
    return flat, begin, bulge


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
            a, b, rise = _dot(q, x), _dot(q, y), _dot(q, z)
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
