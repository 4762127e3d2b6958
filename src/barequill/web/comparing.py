"""Two states of a drawing compared: steps, issues, and as it stands."""

from __future__ import annotations

import json
import re

from flask import Blueprint, Response, request
from pydantic import ValidationError

from ..core.arranging.comparing import State, compared
from ..core.display import DisplayList
from ..core.drawing import Drawing
from ..core.errors import NotFound, UserError
from ..core.standards.sheets import Rectangle
from ..core.writers import write_dxf, write_pdf, write_png, write_svg
from ..core.writers.screen import screen_element
from . import schemas as s
from .api import route, services
from .issues import named

comparing = Blueprint("comparing", __name__)
WRITERS = {
    "pdf": ("application/pdf", lambda inks: write_pdf(inks)),
    "dxf": ("image/vnd.dxf", lambda inks: write_dxf(*inks)),
    "svg": ("image/svg+xml", lambda inks: write_svg(inks[0])),
    "png": ("image/png", lambda inks: write_png(inks[0])),
}


@route(comparing, "GET", "/drawings/{id}/comparison", answer=s.ComparisonJson, query=("before", "after"))
def compare(id: int) -> s.ComparisonJson:
    """What differs between two states of a drawing (``now``, ``step-12``, ``issue-A``), in words and as a picture of each sheet."""
    (before, was), (after, now) = (_state(id, request.args.get(n, "")) for n in ("before", "after"))
    changes, pictures = compared(*_inked(before, after))
    heights = {sheet: ink.height for sheet, ink in pictures.items()}
    return s.ComparisonJson(
        before=was,
        after=now,
        changes=[
            s.ChangeJson(kind=c.kind, words=c.words, sheet=c.sheet, box=_box(c.box, heights.get(c.sheet, 0.0)), of=c.of)
            for c in changes
        ],
        sheets=[
            s.ComparedSheet(
                id=sheet,
                name=_called(before, after, sheet),
                width=ink.width,
                height=ink.height,
                elements=[screen_element(ink, e) for e in ink.elements],
            )
            for sheet, ink in pictures.items()
        ],
    )


@route(comparing, "GET", "/drawings/{id}/comparison/{kind}", query=("before", "after", "sheet"))
def comparison_file(id: int, kind: str) -> Response:
    """The pictures of what differs as a file: PDF and DXF of all sheets, or of one; SVG and PNG of one."""
    if kind not in WRITERS:
        raise UserError(f"There is no format {kind[:20]}", f"Choose one of {', '.join(WRITERS)}.")
    (before, _), (after, _) = (_state(id, request.args.get(n, "")) for n in ("before", "after"))
    _, pictures = compared(*_inked(before, after))
    own = request.args.get("sheet", "")
    if own and own not in pictures:
        raise NotFound("There is no such sheet", "Choose another.")
    inks = [pictures[own]] if own else list(pictures.values())
    content_type, write = WRITERS[kind]
    with services().rendering():
        data = write(inks)
    words = re.sub(r"[^A-Za-z0-9-]+", "-", f"{request.args.get('before', '')}-{request.args.get('after', '')}")
    headers = {"Content-Disposition": f'attachment; filename="{named(after, id)}-{words}.{kind}"'}
    return Response(data, content_type=content_type, headers=headers)


def _state(id: int, which: str) -> tuple[Drawing, str]:
    """A state of a drawing by its name, and in words."""
    store = services().store
    about, _, name = which.partition("-")
    if which == "now":
        return store.get(id).drawing, "as it stands"
    if about == "step" and name.isdecimal() and len(name) < 12:
        drawing, label = store.at_step(id, int(name))
        return drawing, f"after “{label}”"
    if about == "issue":
        own = next((i for i in store.issues(id) if i.letter == name), None)
        file = next((str(f["name"]) for f in own.files if str(f["name"]).endswith(".json")), "") if own else ""
        if own is None or not file:
            raise NotFound(f"{name[:20] or 'Nothing'} was not issued", "See what there is in the list of issues.")
        try:
            drawing = Drawing.load(json.loads(store.issued_file(id, name, file).read_bytes()))
        except (ValidationError, ValueError) as error:
            raise UserError(f"The document of {name} cannot be read", str(error).splitlines()[0][:200]) from error
        return drawing, f"issue {name}"
    raise UserError(f"There is no state {which[:40] or 'without a name'}", "Say now, step-12 or issue-A, for instance.")


def _inked(*drawings: Drawing) -> tuple[State, ...]:
    """States with the ink of all their sheets, once all views are there."""
    found = []
    for drawing in drawings:
        for sheet in drawing.sheets:
            services().prefetch(drawing, sheet)
        with services().rendering():
            inks: dict[str, DisplayList] = {sheet.id: services().ink(drawing, sheet) for sheet in drawing.sheets}
        found.append(State(drawing, inks))
    return tuple(found)


def _called(before: Drawing, after: Drawing, own: str) -> str:
    """What a sheet is called: by its number, after it or before."""
    drawing = after if after.sheet(own) is not None else before
    sheet = drawing.sheet(own)
    name = f" {sheet.name}" if sheet is not None and sheet.name else ""
    return f"Sheet {drawing.number_of_sheet(own)}{name}{'' if drawing is after else ', gone'}"


def _box(r: Rectangle | None, height: float) -> s.BoxJson | None:
    return None if r is None else s.BoxJson(x=r.x0, y=height - r.y1, width=r.width, height=r.height)
