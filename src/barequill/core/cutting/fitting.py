"""One compiled pass for all curves in which a cutting plane meets faces; those of no closed form are put on plane and surface, and
fitted."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.curve_tracing import followed, lying_in, spline_slopes
from ..geometry.evaluation import TURNED, surface_of
from ..geometry.forms import LINE as FORM_LINE
from ..geometry.forms import SPLINE, Forms
from ..geometry.held import Held
from ..geometry.recognition import runs_straight
from ..geometry.splines import bezier_poles, wire_of
from .checking import astray
from .closed_forms import CONE, TORUS, both_sides, lines_and_conics
from .hyperbolas import bowed_along
from .meeting import plane_meets

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
Flags = NDArray[np.bool_]
LOST, SHORT, LINE, BENT, BOWED = range(5)
"""What becomes of a curve: it is drawn from the mesh, it is next to nothing, a line, fitted, or a hyperbola."""


class Sliced(NamedTuple):
    """Curves (n) in which a cutting plane meets faces: first lines by their ``ends`` (k, 2, 3), then circles and ellipses as ``conic``
    (c, 3, 3: centre, x, y) over ``span`` (c, 2), then hyperbolas, and what had to be fitted: lines and splines.

    All run with the material at their left as one looks against the cutting plane's normal. Of all the ``face`` and ``body``, and whether it is
    ``meshed``: drawn from the mesh; what they are: ``forms``; as wires ``start`` to ``cubic``, and by row of
    these the outward ``normals`` (m, 3) of the face. Chains (j) that could not be followed are ``lost``: by chain the face, and
    from where on (j + 1,) in ``chains`` (m, 3) it runs.
    """

    ends: Array
    conic: Array
    span: Array
    face: Ints
    body: Ints
    meshed: Flags
    forms: Forms
    start: Ints
    t: Array
    points: Array
    cubic: Array
    normals: Array
    lost: Ints
    lost_begin: Ints
    chains: Array


class Opened(NamedTuple):
    """Boundaries (n) of what is laid open, as wires of m rows: by row the outward ``normals`` (m, 3) of the face there, or of the
    other cutting plane; by wire its ``cutting_plane``, ``face``, whether it is ``convex`` (not where two laid open faces meet), ``bent`` (no line)
    and ``meshed``; and what they are: ``forms``."""

    start: Ints
    t: Array
    points: Array
    cubic: Array
    normals: Array
    cutting_plane: Ints
    face: Ints
    convex: Flags
    bent: Flags
    meshed: Flags
    forms: Forms


@compiled
def opened_by(s):  # type: ignore[no-untyped-def]
    """What the first cutting plane meets, as boundaries."""
    n = len(s.face)
    return Opened(
        start=s.start,
        t=s.t,
        points=s.points,
        cubic=s.cubic,
        normals=s.normals,
        cutting_plane=np.zeros(n, np.int64),
        face=s.face,
        convex=np.ones(n, np.bool_),
        bent=s.forms.kind != FORM_LINE,
        meshed=s.meshed,
        forms=s.forms,
    )


@compiled
def sliced(known, safe, trusted, solid, normal, offset, fine):  # type: ignore[no-untyped-def]
    """Where a cutting plane meets the faces of all bodies that are not ``safe`` (see :func:`plane_meets`), held: as it is, and as
    boundaries of what it lays open; how many chains are lost; and the bodies (b,) of which it is not what the mesh has (see
    :func:`astray`), of those that are ``solid`` (b,).

    ``known``, held: :class:`Known`; of faces that are not ``trusted`` (f,) what has to be fitted is lost; ``fine``: :class:`Fine`.
    """
    of = known.it
    faces, surfaces, face_body, size, chord = of.faces, of.surfaces, of.face_body, fine.size, fine.chord
    met = plane_meets(of, safe, normal, offset, fine)
    face, kind, reach, own, start, t, points, cubic, normals = lines_and_conics(
        faces=faces,
        ends=met.ends,
        line_face=met.line_face,
        conic=met.conic,
        span=met.span,
        conic_face=met.conic_face,
        chord=chord,
    )
    n, m, j = len(face), len(t), len(met.left)
    lost, lost_begin, gone = np.empty(j, np.int64), np.zeros(j + 1, np.int64), 0
    chains = np.empty((len(met.points) if j else 0, 3))
    aim = lying_in(normal, offset, size)
    fitted = []
    rows = net_rows = knot_rows = 0
    bows = len(met.bow)
    which = np.empty(bows + j, np.int64)
    for k in range(bows):
        own_net, own_knots, own_t, along, bends, outward = bowed_along(
            faces=faces, f=met.bow_face[k], bow=met.bow[k], span=met.bow_span[k], chord=chord, size=size
        )
        fitted.append((BOWED, own_net, own_knots, own_t, along, bends, outward))
        which[k] = met.bow_face[k]
    for k in range(j):
        f, a, b = met.left[k], met.begin[k], met.begin[k + 1]
        state = LOST
        if surfaces.form[f, 0] >= 0 and trusted[f]:
            found = fitted_along(
                known=of, face=f, chain=met.sides[a:b], p=met.points[a:b], fixed=met.fixed[k], aim=aim, fine=fine
            )
            state = found[0]
            if state in (LINE, BENT):
                which[len(fitted)] = f
                fitted.append(found)
        if state == LOST:
            lost[gone], lost_begin[gone + 1] = f, lost_begin[gone] + b - a
            for i in range(b - a):
                for x in range(3):
                    chains[lost_begin[gone] + i, x] = met.points[a + i, x]
            gone += 1
    more = len(fitted)
    for found in fitted:
        rows, net_rows, knot_rows = rows + len(found[3]), net_rows + len(found[1]), knot_rows + len(found[2])
    degree, rational = np.zeros(n + more, np.int64), np.zeros(n + more, np.bool_)
    poles, turns = np.zeros(n + more + 1, np.int64), np.zeros(n + more + 1, np.int64)
    net, knots = np.empty((net_rows, 4)), np.empty(knot_rows)
    if more:
        face, kind = np.concatenate((face, which[:more])), np.concatenate((kind, np.zeros(more, np.int64)))
        reach, own = np.concatenate((reach, np.zeros((more, 2)))), np.concatenate((own, np.zeros((more, 3, 3))))
        all_start = np.concatenate((start, np.zeros(more, np.int64)))
        all_t, all_points, all_normals = np.empty(m + rows), np.empty((m + rows, 3)), np.empty((m + rows, 3))
        all_cubic = np.empty((3, m + rows, 3))
        all_t[:m], all_points[:m], all_normals[:m], all_cubic[:, :m] = t, points, normals, cubic
        for k in range(more):
            state, own_net, own_knots, own_t, along, bends, outward = fitted[k]
            c = n + k
            a = all_start[c]
            all_start[c + 1] = a + len(own_t)
            poles[c + 1], turns[c + 1] = poles[c] + len(own_net), turns[c] + len(own_knots)
            for i in range(len(own_t)):
                all_t[a + i] = own_t[i]
                for x in range(3):
                    all_points[a + i, x], all_normals[a + i, x] = along[i, x], outward[i, x]
                    for d in range(3):
                        all_cubic[d, a + i, x] = bends[d, i, x]
            for i in range(len(own_net)):
                for x in range(4):
                    net[poles[c] + i, x] = own_net[i, x]
            for i in range(len(own_knots)):
                knots[turns[c] + i] = own_knots[i]
            if state != LINE:
                kind[c], degree[c], rational[c] = SPLINE, 2 if state == BOWED else 3, state == BOWED
                reach[c, 0], reach[c, 1] = own_knots[0], own_knots[-1]
        start, t, points, normals, cubic = all_start, all_t, all_points, all_normals, all_cubic
    forms = Forms(
        kind=kind,
        ends=reach,
        conic=own,
        degree=degree,
        rational=rational,
        poles=poles,
        net=net,
        turns=turns,
        knots=knots,
    )
    body = np.empty(len(face), np.int64)
    for i in range(len(face)):
        body[i] = face_body[face[i]]
    found = Sliced(
        ends=met.ends,
        conic=met.conic,
        span=met.span,
        face=face,
        body=body,
        meshed=np.zeros(len(face), np.bool_),
        forms=forms,
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        normals=normals,
        lost=lost[:gone].copy(),
        lost_begin=lost_begin[: gone + 1].copy(),
        chains=chains[: lost_begin[gone]].copy(),
    )
    wrong = astray(
        outline=met.outline,
        face=face,
        start=start,
        points=points,
        cubic=cubic,
        lost=found.lost,
        face_body=face_body,
        solid=solid,
        normal=normal,
        size=size,
    )
    return Held(found), Held(opened_by(found)), gone, wrong


@compiled
def fitted_along(known, face, chain, p, fixed, aim, fine):  # type: ignore[no-untyped-def]
    """The curve in which a plane (``aim``) meets the packed surface of a face, along a ``chain`` (m, 2) of sides of the mesh with points
    p (m, 3), between ends (2, 3) that are ``fixed`` where they are no NaN.

    Returns what becomes of it, its homogeneous poles (k, 4) and knots as a cubic spline, if it is bent, and as a wire within the chord of
    ``fine`` of that: parameters, points, cubics and outward normals.
    """
    faces, surface, size, fit = known.faces, surface_of(known.surfaces, face), fine.size, fine.fit
    about = known.surfaces.form[face, 0] == TURNED
    one, other = both_sides(faces, face, known.nodes, known.uv, chain, about)
    sense = faces.sense[face]
    if faces.form[face] == CONE or faces.form[face] == TORUS:
        # these are followed as profiles turned about their axis, and of left-handed axes such a one looks the other way
        x, y, z = faces.axes[face, 0], faces.axes[face, 1], faces.axes[face, 2]
        turned = (
            (x[1] * y[2] - x[2] * y[1]) * z[0] + (x[2] * y[0] - x[0] * y[2]) * z[1] + (x[0] * y[1] - x[1] * y[0]) * z[2]
        )
        sense *= np.sign(turned)
    points, way, slopes, normals, _ = followed(
        surface=surface, uva=one, uvb=other, ends=fixed, sense=sense, aim=aim, fit=fit, most=3000
    )
    state = BENT
    n = len(points)
    if n < 2 or not way[n - 1] > 0 or not np.isfinite(points).all():
        state = LOST
    else:
        # what was followed must lie where the mesh does
        gap = length = 0.0
        for k in range(2):
            i, j = (0, 0) if k == 0 else (n - 1, len(p) - 1)
            gap = max(gap, np.sqrt(((points[i] - p[j]) ** 2).sum()))
        for i in range(1, len(p)):
            length += np.sqrt(((p[i] - p[i - 1]) ** 2).sum())
        if gap > 0.02 * size + 8 * known.deflection or abs(way[n - 1] - length) > 0.2 * length + 0.01 * size:
            state = LOST
    if state == BENT:
        moved = False
        for k in range(2):
            i = 0 if k == 0 else n - 1
            if not np.isnan(fixed[k, 0]) and np.sqrt(((points[i] - fixed[k]) ** 2).sum()) > 1e-10 * size:
                points[i] = fixed[k]
                moved = True
        if moved:
            m = 0
            ways = np.zeros(n)
            for i in range(n):
                step = np.sqrt(((points[i] - points[i - 1]) ** 2).sum()) if i else 0.0
                ways[i] = ways[i - 1] + step if i else 0.0
                if i and step <= 1e-9 * size:
                    continue
                points[m], normals[m], way[m] = points[i], normals[i], ways[i]
                m += 1
            points, normals, way = points[:m].copy(), normals[:m].copy(), way[:m].copy()
            if m < 2:
                state = SHORT
            else:
                slopes = spline_slopes(way, points)
    if state != BENT:
        way, points = np.array([0.0, 1.0]), np.zeros((2, 3))
        slopes, normals = points.copy(), points.copy()
    poles, knots = bezier_poles(way, points, slopes)
    net = np.ones((len(poles), 4))
    net[:, :3] = poles
    rows, along, cubic, outward, _ = wire_of(way, points, slopes, normals, np.ones(len(way), np.bool_), fine.chord)
    if state == BENT and runs_straight(along, fit / 2):
        state = LINE
        net, knots = net[:0].copy(), knots[:0].copy()
        along, outward = np.stack((points[0], points[-1])), np.stack((normals[0], normals[-1]))
        rows, cubic = np.array([0.0, np.sqrt(((along[1] - along[0]) ** 2).sum())]), np.zeros((3, 2, 3))
        cubic[0, 0] = along[1] - along[0]
    return state, net, knots, rows, along, cubic, outward
