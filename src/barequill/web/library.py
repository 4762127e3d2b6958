"""Templates of sheets that a house keeps, as files too, and pictures for their cells."""

from __future__ import annotations

import json
from typing import TypeVar
from urllib.parse import quote

from flask import Blueprint, Response, request
from pydantic import BaseModel, ValidationError

from ..core.acts.take_ways import ways_to_give
from ..core.acts.title_block import template_of
from ..core.drawing import Sheet
from ..core.drawing.pictures import Picture
from ..core.drawing.templates import SHIPPED, Template, TemplateFile, shipped
from ..core.drawing.ways import Ways, WaysFile
from ..core.errors import NotFound, UserError
from ..store.drawings import DrawingSnapshot
from ..work.pictures import picture_of
from . import schemas as s
from .api import route, services

library = Blueprint("library", __name__)
LARGEST = 4 * 1024 * 1024
"""Bytes of a template's file or of a picture."""


@route(library, "GET", "/templates", answer=list[s.KeptTemplate])
def templates() -> list[s.KeptTemplate]:
    """All templates: those that come along, then those that were kept; what cannot be read any more is left out."""
    found = [s.KeptTemplate(id=None, name=shipped(n).name or "ISO 7200", template=shipped(n)) for n in SHIPPED]
    return found + _sound("template", s.KeptTemplate)


@route(library, "POST", "/templates", body=s.KeepTemplate, answer=s.KeptTemplate, status=201)
def keep_template(body: s.KeepTemplate) -> s.KeptTemplate:
    """Keep the template of a drawing's sheet under a name, in place of one that had it, with the fields that are of the house."""
    snapshot, sheet = _sheet_of(body.drawing, body.sheet)
    return _kept(template_of(snapshot.drawing, sheet, body.name))


@route(library, "POST", "/templates/files", answer=s.KeptTemplate, status=201, upload=True)
def take_template() -> s.KeptTemplate:
    """Take in a template's file, and keep it under its name."""
    name, data = _uploaded()
    found = _read(name, data, TemplateFile, "no template").template
    return _kept(found if found.name else found.model_copy(update={"name": name.rsplit(".", 1)[0][:100] or "Template"}))


@route(library, "DELETE", "/templates/{id}")
def remove_template(id: int) -> dict[str, str]:
    """Remove a template from what is kept; drawings that have it keep it."""
    services().store.remove_kept("template", id)
    return {}


@route(library, "GET", "/drawings/{id}/template", query=("sheet",))
def template_file(id: int) -> Response:
    """The template of a sheet as a file of its own."""
    snapshot, sheet = _sheet_of(id, request.args.get("sheet", ""))
    found = template_of(snapshot.drawing, sheet)
    return _given(TemplateFile(template=found), f"{found.name}.template.json")


@route(library, "GET", "/ways/kept", answer=list[s.KeptWays])
def kept_ways() -> list[s.KeptWays]:
    """All ways that were kept; what cannot be read any more is left out."""
    return _sound("ways", s.KeptWays)


@route(library, "POST", "/ways/kept", body=s.KeepWays, answer=s.KeptWays, status=201)
def keep_ways(body: s.KeepWays) -> s.KeptWays:
    """Keep the ways of a drawing under a name, in place of those that had it, with what its title block says of the house and its general
    notes."""
    return _ways_kept(body.name, ways_to_give(services().store.get(body.drawing).drawing))


@route(library, "POST", "/ways/files", answer=s.KeptWays, status=201, upload=True)
def take_ways() -> s.KeptWays:
    """Take in the file of ways, and keep them under their name."""
    found = _read(*_uploaded(), WaysFile, "no file of ways")
    return _ways_kept(found.name, found.ways)


@route(library, "DELETE", "/ways/kept/{id}")
def remove_ways(id: int) -> dict[str, str]:
    """Remove ways from what is kept; drawings that were given them keep them."""
    services().store.remove_kept("ways", id)
    return {}


@route(library, "GET", "/ways/kept/{id}/file")
def ways_file(id: int) -> Response:
    """Kept ways as a file of their own."""
    own = next((w for w in kept_ways() if w.id == id), None)
    if own is None:
        raise NotFound("It is gone", "It was removed already.")
    return _given(WaysFile(name=own.name, ways=own.ways), f"{own.name}.ways.json")


@route(library, "POST", "/pictures", answer=Picture, upload=True)
def read_picture() -> Picture:
    """A picture for a cell, from SVG, PNG or JPEG: its areas and lines in one colour."""
    name, data = _uploaded()
    with services().unpacking:
        return picture_of(name, data)


def _sheet_of(drawing: int, sheet: str) -> tuple[DrawingSnapshot, Sheet]:
    snapshot = services().store.get(drawing)
    return snapshot, services().sheet(snapshot.drawing, sheet or snapshot.drawing.front_sheet.id)


def _given(file: BaseModel, name: str) -> Response:
    headers = {"Content-Disposition": f"attachment; filename*=UTF-8''{quote(name)}"}
    return Response(file.model_dump_json(indent=1), content_type="application/json", headers=headers)


M = TypeVar("M", bound=BaseModel)


def _sound(kind: str, model: type[M]) -> list[M]:
    """What is kept of a kind, without what cannot be read any more."""
    found = []
    for number, name, data in services().store.kept(kind):
        try:
            found.append(model.model_validate({"id": number, "name": name, kind: data}))
        except ValidationError:
            continue
    return found


def _read(name: str, data: bytes, model: type[M], what: str) -> M:
    """A file of JSON as what it is said to be; ``what`` it is called where it is not."""
    try:
        return model.model_validate(json.loads(data))
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"])
        raise UserError(f"{name} is {what}", f"{where or 'It'}: {first['msg']}."[:300]) from error
    except (ValueError, RecursionError) as error:
        raise UserError(f"{name} is {what}", "It is not JSON; give one out to see what it looks like.") from error


def _ways_kept(name: str, ways: Ways) -> s.KeptWays:
    number = services().store.keep("ways", name, ways.model_dump(mode="json"))
    return s.KeptWays(id=number, name=name, ways=ways)


def _kept(template: Template) -> s.KeptTemplate:
    number = services().store.keep("template", template.name, template.model_dump(mode="json"))
    return s.KeptTemplate(id=number, name=template.name, template=template)


def _uploaded() -> tuple[str, bytes]:
    """The name and the bytes of the file that came along."""
    upload = request.files.get("file")
    if upload is None:
        raise UserError("No file came along", "Send it as the form field named file.")
    data = upload.read(LARGEST + 1)
    name = (upload.filename or "The file").replace("\\", "/").rsplit("/", 1)[-1][:100]
    if len(data) > LARGEST:
        raise UserError(f"{name} is too large", f"At most {LARGEST // 1024 // 1024} MB can be taken.")
    return name, data
