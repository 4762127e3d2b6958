"""Who may ask, and how: hosts, origins, forms of bodies, and what every answer forbids the browser."""

from __future__ import annotations

import ipaddress
import json
import os
from typing import Any
from urllib.parse import SplitResult, urlsplit

from flask import Flask, Response, request
from werkzeug.exceptions import RequestEntityTooLarge

from ..core.errors import Forbidden, UserError

JSON_LIMIT = 1_000_000
"""Bytes of a JSON body."""
DEPTH = 40
"""How deep lists and objects may stand in each other in a JSON body."""
LOOPBACK = {"localhost", "127.0.0.1", "::1"}
POLICY = (
    "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'none'; "
    "frame-ancestors 'none'"
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Cross-Origin-Opener-Policy": "same-origin",
}
CHANGING = {"POST", "PUT", "PATCH", "DELETE"}

UPLOADS: set[str] = set()
"""The endpoints to which a file comes as a form; routes add theirs."""


def allowed_hosts() -> set[str]:
    """Names under which the server answers: the loopback's, and those in BAREQUILL_HOSTS (with commas)."""
    return LOOPBACK | {h.strip().lower() for h in os.environ.get("BAREQUILL_HOSTS", "").split(",") if h.strip()}


def is_loopback(host: str) -> bool:
    """True for an address that only this machine reaches."""
    if host.lower() == "localhost":
        return True
    try:
        return ipaddress.ip_address(host.strip("[]")).is_loopback
    except ValueError:
        return False


def add_guards(app: Flask, hosts: set[str]) -> None:
    """Check each request before it is looked at, and put the headers on each answer."""

    @app.before_request
    def _check() -> None:
        if (_parts(f"//{request.host}").hostname or "") not in hosts:
            raise Forbidden(
                "This server does not answer under that name",
                f"It was asked as {request.host[:80]!r}. Open it as http://127.0.0.1, or name the host in BAREQUILL_HOSTS.",
            )
        if not _from_here() and not _followed():
            raise Forbidden("A page of another site cannot do anything here", "Open Bare Quill itself and do it there.")
        if request.method not in CHANGING:
            return
        if request.endpoint in UPLOADS:
            _form("multipart/form-data", "Send the file as a form with the field file.")
        elif request.content_length or request.method != "DELETE":
            _form("application/json", "Send JSON, with its content type.")
            if (request.content_length or 0) > JSON_LIMIT:
                raise RequestEntityTooLarge

    @app.after_request
    def _forbid(response: Response) -> Response:
        for name, value in HEADERS.items():
            response.headers.setdefault(name, value)
        if request.path.startswith("/api"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response


def _parts(address: str) -> SplitResult:
    """An address taken apart; one that is none has no host."""
    try:
        found = urlsplit(address)
        _ = found.hostname, found.port
    except ValueError:
        return urlsplit("")
    return found


def _from_here() -> bool:
    """True where a request comes from a page of this server, or from no page at all."""
    origin, site = request.headers.get("Origin"), request.headers.get("Sec-Fetch-Site", "same-origin")
    ours = True
    if origin is not None:
        named = _parts(origin)
        ours = named.scheme in ("http", "https") and named.netloc.lower() == request.host.lower()
    return ours and site in ("same-origin", "none")


def _followed() -> bool:
    """True where a link of another site to a page of this one was followed: such a page knows nothing of that site."""
    page = request.method == "GET" and not request.path.startswith("/api")
    told = request.headers.get("Sec-Fetch-Mode"), request.headers.get("Sec-Fetch-Dest")
    return page and told == ("navigate", "document") and request.headers.get("Origin") is None


def _form(wanted: str, remedy: str) -> None:
    if request.mimetype != wanted:
        raise Unsupported(f"That is not {wanted}", remedy)


class Unsupported(UserError):
    """A body in a form that is not taken."""

    status = 415
    kind = "unsupported-form"


def json_body() -> Any:
    """The body of the request.

    Raises
    ------
    UserError
        Where it is no JSON, holds figures that are none, or is too deep.
    """
    data = request.get_data(cache=False)
    if len(data) > JSON_LIMIT:
        raise RequestEntityTooLarge
    try:
        value = json.loads(data, parse_constant=_no_figure)
    except RecursionError:
        raise UserError("The request is too deep", "Lists and objects stand too deep in each other.") from None
    except ValueError as error:
        raise UserError("The request is not JSON", f"{str(error)[:200]}.") from None
    if _depth(value) > DEPTH:
        raise UserError("The request is too deep", f"Lists and objects may stand {DEPTH} deep in each other.")
    return value


def _no_figure(name: str) -> float:
    raise ValueError(f"{name} is not a figure")


def _depth(value: Any) -> int:
    deepest, level = 0, [value]
    while level and deepest <= DEPTH:
        level = [y for x in level for y in (x.values() if isinstance(x, dict) else x if isinstance(x, list) else ())]
        deepest += 1
    return deepest
