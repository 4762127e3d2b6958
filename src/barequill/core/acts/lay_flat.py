"""Views of what is made of a part: a bent sheet laid flat, a part of the other hand."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from pydantic import Field

from ..bounds import Name, Ref
from ..drawing import AnyAnnotation, Drawing, Operation, PrincipalView, Sheet
from ..drawing.annotations.hung import Foot
from ..drawing.annotations.text_note import TextNote
from ..drawing.base import Point
from ..drawing.operations import AddViews, Annotate, need_view
from ..drawing.views import FlatPattern
from ..errors import UserError
from ..features.derived import flat_key
from ..kinds.common.hanging import flat_of, spot_of
from ..part.chosen import body_names
from ..sheet.elements import view_words
from ..views.directions import cameras
from .base import ActContext, AnyAct, Preview
from .centres import with_centres
from .outlining import view_shown


class AnyMade(AnyAct):
    """A view of what is made of the part that a ``view`` shows, set down ``to`` a place."""

    view: Ref
    to: Point

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, PrincipalView]:
        """The sheet, and the view as it would stand there."""
        raise NotImplementedError

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = self.made(drawing, acting)
        return with_centres(acting, drawing, AddViews(sheet=sheet.id, views=[view]), view, self.view)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = self.made(drawing, acting)
        return view_shown(drawing, acting, sheet, view, view_words(view).lower())


class LayFlat(AnyMade):
    """The flat pattern of a bent sheet that a ``view`` shows, set down ``to`` a place: of the body that is named, else of the one that the
    view shows, else of the first that is one. ``k``: where its neutral line lies, as a share of the thickness; by DIN 6935 where it is
    left out."""

    act: Literal["lay_flat"] = "lay_flat"
    body: Name = ""
    k: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, PrincipalView]:
        sheet, of = need_view(drawing, self.view)
        part = acting.projections.part(of.part)
        body = self.body or (of.bodies[0] if of.bodies is not None and len(of.bodies) == 1 else "")
        if body and body not in body_names(part):
            raise UserError("There is no such body", f"The part has no body {body}; choose another.")
        # said here, before a view is there that shows nothing
        acting.projections.part(flat_key(part, body, self.k))
        (own,) = drawing.fresh()
        return sheet, PrincipalView(
            id=own,
            part=of.part,
            place=self.to,
            toward=(0.0, 0.0, 1.0),
            up=(0.0, 1.0, 0.0),
            flat=FlatPattern(body=body, k=self.k),
            caption="FLAT PATTERN",
            hidden_lines=False,
        )


class StateBends(AnyAct):
    """At each bend of a flat pattern a note that tells which way, by how much and by which radius it is bent; not where one is."""

    act: Literal["state_bends"] = "state_bends"
    view: Ref

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, view = need_view(drawing, self.view)
        context, _ = acting.context(drawing, sheet, view.id)
        placed_view = context.view
        noted = {a.foot.ref for a in sheet.annotations if isinstance(a, TextNote) and a.on == view.id and a.foot}
        bends = [b for b in placed_view.projected.whole.bends if b.ref not in noted]
        if not bends:
            raise UserError("No bend is to be noted", "Choose a flat pattern with bends that have no note yet.")
        hull = placed_view.hull
        made: list[AnyAnnotation] = []
        for own, bend in zip(drawing.fresh(len(bends)), bends, strict=True):
            flat = placed_view.transform.to_sheet(flat_of(placed_view.projected, bend.ref))
            # from its upper end, clear of the pattern; of level ones from the right
            upright = abs(float(flat[-1, 1] - flat[0, 1])) >= abs(float(flat[-1, 0] - flat[0, 0]))
            tip = flat[int(np.argmax(flat[:, 1 if upright else 0]))]
            foot = Foot(ref=bend.ref, spot=spot_of(placed_view, bend.ref, tip))
            beyond = float(hull[:, 1 if upright else 0].max() - tip[1 if upright else 0])
            angle = 60.0 if upright else 30.0
            reach = (beyond + 10.0) / float(np.sin(np.radians(60.0)))
            made.append(TextNote(id=own, on=view.id, text="{bend}", foot=foot, angle=angle, offset=round(reach, 2)))
        return Annotate(sheet=sheet.id, annotations=made)


class MirrorView(AnyMade):
    """A view of the part of the other hand, as a ``view`` would be seen in a mirror beside it, set down ``to`` a place; others can be
    pulled out of it."""

    act: Literal["mirror_view"] = "mirror_view"

    def made(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, PrincipalView]:
        sheet, of = need_view(drawing, self.view)
        if of.pictorial:
            raise UserError("A picture has no mirrored view", "Mirror the view that it is a picture of.")
        root = drawing.root_of(of)
        mirrored = isinstance(root, PrincipalView) and root.mirrored
        # a camera is kept as it looks at the part as it is
        toward, up = cameras(drawing.model_copy(update={"sheets": [_plain(s, root.id) for s in drawing.sheets]}))[of.id]
        (own,) = drawing.fresh()
        return sheet, PrincipalView(
            id=own,
            part=of.part,
            bodies=of.bodies,
            place=self.to,
            scale=of.scale,
            toward=toward,
            up=up,
            look=of.look if of.look in ("front", "left", "right", "top", "bottom", "back") else "front",
            flat=root.flat if isinstance(root, PrincipalView) else None,
            mirrored=not mirrored,
            hidden_lines=of.hidden_lines,
            tangent_edges=of.tangent_edges,
            caption="" if mirrored else "MIRRORED",
        )


def _plain(sheet: Sheet, root: str) -> Sheet:
    """A sheet with one of its views as it was before it was mirrored."""
    views = [
        v.model_copy(update={"mirrored": False}) if v.id == root and isinstance(v, PrincipalView) else v
        for v in sheet.views
    ]
    return sheet.model_copy(update={"views": views})
