"""From a part and a camera to exact curves: what is seen, and what is hidden.

All strands are parted where a contour crosses them in the view; between two such places nothing changes,
so a few rays toward the viewer tell whether the piece is hidden. Pieces that lie under others are dropped
by the precedence of ISO 128-2, neighbours of one state are joined, and what is left is projected exactly.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..geometry import curves2
from ..geometry.curves2 import Curve2
from ..geometry.curves3 import Curve3
from ..part.model import Part
from .camera import Camera, camera
from .pieces import NEAR, Pieces
from .strands import CLASSES, LineClass, Strands, strands_of
from .wires import Ints

Flags = NDArray[np.bool_]
POINT = 1e-7
"""Extent in part sizes below which a line shrinks to a point."""


@dataclass(frozen=True, eq=False)
class ProjectedCurve:
    """A curve of a view, in model mm: x along the camera's right, y along its up.

    ``source`` is the lasting reference of its edge, or of the face whose outline it is; ``span`` the
    parameter range on that source; ``also`` are the sources of other lines that lie in the same place.
    """

    curve: Curve2
    visible: bool
    cls: LineClass
    source: str
    span: tuple[float, float]
    also: tuple[str, ...] = field(default=())


def project(
    part: Part, toward: ArrayLike, up: ArrayLike, *, hidden: bool = True, smooth: bool = True
) -> list[ProjectedCurve]:
    """Project a part.

    Parameters
    ----------
    part : the prepared part
    toward : direction from the part to the viewer, in the part's frame
    up : direction that points up on the sheet
    hidden : give hidden curves too
    smooth : give tangent edges too

    Raises
    ------
    UserError
        Where the directions do not make a camera.
    """
    view = camera(toward, up)
    strands = strands_of(part, view, smooth)
    if not strands.wires.count:
        return []
    pieces = Pieces(strands, NEAR * part.size)
    pieces.classify(part, view)
    pieces.drop_coincident(view)
    return _drawn(pieces, view, hidden, part.size)


def _drawn(pieces: Pieces, view: Camera, hidden: bool, size: float) -> list[ProjectedCurve]:
    """The runs of pieces as exact curves."""
    strands = pieces.strands
    first, last, covered = pieces.runs()
    if not hidden:
        first, last, covered = first[~covered], last[~covered], covered[~covered]
    also = _sources_under(pieces)
    begin, end = pieces.ends[first, 0], pieces.ends[last, 1]
    long = np.abs(end - begin) >= POINT * size
    lines = np.stack([begin.real, begin.imag, end.real, end.imag], axis=1).reshape(-1, 2, 2)
    owner = pieces.owner[first]
    low, high = pieces.low[first], pieces.high[last]
    tail, head = _round_the_seam(pieces, first, last, covered)
    rows = [range(a, b + 1) for a, b in zip(first.tolist(), last.tolist(), strict=True)]
    extra: dict[int, range] = {}
    for a, b in zip(tail.tolist(), head.tolist(), strict=True):
        low[a] -= 2 * np.pi
        high[a] = high[b]
        extra[a] = rows[b]
    wanted = np.ones(len(first), bool)
    wanted[head] = False
    level = strands.level[owner]
    found: list[ProjectedCurve] = []
    for k in np.nonzero(wanted)[0].tolist():
        strand, t0, t1 = int(owner[k]), float(low[k]), float(high[k])
        flat: Curve2 | None
        if level[k]:
            flat = Curve2("line", lines[k]) if long[k] else None
        else:
            curve = strands.curve(strand)
            assert curve is not None
            flat = flattened(curve, t0, t1, view, size)
        if flat is None:
            continue
        source = strands.source(strand)
        under: set[str] = set()
        for r in (*rows[k], *extra.get(k, ())):
            under |= also.get(r, set())
        under.discard(source)
        found.append(
            ProjectedCurve(flat, not covered[k], CLASSES[strands.cls[strand]], source, (t0, t1), tuple(sorted(under)))
        )
    return found


def _round_the_seam(pieces: Pieces, first: Ints, last: Ints, covered: Flags) -> tuple[Ints, Ints]:
    """Runs that end where a whole circle or ellipse closes, and those of the same state that begin there."""
    strands = pieces.strands
    n = len(pieces.owner)
    opens = np.ones(n, bool)
    opens[1:] = pieces.owner[1:] != pieces.owner[:-1]
    closes = np.append(opens[1:], True)
    whole = strands.full & ~strands.level
    head = np.nonzero(opens[first] & whole[pieces.owner[first]])[0]
    tail = np.nonzero(closes[last] & whole[pieces.owner[last]])[0]
    place = np.full(strands.wires.count, -1)
    place[pieces.owner[first[head]]] = head
    mate = place[pieces.owner[last[tail]]]
    joins = (mate >= 0) & (mate != tail)
    joins[joins] = covered[tail[joins]] == covered[mate[joins]]
    return tail[joins], mate[joins]


def _sources_under(pieces: Pieces) -> dict[int, set[str]]:
    """The sources that lie under kept pieces, by piece."""
    also: dict[int, set[str]] = {}
    lost = np.nonzero(~pieces.kept)[0]
    for strand, over in zip(pieces.owner[lost].tolist(), pieces.under[lost].tolist(), strict=True):
        also.setdefault(over, set()).add(pieces.strands.source(strand))
    return also


def flattened(curve: Curve3, low: float, high: float, view: Camera, size: float) -> Curve2 | None:
    """The exact plane curve of a piece of a curve that is not straight in the view, None where it is a point."""
    if curve.kind == "conic":
        assert curve.origin is not None and curve.x is not None and curve.y is not None
        c, x, y = view.flat(np.array([curve.origin, curve.x, curve.y]))
        return curves2.conic(c, x, y, low, high)
    if low <= curve.t0 and high >= curve.t1:
        piece, low, high = curve, curve.t0, curve.t1
    else:
        piece = curve.piece(max(low, curve.t0), min(high, curve.t1))
    assert piece.poles is not None and piece.knots is not None
    poles = view.flat(piece.poles)
    if np.ptp(poles, axis=0).max() < POINT * size:
        return None
    return Curve2("nurbs", poles, degree=piece.degree, knots=piece.knots, weights=piece.weights, t0=low, t1=high)
