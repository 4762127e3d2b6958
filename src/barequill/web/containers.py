"""Drawings as one file: given out with their parts and issues, and taken in again."""

from __future__ import annotations

import json

from flask import Blueprint, Response, request
from pydantic import ValidationError

from ..core.drawing import Drawing
from ..core.drawing.container import Container, packed, unpacked
from ..core.drawing.revisions import Revision
from ..core.errors import UserError
from ..work.documents import parts_within
from . import schemas as s
from .api import route, services
from .drawings import state_of
from .issues import named

containers = Blueprint("containers", __name__)


@route(containers, "GET", "/drawings/{id}/container")
def give_container(id: int) -> Response:
    """A drawing as one file, with its parts and all that was issued of it."""
    store = services().store
    drawing = store.get(id).drawing
    parts = {(p := store.part_file(use.key)).name: p.read_bytes() for use in drawing.parts}
    issues: dict[str, dict[str, bytes]] = {}
    for own in store.issues(id):
        files = {str(f["name"]): store.issued_file(id, own.letter, str(f["name"])).read_bytes() for f in own.files}
        issues[own.letter] = {**files, "about.json": json.dumps(own.about).encode()}
    data = packed(drawing.to_json(), parts, issues)
    headers = {"Content-Disposition": f'attachment; filename="{named(drawing, id)}.quill"'}
    return Response(data, content_type="application/zip", headers=headers)


@route(containers, "POST", "/containers", answer=s.DrawingState, status=201, upload=True)
def take_container() -> s.DrawingState:
    """Take in a drawing from one file: its parts go on the shelf, what was issued stays as it was."""
    upload = request.files.get("file")
    if upload is None:
        raise UserError("No file came along", "Send it as the form field named file.")
    services().check_room(request.content_length or 0)
    with services().unpacking:
        found = unpacked(upload.read())
    try:
        drawing = Drawing.load(found.document)
    except (ValidationError, ValueError) as error:
        raise UserError("The drawing in it cannot be read", str(error).splitlines()[0][:200]) from error
    _bring(found, drawing)
    snapshot = services().store.add(drawing, "Taken in from one file")
    for letter, files in found.issues.items():
        _keep(snapshot.id, letter, files)
    return state_of(snapshot)


def _bring(found: Container, drawing: Drawing) -> None:
    """Put the parts that a drawing shows on the shelf, where they are what their keys say."""
    wanted = {use.key for use in drawing.parts}
    there = {p.key for p in services().store.parts()}
    within = parts_within(found.parts, wanted - there).values()
    for job in [services().read(name, found.parts[name], unit) for name, unit in within]:
        job.done.wait()
        if job.error is not None:
            raise job.error


def _keep(id: int, letter: str, files: dict[str, bytes]) -> None:
    """Keep as issued what came along as that."""
    store = services().store
    try:
        told = json.loads(files.get("about.json", b"{}"))
        about = Revision.model_validate({k: v for k, v in told.items() if k in Revision.model_fields}).model_dump()
    except (ValueError, AttributeError):
        about = {"letter": letter}
    with store.laid_out({n: d for n, d in files.items() if n != "about.json"}) as folder:
        store.keep_issue(id, letter, about, folder)
