"""Points, slopes and normals of free-form surfaces inside compiled loops."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .compiled import compiled
from .nurbs import basis_at, homogeneous
from .surfaces import Surface

NET, TURNED, DRAWN_OUT = 0, 1, 2
LINE, CONIC, SPLINE = 0, 1, 2
Array = NDArray[np.float64]
Ints = NDArray[np.int64]
WORK = 6, 26
"""Shape of the space that an evaluation works in: the kernel's splines are of degree 25 at most."""


class Packed(NamedTuple):
    """A surface as the compiled loops take it.

    ``form``: what kind of surface, and of profile. ``net`` (n, m, 4): homogeneous poles, or the profile's (1 column; of a
    line or conic its origin, x and y), over the knots ``ku`` and ``kv``. ``frame`` (4, 3): origin and axes.
    """

    form: tuple[int, int]
    degrees: tuple[int, int]
    ku: Array
    kv: Array
    net: Array
    frame: Array


class Surfaces(NamedTuple):
    """Packed surfaces of f faces in one: ``form`` and ``degrees`` (f, 2), the first -1 where a face has none; ``ku`` and ``kv``
    from ``first_u`` and ``first_v`` (f + 1,) on; ``net`` (n, 4) from ``first`` (f + 1,) on, in ``columns`` (f,); ``frame``
    (f, 4, 3)."""

    form: Ints
    degrees: Ints
    first_u: Ints
    ku: Array
    first_v: Ints
    kv: Array
    first: Ints
    columns: Ints
    net: Array
    frame: Array


def together(surfaces: Sequence[Packed | None]) -> Surfaces:
    """Packed surfaces in one; None where a face has none."""
    n = len(surfaces)
    form, degrees = np.full((n, 2), -1, np.int64), np.zeros((n, 2), np.int64)
    frame, columns = np.zeros((n, 4, 3)), np.ones(n, np.int64)
    counts = np.zeros((3, n + 1), np.int64)
    knots_u, knots_v, nets = [np.zeros(0)], [np.zeros(0)], [np.zeros((0, 4))]
    for k, own in enumerate(surfaces):
        if own is None:
            continue
        form[k], degrees[k], frame[k], columns[k] = own.form, own.degrees, own.frame, own.net.shape[1]
        nets.append(own.net.reshape(-1, 4))
        knots_u.append(own.ku)
        knots_v.append(own.kv)
        counts[:, k + 1] = len(own.ku), len(own.kv), len(nets[-1])
    first_u, first_v, first = np.cumsum(counts, axis=1)
    return Surfaces(
        form=form,
        degrees=degrees,
        first_u=first_u,
        ku=np.concatenate(knots_u),
        first_v=first_v,
        kv=np.concatenate(knots_v),
        first=first,
        columns=columns,
        net=np.concatenate(nets),
        frame=frame,
    )


@compiled
def surface_of(surfaces, f):  # type: ignore[no-untyped-def]
    """One of packed surfaces."""
    s = surfaces
    net = s.net[s.first[f] : s.first[f + 1]]
    return Packed(
        (s.form[f, 0], s.form[f, 1]),
        (s.degrees[f, 0], s.degrees[f, 1]),
        s.ku[s.first_u[f] : s.first_u[f + 1]],
        s.kv[s.first_v[f] : s.first_v[f + 1]],
        net.reshape((len(net) // s.columns[f], s.columns[f], 4)),
        s.frame[f],
    )


def packed_surface(surface: Surface) -> Packed:
    """A surface of free form, or one that a profile makes, packed."""
    frame = np.concatenate([surface.origin[None], surface.axes])
    none = np.zeros(2)
    if surface.kind == "nurbs":
        assert surface.knots is not None and surface.poles is not None
        net = np.ascontiguousarray(homogeneous(surface.poles, surface.weights))
        return Packed((NET, 0), surface.degrees, surface.knots[0], surface.knots[1], net, frame)
    kind = TURNED if surface.kind == "revolution" else DRAWN_OUT
    profile = surface.profile
    assert profile is not None
    if profile.kind == "nurbs":
        assert profile.knots is not None and profile.poles is not None
        net = homogeneous(profile.poles, profile.weights)[:, None]
        return Packed((kind, SPLINE), (profile.degree, 0), profile.knots, none, np.ascontiguousarray(net), frame)
    rows = [profile.origin, profile.x, profile.y if profile.y is not None else np.zeros(3)]
    net = np.zeros((3, 1, 4))
    net[:, 0, :3] = np.array(rows)
    return Packed((kind, CONIC if profile.kind == "conic" else LINE), (0, 0), none, none, net, frame)


@compiled
def surface_at(surface, u, v, out, work):  # type: ignore[no-untyped-def]
    """Point, both slopes and normal of a packed surface: rows of ``out`` (4, 3)."""
    form, degrees, ku, kv, net, frame = surface
    if form[0] == NET:
        pu, pv = degrees
        su = basis_at(pu, ku, net.shape[0], u, work[0], work[1])
        sv = basis_at(pv, kv, net.shape[1], v, work[2], work[3])
        w = wu = wv = 0.0
        for x in range(3):
            out[0, x] = out[1, x] = out[2, x] = 0.0
        for i in range(pu + 1):
            nu, du = work[0, i], work[1, i]
            for j in range(pv + 1):
                h = net[su - pu + i, sv - pv + j]
                a, b, c = nu * work[2, j], du * work[2, j], nu * work[3, j]
                for x in range(3):
                    out[0, x] += a * h[x]
                    out[1, x] += b * h[x]
                    out[2, x] += c * h[x]
                w, wu, wv = w + a * h[3], wu + b * h[3], wv + c * h[3]
        w = w if w != 0.0 else 1e-300
        for x in range(3):
            out[0, x] /= w
            out[1, x] = (out[1, x] - out[0, x] * wu) / w
            out[2, x] = (out[2, x] - out[0, x] * wv) / w
    else:
        t = v if form[0] == TURNED else u
        p, d = work[4], work[5]
        if form[1] == SPLINE:
            s = basis_at(degrees[0], ku, net.shape[0], t, work[0], work[1])
            w = dw = 0.0
            p[0] = p[1] = p[2] = d[0] = d[1] = d[2] = 0.0
            for i in range(degrees[0] + 1):
                h = net[s - degrees[0] + i, 0]
                for x in range(3):
                    p[x] += work[0, i] * h[x]
                    d[x] += work[1, i] * h[x]
                w, dw = w + work[0, i] * h[3], dw + work[1, i] * h[3]
            w = w if w != 0.0 else 1e-300
            for x in range(3):
                p[x] /= w
                d[x] = (d[x] - p[x] * dw) / w
        elif form[1] == CONIC:
            c, s_ = np.cos(t), np.sin(t)
            for x in range(3):
                p[x] = net[0, 0, x] + c * net[1, 0, x] + s_ * net[2, 0, x]
                d[x] = c * net[2, 0, x] - s_ * net[1, 0, x]
        else:
            for x in range(3):
                p[x] = net[0, 0, x] + t * net[1, 0, x]
                d[x] = net[1, 0, x]
        z = frame[3]
        if form[0] == DRAWN_OUT:
            for x in range(3):
                out[0, x], out[1, x], out[2, x] = p[x] + v * z[x], d[x], z[x]
        else:
            c, s_ = np.cos(u), np.sin(u)
            for x in range(3):
                p[x] -= frame[0, x]
            ap = p[0] * z[0] + p[1] * z[1] + p[2] * z[2]
            ad = d[0] * z[0] + d[1] * z[1] + d[2] * z[2]
            for x in range(3):
                y, q = (x + 1) % 3, (x + 2) % 3
                out[0, x] = c * (p[x] - ap * z[x]) + s_ * (z[y] * p[q] - z[q] * p[y]) + ap * z[x]
                out[2, x] = c * (d[x] - ad * z[x]) + s_ * (z[y] * d[q] - z[q] * d[y]) + ad * z[x]
            for x in range(3):
                y, q = (x + 1) % 3, (x + 2) % 3
                out[1, x] = z[y] * out[0, q] - z[q] * out[0, y]
            for x in range(3):
                out[0, x] += frame[0, x]
    length = 0.0
    for x in range(3):
        y, q = (x + 1) % 3, (x + 2) % 3
        out[3, x] = out[1, y] * out[2, q] - out[1, q] * out[2, y]
        length += out[3, x] ** 2
    length = np.sqrt(length)
    if length > 0:
        for x in range(3):
            out[3, x] /= length
