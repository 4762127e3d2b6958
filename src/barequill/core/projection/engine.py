"""From a part and a camera to exact curves: what is seen, and what is hidden.

All strands are parted where a contour crosses them in the view; between two such places nothing changes,
so a few rays toward the viewer tell whether the piece is hidden. Pieces that lie under others are dropped
by the precedence of ISO 128-2, neighbours of one state are joined, and what is left is projected exactly.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

from numpy.typing import ArrayLike

from ..cutting.limits import NO_CUT, Cut, Vector, beyond
from ..cutting.regions import CutFace
from ..cutting.regions import cut_faces as faces_of
from ..part.model import Part
from .camera import camera
from .columns import Curves, as_columns, unpacked
from .pieces import drawn_of
from .rays import blocked_within
from .strands import POINT, parted_of
from .table import table_of


def project(
    part: Part,
    toward: ArrayLike,
    up: ArrayLike,
    *,
    hidden: bool = True,
    smooth: bool = True,
    cut: Cut | Sequence[tuple[Vector, Vector]] = NO_CUT,
    progress: Callable[[float, str], None] = lambda share, what: None,
) -> Curves:
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
    seen = parted_of(part, view, smooth, cut)
    if seen is None:
        return Curves(as_columns([]))
    parted, sources, rays = seen
    table = table_of(part)
    progress(0.5, "asking what stands in front")
    struck = blocked_within(part, cut, table.wires, rays, view.toward)
    progress(0.7, "dropping what lies under other lines")
    *counts, numbers, flags, reals = drawn_of(
        parted=parted,
        sources=sources,
        struck=struck,
        hidden=hidden,
        faces=len(part.faces),
        eye=view.eye,
        size=part.size,
        point=POINT,
    )
    return Curves(unpacked(tuple(counts), numbers, flags, reals, table.refs))


def cut_faces(part: Part, cut: Cut | Sequence[tuple[Vector, Vector]]) -> tuple[CutFace, ...]:
    """The faces that a cut lays open, or that planes do, each a point (mm) and a normal."""
    cut = cut if isinstance(cut, Cut) else beyond(cut)
    return faces_of(part, cut, table_of(part).wires) if cut else ()
