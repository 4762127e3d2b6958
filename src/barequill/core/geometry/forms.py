"""The exact curves of many wires as arrays, for compiled loops."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from .curves3 import Curve3

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
LINE, CONIC, SPLINE = 0, 1, 2
KINDS = ("line", "conic", "nurbs")


class Forms(NamedTuple):
    """The exact curves of n wires.

    ``kind`` (n,): LINE, CONIC or SPLINE; ``ends`` (n, 2): parameters. Of conics ``conic`` (n, 3, 3): centre, x and y. Of
    splines ``degree`` and ``rational`` (n,), ``net`` (p, 4): homogeneous poles, from ``poles`` (n + 1,) on; ``knots``, from
    ``turns`` (n + 1,) on.
    """

    kind: Ints
    ends: Array
    conic: Array
    degree: Ints
    rational: NDArray[np.bool_]
    poles: Ints
    net: Array
    turns: Ints
    knots: Array


def forms_of(curves: Sequence[Curve3 | None]) -> Forms:
    """Curves as arrays; None stands for a line along its wire."""
    n = len(curves)
    kind, degree, rational = np.zeros(n, np.int64), np.zeros(n, np.int64), np.zeros(n, bool)
    ends, conic = np.zeros((n, 2)), np.zeros((n, 3, 3))
    counts = np.zeros((2, n + 1), np.int64)
    nets, knots = [np.zeros((0, 4))], [np.zeros(0)]
    for k, curve in enumerate(curves):
        if curve is None or curve.kind == "line":
            continue
        kind[k] = CONIC if curve.kind == "conic" else SPLINE
        ends[k] = curve.t0, curve.t1
        if curve.kind == "conic":
            conic[k] = curve.origin, curve.x, curve.y
            continue
        assert curve.poles is not None and curve.knots is not None
        degree[k], rational[k] = curve.degree, curve.weights is not None
        net = np.ones((len(curve.poles), 4))
        net[:, :3] = curve.poles
        if curve.weights is not None:
            net *= curve.weights[:, None]
        nets.append(net)
        knots.append(curve.knots)
        counts[:, k + 1] = len(net), len(curve.knots)
    poles, turns = np.cumsum(counts, axis=1)
    return Forms(
        kind=kind,
        ends=ends,
        conic=conic,
        degree=degree,
        rational=rational,
        poles=poles,
        net=np.concatenate(nets),
        turns=turns,
        knots=np.concatenate(knots),
    )


NO_FORMS = forms_of([])


def joined_forms(sets: Sequence[Forms]) -> Forms:
    """Forms of several sets as one."""
    sets = [s for s in sets if len(s.kind)]
    if len(sets) == 1:
        return sets[0]
    if not sets:
        return NO_FORMS
    poles, turns = [np.zeros(1, np.int64)], [np.zeros(1, np.int64)]
    for s in sets:
        poles.append(s.poles[1:] + poles[-1][-1])
        turns.append(s.turns[1:] + turns[-1][-1])
    return Forms(
        kind=np.concatenate([s.kind for s in sets]),
        ends=np.concatenate([s.ends for s in sets]),
        conic=np.concatenate([s.conic for s in sets]),
        degree=np.concatenate([s.degree for s in sets]),
        rational=np.concatenate([s.rational for s in sets]),
        poles=np.concatenate(poles),
        net=np.concatenate([s.net for s in sets]),
        turns=np.concatenate(turns),
        knots=np.concatenate([s.knots for s in sets]),
    )
