"""The database: opened and brought to this version, or refused with what is to be done."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import uuid4

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from pydantic_core import from_json, to_json
from sqlalchemy import create_engine, event, select
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import Unwritable, UserError
from .faults import untold
from .tables import PartRow

CHECKED = 200_000_000
"""Bytes up to which a database is looked through when it is opened."""


@dataclass(frozen=True)
class Written:
    """A document as JSON, to be kept in more than one place."""

    text: str


class Database:
    """The tables and the part files beside them, below one folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        try:
            (home / "parts").mkdir(parents=True, exist_ok=True)
            (home / f".{uuid4().hex}").touch()
        except OSError as error:
            raise Unwritable(
                f"{home} cannot be used",
                f"{error.strerror}. See to the folder's permissions, or name another in BAREQUILL_HOME.",
            ) from error
        finally:
            for trial in home.glob(".????????????????????????????????"):
                trial.unlink(missing_ok=True)
        self.file = home / "barequill.sqlite"
        self._engine = create_engine(
            f"sqlite:///{self.file}",
            connect_args={"timeout": 30},
            json_serializer=lambda value: value.text if isinstance(value, Written) else to_json(value).decode(),
            json_deserializer=from_json,
        )
        event.listen(self._engine, "connect", _pragmas)
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self._open()

    def _open(self) -> None:
        """Bring the tables to this version, and remove part files that no row tells of.

        Raises
        ------
        UserError
            Where the database is damaged, of a newer version, or cannot be written.
        """
        try:
            self._migrate()
            self._sweep()
        except CommandError as error:
            self.close()
            raise UserError(
                f"{self.file} was written by a newer Bare Quill",
                "Start that version, or name another folder in BAREQUILL_HOME; nothing was changed.",
            ) from error
        except DBAPIError as error:
            self.close()
            if found := untold(error):
                raise found from error
            raise UserError(
                f"{self.file} is damaged",
                "Put back a copy of it, or move it away to begin anew; part files beside it are whole. Nothing was changed.",
            ) from error

    def _migrate(self) -> None:
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self._engine.begin() as connection:
            if self.file.stat().st_size < CHECKED:
                (said,) = connection.exec_driver_sql("PRAGMA quick_check(1)").one()
                if said != "ok":
                    raise DBAPIError("quick_check", None, Exception(said))
            # a table that is made anew must not take with it what refers to the old one
            connection.exec_driver_sql("PRAGMA foreign_keys=OFF")
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            config.attributes["connection"] = connection
            command.upgrade(config, "head")
        self._engine.dispose()

    def _sweep(self) -> None:
        """Part files that were being written when their process ended."""
        with self._session() as session:
            keys = set(session.scalars(select(PartRow.key)))
        for path in (self.home / "parts").iterdir():
            if path.name.partition(".")[0] not in keys and time.time() - path.stat().st_mtime > 60:
                path.unlink(missing_ok=True)

    def writable(self) -> bool:
        """True where the database takes what is written, or is just being written by another."""
        try:
            with self._engine.connect() as connection:
                connection.exec_driver_sql("PRAGMA busy_timeout=100")
                try:
                    connection.exec_driver_sql("BEGIN IMMEDIATE")
                    connection.exec_driver_sql("PRAGMA user_version=0")
                    connection.rollback()
                finally:
                    # whoever gets this connection next waits for others as long as all do
                    connection.exec_driver_sql("PRAGMA busy_timeout=30000")
            return True
        except DBAPIError as error:
            return "locked" in str(error)

    def close(self) -> None:
        """Let go of the database."""
        self._engine.dispose()

    @contextmanager
    def _session(self, write: bool = False) -> Iterator[Session]:
        with self._sessions() as session:
            if write:
                # take the write lock at once, so that two writers queue instead of failing half way
                session.connection().exec_driver_sql("BEGIN IMMEDIATE")
            yield session
            if write:
                session.commit()


def _pragmas(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    cursor = connection.cursor()
    for line in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {line}")
    cursor.close()
