"""Issuing drawings, and what was issued."""

from __future__ import annotations

import re
from datetime import date
from pathlib import Path

from flask import Blueprint, Response

from ..core.acts.issuing import as_issued, next_revision, what_changed, worked_on
from ..core.drawing import Drawing, apply
from ..core.drawing.revisions import Revision
from ..core.drawing.title_fields import field_values
from ..core.writers import write_dxf, write_pdf, write_svg
from ..core.writers.archive import with_sources
from ..store.drawings import DrawingSnapshot
from ..store.issues import Issued
from . import issue_schemas as s
from . import schemas
from .api import route, services
from .drawings import state_of
from .services import Services
from .writing import document_bytes, part_files_of

issues = Blueprint("issues", __name__)
TYPES = {"pdf": "application/pdf", "dxf": "image/vnd.dxf", "svg": "image/svg+xml", "json": "application/json"}


@route(issues, "GET", "/drawings/{id}/issues", answer=list[s.IssueInfo])
def list_issues(id: int) -> list[s.IssueInfo]:
    """What was issued of a drawing, the latest first."""
    return [_info(i) for i in services().store.issues(id)]


@route(issues, "GET", "/drawings/{id}/next-issue", answer=s.NextIssue)
def next_issue(id: int) -> s.NextIssue:
    """What is proposed for the next issue of a drawing: its letter, who made it, and what changed since the last."""
    store = services().store
    drawing = store.get(id).drawing
    issued = store.letters_issued(id)
    labels = [label for _, label, done in sorted(store.history(id, None, 200)) if done]
    values = field_values(drawing, drawing.front_sheet, None)
    return s.NextIssue(
        letter=next_revision(drawing, issued),
        date=date.today().isoformat(),
        creator=values.get("creator", "")[:60],
        approver=values.get("approver", "")[:60],
        words=what_changed(labels, not issued),
    )


@route(issues, "POST", "/drawings/{id}/issues", body=s.IssueRequest, answer=schemas.DrawingState, status=201)
def issue_drawing(id: int, body: s.IssueRequest) -> schemas.DrawingState:
    """Issue a drawing as a revision: its files are made once and kept; it is worked on as the next."""
    return state_of(issue_now(services(), id, body), shown=body.shown)


def issue_now(here: Services, id: int, body: s.IssueRequest) -> DrawingSnapshot:
    """The same; the drawing as it stands then."""
    store = here.store
    snapshot = store.get(id)
    issued = store.letters_issued(id)
    operation = as_issued(snapshot.drawing, _row(body), issued)
    after = apply(snapshot.drawing, operation)
    with store.laid_out(_files(here, after, id, body.letter)) as folder:
        stands = store.act(id, body.edit, lambda _: operation)
        about = _row(body).model_dump() | {"edit": stands.edit, "name": named(after, id), "title": _title(after)}
        try:
            store.keep_issue(id, body.letter, about, folder)
        except BaseException:
            # what cannot be kept was not issued
            store.step(id, stands.edit, -1)
            raise
    return store.act(id, stands.edit, lambda drawing: worked_on(drawing, [*issued, body.letter]))


@route(issues, "GET", "/drawings/{id}/issues/{letter}/{name}")
def issued_file(id: int, letter: str, name: str) -> Response:
    """A file as it was issued."""
    path = services().store.issued_file(id, letter, name)
    kind = TYPES.get(path.suffix.removeprefix("."), "application/octet-stream")
    headers = {
        "Content-Disposition": f'attachment; filename="{path.name}"',
        "Cache-Control": "private, max-age=31536000",
    }
    return Response(path.read_bytes(), content_type=kind, headers=headers)


def _row(body: s.IssueRequest) -> Revision:
    return Revision.model_validate(body.model_dump(exclude={"edit", "shown"}))


def _info(own: Issued) -> s.IssueInfo:
    said = {k: str(own.about.get(k, "")) for k in ("words", "date", "creator", "approver")}
    files = [
        s.IssuedFile(name=str(f.get("name")), size=int(f.get("size", 0)), sha256=str(f.get("sha256")))
        for f in own.files
    ]
    return s.IssueInfo(id=own.id, letter=own.letter, created=own.created, files=files, **said)


def named(drawing: Drawing, id: int) -> str:
    """What files of a drawing are called."""
    number = field_values(drawing, drawing.front_sheet, None).get("number", "")
    return re.sub(r"[^A-Za-z0-9_-]+", "-", number).strip("-")[:60] or f"drawing-{id}"


def _title(drawing: Drawing) -> str:
    return field_values(drawing, drawing.front_sheet, None).get("title", "")


def _files(here: Services, drawing: Drawing, id: int, letter: str) -> dict[str, bytes | Path]:
    """All files of an issue: PDF and DXF with all sheets, SVG of each, the document, and the files of its parts."""
    stem = f"{named(drawing, id)}-{letter.strip('-') or 'first'}"
    for sheet in drawing.sheets:
        here.prefetch(drawing, sheet)
    document = document_bytes(drawing)
    parts = part_files_of(here, drawing)
    with here.rendering():
        inks = [here.ink(drawing, sheet) for sheet in drawing.sheets]
        pdf = with_sources(write_pdf(inks), document, {n: p.read_bytes() for n, p in parts.items()})
        found: dict[str, bytes | Path] = {f"{stem}.pdf": pdf, f"{stem}.dxf": write_dxf(*inks)}
        for k, ink in enumerate(inks, 1):
            found[f"{stem}-sheet-{k}.svg"] = write_svg(ink)
    return found | {f"{stem}.json": document} | parts
