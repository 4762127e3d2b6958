"""One compiled pass over all that a cutting plane meets: where it runs along lines and conics, and what has to be fitted."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..geometry.compiled import compiled
from ..geometry.curve_tracing import chained
from .chains import passed, passed_at, snapped, straight_chains
from .checking import Outline, outline_of
from .clipping import passings
from .closed_forms import BOWED, CURVED, FOLDED, LEFT, STRAIGHT, closed_forms
from .records import Chains

Array = NDArray[np.float64]
Ints = NDArray[np.int64]


class Met(NamedTuple):
    """Where one cutting plane meets faces: lines by their ``ends`` (k, 2, 3), conics (c, 3, 3: centre, x, y) over ``span`` (c, 2), each
    with its face; hyperbolas as ``bow`` (h, 3, 3: centre, x, y), the branch centre + cosh t · x + sinh t · y over ``bow_span``
    (h, 2), with theirs; and chains (j) of the mesh that are ``left`` to be fitted: by chain the face, from where on in ``points``
    (m, 3) it runs, which ``sides`` (m, 2) of the mesh it comes over, and where it begins and ends (j, 2, 3) if that is known,
    else NaN. All run with the material at their left as one looks against the cutting plane's normal. And the ``outline`` that the mesh
    has there."""

    ends: Array
    line_face: Ints
    conic: Array
    span: Array
    conic_face: Ints
    bow: Array
    bow_span: Array
    bow_face: Ints
    left: Ints
    begin: Ints
    points: Array
    sides: Ints
    fixed: Array
    outline: Outline


@compiled
def _copied(own, to):  # type: ignore[no-untyped-def]
    """Rows (k, 3) into others: one by one, since whole rows are slow to give."""
    for i in range(len(own)):
        for x in range(3):
            to[i, x] = own[i, x]


@compiled
def plane_meets(known, safe, normal, offset, fine):  # type: ignore[no-untyped-def]
    """Where the cutting plane normal (3,) · q = offset (mm) meets the faces of all bodies that are not ``safe`` (b,), as :class:`Met`;
    ``known``: :class:`Known`, ``fine``: :class:`Fine`."""
    nodes, triangles, face_of, strays = known.nodes, known.triangles, known.face_of, known.strays
    node_face, face_body, pairs = known.node_face, known.face_body, known.pairs
    size, hair = fine.size, fine.hair
    start, t, along, cubic = known.wires
    wanted = np.empty(len(face_body), np.bool_)
    for f in range(len(face_body)):
        wanted[f] = not safe[face_body[f]]
    mixed, height, over = passed(
        nodes=nodes, triangles=triangles, wanted=wanted, face_of=face_of, normal=normal, offset=offset, hair=hair
    )
    corners = np.empty((len(mixed), 3), np.int64)
    for k in range(len(mixed)):
        for x in range(3):
            corners[k, x] = triangles[mixed[k], x]
    sides, first, closed, leftward = chained(corners, over)
    chain_face = np.empty(len(first) - 1, np.int64)
    touched = np.zeros(len(face_body), np.bool_)
    reach = np.empty(len(chain_face))
    for c in range(len(chain_face)):
        f = node_face[sides[first[c], 0]]
        chain_face[c] = f
        touched[f] = True
        reach[c] = 4 * max(strays[f], known.deflection) + 1e-5 * size
    begin, points, rows = passed_at(sides, first, nodes, height, 1e-9 * size)
    bordering = np.empty(len(pairs), np.bool_)
    for e in range(len(pairs)):
        bordering[e] = touched[pairs[e, 0]] or touched[pairs[e, 1]]
    wire, place = passings(
        start=start, t=t, points=along, cubic=cubic, wanted=bordering, normal=normal, offset=offset, hair=10 * hair
    )
    pair = np.empty((len(wire), 2), np.int64)
    for j in range(len(wire)):
        pair[j, 0], pair[j, 1] = pairs[wire[j], 0], pairs[wire[j], 1]
    snaps = snapped(
        points=points, begin=begin, closed=closed, chain_face=chain_face, place=place, pair=pair, reach=reach
    )
    chains = Chains(
        face=chain_face, begin=begin, points=points, closed=closed, leftward=leftward, snaps=snaps, place=place
    )
    straights, both = straight_chains(chains, known.flat, normal, offset)
    what, tips, conic, span = closed_forms(known.faces, chains, normal, offset, fine)
    n = len(chain_face)
    ends, line_face, k = np.empty((3 * n, 2, 3)), np.empty(3 * n, np.int64), 0
    for i in range(len(straights)):
        if np.abs(both[i, 1] - both[i, 0]).max() > 1e-7 * size:
            _copied(both[i], ends[k])
            line_face[k] = chain_face[straights[i]]
            k += 1
    own, over_span, conic_face, c = np.empty((n, 3, 3)), np.empty((n, 2)), np.empty(n, np.int64), 0
    bow, bow_span, bow_face, h = np.empty((n, 3, 3)), np.empty((n, 2)), np.empty(n, np.int64), 0
    left, j = np.empty(n, np.int64), 0
    for i in range(n):
        if what[i] == STRAIGHT:
            _copied(tips[i], ends[k])
            line_face[k] = chain_face[i]
            k += 1
        elif what[i] == FOLDED:
            for e in range(2):
                for x in range(3):
                    ends[k, e, x], ends[k, 1 - e, x] = tips[i, e, x], conic[i, 0, x]
                line_face[k] = chain_face[i]
                k += 1
        elif what[i] == CURVED:
            _copied(conic[i], own[c])
            over_span[c, 0], over_span[c, 1], conic_face[c] = span[i, 0], span[i, 1], chain_face[i]
            c += 1
        elif what[i] == BOWED:
            _copied(conic[i], bow[h])
            bow_span[h, 0], bow_span[h, 1], bow_face[h] = span[i, 0], span[i, 1], chain_face[i]
            h += 1
        elif what[i] == LEFT:
            left[j] = i
            j += 1
    left_begin, fixed, left_face = np.zeros(j + 1, np.int64), np.full((j, 2, 3), np.nan), np.empty(j, np.int64)
    for i in range(j):
        left_begin[i + 1] = left_begin[i] + begin[left[i] + 1] - begin[left[i]]
    left_points, left_sides = np.empty((left_begin[j], 3)), np.empty((left_begin[j], 2), np.int64)
    for i in range(j):
        chain = left[i]
        left_face[i] = chain_face[chain]
        a, m = begin[chain], left_begin[i + 1] - left_begin[i]
        for r in range(m):
            to = left_begin[i] + (r if leftward[chain] else m - 1 - r)
            for x in range(3):
                left_points[to, x] = points[a + r, x]
            left_sides[to, 0], left_sides[to, 1] = sides[rows[a + r], 0], sides[rows[a + r], 1]
        for e in range(2):
            if snaps[chain, e] >= 0:
                side = e if leftward[chain] else 1 - e
                fixed[i, side] = place[snaps[chain, e]]
                left_points[left_begin[i] if side == 0 else left_begin[i + 1] - 1] = fixed[i, side]
    return Met(
        ends=ends[:k].copy(),
        line_face=line_face[:k].copy(),
        conic=own[:c].copy(),
        span=over_span[:c].copy(),
        conic_face=conic_face[:c].copy(),
        bow=bow[:h].copy(),
        bow_span=bow_span[:h].copy(),
        bow_face=bow_face[:h].copy(),
        left=left_face,
        begin=left_begin,
        points=left_points,
        sides=left_sides,
        fixed=fixed,
        outline=outline_of(
            nodes=nodes,
            face_of=face_of,
            strays=strays,
            mixed=mixed,
            corners=corners,
            height=height,
            over=over,
            normal=normal,
        ),
    )
