"""Small tools of the API: typed routes, problem details."""

from __future__ import annotations

import errno
import logging
import re
from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps
from typing import Any, cast

from flask import Blueprint, Flask, Response, current_app, jsonify, request
from pydantic import BaseModel, ValidationError
from sqlalchemy.exc import DBAPIError
from werkzeug.exceptions import HTTPException

from ..core.errors import OurFault, Unwritable, UserError
from ..core.reading.reading import LARGEST
from ..store import storage_error
from .guards import JSON_LIMIT, UPLOADS, json_body
from .schemas import DrawingState, Preview, Proposal, SheetInk, problem
from .services import Services

log = logging.getLogger("barequill")


@dataclass(frozen=True)
class Route:
    """A route as OpenAPI shows it."""

    method: str
    path: str
    name: str
    summary: str
    body: type[BaseModel] | None
    answer: Any
    query: tuple[str, ...]
    status: int
    upload: bool = False
    """True where a file comes as a form."""


ROUTES: list[Route] = []
COUNTED = ("/drawings", "/own", "/templates", "/ways/kept")
"""Paths in which an ``id`` is a number."""


def services() -> Services:
    """The services of the running application."""
    return cast(Services, current_app.extensions["services"])


def route(
    blueprint: Blueprint,
    method: str,
    path: str,
    *,
    body: type[BaseModel] | None = None,
    answer: Any = None,
    query: tuple[str, ...] = (),
    status: int = 200,
    upload: bool = False,
) -> Callable[[Callable[..., Any]], Callable[..., Any]]:
    """Add a route: its body is checked against a model and handed over as ``body``; models become JSON."""

    def add(function: Callable[..., Any]) -> Callable[..., Any]:
        ROUTES.append(
            Route(
                method=method,
                path=path,
                name=function.__name__,
                summary=(function.__doc__ or "").strip().splitlines()[0],
                body=body,
                answer=answer,
                query=query,
                status=status,
                upload=upload,
            )
        )

        @wraps(function)
        def run(**named: Any) -> Any:
            if body is not None:
                named["body"] = body.model_validate(json_body())
            result = function(**named)
            if isinstance(result, Response):
                return result
            if isinstance(result, DrawingState):
                response = Response(result.json_text(), content_type="application/json")
            elif isinstance(result, BaseModel):
                # ink leaves out what is empty
                sparse = isinstance(result, SheetInk | Preview | Proposal)
                response = Response(result.model_dump_json(exclude_unset=sparse), content_type="application/json")
            else:
                plain = [r.model_dump(mode="json") if isinstance(r, BaseModel) else r for r in result]
                response = jsonify(plain if isinstance(result, list) else result)
            response.status_code = status
            return response

        flask_path = (
            path.replace("{", "<").replace("}", ">").replace("<id>", "<int(max=9223372036854775807):id>")
            if any(p in path for p in COUNTED)
            else path.replace("{", "<").replace("}", ">")
        )
        if upload:
            UPLOADS.add(f"{blueprint.name}.{function.__name__}")
        blueprint.add_url_rule(flask_path, function.__name__, run, methods=[method])
        return function

    return add


def whole(name: str, otherwise: int) -> int:
    """A whole number of the query.

    Raises
    ------
    UserError
        Where it is none.
    """
    text = request.args.get(name, "")
    if not text:
        return otherwise
    if not re.fullmatch(r"-?\d{1,15}", text, re.ASCII):
        raise UserError(f"{name} is no number", f"It is asked for as {text[:40]!r}; give a whole number.")
    return int(text)


def _problem(title: str, detail: str, status: int, kind: str) -> Response:
    response = jsonify(problem(title, detail, status, kind))
    response.status_code = status
    response.content_type = "application/problem+json"
    return response


def add_error_handlers(app: Flask) -> None:
    """Turn every error into problem details."""

    @app.errorhandler(UserError)
    def _user(error: UserError) -> Response:
        return _problem(error.title, error.detail, error.status, error.kind)

    @app.errorhandler(ValidationError)
    def _validation(error: ValidationError) -> Response:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"])
        return _problem("The request is not as it should be", f"{where}: {first['msg']}.", 422, "bad-request")

    @app.errorhandler(HTTPException)
    def _http(error: HTTPException) -> Response:
        titles = {
            413: "The file is too large",
            404: "There is nothing here",
            405: "That cannot be done here",
            400: "The request is not JSON",
        }
        code = error.code or 500
        details = {
            413: f"A part file may have {LARGEST // 2**20} MB (save it without pictures, or split it), all else "
            f"{JSON_LIMIT / 1e6:.0f} MB.",
        }
        return _problem(titles.get(code, error.name), details.get(code, error.description or ""), code, "http")

    @app.errorhandler(DBAPIError)
    def _database(error: DBAPIError) -> Response:
        found = storage_error(error)
        if found is None:
            return _other(error)
        log.warning("the database refused: %s", error.orig)
        return _user(found)

    @app.errorhandler(OSError)
    def _disk(error: OSError) -> Response:
        if error.errno not in (errno.ENOSPC, errno.EROFS, errno.EDQUOT, errno.EACCES):
            return _other(error)
        log.warning("the disk refused: %s", error)
        return _user(
            Unwritable(
                "It was not kept", f"{error.strerror}. Free some room or see to the folder's permissions; try again."
            )
        )

    @app.errorhandler(Exception)
    def _other(error: Exception) -> Response:
        log.error("a fault of ours: %s %s", request.method, request.path, exc_info=error)
        return _problem(
            "Something went wrong here",
            "The fault is Bare Quill's; it has been logged, and nothing of your drawing is lost. Try again.",
            OurFault.status,
            OurFault.kind,
        )
