"""From a part and a camera to exact curves: what is seen, and what is hidden.

All strands are parted where a contour crosses them in the view; between two such places nothing changes,
so a few rays toward the viewer tell whether the piece is hidden. Pieces that lie under others are dropped
by the precedence of ISO 128-2, neighbours of one state are joined, and what is left is projected exactly.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..cutting.limits import NO_CUT, Cut, Vector, beyond
from ..cutting.regions import CutFace
from ..cutting.regions import cut_faces as faces_of
from ..geometry.curves2 import Curve2
from ..geometry.curves3 import Curve3
from ..geometry.wires import Array, Ints
from ..part.model import Part
from ..values import value
from .camera import Camera, camera
from .flattening import principal
from .pieces import Pieces, pieces_of
from .strands import CLASSES, POINT, LineClass, Strands, strands_of
from .table import table_of

Flags = NDArray[np.bool_]
TURN = 2 * np.pi


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


def project(
    part: Part,
    toward: ArrayLike,
    up: ArrayLike,
    *,
    hidden: bool = True,
    smooth: bool = True,
    cut: Cut | Sequence[tuple[Vector, Vector]] = NO_CUT,
    progress: Callable[[float, str], None] = lambda share, what: None,
) -> list[ProjectedCurve]:
    """Project a part.

    Parameters
    ----------
    part : the prepared part
    toward : direction from the part to the viewer, in the part's frame
    up : direction that points up on the sheet
    hidden : give hidden curves too
    smooth : give tangent edges too
    cut : what is taken away; or planes, each a point (mm) and a normal: then what lies beyond all of them
    progress : called with the share done (0 to 1) and what is being done

    Raises
    ------
    UserError
        Where the directions do not make a camera.
    """
    view = camera(toward, up)
    progress(0.05, "looking for edges and outlines")
    cut = cut if isinstance(cut, Cut) else beyond(cut)
    strands = strands_of(part, view, smooth, cut)
    if not strands.wires.count:
        return []
    pieces = pieces_of(strands, view, cut, progress)
    progress(0.85, "drawing")
    return _drawn(strands, pieces, view, hidden, part.size)


def cut_faces(part: Part, cut: Cut | Sequence[tuple[Vector, Vector]]) -> tuple[CutFace, ...]:
    """The faces that a cut lays open, or that planes do, each a point (mm) and a normal."""
    cut = cut if isinstance(cut, Cut) else beyond(cut)
    return faces_of(part, cut, table_of(part).wires) if cut else ()


def _drawn(strands: Strands, pieces: Pieces, view: Camera, hidden: bool, size: float) -> list[ProjectedCurve]:
    """The runs of pieces as exact curves."""
    first, last, covered = pieces.first, pieces.last, pieces.covered
    if not hidden:
        first, last, covered = first[~covered], last[~covered], covered[~covered]
    owner, low, high = pieces.owner[first], pieces.low[first], pieces.high[last]
    under = _sources_under(strands, pieces, first, last)
    lost: list[int] = []
    for a, b in _round_the_seam(strands, pieces, first, last, covered):
        low[a], high[a] = low[a] - TURN, high[b]
        under[a] = under.get(a, set()) | under.get(b, set())
        lost.append(b)
    flats = _straight(strands, pieces, owner, first, last, size)
    _flattened(flats=flats, strands=strands, owner=owner, low=low, high=high, view=view, size=size)
    for k in lost:
        flats[k] = None
    sources, classes = strands.sources, [CLASSES[c] for c in strands.cls[owner].tolist()]
    found: list[ProjectedCurve] = []
    names, seen, meshed = [sources[s] for s in owner.tolist()], (~covered).tolist(), strands.meshed[owner].tolist()
    spans = list(zip(low.tolist(), high.tolist(), strict=True))
    for k, flat in enumerate(flats):
        if flat is not None:
            also = tuple(sorted(under[k] - {names[k]})) if k in under else ()
            found.append(
                ProjectedCurve(
                    curve=flat,
                    visible=seen[k],
                    cls=classes[k],
                    source=names[k],
                    span=spans[k],
                    also=also,
                    meshed=meshed[k],
                )
            )
    return found


def _round_the_seam(strands: Strands, pieces: Pieces, first: Ints, last: Ints, covered: Flags) -> list[tuple[int, int]]:
    """Runs that end where a whole circle or ellipse closes, with those of the same state that begin there."""
    n = len(pieces.owner)
    opens = np.ones(n, bool)
    opens[1:] = pieces.owner[1:] != pieces.owner[:-1]
    closes = np.append(opens[1:], True)
    begins: dict[int, int] = {}
    pairs: list[tuple[int, int]] = []
    bent = strands.bent & ~strands.level
    for k in np.nonzero((opens[first] | closes[last]) & bent[pieces.owner[first]])[0].tolist():
        strand = int(pieces.owner[first[k]])
        curve = strands.curve(strand)
        if curve is None or not curve.full_turn:
            continue
        # of what a cut has left of a circle, only the stretches on both sides of its seam meet there
        whole = int(strands.whole[strand])
        if opens[first[k]] and pieces.low[first[k]] == curve.t0:
            begins[whole] = k
        if closes[last[k]] and pieces.high[last[k]] == curve.t1:
            head = begins.get(whole, k)
            if head != k and covered[head] == covered[k]:
                pairs.append((k, head))
    return pairs


def _sources_under(strands: Strands, pieces: Pieces, first: Ints, last: Ints) -> dict[int, set[str]]:
    """The sources that lie under runs, by run."""
    also: dict[int, set[str]] = {}
    lost = np.nonzero(pieces.over != np.arange(len(pieces.over)))[0]
    if not len(lost) or not len(first):
        return also
    run = np.searchsorted(first, pieces.over[lost], side="right") - 1
    drawn = (run >= 0) & (pieces.over[lost] <= last[run])
    many, sources = len(strands.cls), strands.sources
    for pair in set((run[drawn] * many + pieces.owner[lost[drawn]]).tolist()):
        also.setdefault(pair // many, set()).add(sources[pair % many])
    return also


def _straight(
    strands: Strands, pieces: Pieces, owner: Ints, first: Ints, last: Ints, size: float
) -> list[Curve2 | None]:
    """The lines of runs that are straight in the view; None for others, and where they are points."""
    lines = np.stack([pieces.ends[first, 0], pieces.ends[last, 1]], axis=1)
    long = np.abs(lines[:, 1] - lines[:, 0]).max(axis=1, initial=0.0) >= POINT * size
    drawn = (strands.level[owner] & long).tolist()
    return [Curve2("line", ends) if straight else None for ends, straight in zip(lines, drawn, strict=True)]


def _flattened(
    flats: list[Curve2 | None], strands: Strands, owner: Ints, low: Array, high: Array, view: Camera, size: float
) -> None:
    """Put in the exact plane curves of runs that are not straight in the view, but for those that are points."""
    rows: list[int] = []
    conics: list[tuple[Array | None, Array | None, Array | None]] = []
    for k in np.nonzero(~strands.level[owner])[0].tolist():
        curve = strands.curve(int(owner[k]))
        assert curve is not None
        if curve.kind == "conic":
            rows.append(k)
            conics.append((curve.origin, curve.x, curve.y))
        else:
            flats[k] = _flat_spline(curve, float(low[k]), float(high[k]), view, size)
    if rows:
        axes, t0, t1 = principal(np.array(conics), low[rows], high[rows], view.right, view.up)
        for k, (c, a, b), start, end in zip(rows, axes, t0.tolist(), t1.tolist(), strict=True):
            flats[k] = Curve2("conic", c[None], a, b, start, end)


def _flat_spline(curve: Curve3, low: float, high: float, view: Camera, size: float) -> Curve2 | None:
    if low <= curve.t0 and high >= curve.t1:
        piece, low, high = curve, curve.t0, curve.t1
    else:
        piece = curve.piece(max(low, curve.t0), min(high, curve.t1))
    assert piece.poles is not None and piece.knots is not None
    poles = view.flat(piece.poles)
    if (poles.max(axis=0) - poles.min(axis=0)).max() < POINT * size:
        return None
    return Curve2("nurbs", poles, degree=piece.degree, knots=piece.knots, weights=piece.weights, t0=low, t1=high)
