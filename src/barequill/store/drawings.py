"""The store: parts and drawings in SQLite, with every step kept."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, delete, event, select
from sqlalchemy.orm import Session, sessionmaker

from ..core.drawing import Drawing, Operation, apply, label
from ..core.errors import BadOperation, NotFound, StaleRevision, UserError
from .tables import ActRow, DrawingRow, PartRow, StepRow, now


@dataclass(frozen=True)
class Standing:
    """A drawing as it stands."""

    id: int
    revision: int
    drawing: Drawing
    undo: str | None
    redo: str | None


class Store:
    """All that is kept, below one folder."""

    def __init__(self, home: Path) -> None:
        self.home = home
        (home / "parts").mkdir(parents=True, exist_ok=True)
        self._engine = create_engine(f"sqlite:///{home / 'barequill.sqlite'}", connect_args={"timeout": 30})
        event.listen(self._engine, "connect", _pragmas)
        self._migrate()
        self._sessions = sessionmaker(self._engine, expire_on_commit=False)

    def _migrate(self) -> None:
        config = Config()
        config.set_main_option("script_location", str(Path(__file__).parent / "migrations"))
        with self._engine.begin() as connection:
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

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

    def keep_part(self, key: str, file_name: str, data: bytes, summary: dict[str, Any]) -> PartRow:
        """Put a part on the shelf; the same content again gives the row that is there."""
        suffix = Path(file_name).suffix.lower() or ".part"
        with self._session(write=True) as session:
            row = session.get(PartRow, key)
            if row is None:
                (self.home / "parts" / f"{key}{suffix}").write_bytes(data)
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
            return self._standing(session, self._row(session, drawing_id))

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
        with self._session(write=True) as session:
            row = self._fresh(session, drawing_id, revision)
            before = Drawing.model_validate(row.document)
            operation = plan(before)
            after = apply(before, operation)
            session.execute(delete(StepRow).where(StepRow.drawing_id == drawing_id, StepRow.position > row.position))
            row.position += 1
            text = label(operation)
            session.add(
                StepRow(
                    drawing_id=drawing_id,
                    position=row.position,
                    label=text,
                    operation=operation.model_dump(mode="json"),
                    document=after.to_json(),
                )
            )
            return self._store(session, row, after, text)

    def step(self, drawing_id: int, revision: int, by: int) -> Standing:
        """Undo (by -1) or redo (by +1)."""
        with self._session(write=True) as session:
            row = self._fresh(session, drawing_id, revision)
            target = session.scalar(
                select(StepRow).where(StepRow.drawing_id == drawing_id, StepRow.position == row.position + by)
            )
            if target is None:
                raise BadOperation(
                    "Nothing to undo" if by < 0 else "Nothing to redo",
                    "The drawing stands at the " + ("first" if by < 0 else "last") + " step.",
                )
            undone = session.scalar(
                select(StepRow.label).where(StepRow.drawing_id == drawing_id, StepRow.position == row.position)
            )
            row.position += by
            text = f"Undo: {undone}" if by < 0 else f"Redo: {target.label}"
            return self._store(session, row, Drawing.model_validate(target.document), text)

    def _store(self, session: Session, row: DrawingRow, drawing: Drawing, text: str) -> Standing:
        row.document = drawing.to_json()
        row.search = _search(drawing)
        row.revision += 1
        row.changed = now()
        session.add(ActRow(drawing_id=row.id, revision=row.revision, label=text))
        session.flush()
        return self._standing(session, row)

    def _row(self, session: Session, drawing_id: int) -> DrawingRow:
        row = session.get(DrawingRow, drawing_id)
        if row is None:
            raise NotFound("There is no such drawing", "It was removed. Go back to the shelf.")
        return row

    def _fresh(self, session: Session, drawing_id: int, revision: int) -> DrawingRow:
        row = self._row(session, drawing_id)
        if row.revision != revision:
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
        return row

    def _standing(self, session: Session, row: DrawingRow) -> Standing:
        def name(position: int) -> str | None:
            return session.scalar(
                select(StepRow.label).where(StepRow.drawing_id == row.id, StepRow.position == position)
            )

        return Standing(
            row.id,
            row.revision,
            Drawing.model_validate(row.document),
            name(row.position) if row.position > 0 else None,
            name(row.position + 1),
        )


def _search(drawing: Drawing) -> str:
    words = [*drawing.fields.values(), *(x for p in drawing.parts for x in (p.name, p.number, p.material))]
    return " ".join(words).lower()


def _pragmas(connection: Any, _record: Any) -> None:
    connection.isolation_level = None
    cursor = connection.cursor()
    for line in ("journal_mode=WAL", "foreign_keys=ON", "synchronous=NORMAL"):
        cursor.execute(f"PRAGMA {line}")
    cursor.close()
