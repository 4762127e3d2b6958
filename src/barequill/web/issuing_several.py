"""Several drawings issued at once, and what was issued together as one folder or one PDF with a list."""

from __future__ import annotations

import csv
import io
import re
import zipfile
from datetime import date

import pypdfium2
from flask import Blueprint, Response, request

from ..core.acts.issuing import next_revision, what_changed
from ..core.errors import NotFound, UserError
from ..core.sheet.listing import listed
from ..core.writers import write_pdf
from ..store.issues import Issued
from . import issue_schemas as s
from .api import route, services
from .issues import issue_now

several = Blueprint("several", __name__)
MOST = 100
TITLES = ("Number", "Rev.", "Date", "Sheets", "Title", "What changed")


@route(several, "POST", "/issues", body=s.SeveralRequest, answer=s.SeveralIssued, status=201)
def issue_as_revisions(body: s.SeveralRequest) -> s.SeveralIssued:
    """Issue drawings as revisions, each under its next letter; those that cannot be issued are told, the others go out."""
    issued: list[s.OneIssued] = []
    refused: list[s.OneRefused] = []
    store = services().store
    for own in dict.fromkeys(body.drawings):
        try:
            snapshot = store.get(own)
            before = store.letters_issued(own)
            labels = [label for _, label, done in sorted(store.history(own, None, 200)) if done]
            wish = s.IssueRequest(
                edit=snapshot.edit,
                letter=next_revision(snapshot.drawing, before),
                date=body.date,
                words=body.words or what_changed(labels, not before),
                creator=body.creator or snapshot.drawing.fields.get("creator", "")[:60],
                approver=body.approver or snapshot.drawing.fields.get("approver", "")[:60],
            )
            issue_now(services(), own, wish)
            issued.append(s.OneIssued(drawing=own, letter=wish.letter))
        except UserError as error:
            refused.append(s.OneRefused(drawing=own, title=error.title, detail=error.detail))
    return s.SeveralIssued(issued=issued, refused=refused)


@route(several, "GET", "/issues/{kind}", query=("issues",))
def issued_together(kind: str) -> Response:
    """What was issued (``issues``: numbers of drawings with letters, such as 3-A,7-B), as it is kept: a ``zip`` of folders with a list, or
    one ``pdf`` with a list before all sheets."""
    found = _named(request.args.get("issues", ""))
    rows = [_row(own) for own in found]
    heading = f"Drawings issued, {date.today().isoformat()}"
    if kind == "zip":
        data, content_type = _folder(found, rows, heading), "application/zip"
    elif kind == "pdf":
        data, content_type = _one_pdf(found, rows, heading), "application/pdf"
    else:
        raise UserError(f"There is no format {kind[:20]}", "Choose zip or pdf.")
    headers = {"Content-Disposition": f'attachment; filename="issued-{date.today().isoformat()}.{kind}"'}
    return Response(data, content_type=content_type, headers=headers)


def _named(said: str) -> list[Issued]:
    if not re.fullmatch(r"\d{1,9}-[A-Z0-9-]{1,4}(,\d{1,9}-[A-Z0-9-]{1,4})*", said, re.ASCII) or said.count(",") >= MOST:
        raise UserError(
            "That names no issues", f"Say up to {MOST} of them as 3-A,7-B: a drawing's number and the letter."
        )
    found = []
    for one in dict.fromkeys(said.split(",")):
        number, _, letter = one.partition("-")
        own = next((i for i in services().store.issues(int(number)) if i.letter == letter), None)
        if own is None:
            raise NotFound(f"{letter} of drawing {number} was not issued", "See what there is in the list of issues.")
        found.append(own)
    return found


def _row(own: Issued) -> list[str]:
    """What the list says of an issue."""
    sheets = sum("-sheet-" in str(f["name"]) for f in own.files)
    about = {k: str(own.about.get(k, "")) for k in ("name", "date", "words", "title")}
    return [about["name"], own.letter, about["date"], str(sheets), about["title"], about["words"]]


def _bytes(own: Issued, name: str) -> bytes:
    return services().store.issued_file(own.drawing, own.letter, name).read_bytes()


def _folder(found: list[Issued], rows: list[list[str]], heading: str) -> bytes:
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as folder:
        names: set[str] = set()
        for own, row in zip(found, rows, strict=True):
            name = f"{row[0] or f'drawing-{own.drawing}'}-{own.letter}"
            name = name if name not in names else f"{name}-{own.drawing}"
            names.add(name)
            for file in own.files:
                folder.writestr(f"{name}/{file['name']}", _bytes(own, str(file["name"])))
        table = io.StringIO()
        csv.writer(table).writerows([TITLES, *rows])
        folder.writestr("list.csv", table.getvalue())
        folder.writestr("list.pdf", write_pdf(listed(heading, TITLES, rows)))
    return out.getvalue()


def _one_pdf(found: list[Issued], rows: list[list[str]], heading: str) -> bytes:
    whole = pypdfium2.PdfDocument(write_pdf(listed(heading, TITLES, rows)))
    for own in found:
        name = next((str(f["name"]) for f in own.files if str(f["name"]).endswith(".pdf")), "")
        if not name:
            raise NotFound(f"{own.letter} has no PDF", "It was issued without one.")
        pages = pypdfium2.PdfDocument(_bytes(own, name))
        whole.import_pages(pages)
        pages.close()
    out = io.BytesIO()
    whole.save(out)
    whole.close()
    return out.getvalue()
