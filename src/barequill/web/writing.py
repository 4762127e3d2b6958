"""Drawings as files: what a format holds, and what goes along with it."""

from __future__ import annotations

import json
import re
from pathlib import Path

from flask import Blueprint, Response, request

from ..core.display import DisplayList
from ..core.drawing import Drawing, Sheet
from ..core.drawing.title_fields import field_values
from ..core.errors import UserError
from ..core.standards.sheets import sheet_rectangle
from ..core.writers import write_dxf, write_pdf, write_png, write_svg
from ..core.writers.archive import with_sources
from ..core.writers.printing import PrintPlan, print_plan, printed
from . import schemas as s
from .api import route, services
from .services import Services

writing = Blueprint("writing", __name__)


@route(writing, "GET", "/drawings/{id}/issue/{kind}", query=("sheet", "sheets"))
def issue(id: int, kind: str) -> Response:
    """A drawing as pdf (all sheets, or those of ``sheets``: 1-3,5), as one for archives that holds the document and the parts (archive), one sheet as svg, png or dxf (or those of ``sheets`` as its
    layouts), or the drawing as a document (json)."""
    snapshot = services().store.get(id)

    def for_archives(inks: list[DisplayList]) -> bytes:
        parts = {n: p.read_bytes() for n, p in part_files_of(services(), snapshot.drawing).items()}
        return with_sources(write_pdf(inks), document_bytes(snapshot.drawing), parts)

    sheets, wanted = snapshot.drawing.sheets, request.args.get("sheets", "")
    chosen = request.args.get("sheet") or snapshot.drawing.front_sheet.id
    one = [services().sheet(snapshot.drawing, chosen)]
    writers = {
        "pdf": ("application/pdf", lambda inks: write_pdf(inks)),
        "archive": ("application/pdf", for_archives),
        "svg": ("image/svg+xml", lambda inks: write_svg(inks[0])),
        "dxf": ("image/vnd.dxf", lambda inks: write_dxf(*inks)),
        "png": ("image/png", lambda inks: write_png(inks[0])),
        "json": ("application/json", lambda inks: document_bytes(snapshot.drawing)),
    }
    if kind not in writers:
        raise UserError(f"There is no format {kind}", f"Choose one of {', '.join(writers)}.")
    content_type, write = writers[kind]
    shown = one
    if kind == "json":
        shown = []
    elif wanted and kind in ("pdf", "dxf", "archive"):
        shown = sheets if wanted == "all" else snapshot.drawing.sheets_named(wanted)
    elif kind in ("pdf", "archive"):
        shown = sheets
    for sheet in shown:
        services().prefetch(snapshot.drawing, sheet)
    with services().rendering():
        data = write([services().ink(snapshot.drawing, sh) for sh in shown])
    name = _called(snapshot.drawing, id)
    if shown and len(shown) < len(sheets):
        name += f"-sheet-{'-'.join(str(snapshot.drawing.number_of_sheet(s.id)) for s in shown)}"[:60]
    ending = "-archive.pdf" if kind == "archive" else f".{kind}"
    return Response(
        data, content_type=content_type, headers={"Content-Disposition": f'attachment; filename="{name}{ending}"'}
    )


def _plan(drawing: Drawing) -> tuple[list[Sheet], PrintPlan]:
    """The sheets that are asked for, and how they lie on the paper that is asked for."""
    shown = drawing.sheets_named(request.args.get("sheets", ""))
    trimmed = [sheet_rectangle(sheet.size, sheet.landscape) for sheet in shown]
    return shown, print_plan([(r.x1, r.y1) for r in trimmed], request.args.get("paper", ""))


@route(writing, "GET", "/drawings/{id}/print-plan", answer=s.PrintPlanJson, query=("paper", "sheets"))
def plan_of_print(id: int) -> s.PrintPlanJson:
    """How many pages a print on some ``paper`` has (nothing: each sheet's own size; a size such as A3; ``roll 914``), how large they are in
    mm, and what is to be known before."""
    _, plan = _plan(services().store.get(id).drawing)
    return s.PrintPlanJson(pages=list(plan.pages), warnings=list(plan.warnings))


@route(writing, "GET", "/drawings/{id}/print", query=("paper", "sheets", "bar"))
def print_sheets(id: int) -> Response:
    """A PDF for a printer: sheets at true size on some ``paper``, with a ``bar`` of 100 mm beside each where that is 1."""
    here = services()
    drawing = here.store.get(id).drawing
    shown, plan = _plan(drawing)
    for sheet in shown:
        here.prefetch(drawing, sheet)
    with here.rendering():
        pdf = write_pdf([here.ink(drawing, sheet) for sheet in shown])
        data = printed(pdf, plan, request.args.get("bar") == "1")
    headers = {"Content-Disposition": f'attachment; filename="{_called(drawing, id)}-print.pdf"'}
    return Response(data, content_type="application/pdf", headers=headers)


def _called(drawing: Drawing, id: int) -> str:
    """What the files of a drawing are called."""
    values = field_values(drawing, drawing.front_sheet, None)
    words = " ".join(x for x in (values["number"], values["title"]) if x) or f"drawing-{id}"
    return re.sub(r"[^A-Za-z0-9._-]+", "-", words).strip("-") or f"drawing-{id}"


def document_bytes(drawing: Drawing) -> bytes:
    """A drawing as a document."""
    return json.dumps(drawing.to_json(), indent=1).encode()


def part_files_of(here: Services, drawing: Drawing) -> dict[str, Path]:
    """The files of the parts of a drawing, by the names under which they go along with it."""
    paths = [here.store.part_file(use.key) for use in drawing.parts]
    return {f"part-{path.name}": path for path in paths}
