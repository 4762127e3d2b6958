"""Serving the application."""

from __future__ import annotations

import copy
import logging
import os
import resource
import sys
import time
from contextlib import suppress
from pathlib import Path
from typing import Any

from flask import Flask
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import TcpWSGIServer, create_server

from ..core.errors import UserError
from ..core.reading.reading import LARGEST
from ..work.pools import WAITERS
from .guards import JSON_LIMIT, is_loopback

THREADS = WAITERS + 32
"""Of these so many may wait for views; the others answer what needs no waiting."""
MOST_CONNECTIONS, OWN_DESCRIPTORS = 2000, 250
"""Connections at once, and descriptors that the server needs for itself."""
NEARLY, ENOUGH = 0.9, 0.8
"""Shares of the connections that there may be: from the first on idle ones are let go, down to the second."""
PATIENCE, PACE = 20.0, 20_000
"""A request has to be there whole after so many seconds, and a second more for each so many bytes."""


def home() -> Path:
    """Folder for user data: BAREQUILL_HOME, or ``var`` below the working folder."""
    return Path(os.environ.get("BAREQUILL_HOME") or "var").absolute()


class _Parser(HTTPRequestParser):
    """Refuses a body that is too large for its kind as soon as it is told of, or while it streams in."""

    adj: Any

    def parse_header(self, header_plus: bytes) -> None:
        super().parse_header(header_plus)
        kind = self.headers.get("CONTENT_TYPE", "")
        if not (self.path == "/api/parts" and kind.startswith("multipart/form-data")):
            self.adj = copy.copy(self.adj)
            self.adj.max_request_body_size = JSON_LIMIT + 1


class _Channel(HTTPChannel):
    """Drops a connection whose request comes in too slowly."""

    parser_class = _Parser
    began = 0.0

    def received(self, data: bytes) -> bool:
        if self.request is None:
            self.began = time.monotonic()
        return bool(super().received(data))

    def readable(self) -> bool:
        coming = self.request
        if coming is not None:
            allowed = PATIENCE + (coming.header_bytes_received + coming.body_bytes_received) / PACE
            if time.monotonic() - self.began > allowed:
                self.will_close = True
        return bool(super().readable())


class _Server(TcpWSGIServer):
    """Lets connections go on which nothing happens before it takes no more."""

    def readable(self) -> bool:
        most = self.adj.connection_limit
        if len(self._map) >= NEARLY * most:
            idle = [c for c in self.active_channels.values() if not c.requests and not c.will_close]
            idle.sort(key=lambda c: c.last_activity)
            for channel in idle[: len(self._map) - int(ENOUGH * most)]:
                channel.will_close = True
        return bool(super().readable())


def connections() -> int:
    """How many connections there may be: the process is given as many descriptors as it may have."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = MOST_CONNECTIONS + OWN_DESCRIPTORS
    most = wanted if hard == resource.RLIM_INFINITY else min(wanted, hard)
    if soft != resource.RLIM_INFINITY and soft < most:
        with suppress(OSError, ValueError):
            resource.setrlimit(resource.RLIMIT_NOFILE, (most, hard))
            soft = most
    return (
        max(16, min(MOST_CONNECTIONS, soft - OWN_DESCRIPTORS)) if soft != resource.RLIM_INFINITY else MOST_CONNECTIONS
    )


def server(app: Flask, host: str, port: int) -> Any:
    """A server over an application, not yet running; port 0 takes a free one.

    Raises
    ------
    UserError
        Where the address cannot be listened on, or others than this machine would reach it.
    """
    if not is_loopback(host):
        raise UserError(
            f"Bare Quill does not listen at {host}",
            "It has no sign-in, so whoever reaches it could change drawings. Let it listen at 127.0.0.1, and put a "
            "gateway with a sign-in before it (its name in BAREQUILL_HOSTS).",
        )
    if not 0 <= port <= 65535:
        raise UserError(f"{port} is no port", "Choose one from 1 to 65535 with --port.")
    try:
        made = create_server(
            app,
            host=host,
            port=port,
            threads=THREADS,
            connection_limit=connections(),
            channel_timeout=60,
            cleanup_interval=5,
            max_request_body_size=LARGEST + 1_000_000,
            asyncore_use_poll=True,
        )
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or str(error)
        raise UserError(
            f"Port {port} of {host} cannot be used", f"{why}. Stop what listens there or choose another with --port."
        ) from error
    for each in made._map.values() if hasattr(made, "_map") else [made]:
        if hasattr(each, "channel_class"):
            each.channel_class = _Channel
            each.__class__ = _Server
    return made


def run(host: str, port: int) -> None:
    """Serve until interrupted."""
    logging.getLogger("waitress.queue").setLevel(logging.ERROR)
    logging.basicConfig(
        level=logging.WARNING, stream=sys.stderr, format="%(asctime)s %(name)s %(levelname)s %(message)s"
    )
    from .app import create_app

    def app(environ: Any, start: Any) -> Any:
        return made(environ, start)

    # what is written from now on is for its owner alone
    os.umask(0o077)
    # the address first: nothing is started where it cannot be used
    listening = server(app, host, port)  # type: ignore[arg-type]
    try:
        made = create_app(home())
    except BaseException:
        listening.close()
        raise
    services = made.extensions["services"]
    try:
        services.workshop.warm()
        print(f"Bare Quill stands at http://{host}:{port} (data in {home()})", flush=True)
        listening.run()
    except (KeyboardInterrupt, SystemExit):
        pass
    finally:
        services.close()
