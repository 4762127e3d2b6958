"""Lines left out of a view: one, those of a face, or the hidden ones of a feature."""

from __future__ import annotations

from typing import Literal

from ..bounds import Ref
from ..display import Sketch
from ..drawing import Drawing, Operation
from ..drawing.operations import SetView, need_view
from ..errors import UserError
from ..features.faces import faces_beside, feature_faces, words_of_face
from ..measuring.wording import figure
from ..sheet.elements import blank
from .base import ActContext, AnyAct, Preview


class LeaveLines(AnyAct):
    """What is left out of a view, by an edge or face that is pointed at: all lines ``of`` the face beside it, of its other
    face, or the hidden lines of the whole feature."""

    act: Literal["leave_lines"] = "leave_lines"
    view: Ref
    ref: Ref
    of: Literal["face", "other_face", "hidden"] = "face"

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view = need_view(drawing, self.view)
        refs, _ = self._refs(drawing, acting)
        name = "hidden_out" if self.of == "hidden" else "left_out"
        return SetView(view=view.id, changes={name: list(dict.fromkeys([*getattr(view, name), *refs]))})

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = need_view(drawing, self.view)
        refs, words = self._refs(drawing, acting)
        placed_view = acting.projections.placed_views(drawing, sheet)[view.id].still()
        sketch, wanted = Sketch(drawing.lines_of(sheet)), set(refs)
        for c, flat in placed_view.placed:
            if c.source in wanted and (not c.visible or self.of != "hidden"):
                sketch.stroke(flat, "visible" if c.visible else "hidden", c.source)
        made = sketch.element("left-out", "view", view.id, words, f"left-out-{self.of}-{self.ref}", view.place)
        return Preview(blank(drawing, sheet), (made,), words)

    def _refs(self, drawing: Drawing, acting: ActContext) -> tuple[list[str], str]:
        sheet, view = need_view(drawing, self.view)
        projected = acting.projections.placed_views(drawing, sheet)[view.id].projected
        part = projected.whole
        beside = faces_beside(part, self.ref)
        if not beside:
            raise UserError("There is no face", "Point at a line of the part.")
        row = beside[-1] if self.of == "other_face" else beside[0]
        faces = feature_faces(part, row) if self.of == "hidden" else [row]
        refs = [r for f in faces for r in (part.faces[f].ref, *(part.edges[e].ref for e in part.faces[f].boundary))]
        drawn = {c.source for c in projected.curves if not c.visible or self.of != "hidden"}
        found = [r for r in dict.fromkeys(refs) if r in drawn]
        if not found:
            raise UserError("There is no such line", "Point at another line, or leave this one out alone.")
        name = words_of_face(part, row, lambda x: figure(x, None, drawing.unit, False, drawing.standard))
        count = f"{len(found)} {'hidden ' if self.of == 'hidden' else ''}{'line' if len(found) == 1 else 'lines'}"
        return found, f"{count} of the {name} left out"
