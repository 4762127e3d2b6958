"""The application factory."""

from __future__ import annotations

from pathlib import Path

from flask import Flask, Response, jsonify, send_from_directory
from werkzeug.security import safe_join

from ..core.errors import NotFound
from ..core.reading.reading import LARGEST
from ..work.collecting import collect_seldom
from .api import add_error_handlers
from .comparing import comparing
from .containers import containers
from .drawings import drawings
from .guards import add_guards, allowed_hosts
from .issues import issues
from .issuing_several import several
from .library import library
from .openapi import document
from .own import own
from .parts import parts
from .services import Services
from .writing import writing

STATIC = Path(__file__).parent / "static"


def create_app(home: Path, read_limit: float = 180.0) -> Flask:
    """The application over one folder of user data.

    Parameters
    ----------
    home : folder for database, part files and caches; made where it is missing
    read_limit : seconds that reading a part may take
    """
    app = Flask("barequill", static_folder=None)
    app.config["MAX_CONTENT_LENGTH"] = LARGEST + 1_000_000
    app.extensions["services"] = Services(home, read_limit)
    app.register_blueprint(parts, url_prefix="/api")
    app.register_blueprint(drawings, url_prefix="/api")
    app.register_blueprint(writing, url_prefix="/api")
    app.register_blueprint(own, url_prefix="/api")
    app.register_blueprint(comparing, url_prefix="/api")
    app.register_blueprint(several, url_prefix="/api")
    app.register_blueprint(library, url_prefix="/api")
    app.register_blueprint(issues, url_prefix="/api")
    app.register_blueprint(containers, url_prefix="/api")
    add_error_handlers(app)
    add_guards(app, allowed_hosts())
    collect_seldom()
    app.extensions["services"].take_back()

    @app.get("/api/openapi.json")
    def _openapi() -> Response:
        return jsonify(document())

    @app.get("/api/health")
    def _health() -> tuple[Response, int]:
        found = app.extensions["services"].health()
        return jsonify(found), 200 if found["ready"] else 503

    @app.get("/")
    @app.get("/<path:path>")
    def _front(path: str = "") -> Response:
        if path.split("/")[0] == "api":
            raise NotFound(f"There is no /{path}", "What there is stands in /api/openapi.json.")
        known = safe_join(str(STATIC), path) if path else None
        if path and "\0" not in path and known and Path(known).is_file():
            response = send_from_directory(STATIC, path)
            if path.startswith("assets/"):
                response.headers["Cache-Control"] = "public, max-age=31536000, immutable"
            return response
        return send_from_directory(STATIC, "index.html", max_age=0)

    return app
