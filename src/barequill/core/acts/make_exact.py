"""Theoretically exact sizes: given by one act to all that places or shapes what a tolerance frame is about."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref
from ..drawing import Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.annotations.hung import AnyHung
from ..drawing.operations import ChangeAnnotation, Group
from ..errors import BadOperation, UserError
from ..features.holes import hole_at, like
from ..measuring.context import root_view
from .base import ActContext, AnyAct
from .hanging import need_hung

PLACED = ("distance", "angle", "length", "slope")
"""Measures that tell a place or a direction; all others tell a size."""


class MakeExact(AnyAct):
    """The distances and angles that are stated of what a frame is about boxed, without tolerances of their own."""

    act: Literal["make_exact"] = "make_exact"
    id: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, frame = need_hung(drawing, self.id)
        refs = _about(drawing, acting, sheet, frame)
        steps: list[Operation] = []
        there = False
        for s in drawing.sheets:
            for a in s.annotations:
                if not isinstance(a, Dimension) or a.measure not in PLACED or not _of(a, refs):
                    continue
                there = True
                if not a.exact:
                    plain = {"kind": "none", "upper": 0.0, "lower": 0.0, "fit": ""}
                    steps.append(
                        ChangeAnnotation(id=a.id, changes={"exact": True, "reference": False, "tolerance": plain})
                    )
        if not there:
            raise UserError(
                "No size tells where it is", "State its distances from the datums first; then they can be made exact."
            )
        if not steps:
            raise UserError("They are exact already", "All sizes that tell where it is stand in their boxes.")
        return Group(label="Make sizes exact", operations=steps)


def _about(drawing: Drawing, acting: ActContext, sheet: Sheet, frame: AnyHung) -> set[str]:
    """The references of all entities of what a frame is about: with a hole all that are alike."""
    context, _ = acting.context(drawing, sheet, frame.id)
    part = context.view.projected.whole
    own = frame
    while own.foot is None:
        above = sheet.annotation(own.on)
        if isinstance(above, AnyHung):
            own = above
            continue
        if isinstance(above, Dimension):
            roots = [a.ref for a in above.anchors]
        elif isinstance(above, HoleNote):
            roots = [above.ref]
        else:
            raise BadOperation("It hangs on nothing", "Lead the frame to geometry, or hang it on a size.")
        break
    else:
        roots = [own.foot.ref]
    if root_view(sheet, frame) is None:
        raise BadOperation("It hangs on no view", "Choose a frame of a view.")
    refs = set(roots)
    for ref in roots:
        hole = hole_at(part, ref)
        for one in like(part, hole) if hole is not None else []:
            refs |= {part.faces[f].ref for f in one.faces}
            refs |= {part.edges[e].ref for f in one.faces for e in part.faces[f].boundary}
    return refs


def _of(size: Dimension, refs: set[str]) -> bool:
    """True where a size is about one of some entities."""
    return any(r in refs for a in size.anchors for r in (a.ref, a.other) if r)
