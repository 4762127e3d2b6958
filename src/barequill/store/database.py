"""The database: opened and brought to this version, or refused with what is to be done."""

from __future__ import annotations

import logging
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from sqlalchemy import create_engine, event
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from ..core.errors import UserError
from . import home as folder_of
from .faults import storage_error

log = logging.getLogger(__name__)
CHECKED = 200_000_000
"""Bytes up to which a database is looked through when it is opened."""


class Database:
    """The tables and the part files beside them, below one folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        folder_of.prepare(home)
        self.file = home / folder_of.DATABASE
        self._engine = create_engine(f"sqlite:///{self.file}", connect_args={"timeout": 30})
        event.listen(self._engine, "connect", _pragmas)
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)
        self._open()

    def _open(self) -> None:
        """Bring the tables to this version.

        Raises
        ------
        UserError
            Where the database is damaged, of a newer version, or cannot be written.
        """
        try:
            self._migrate()
            folder_of.sweep(self.home / "parts")
        except CommandError as error:
            self.close()
            raise UserError(
                f"{self.file} was written by a newer Bare Quill",
                "Start that version, or name another folder in BAREQUILL_HOME; nothing was changed.",
            ) from error
        except DBAPIError as error:
            self.close()
            if found := storage_error(error):
                raise found from error
            raise UserError(
                f"{self.file} is damaged",
                "Put back a copy of it, or move it away to begin anew: the parts whose files lie beside it are then put "
                "back on the shelf. Nothing was changed.",
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
        with self._engine.connect() as connection:
            if connection.exec_driver_sql("PRAGMA auto_vacuum").scalar() != INCREMENTAL:
                # a database from before: made anew once, so that what is removed gives its room back
                try:
                    connection.exec_driver_sql(f"PRAGMA auto_vacuum={INCREMENTAL}")
                    connection.exec_driver_sql("VACUUM")
                except DBAPIError as error:
                    log.warning("the database was not made smaller: %s", error.orig)
        self._engine.dispose()

    def give_room_back(self) -> None:
        """Make the database smaller by what was removed from it."""
        with suppress(DBAPIError, sqlite3.Error), self._engine.connect() as connection:
            # as a script: asked for alone, it gives back a single page
            connection.connection.cursor().executescript("PRAGMA incremental_vacuum; PRAGMA wal_checkpoint(TRUNCATE);")

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


INCREMENTAL = 2
"""SQLite's number for a file that can be made smaller in part."""


def _pragmas(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    # a byte that is damaged spoils its own text, not all that is asked for with it
    connection.text_factory = lambda data: data.decode("utf-8", "replace")
    cursor = connection.cursor()
    for line in (f"auto_vacuum={INCREMENTAL}", "journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {line}")
    cursor.close()
