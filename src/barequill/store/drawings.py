"""The store: parts and drawings in SQLite, with every step kept."""

from __future__ import annotations

import re
import shutil
import time
from collections import OrderedDict
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from threading import Lock
from typing import Any
from uuid import uuid4

from alembic import command
from alembic.config import Config
from alembic.util import CommandError
from pydantic_core import from_json, to_json
from sqlalchemy import String, bindparam, cast, create_engine, delete, event, insert, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session, sessionmaker

from ..core.drawing import Drawing, Operation, apply, label
from ..core.errors import BadOperation, NotFound, StaleRevision, Unwritable, UserError
from .faults import untold
from .tables import ActRow, Base, DrawingRow, PartRow, StepRow, now


@dataclass(frozen=True)
class Standing:
    """A drawing as it stands."""

    id: int
    revision: int
    drawing: Drawing
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Written:
    """A document as JSON, to be kept in more than one place."""

    text: str


class Store:
    """All that is kept, below one folder."""

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
        # a revision of a drawing never changes, and no number is given out twice
        self._standings: OrderedDict[tuple[int, int], Standing] = OrderedDict()
        self._holding = Lock()
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

    def parts(self, search: str = "") -> list[PartRow]:
        """Parts on the shelf, newest first."""
        with self._session() as session:
            rows = list(session.scalars(select(PartRow).order_by(PartRow.created.desc())))
        wanted = search.lower().split()
        return [r for r in rows if all(w in f"{r.name} {r.number} {r.file_name} {r.material}".lower() for w in wanted)]

    def part(self, key: str) -> PartRow:
        """A part by its key."""
        with self._session() as session:
            row = session.get(PartRow, key)
        if row is None:
            raise NotFound("There is no such part", "It was removed from the shelf. Bring its file again.")
        return row

    def keep_part(
        self, key: str, file_name: str, source: Path, summary: dict[str, Any], as_unit: str | None = None
    ) -> PartRow:
        """Put a part on the shelf, with a copy of its file, which tells by its name as which unit it is read; the same
        content again gives the row that is there."""
        if not any((self.home / "parts").glob(f"{key}.*")):
            suffix = Path(file_name).suffix.lower()
            told = f".as-{as_unit}" if as_unit else ""
            target = self.home / "parts" / f"{key}{told}{suffix if re.fullmatch(SUFFIX, suffix) else '.part'}"
            partial = target.with_name(f"{uuid4().hex}.partial")
            try:
                shutil.copyfile(source, partial)
                partial.replace(target)
            finally:
                partial.unlink(missing_ok=True)
        with self._session(write=True) as session:
            row = session.get(PartRow, key)
            if row is None:
                material = next((b["material"] for b in summary["bodies"] if b["material"]), "") or ""
                row = PartRow(
                    key=key,
                    file_name=file_name,
                    name=summary["name"],
                    number=summary["number"],
                    material=material,
                    summary=summary,
                )
                session.add(row)
        return row

    def part_file(self, key: str) -> Path:
        """The file of a part as it was brought."""
        self.part(key)
        path = next((self.home / "parts").glob(f"{key}.*"), None)
        if path is None:
            raise NotFound("The part's file is gone", "Bring the part file again; drawings of it will find it.")
        return path

    def set_part(self, key: str, changes: dict[str, Any]) -> PartRow:
        """Change a part's name, number, material or density."""
        with self._session(write=True) as session:
            row = session.get(PartRow, key)
            if row is None:
                raise NotFound("There is no such part", "It was removed from the shelf.")
            for name, value in changes.items():
                setattr(row, name, value)
        return row

    def remove_part(self, key: str) -> None:
        """Take a part off the shelf, where no drawing shows it."""
        with self._session(write=True) as session:
            row = session.get(PartRow, key)
            if row is None:
                raise NotFound("There is no such part", "It was removed already.")
            for drawing in session.scalars(select(DrawingRow)):
                if any(p["key"] == key for p in drawing.document["parts"]):
                    title = drawing.document["fields"].get("number") or f"drawing {drawing.id}"
                    raise UserError("The part is in use", f"{title} shows it. Remove that drawing first.")
            held = select(StepRow.drawing_id).where(cast(StepRow.document, String).contains(f'"{key}"')).limit(1)
            if (drawing_id := session.scalar(held)) is not None:
                way = f"Drawing {drawing_id} showed it, and can go back to that. Remove that drawing first."
                raise UserError("The part is in use", way)
            session.delete(row)
        for path in (self.home / "parts").glob(f"{key}.*"):
            path.unlink(missing_ok=True)

    def drawings(self, search: str = "") -> list[DrawingRow]:
        """Drawings, last changed first, searched over all their fields."""
        with self._session() as session:
            rows = list(session.scalars(select(DrawingRow).order_by(DrawingRow.changed.desc())))
        wanted = search.lower().split()
        return [r for r in rows if all(w in r.search for w in wanted)]

    def add(self, drawing: Drawing, first: str = "New drawing") -> Standing:
        """Keep a new drawing."""
        with self._session(write=True) as session:
            row = DrawingRow(document=drawing.to_json(), search=_search(drawing), revision=1)
            session.add(row)
            session.flush()
            session.add(StepRow(drawing_id=row.id, position=0, label=first, operation={}, document=row.document))
            session.add(ActRow(drawing_id=row.id, revision=1, label=first))
            return self._standing(session, row)

    def get(self, drawing_id: int) -> Standing:
        """A drawing as it stands."""
        with self._session() as session:
            found = session.connection().execute(STANDS, {"drawing": drawing_id}).one_or_none()
            held = self._held(drawing_id, found and found.revision)
            if held is not None:
                return held
            return self._hold(self._standing(session, self._row(session, drawing_id)))

    def remove(self, drawing_id: int) -> None:
        """Remove a drawing with its history."""
        with self._session(write=True) as session:
            row = self._row(session, drawing_id)
            session.delete(row)

    def history(self, drawing_id: int) -> list[tuple[int, str, bool]]:
        """Steps of a drawing: position, label, whether it stands at or before the present one."""
        with self._session() as session:
            row = self._row(session, drawing_id)
            steps = session.scalars(select(StepRow).where(StepRow.drawing_id == drawing_id).order_by(StepRow.position))
            return [(s.position, s.label, s.position <= row.position) for s in steps]

    def act(self, drawing_id: int, revision: int, plan: Callable[[Drawing], Operation]) -> Standing:
        """Apply an operation to a drawing that the caller last saw at ``revision``.

        Raises
        ------
        StaleRevision
            Where it has changed since; the message tells what.
        """
        before = self._seen(drawing_id, revision).drawing
        # planned while nothing is locked: it may wait for views; written only where nothing has changed meanwhile
        operation = plan(before)
        after = apply(before, operation)
        text, told, document = label(operation), operation.model_dump(mode="json"), Written(after.model_dump_json())
        with self._session(write=True) as session:
            position = self._fresh(session, drawing_id, revision) + 1
            connection = session.connection()
            connection.execute(FORGET, {"drawing": drawing_id, "begin": position})
            step = {"drawing_id": drawing_id, "position": position, "label": text, "document": document}
            connection.execute(ADD_STEP, {**step, "operation": told})
            self._store(session, drawing_id, (revision + 1, position), after, document, text)
        return self._hold(Standing(drawing_id, revision + 1, after, text, None))

    def step(self, drawing_id: int, revision: int, by: int) -> Standing:
        """Undo (by -1) or redo (by +1)."""
        with self._session(write=True) as session:
            old = self._fresh(session, drawing_id, revision)
            near = StepRow.drawing_id == drawing_id, StepRow.position.between(old - 2, old + 2)
            labels = {p: t for p, t in session.execute(select(StepRow.position, StepRow.label).where(*near))}
            position = old + by
            if position not in labels:
                raise BadOperation(
                    "Nothing to undo" if by < 0 else "Nothing to redo",
                    "The drawing stands at the " + ("first" if by < 0 else "last") + " step.",
                )
            found = session.scalar(
                select(StepRow.document).where(StepRow.drawing_id == drawing_id, StepRow.position == position)
            )
            assert found is not None
            drawing, last = Drawing.load(found), self._last_id(session, drawing_id, revision)
            # numbers of elements that were taken back are not given out again
            drawing = drawing.model_copy(update={"last_id": max(drawing.last_id, last)})
            text = f"Undo: {labels[old]}" if by < 0 else f"Redo: {labels[position]}"
            written = Written(drawing.model_dump_json())
            self._store(session, drawing_id, (revision + 1, position), drawing, written, text)
        undo = labels[position] if position > 0 else None
        return self._hold(Standing(drawing_id, revision + 1, drawing, undo, labels.get(position + 1)))

    def _last_id(self, session: Session, drawing_id: int, revision: int) -> int:
        """The last number that was given to an element of a drawing."""
        held = self._held(drawing_id, revision)
        return held.drawing.last_id if held else int(self._row(session, drawing_id).document["last_id"])

    def _store(
        self, session: Session, drawing_id: int, at: tuple[int, int], drawing: Drawing, document: Written, text: str
    ) -> None:
        """Write a drawing as it stands ``at`` a revision and a position, and what was done."""
        revision, position = at
        connection = session.connection()
        changes = {"document": document, "search": _search(drawing), "changed": now()}
        connection.execute(WRITE, {**changes, "drawing": drawing_id, "revision": revision, "position": position})
        connection.execute(ADD_ACT, {"drawing_id": drawing_id, "revision": revision, "label": text})

    def _row(self, session: Session, drawing_id: int) -> DrawingRow:
        row = session.get(DrawingRow, drawing_id)
        if row is None:
            raise NotFound(*GONE)
        return row

    def _fresh(self, session: Session, drawing_id: int, revision: int) -> int:
        """The position of a drawing that stands at ``revision``; raises StaleRevision where it has changed since."""
        found = session.connection().execute(STANDS, {"drawing": drawing_id}).one_or_none()
        if found is None:
            raise NotFound(*GONE)
        if found.revision != revision:
            acts = session.scalars(
                select(ActRow.label)
                .where(ActRow.drawing_id == drawing_id, ActRow.revision > revision)
                .order_by(ActRow.revision)
            )
            what = "; ".join(list(acts)[-5:]) or "it was replaced"
            raise StaleRevision(
                "The drawing has changed in another window",
                f"Since then: {what}. Those changes are now shown here; do yours again.",
            )
        return int(found.position)

    def _seen(self, drawing_id: int, revision: int) -> Standing:
        """A drawing that stands at ``revision``; raises StaleRevision where it has changed since."""
        standing = self.get(drawing_id)
        if standing.revision != revision:
            with self._session() as session:
                self._fresh(session, drawing_id, revision)
        return standing

    def _held(self, drawing_id: int, revision: int | None) -> Standing | None:
        with self._holding:
            return self._standings.get((drawing_id, revision or 0))

    def _hold(self, standing: Standing) -> Standing:
        with self._holding:
            self._standings[standing.id, standing.revision] = standing
            while len(self._standings) > HELD:
                self._standings.popitem(last=False)
        return standing

    def _standing(self, session: Session, row: DrawingRow) -> Standing:
        def name(position: int) -> str | None:
            return session.scalar(
                select(StepRow.label).where(StepRow.drawing_id == row.id, StepRow.position == position)
            )

        return Standing(
            row.id,
            row.revision,
            Drawing.load(row.document),
            name(row.position) if row.position > 0 else None,
            name(row.position + 1),
        )


DRAWINGS, STEPS, ACTS = (Base.metadata.tables[name] for name in ("drawings", "steps", "acts"))
# what every act needs is put together once: that takes longer than doing it
STANDS = select(DRAWINGS.c.revision, DRAWINGS.c.position).where(DRAWINGS.c.id == bindparam("drawing"))
FORGET = delete(STEPS).where(STEPS.c.drawing_id == bindparam("drawing"), STEPS.c.position >= bindparam("begin"))
ADD_STEP, ADD_ACT = insert(STEPS), insert(ACTS)
WRITE = update(DRAWINGS).where(DRAWINGS.c.id == bindparam("drawing"))
GONE = "There is no such drawing", "It was removed. Go back to the shelf."
HELD = 32
"""Drawings, as they stood at a revision, that are held in memory."""
SUFFIX = r"\.[a-z0-9]{1,8}"
"""What the name of a part file may end in; it becomes part of file names."""
CHECKED = 200_000_000
"""Bytes up to which a database is looked through when it is opened."""


def _search(drawing: Drawing) -> str:
    words = [*drawing.fields.values(), *(x for p in drawing.parts for x in (p.name, p.number, p.material))]
    return " ".join(words).lower()


def _pragmas(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    cursor = connection.cursor()
    for line in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {line}")
    cursor.close()
