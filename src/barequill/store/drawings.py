"""The store: parts and drawings in SQLite, with every step kept."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from threading import Lock

from sqlalchemy import bindparam, delete, insert, select, update
from sqlalchemy.orm import Session

from ..core.drawing import Drawing, Operation, apply, label
from ..core.errors import BadOperation, NotFound, StaleRevision
from .database import Written
from .shelf import Shelf
from .tables import ActRow, Base, DrawingRow, StepRow, now


@dataclass(frozen=True)
class Standing:
    """A drawing as it stands."""

    id: int
    revision: int
    drawing: Drawing
    undo: str | None
    redo: str | None


class Store(Shelf):
    """All that is kept, below one folder."""

    def __init__(self, home: Path) -> None:
        super().__init__(home)
        # a revision of a drawing never changes, and no number is given out twice
        self._standings: OrderedDict[tuple[int, int], Standing] = OrderedDict()
        self._holding = Lock()

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


def _search(drawing: Drawing) -> str:
    words = [*drawing.fields.values(), *(x for p in drawing.parts for x in (p.name, p.number, p.material))]
    return " ".join(words).lower()
