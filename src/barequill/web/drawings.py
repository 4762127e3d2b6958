"""Drawings: new, change, undo, show, issue."""

from __future__ import annotations

import json
import logging
import re
from dataclasses import asdict

from flask import Blueprint, Response, request

from ..core.acts.planning import planned
from ..core.acts.seat_anew import adrift
from ..core.drawing import Dimension, Drawing, Operation
from ..core.drawing.annotations.hole_note import HoleNote
from ..core.drawing.title_fields import field_values
from ..core.drawing.ways_taken import departures, ways_of
from ..core.errors import NotFound, UserError
from ..core.kinds.common.plain_words import note_explained, size_explained
from ..core.kinds.common.tolerancing import said_of
from ..core.measuring.alike import alike
from ..core.measuring.inventory import inventory
from ..core.measuring.style import READY
from ..core.part.model import Part
from ..core.sheet.elements import view_words
from ..core.standards.fits import usual
from ..core.standards.scales import scale_text
from ..core.views.contours import contours_of
from ..core.writers import write_pdf
from ..core.writers.contours import write_contours
from ..store import PAGE, DrawingSnapshot
from . import schemas as s
from .api import route, services, whole
from .frames import frame_json
from .screen import Pointing

log = logging.getLogger(__name__)
drawings = Blueprint("drawings", __name__)


def state_of(snapshot: DrawingSnapshot, before: Drawing | None = None, shown: s.Shown | None = None) -> s.DrawingState:
    created: list[str] = []
    if before is not None:
        old = set(_ids(before))
        new = [i for i in _ids(snapshot.drawing) if i not in old]
        # of a view that comes with its centre lines the view
        views = {v.id for sheet in snapshot.drawing.sheets for v in sheet.views}
        created = [i for i in new if i in views] or new
    return s.DrawingState(
        id=snapshot.id,
        edit=snapshot.edit,
        document=snapshot.drawing,
        undo=snapshot.undo,
        redo=snapshot.redo,
        created=created,
        newer=services().newer(snapshot.drawing),
        ink=_ink_at_once(snapshot, shown),
    )


def _ink_at_once(snapshot: DrawingSnapshot, shown: s.Shown | None) -> s.SheetInk | None:
    """A sheet as ink, where nothing is to be waited for."""
    sheet = snapshot.drawing.sheet(shown.sheet) if shown else None
    if shown is None or sheet is None:
        return None
    try:
        return services().shown_at_once(snapshot.drawing, sheet, shown.since)
    except Exception:
        # the act is done, whatever becomes of its picture: the screen asks for that again, and is told then
        log.exception("sheet %s of drawing %d cannot be shown", shown.sheet, snapshot.id)
        return None


def _ids(drawing: Drawing) -> list[str]:
    return [e.id for sheet in drawing.sheets for e in (*sheet.views, *sheet.annotations)]


@route(drawings, "GET", "/drawings", answer=list[s.DrawingInfo], query=("search", "removed"))
def list_drawings() -> list[s.DrawingInfo]:
    """Drawings, last changed first; or those that lie in the basket (``removed`` = 1)."""
    rows = services().store.drawings(request.args.get("search", ""), bool(whole("removed", 0)))
    newest = services().store.newer()
    found = []
    for row in rows:
        told = {k: v for k, v in asdict(row).items() if k != "parts"}
        found.append(s.DrawingInfo.model_validate({**told, "newer": any(p in newest for p in row.parts)}))
    return found


@route(drawings, "GET", "/ways", answer=s.LastWays)
def last_ways() -> s.LastWays:
    """As what a new drawing may begin: the ways of the one that was begun last, none where there is none."""
    for row in sorted(services().store.drawings(), key=lambda d: -d.id):
        if not row.damaged:
            found = services().store.get(row.id).drawing
            return s.LastWays(drawing=row.id, called=row.number or row.title, ways=ways_of(found))
    return s.LastWays(drawing=None, called="", ways=None)


@route(drawings, "GET", "/drawings/{id}/departures", answer=s.DeparturesJson)
def departures_of(id: int) -> s.DeparturesJson:
    """In what a drawing departs from the ways of the house that it was given, and whether these are kept otherwise by now."""
    drawing = services().store.get(id).drawing
    own = drawing.ways
    now = [] if own is None else [d for _, n, d in services().store.kept("ways") if n == own.name]
    changed = own is not None and any(d != own.ways.model_dump(mode="json") for d in now)
    return s.DeparturesJson(departs=departures(drawing), changed=changed)


@route(drawings, "POST", "/proposals", body=s.NewDrawing, answer=s.Proposal)
def propose(body: s.NewDrawing) -> s.Proposal:
    """What a new drawing would look like."""
    drawing = services().propose(body)
    sheet = drawing.front_sheet
    return s.Proposal.model_construct(
        size=sheet.size,
        scale=sheet.scale,
        scale_text=scale_text(sheet.scale),
        ink=services().shown(drawing, sheet, pointing="none"),
    )


@route(drawings, "POST", "/drawings", body=s.NewDrawing, answer=s.DrawingState, status=201)
def new_drawing(body: s.NewDrawing) -> s.DrawingState:
    """Keep a new drawing."""
    return state_of(services().store.add(services().propose(body)))


@route(drawings, "GET", "/drawings/{id}", answer=s.DrawingState)
def get_drawing(id: int) -> s.DrawingState:
    """A drawing as it stands."""
    return state_of(services().store.get(id))


@route(drawings, "GET", "/drawings/{id}/edit", answer=s.EditJson)
def get_edit(id: int) -> s.EditJson:
    """How often a drawing was changed: what a screen asks for to see whether another window did."""
    return s.EditJson(edit=services().store.edit_of(id))


@route(drawings, "DELETE", "/drawings/{id}", query=("for_good",))
def remove_drawing(id: int) -> dict[str, str]:
    """Lay a drawing into the basket; or remove it from there, with its history (``for_good`` = 1)."""
    if not whole("for_good", 0):
        services().store.remove(id)
        return {}
    services().store.remove_for_good(id)
    services().forget_thumbnail(id)
    return {}


@route(drawings, "POST", "/drawings/{id}/put-back", body=s.Nothing, answer=s.DrawingState)
def put_back(id: int, body: s.Nothing) -> s.DrawingState:
    """Take a drawing out of the basket."""
    services().store.put_back(id)
    return state_of(services().store.get(id))


@route(drawings, "PUT", "/drawings/{id}/tags", body=s.Tags)
def file_under(id: int, body: s.Tags) -> dict[str, str]:
    """File a drawing under some words."""
    services().store.file_under(id, body.tags)
    return {}


@route(drawings, "POST", "/drawings/{id}/copy", body=s.CopyRequest, answer=s.DrawingState, status=201)
def copy_drawing(id: int, body: s.CopyRequest) -> s.DrawingState:
    """A copy of a drawing as it stands, with a history of its own; its number says that it is one. For another part: its sheets, views
    and looks with that."""
    drawing = services().store.get(id).drawing
    if body.part:
        made = services().for_another(drawing, body.part)
        return state_of(services().store.add(made, f"Like drawing {id}, of another part"))
    sheet = drawing.front_sheet
    number = field_values(drawing, sheet, None)["number"]
    fields = {**drawing.fields, "number": f"{number} (copy)".strip()}
    return state_of(
        services().store.add(drawing.model_copy(update={"fields": fields}), f"Copy of {number or f'drawing {id}'}")
    )


@route(drawings, "GET", "/drawings/{id}/history", answer=list[s.Step], query=("before", "most"))
def history(id: int) -> list[s.Step]:
    """The last steps of a drawing, or those before a position."""
    before = whole("before", -1)
    steps = services().store.history(id, before if before >= 0 else None, whole("most", PAGE))
    return [s.Step(position=p, label=t, done=d) for p, t, d in steps]


@route(drawings, "GET", "/drawings/{id}/kept")
def as_kept(id: int) -> Response:
    """All that is kept of a drawing as a file, also where it is damaged."""
    data = json.dumps(services().store.as_kept(id), indent=1).encode()
    return Response(
        data,
        content_type="application/json",
        headers={"Content-Disposition": f'attachment; filename="drawing-{id}-as-kept.json"'},
    )


@route(drawings, "POST", "/drawings/{id}/rescue", body=s.RescueRequest, answer=s.DrawingState)
def rescue(id: int, body: s.RescueRequest) -> s.DrawingState:
    """Go back to the last step of a damaged drawing that can be read."""
    return state_of(services().store.rescue(id))


@route(drawings, "POST", "/drawings/{id}/acts", body=s.ActRequest, answer=s.DrawingState)
def act(id: int, body: s.ActRequest) -> s.DrawingState:
    """Do something to a drawing."""
    before: list[Drawing] = []

    def plan(drawing: Drawing) -> Operation:
        before.append(drawing)
        return planned(body.act, drawing, services().acting)

    return state_of(services().store.act(id, body.edit, plan), before[0], body.shown)


@route(drawings, "POST", "/drawings/{id}/undo", body=s.StepRequest, answer=s.DrawingState)
def undo(id: int, body: s.StepRequest) -> s.DrawingState:
    """Take back the last step, or so many."""
    return state_of(services().store.step(id, body.edit, -body.by), shown=body.shown)


@route(drawings, "POST", "/drawings/{id}/redo", body=s.StepRequest, answer=s.DrawingState)
def redo(id: int, body: s.StepRequest) -> s.DrawingState:
    """Do the next step again, or so many."""
    return state_of(services().store.step(id, body.edit, body.by), shown=body.shown)


@route(drawings, "POST", "/drawings/{id}/preview", body=s.PreviewRequest, answer=s.Preview)
def preview(id: int, body: s.PreviewRequest) -> s.Preview:
    """The display list of what an act would make."""
    return services().preview(services().store.get(id).drawing, body.act)


@route(drawings, "GET", "/drawings/{id}/sheets/{sheet}/ink", answer=s.SheetInk, query=("since", "pointing"))
def sheet_ink(id: int, sheet: str) -> s.SheetInk:
    """A sheet as ink; with ``since``, the token of what was sent before, without what is the same. Where ``pointing`` is
    ``later``, what can be pointed at in views of many lines is left for the next time."""
    drawing = services().store.get(id).drawing
    pointing: Pointing = "later" if request.args.get("pointing") == "later" else "all"
    return services().shown(drawing, services().sheet(drawing, sheet), request.args.get("since", ""), pointing)


@route(drawings, "GET", "/drawings/{id}/sizes/{size}", answer=s.SaidJson)
def said_of_size(id: int, size: str) -> s.SaidJson:
    """What holds for a dimension, or for a hole's note, besides what it says."""
    drawing = services().store.get(id).drawing
    sheet = drawing.sheet_of(size)
    found = sheet.annotation(size) if sheet is not None else None
    if sheet is None or not isinstance(found, Dimension | HoleNote):
        raise NotFound("There is no such dimension", "It was removed; choose another.")
    context, _ = services().acting.context(drawing, sheet, found.on)
    if isinstance(found, HoleNote):
        return s.SaidJson(general="", fit="", alike=1, fits=[], styles=[], explained=note_explained(context, found))
    said = said_of(context, found)
    names = list(dict.fromkeys([*(x.name for x in drawing.styles), *(x.name for x in READY)]))
    fits = [
        s.FitJson(
            pair=pair,
            purpose=purpose,
            words=f.words,
            hole=(f.hole.upper, f.hole.lower),
            shaft=(f.shaft.upper, f.shaft.lower),
        )
        for pair, purpose, f in (usual(said.size) if said.size is not None else [])
    ]
    return s.SaidJson(
        general=said.general,
        fit=said.fit,
        alike=alike(context.view.projected.whole, found),
        fits=fits,
        styles=names,
        explained=size_explained(context, found),
        named=_of_recipe(context.view.projected.whole, found),
    )


def _of_recipe(part: Part, dimension: Dimension) -> s.RecipeSizeJson | None:
    """The size of a part's recipe that a dimension shows."""
    size = next((x for x in part.sizes if x.name == dimension.size), None)
    if size is None:
        return None
    return s.RecipeSizeJson(part=part.key, name=size.name, value=size.value, written=size.written, says=size.says)


@route(drawings, "POST", "/drawings/{id}/frames", body=s.FrameRequest, answer=s.FrameJson)
def frame_as_typed(id: int, body: s.FrameRequest) -> s.FrameJson:
    """How a tolerance frame is understood, and what else each cell of it could say. An empty text gives one to begin with."""
    return frame_json(services().acting, services().store.get(id).drawing, body.act)


@route(drawings, "GET", "/drawings/{id}/sheets/{sheet}/features", answer=list[s.StockJson])
def features_of_sheet(id: int, sheet: str) -> list[s.StockJson]:
    """What the part of a sheet is made of, and which of it has sizes on the drawing."""
    drawing = services().store.get(id).drawing
    use = drawing.subject(services().sheet(drawing, sheet))
    if use is None:
        return []
    return [s.StockJson(**asdict(x)) for x in inventory(services().acting.projections.part(use.key), drawing)]


@route(drawings, "GET", "/drawings/{id}/loose", answer=list[s.LooseJson])
def loose_of_drawing(id: int) -> list[s.LooseJson]:
    """What is loose since a part changed, with the places where it may hang, the likeliest first."""
    found = adrift(services().store.get(id).drawing, services().acting)
    return [s.LooseJson.model_validate(asdict(a)) for a in found]


@route(drawings, "GET", "/drawings/{id}/sheets/{sheet}/progress", answer=list[s.ViewProgress])
def sheet_progress(id: int, sheet: str) -> list[s.ViewProgress]:
    """Views of a sheet that are being projected, and how far they are."""
    drawing = services().store.get(id).drawing
    return services().progress(drawing, services().sheet(drawing, sheet))


@route(drawings, "POST", "/drawings/{id}/sheets/{sheet}/views/{view}/projection", body=s.ProjectionRequest)
def view_projection(id: int, sheet: str, view: str, body: s.ProjectionRequest) -> dict[str, str]:
    """Stop projecting a view, or begin again."""
    drawing = services().store.get(id).drawing
    services().project_view(drawing, services().sheet(drawing, sheet), view, body.act)
    return {}


@route(drawings, "GET", "/drawings/{id}/thumbnail", query=("edit", "sheet"))
def thumbnail(id: int) -> Response:
    """The first sheet, or another, as a small picture."""
    snapshot = services().store.get(id)
    named = request.args.get("sheet")
    sheet = services().sheet(snapshot.drawing, named) if named else snapshot.drawing.front_sheet
    response = Response(services().thumbnail(snapshot, sheet), content_type="image/png")
    response.headers["Cache-Control"] = "max-age=3600" if request.args.get("edit") == str(snapshot.edit) else "no-cache"
    return response


@route(drawings, "GET", "/drawings/{id}/views/{view}/contour")
def contour(id: int, view: str) -> Response:
    """The closed contours of a view at 1:1, as DXF for cutting machines: lines, arcs and circles on the layer CUT."""
    drawing = services().store.get(id).drawing
    sheet = drawing.sheet_of(view)
    shown = None if sheet is None else sheet.view(view)
    if sheet is None or shown is None:
        raise NotFound("The view is gone", "Choose another view.")
    services().prefetch(drawing, sheet)
    with services().rendering():
        found = contours_of(services().projections.placed_views(drawing, sheet)[view].projected)
        data = write_contours(found)
    number = field_values(drawing, sheet, None)["number"] or f"drawing-{id}"
    name = re.sub(r"[^A-Za-z0-9._-]+", "-", f"{number} {view_words(shown)}").strip("-")
    # what could not be had as lines follows the mesh, and is called so
    name += "-1-1" if found.exact else "-1-1-from-mesh"
    headers = {"Content-Disposition": f'attachment; filename="{name}.dxf"'}
    return Response(data, content_type="image/vnd.dxf", headers=headers)


@route(drawings, "GET", "/drawings/issue/pdf", query=("drawings",))
def issue_several() -> Response:
    """All sheets of several drawings (``drawings``: their numbers on the shelf, such as 3,1,7) as one PDF, in that order."""
    said = request.args.get("drawings", "")
    if not re.fullmatch(r"\d{1,9}(,\d{1,9}){0,99}", said, re.ASCII):
        raise UserError("That names no drawings", "Choose up to a hundred of them.")
    pages = []
    for own in dict.fromkeys(int(n) for n in said.split(",")):
        drawing = services().store.get(own).drawing
        for sheet in drawing.sheets:
            services().prefetch(drawing, sheet)
        pages += [(drawing, sheet) for sheet in drawing.sheets]
    with services().rendering():
        data = write_pdf([services().ink(drawing, sheet) for drawing, sheet in pages])
    headers = {"Content-Disposition": 'attachment; filename="drawings.pdf"'}
    return Response(data, content_type="application/pdf", headers=headers)
