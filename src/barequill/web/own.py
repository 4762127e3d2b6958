"""Signs and notes of one's own, for any drawing."""

from __future__ import annotations

from flask import Blueprint
from pydantic import ValidationError

from . import schemas as s
from .api import route, services

own = Blueprint("own", __name__)


@route(own, "GET", "/own", answer=list[s.OwnSignsJson])
def own_signs() -> list[s.OwnSignsJson]:
    """All that was kept under a name; what cannot be read any more is left out."""
    found = []
    for number, name, kept in services().store.own_signs():
        try:
            found.append(s.OwnSignsJson.model_validate({"id": number, "name": name, "annotations": kept}))
        except ValidationError:
            continue
    return found


@route(own, "POST", "/own", body=s.OwnSignsRequest, answer=s.OwnSignsJson, status=201)
def keep(body: s.OwnSignsRequest) -> s.OwnSignsJson:
    """Keep signs and notes under a name, in place of those that had it."""
    plain = [a.model_dump(mode="json") for a in body.annotations]
    number = services().store.keep_own_signs(body.name, plain)
    return s.OwnSignsJson(id=number, name=body.name, annotations=body.annotations)


@route(own, "DELETE", "/own/{id}")
def remove(id: int) -> dict[str, str]:
    """Remove one of them."""
    services().store.remove_own_signs(id)
    return {}
