"""Serving the application."""

from __future__ import annotations

import logging
import os
import sys
from pathlib import Path

import waitress

from ..core.errors import UserError


def home() -> Path:
    """Folder for user data: BAREQUILL_HOME, or ``var`` below the working folder."""
    return Path(os.environ.get("BAREQUILL_HOME") or "var").absolute()


def run(host: str, port: int) -> None:
    """Serve until interrupted."""
    from .app import create_app

    logging.basicConfig(
        level=logging.WARNING, stream=sys.stderr, format="%(asctime)s %(name)s %(levelname)s %(message)s"
    )
    app = create_app(home())
    desk = app.extensions["desk"]
    desk.workshop.warm()
    print(f"Bare Quill stands at http://{host}:{port} (data in {home()})", flush=True)
    try:
        waitress.serve(app, host=host, port=port, threads=8, _quiet=True)
    except OSError as error:
        raise UserError(
            f"Port {port} cannot be used", f"{error.strerror}. Stop what listens there or choose another with --port."
        ) from error
    finally:
        desk.close()
