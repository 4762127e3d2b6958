"""Compiled loops that follow curves over meshes and curved faces: outlines, and where a plane meets a face."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .evaluation import NET, SPLINE, TURNED, WORK, surface_at

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


def turning_from(toward: Array) -> Array:
    """The aim of :func:`followed` for an outline seen against ``toward`` (3,)."""
    return np.array([*toward, 0.0, 0.0])


@compiled
def lying_in(normal, offset, size):  # type: ignore[no-untyped-def]
    """The aim of :func:`followed` for the places in the plane normal · p = offset, in a part of that size (mm)."""
    return np.array([normal[0], normal[1], normal[2], offset, 1.0 / size])


@compiled
def _rise(du, dv, aim, out):  # type: ignore[no-untyped-def]
    """How fast the height over a plane, as :func:`_facing` last found it, rises along (du, dv); 0 for normals."""
    if not aim[4] > 0:
        return 0.0
    one = out[1, 0] * aim[0] + out[1, 1] * aim[1] + out[1, 2] * aim[2]
    two = out[2, 0] * aim[0] + out[2, 1] * aim[1] + out[2, 2] * aim[2]
    return (one * du + two * dv) * aim[4]


@compiled
def _facing(surface, u, v, aim, out, work):  # type: ignore[no-untyped-def]
    """Nothing where the surface is followed: its normal toward the viewer, or its height over a plane in part sizes."""
    surface_at(surface, u, v, out, work)
    if aim[4] > 0:
        return (out[0, 0] * aim[0] + out[0, 1] * aim[1] + out[0, 2] * aim[2] - aim[3]) * aim[4]
    return out[3, 0] * aim[0] + out[3, 1] * aim[1] + out[3, 2] * aim[2]


@compiled
def spline_slopes(t, p):  # type: ignore[no-untyped-def]
    """Slopes (n, 3) of the smooth cubic spline through points (n, 3), its end slopes those of cubics through four."""
    n = len(t)
    d = np.empty((n, 3))
    if n == 2:
        for x in range(3):
            d[0, x] = d[1, x] = (p[1, x] - p[0, x]) / (t[1] - t[0])
        return d
    k = min(4, n)
    for e in range(2):
        at = t[0] if e == 0 else t[n - 1]
        first = 0 if e == 0 else n - k
        for x in range(3):
            d[0 if e == 0 else n - 1, x] = 0.0
        for i in range(k):
            # slope of the Lagrange polynomial of point i at ``at``
            slope = 0.0
            for j in range(k):
                if j == i:
                    continue
                term = 1.0 / (t[first + i] - t[first + j])
                for m in range(k):
                    if m != i and m != j:
                        term *= (at - t[first + m]) / (t[first + i] - t[first + m])
                slope += term
            for x in range(3):
                d[0 if e == 0 else n - 1, x] += slope * p[first + i, x]
    c = np.zeros(n)
    for i in range(1, n - 1):
        h0, h1 = t[i] - t[i - 1], t[i + 1] - t[i]
        a, b, e_ = 1 / h0, 2 / h0 + 2 / h1, 1 / h1
        m = b - a * c[i - 1]
        c[i] = e_ / m
        for x in range(3):
            right = 3 * ((p[i, x] - p[i - 1, x]) / h0**2 + (p[i + 1, x] - p[i, x]) / h1**2)
            d[i, x] = (right - a * d[i - 1, x]) / m
    for i in range(n - 2, 0, -1):
        for x in range(3):
            d[i, x] -= c[i] * d[i + 1, x]
    return d


@compiled
def parameters_on(surface, start, point, fit):  # type: ignore[no-untyped-def]
    """Parameters (2,) of the point of a surface next to another, from others (2,) near by; NaN where none is near."""
    form, degrees, ku, kv, net, _ = surface
    out, work, uv = np.empty((4, 3)), np.empty(WORK), start.copy()
    for _ in range(30):
        surface_at(surface, uv[0], uv[1], out, work)
        a = b = c = e = f = gap = 0.0
        for x in range(3):
            off = point[x] - out[0, x]
            gap += off * off
            a, b, c = a + out[1, x] ** 2, b + out[1, x] * out[2, x], c + out[2, x] ** 2
            e, f = e + out[1, x] * off, f + out[2, x] * off
        det = a * c - b * b
        if not det > 0:
            break
        u, v = (c * e - b * f) / det, (a * f - b * e) / det
        if a * u * u + 2 * b * u * v + c * v * v < (fit / 20) ** 2:
            if gap < (16 * fit) ** 2:
                return uv
            break
        # no step leaves the surface: beyond its knots it may have no points
        if form[0] == NET:
            uv[0] = min(max(uv[0] + u, ku[degrees[0]]), ku[net.shape[0]])
            uv[1] = min(max(uv[1] + v, kv[degrees[1]]), kv[net.shape[1]])
        else:
            uv[0], uv[1] = uv[0] + u, uv[1] + v
            if form[1] == SPLINE:
                k = 1 if form[0] == TURNED else 0
                uv[k] = min(max(uv[k], ku[degrees[0]]), ku[net.shape[0]])
    uv[:] = np.nan
    return uv


@compiled
def overlooked(middle, span, facing, triangles, nodes, normals, toward, near):  # type: ignore[no-untyped-def]
    """Where a face turns away over less than a side of its mesh.

    ``middle`` (k, 3): points on the boundary between two places where the face turns, ``span`` (k,) mm apart, and
    ``facing`` (k,) the normal toward the viewer there. Returns by point the node opposite of the side of a triangle
    that holds it, where all three nodes face the other way, else -1.
    """
    found = np.full(len(middle), -1, np.int64)
    for k in range(len(middle)):
        least = near * near
        for i in range(len(triangles)):
            for c in range(3):
                a, b = triangles[i, (c + 1) % 3], triangles[i, (c + 2) % 3]
                length = along = off = 0.0
                for x in range(3):
                    d, e = nodes[b, x] - nodes[a, x], middle[k, x] - nodes[a, x]
                    length, along, off = length + d * d, along + d * e, off + e * e
                if length < span[k] * span[k] or along < 0 or along > length:
                    continue
                off -= along * along / length
                if off < least:
                    least = off
                    found[k] = triangles[i, c]
                    for m in range(3):
                        g = 0.0
                        for x in range(3):
                            g += normals[triangles[i, m], x] * toward[x]
                        if not g * facing[k] < 0:
                            found[k] = -1
    return found


@compiled
def _halved(surface, mu, mv, cu, cv, low, high, aim, out, work):  # type: ignore[no-untyped-def]
    """The way from (mu, mv) along (cu, cv), between two ways, at which what is followed lies."""
    first, end = _facing(surface, mu + low * cu, mv + low * cv, aim, out, work) >= 0, 1e-9 * abs(high - low)
    while abs(high - low) > end:
        s = (low + high) / 2
        if (_facing(surface, mu + s * cu, mv + s * cv, aim, out, work) >= 0) == first:
            low = s
        else:
            high = s
    return (low + high) / 2


@compiled
def _beyond_the_tip(surface, uv, p, i, n, mu, mv, cu, cv, reach, aim, out, work):  # type: ignore[no-untyped-def]
    """Where an outline turns back between its parameters ``uv`` (n, 2) and points ``p`` (n, 3) of rows i and i + 1: from half way, (mu, mv), along
    (cu, cv), away from the rows before and after, two ways between which it runs; the same twice where it does not turn back
    there, or farther off than eight times ``reach``, half the way between both rows."""
    if i < 1 or i > n - 3:
        return 0.0, 0.0
    au, av = uv[i, 0] - uv[i - 1, 0], uv[i, 1] - uv[i - 1, 1]
    bu, bv = uv[i + 2, 0] - uv[i + 1, 0], uv[i + 2, 1] - uv[i + 1, 1]
    one, other = au * cu + av * cv, bu * cu + bv * cv
    back = 0.0
    for x in range(3):
        back += (p[i, x] - p[i - 1, x]) * (p[i + 2, x] - p[i + 1, x])
    # through a pole parameters turn back where the curve itself does not
    if not (one * other < 0 and back < 0):
        return 0.0, 0.0
    for k in (i, i + 1):
        # where the surface has no sure normal what the mesh knew need not lie on it
        if abs(_facing(surface, uv[k, 0], uv[k, 1], aim, out, work)) > 1e-7:
            return 0.0, 0.0
    sign, step = (1.0 if one > 0 else -1.0), reach / 4
    low = 0.0
    first = _facing(surface, mu, mv, aim, out, work) >= 0
    form, degrees, ku, kv, net, _ = surface
    for _ in range(32):
        high = low + sign * step
        u, v = mu + high * cu, mv + high * cv
        if form[0] == NET and not (ku[degrees[0]] <= u <= ku[net.shape[0]] and kv[degrees[1]] <= v <= kv[net.shape[1]]):
            break
        if (_facing(surface, u, v, aim, out, work) >= 0) != first:
            return low, high
        low = high
    return 0.0, 0.0


@compiled
def followed(surface, uva, uvb, ends, sense, aim, fit, most):  # type: ignore[no-untyped-def]
    """An outline, or the curve in a plane, as ``aim`` tells, put exactly on its surface, between parameters uva and uvb (k, 2)
    on both of its sides, and filled in until the spline through its points stays within ``fit`` (mm).

    ``ends`` (2, 3): where it begins and ends, NaN where that is not known. Returns points (n, 3), way along them (n,), slopes (n, 3), outward normals (n, 3), and whether the face
    curves away there.
    """
    k = len(uva)
    work, out = np.empty(WORK), np.empty((4, 3))
    uv, p = np.empty((k, 2)), np.empty((k, 3))
    n = 0
    for i in range(k):
        au, av, bu, bv = uva[i, 0], uva[i, 1], uvb[i, 0], uvb[i, 1]
        ga = _facing(surface, au, av, aim, out, work)
        gb = _facing(surface, bu, bv, aim, out, work)
        low, high, s = 0.0, 1.0, 0.5
        if (ga >= 0) == (gb >= 0):
            s = 0.0 if abs(ga) < abs(gb) else 1.0
        else:
            first = ga >= 0
            to = -1.0
            for it in range(40):
                # along the slope where it is known and leads inward, else between both ends, now and then half way
                if low < to < high and it % 8 != 7:
                    s = to
                else:
                    s = low + ga / (ga - gb) * (high - low) if it % 4 != 3 and ga != gb else (low + high) / 2
                g = _facing(surface, au + s * (bu - au), av + s * (bv - av), aim, out, work)
                if abs(g) < 1e-12 or high - low < 1e-12:
                    break
                slope = _rise(bu - au, bv - av, aim, out)
                to = s - g / slope if slope != 0 else -1.0
                if (g >= 0) == first:
                    low, ga = s, g
                else:
                    high, gb = s, g
        u, v = au + s * (bu - au), av + s * (bv - av)
        surface_at(surface, u, v, out, work)
        for end in range(2):
            if i == (0 if end == 0 else k - 1) and not np.isnan(ends[end, 0]):
                there = parameters_on(surface, np.array([u, v]), ends[end], fit)
                if not np.isnan(there[0]):
                    u, v = there[0], there[1]
                    out[0] = ends[end]
        near = n > 0 and ((out[0] - p[n - 1]) ** 2).sum() < (fit / 4) ** 2
        if near and (i < k - 1 or n == 1):
            continue
        # the last point counts, not those before it
        while n > 1 and ((out[0] - p[n - 1]) ** 2).sum() < (fit / 4) ** 2:
            n -= 1
        uv[n, 0], uv[n, 1] = u, v
        p[n] = out[0]
        n += 1
    uv, p = uv[:n].copy(), p[:n].copy()
    way, d = np.zeros(n), np.zeros((n, 3))
    for lap in range(9):
        way = np.zeros(n)
        for i in range(1, n):
            way[i] = way[i - 1] + np.sqrt(((p[i] - p[i - 1]) ** 2).sum())
        if n < 2 or way[n - 1] == 0:
            break
        d = spline_slopes(way, p)
        if n > most or lap == 8:
            break
        uv2, p2 = np.empty((2 * n, 2)), np.empty((2 * n, 3))
        m = 0
        for i in range(n):
            uv2[m], p2[m] = uv[i], p[i]
            m += 1
            if i == n - 1:
                break
            h = way[i + 1] - way[i]
            if h < 2 * fit:
                continue
            su, sv = uv[i + 1, 0] - uv[i, 0], uv[i + 1, 1] - uv[i, 1]
            reach = np.hypot(su, sv) / 2
            if reach == 0:
                continue
            # from half way, straight across, to where the normal is square to the view
            cu, cv = -sv / (2 * reach), su / (2 * reach)
            mu, mv = uv[i, 0] + su / 2, uv[i, 1] + sv / 2
            s, e = 0.0, 1e-4 * reach
            g = _facing(surface, mu, mv, aim, out, work)
            slope = _rise(cu, cv, aim, out)
            known = slope != 0
            if not known:
                slope = (_facing(surface, mu + e * cu, mv + e * cv, aim, out, work) - g) / e
            for _ in range(8):
                if slope == 0 or abs(g) < 1e-12:
                    break
                to = min(max(s - g / slope, -reach), reach)
                now = _facing(surface, mu + to * cu, mv + to * cv, aim, out, work)
                if known:
                    slope = _rise(cu, cv, aim, out)
                elif abs(to - s) > 1e-12 * reach:
                    slope = (now - g) / (to - s)
                s, g = to, now
            lost = abs(g) > 1e-7 or abs(s) >= reach
            if lost:
                # where the surface has a crease the normal leaps over the view: the place is halved down
                low = high = 0.0
                for part in range(5):
                    at = reach / 2.0 ** (4 - part)
                    ga = _facing(surface, mu - at * cu, mv - at * cv, aim, out, work)
                    gb = _facing(surface, mu + at * cu, mv + at * cv, aim, out, work)
                    if (ga >= 0) != (gb >= 0):
                        low, high = -at, at
                        break
                lost = low == high
                if not lost:
                    s = _halved(
                        surface=surface, mu=mu, mv=mv, cu=cu, cv=cv, low=low, high=high, aim=aim, out=out, work=work
                    )
            if not lost:
                surface_at(surface, mu + s * cu, mv + s * cv, out, work)
                far = 0.0
                for x in range(3):
                    far += (out[0, x] - (p[i, x] + p[i + 1, x]) / 2) ** 2
                lost = not far < (0.5 * h) ** 2
            if lost:
                # or both points lie on either side of a narrow lobe, of which the mesh knew the tip no better
                low, high = _beyond_the_tip(
                    surface=surface,
                    uv=uv,
                    p=p,
                    i=i,
                    n=n,
                    mu=mu,
                    mv=mv,
                    cu=cu,
                    cv=cv,
                    reach=reach,
                    aim=aim,
                    out=out,
                    work=work,
                )
                if low == high:
                    continue
                s = _halved(
                    surface=surface, mu=mu, mv=mv, cu=cu, cv=cv, low=low, high=high, aim=aim, out=out, work=work
                )
            surface_at(surface, mu + s * cu, mv + s * cv, out, work)
            stray = along = before = after = 0.0
            for x in range(3):
                before, after = before + (out[0, x] - p[i, x]) ** 2, after + (out[0, x] - p[i + 1, x]) ** 2
                guess = (p[i, x] + p[i + 1, x]) / 2 + h / 8 * (d[i, x] - d[i + 1, x])
                off, step = out[0, x] - guess, (p[i + 1, x] - p[i, x]) / h
                stray += off * off
                along += off * step
            if min(before, after) < (fit / 8) ** 2:
                continue
            if stray - along * along > (fit / 2) ** 2:
                uv2[m, 0], uv2[m, 1] = mu + s * cu, mv + s * cv
                p2[m] = out[0]
                m += 1
        if m == n:
            break
        uv, p, n = uv2[:m].copy(), p2[:m].copy(), m
    normals, convex = np.empty((n, 3)), np.empty(n, np.bool_)
    span = 0.0
    for x in range(2):
        if n:
            span = max(span, uv[:, x].max() - uv[:, x].min())
    reach = 1e-3 * max(span, 1e-9)
    for i in range(n):
        g = _facing(surface, uv[i, 0], uv[i, 1], aim, out, work)
        for x in range(3):
            normals[i, x] = sense * out[3, x]
        # a step along the view in the tangent plane: where the face curves away, it then faces the viewer
        a = b = c = e = f = 0.0
        for x in range(3):
            a, b, c = a + out[1, x] ** 2, b + out[1, x] * out[2, x], c + out[2, x] ** 2
            e, f = e + out[1, x] * aim[x], f + out[2, x] * aim[x]
        su, sv = c * e - b * f, a * f - b * e
        length = np.hypot(su, sv)
        if length > 0:
            su, sv = su / length * reach, sv / length * reach
        after = _facing(surface, uv[i, 0] + su, uv[i, 1] + sv, aim, out, work)
        before = _facing(surface, uv[i, 0] - su, uv[i, 1] - sv, aim, out, work)
        convex[i] = sense * (after - before) > 0
    return p, way, d, normals, convex


@compiled
def chained(mixed, facing):  # type: ignore[no-untyped-def]
    """The sides of mixed triangles (k, 3) that change from facing to turned away, in order.

    Returns the sides (j, 2) of all chains after each other, the place (c + 1,) where each begins, whether
    it closes (c,), and whether it runs with what is facing at its left (c,), as one looks at triangles that run anticlockwise.
    """
    k = len(mixed)
    # of each triangle first the side over which such a chain comes in: that which turns away
    key = np.empty(2 * k, np.int64)
    for i in range(k):
        for e in range(3):
            a, b = mixed[i, e], mixed[i, (e + 1) % 3]
            if facing[a] != facing[b]:
                key[2 * i + (0 if facing[a] else 1)] = min(a, b) * (1 << 31) + max(a, b)
    order = np.argsort(key)
    name = np.empty(2 * k, np.int64)
    sides = 0
    keys = np.empty(2 * k, np.int64)
    for j in range(2 * k):
        if j == 0 or key[order[j]] != key[order[j - 1]]:
            keys[sides] = key[order[j]]
            sides += 1
        name[order[j]] = sides - 1
    # each side is shared by one or two of the triangles
    near = np.full((sides, 2), -1)
    count, onward = np.zeros(sides, np.int64), np.full(sides, -1)
    for i in range(k):
        a, b = name[2 * i], name[2 * i + 1]
        onward[a] = b
        if count[a] < 2:
            near[a, count[a]] = b
            count[a] += 1
        if count[b] < 2:
            near[b, count[b]] = a
            count[b] += 1
    seen = np.zeros(sides, np.bool_)
    out = np.empty((2 * sides + 1, 2), np.int64)
    begin = np.empty(sides + 1, np.int64)
    closed, leftward = np.zeros(sides, np.bool_), np.zeros(sides, np.bool_)
    size = chains = 0
    for lap in range(2):
        for s in range(sides):
            if seen[s] or (lap == 0 and count[s] != 1):
                continue
            begin[chains] = size
            at, before, along = s, -1, 0
            while at >= 0 and not seen[at]:
                if before >= 0:
                    along += 1 if onward[before] == at else -1
                seen[at] = True
                out[size, 0], out[size, 1] = keys[at] >> 31, keys[at] & ((1 << 31) - 1)
                size += 1
                step = -1
                for c in range(count[at]):
                    if near[at, c] != before and not seen[near[at, c]]:
                        step = near[at, c]
                before, at = at, step
            loop = size - begin[chains] > 2 and (near[before, 0] == s or near[before, 1] == s)
            if loop:
                out[size] = out[begin[chains]]
                size += 1
            if size - begin[chains] > 1:
                closed[chains], leftward[chains] = loop, along > 0
                chains += 1
            else:
                size = begin[chains]
    begin[chains] = size
    return out[:size].copy(), begin[: chains + 1].copy(), closed[:chains].copy(), leftward[:chains].copy()


def chains_of(mixed: Ints, facing: NDArray[np.bool_]) -> list[Ints]:
    """The chains of :func:`chained` as arrays (k,) of rows of sides; a closed chain has its first side again at its end."""
    sides, begin, _, _ = chained(mixed, facing)
    return [sides[a:b] for a, b in zip(begin.tolist(), begin[1:].tolist(), strict=False)]
