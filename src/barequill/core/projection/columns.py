"""Projected curves as columns of figures: thousands of them are made, kept and read again in a moment."""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import field
from functools import cached_property
from typing import Literal, overload

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2, Kind
from ..geometry.forms import CONIC, LINE
from ..values import value

Array = NDArray[np.float64]
Ints = NDArray[np.int64]
LineClass = Literal["cut", "edge", "outline", "smooth", "limit", "adjacent"]
"""``cut``: the boundary of a cut face; ``limit``: where a local cut ends, which is no line of the part."""
CLASSES: tuple[LineClass, ...] = ("cut", "edge", "outline", "smooth", "limit", "adjacent")
"""The first four are lines of the part, in the order of their precedence."""
KINDS: tuple[Kind, ...] = ("line", "conic", "nurbs", "polyline")


@value
class ProjectedCurve:
    """A curve of a view, in model mm: x along the camera's right, y along its up.

    ``source`` is the lasting reference of its edge, or of the face whose outline it is; ``span`` the
    parameter range on that source; ``also`` are the sources of other lines that lie in the same place. One that is
    ``meshed`` could not be had exactly, and is drawn from the mesh.
    """

    curve: Curve2
    visible: bool
    cls: LineClass
    source: str
    span: tuple[float, float]
    also: tuple[str, ...] = field(default=())
    meshed: bool = False


@value
class Columns:
    """n curves: ``kinds`` and ``classes`` (n,) as places in KINDS and CLASSES, ``sources`` (n,) and ``also`` (j,) as places
    in ``names``; ``also_ends`` (n,) tell where those of each curve end, ``ends`` (n, 3) where its figures end in ``poles``
    (k, 2), ``knots`` and ``weights``. ``flags`` (n, 2): visible, meshed. ``axes`` (n, 2, 2) are those of conics, ``spans``
    (n, 4) parameters of the plane curve and of its source."""

    names: tuple[str, ...]
    kinds: Ints
    classes: Ints
    sources: Ints
    also: Ints
    also_ends: Ints
    flags: NDArray[np.bool_]
    degrees: Ints
    spans: Array
    axes: Array
    poles: Array
    knots: Array
    weights: Array
    ends: Ints
    bodies: tuple[str, ...] = ()
    """Of regions that a cut lays open the body of each,"""
    counts: tuple[tuple[int, ...], ...] = ()
    """how many points each of its outlines has,"""
    corners: Array | None = None
    """and all these points (m, 2)."""


def unpacked(
    counts: tuple[int, int, int, int], numbers: Ints, flags: NDArray[np.bool_], reals: Array, refs: Sequence[str]
) -> Columns:
    """The columns that the compiled loops have packed into three arrays (see :func:`plane_curves`): ``counts`` of curves, poles, knots and
    what lies beneath; ``refs`` are the references of all sources, by their rows."""
    n, poles, knots, beneath = counts
    kinds, classes, sources, degrees, also_ends = numbers[: 5 * n].reshape(5, n)
    at = 8 * n + 2 * poles
    return Columns(
        names=tuple([refs[k] for k in numbers[8 * n + beneath :].tolist()]),
        kinds=kinds,
        classes=classes,
        sources=sources,
        also=numbers[8 * n : 8 * n + beneath],
        also_ends=also_ends,
        flags=flags,
        degrees=degrees,
        spans=reals[: 4 * n].reshape(n, 4),
        axes=reals[4 * n : 8 * n].reshape(n, 2, 2),
        poles=reals[8 * n : at].reshape(poles, 2),
        knots=reals[at : at + knots],
        weights=reals[at + knots :],
        ends=numbers[5 * n : 8 * n].reshape(n, 3),
    )


class Curves(Sequence[ProjectedCurve]):
    """The curves of a view, in columns: each is made when the first is asked for."""

    def __init__(self, columns: Columns) -> None:
        self.columns = columns

    def __len__(self) -> int:
        return len(self.columns.kinds)

    @overload
    def __getitem__(self, at: int) -> ProjectedCurve: ...
    @overload
    def __getitem__(self, at: slice) -> list[ProjectedCurve]: ...
    def __getitem__(self, at: int | slice) -> ProjectedCurve | list[ProjectedCurve]:
        return self._made[at]

    def __iter__(self) -> Iterator[ProjectedCurve]:
        return iter(self._made)

    def __add__(self, other: Iterable[ProjectedCurve]) -> list[ProjectedCurve]:
        return [*self, *other]

    @cached_property
    def _made(self) -> list[ProjectedCurve]:
        c = self.columns
        names, also = c.names, c.also.tolist()
        curves: list[Curve2] = []
        beneath: list[tuple[str, ...]] = []
        p0 = k0 = w0 = a0 = 0
        rows = zip(
            c.kinds.tolist(),
            c.degrees.tolist(),
            c.spans[:, :2].tolist(),
            c.axes,
            c.ends.tolist(),
            c.also_ends.tolist(),
            strict=True,
        )
        for kind, degree, (t0, t1), axes, (p1, k1, w1), a1 in rows:
            if kind == LINE:
                curve = Curve2("line", c.poles[p0:p1])
            elif kind == CONIC:
                curve = Curve2("conic", c.poles[p0:p1], axes[0], axes[1], t0, t1)
            else:
                curve = Curve2(
                    kind=KINDS[kind],
                    poles=c.poles[p0:p1],
                    t0=t0,
                    t1=t1,
                    degree=degree,
                    knots=c.knots[k0:k1] if k1 > k0 else None,
                    weights=c.weights[w0:w1] if w1 > w0 else None,
                )
            curves.append(curve)
            beneath.append(tuple(sorted([names[k] for k in also[a0:a1]])) if a1 > a0 else ())
            p0, k0, w0, a0 = p1, k1, w1, a1
        visible, meshed = c.flags.T.tolist()
        classes, sources = [CLASSES[k] for k in c.classes.tolist()], [names[k] for k in c.sources.tolist()]
        spans = list(zip(*c.spans[:, 2:].T.tolist(), strict=True))
        # one value from each row of columns in the order of its fields: of thousands, half the time goes into naming them
        values = zip(curves, visible, classes, sources, spans, beneath, meshed, strict=True)
        return [ProjectedCurve(*row) for row in values]


def as_columns(curves: Sequence[ProjectedCurve]) -> Columns:
    """The curves of a view as columns."""
    if isinstance(curves, Curves):
        return curves.columns
    flat = [c.curve for c in curves]
    none, zero = np.zeros(0), np.zeros(2)
    names: dict[str, int] = {}
    sources = [names.setdefault(c.source, len(names)) for c in curves]
    also = [names.setdefault(s, len(names)) for c in curves for s in c.also]
    ends = [
        [len(c.poles), 0 if c.knots is None else len(c.knots), 0 if c.weights is None else len(c.weights)] for c in flat
    ]
    axes = [[zero if c.a is None else c.a, zero if c.b is None else c.b] for c in flat]
    return Columns(
        names=tuple(names),
        kinds=np.array([KINDS.index(c.kind) for c in flat], np.int64),
        classes=np.array([CLASSES.index(c.cls) for c in curves], np.int64),
        sources=np.array(sources, np.int64),
        also=np.array(also, np.int64),
        also_ends=np.cumsum(np.array([len(c.also) for c in curves], np.int64)),
        flags=np.array([[c.visible, c.meshed] for c in curves], bool).reshape(-1, 2),
        degrees=np.array([c.degree for c in flat], np.int64),
        spans=np.array([[c.curve.t0, c.curve.t1, *c.span] for c in curves], float).reshape(-1, 4),
        axes=np.array(axes, float).reshape(-1, 2, 2),
        poles=np.concatenate([np.zeros((0, 2)), *(c.poles for c in flat)]),
        knots=np.concatenate([none, *(c.knots for c in flat if c.knots is not None)]),
        weights=np.concatenate([none, *(c.weights for c in flat if c.weights is not None)]),
        ends=np.cumsum(np.array(ends, np.int64).reshape(-1, 3), axis=0),
    )
