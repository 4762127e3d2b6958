"""The store: parts and drawings in SQLite, with every step kept."""

from __future__ import annotations

import base64
from collections.abc import Callable, Iterable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import datetime, timedelta
from pathlib import Path
from typing import Any

from pydantic_core import from_json
from sqlalchemy import Integer, String, bindparam, delete, func, insert, literal, select, update
from sqlalchemy.exc import DBAPIError
from sqlalchemy.orm import Session

from ..core.drawing import Drawing, Operation, apply, label
from ..core.errors import BadOperation, NotFound, StaleEdit
from ..core.recent import Recent
from .columns import Spoilt
from .issues import Issues
from .keeping import STEPS, DamagedDrawing, Step, document_of, drawing_of, since_whole, step_of, unpacked, up_to
from .library import Library
from .own import OwnSigns
from .shelf import Shelf
from .tables import ActRow, Base, DrawingRow, StepRow, now

PAGE = 200
"""Steps that are told of at once."""


@dataclass(frozen=True)
class DrawingSnapshot:
    """A drawing as it stands."""

    id: int
    edit: int
    drawing: Drawing
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class OnShelf:
    """What the shelf says of a drawing; ``damaged`` says why it cannot be opened, where it cannot."""

    id: int
    edit: int
    number: str
    title: str
    part: str
    sheets: int
    size: str
    changed: str
    parts: tuple[str, ...] = ()
    damaged: str = ""
    removed: str = ""
    tags: tuple[str, ...] = ()


SHOWN = 200_000
"""Characters of what sheets show that are kept to search in."""
DAYS = 30
"""How long what was removed lies in the basket."""


class Store(Shelf, OwnSigns, Library, Issues):
    """All that is kept, below one folder."""

    def __init__(self, home: Path) -> None:
        super().__init__(home)
        # an edit of a drawing never changes, and no number is given out twice
        self._snapshots: Recent[tuple[int, int], DrawingSnapshot] = Recent(HELD)

    def drawings(self, search: str = "", removed: bool = False) -> list[OnShelf]:
        """Drawings, last changed first, those that hold or show all the words that are searched; or those in the basket, last ``removed``
        first."""
        wanted = search.lower().split()
        kept = IN_BASKET if removed else ~IN_BASKET
        order = DrawingRow.removed if removed else DrawingRow.changed
        with self._session() as session:
            rows = list(session.scalars(select(DrawingRow).where(kept).order_by(order.desc(), DrawingRow.id.desc())))
            found = [self._on_shelf(session, r) for r in rows if all(w in _words(r) for w in wanted)]
        return found

    def _on_shelf(self, session: Session, row: DrawingRow) -> OnShelf:
        """What the shelf says of a row, whatever stands in it."""
        changed = "" if isinstance(row.changed, Spoilt) else row.changed.isoformat()
        parts = tuple(str(k) for k in row.parts) if isinstance(row.parts, list) else ()
        edit = row.edit if isinstance(row.edit, int) else 0
        about, why = row.about, ""
        try:
            if any(isinstance(x, Spoilt) for x in (row.edit, row.position, row.last_id)):
                raise DamagedDrawing("The drawing is damaged", "The number of its step cannot be read.")
            if not isinstance(about, dict) or set(about) != set(ABOUT):
                # a drawing from before this was kept, or damaged
                drawing = self._drawing_at(session, row.id, row.position)
                about, parts = _about(drawing), tuple(p.key for p in drawing.parts)
                with suppress(DBAPIError):
                    told = {"about": about, "parts": list(parts)}
                    session.connection().execute(update(DRAWINGS).where(DRAWINGS.c.id == row.id).values(**told))
        except DamagedDrawing as error:
            why, about = f"{error.title}. {error.detail}", {}
        said = {k: str(about.get(k, "")) for k in ("number", "title", "part", "size")}
        sheets = about.get("sheets")
        return OnShelf(
            id=row.id,
            edit=edit,
            sheets=sheets if isinstance(sheets, int) else 0,
            changed=changed,
            parts=parts,
            damaged=why,
            tags=tuple(str(t) for t in row.tags) if isinstance(row.tags, list) else (),
            removed=row.removed.isoformat() if isinstance(row.removed, datetime) else "",
            **said,
        )

    def add(self, drawing: Drawing, first: str = "New drawing") -> DrawingSnapshot:
        """Keep a new drawing."""
        with self._session(write=True) as session:
            row = DrawingRow(search=_search(drawing), edit=1, parts=_keys(drawing), about=_about(drawing))
            row.last_id = drawing.last_id
            session.add(row)
            session.flush()
            self._keep_step(session, row.id, 0, first, None, drawing)
            session.add(ActRow(drawing_id=row.id, edit=1, label=first))
        return self._hold(DrawingSnapshot(row.id, 1, drawing, None, None))

    def get(self, drawing_id: int) -> DrawingSnapshot:
        """A drawing as it stands.

        Raises
        ------
        NotFound, DamagedDrawing
        """
        with self._session() as session:
            row = self._stands(session, drawing_id)
            held = self._held(drawing_id, row.edit)
            if held is not None:
                return held
            drawing = self._drawing_at(session, drawing_id, row.position, row.last_id)
            labels = self._labels(session, drawing_id, row.position)
            undo = labels.get(row.position) if row.position > 0 else None
            return self._hold(DrawingSnapshot(drawing_id, row.edit, drawing, undo, labels.get(row.position + 1)))

    def file_under(self, drawing_id: int, tags: Sequence[str]) -> None:
        """File a drawing under some words, and no others.

        Raises
        ------
        NotFound
        """
        with self._session(write=True) as session:
            self._stands(session, drawing_id)
            told = sorted({t.strip() for t in tags} - {""}, key=str.lower)
            session.connection().execute(update(DRAWINGS).where(DRAWINGS.c.id == drawing_id).values(tags=told))

    def keep_shown(self, drawing_id: int, edit: int, words: Iterable[str]) -> None:
        """Keep the words that the sheets of a drawing show at an edit, to find it by; nothing where it was changed since."""
        with self._session(write=True) as session:
            row = session.get(DrawingRow, drawing_id)
            if row is not None and row.edit == edit:
                row.shown = " ".join(dict.fromkeys(words)).lower()[:SHOWN]

    def edit_of(self, drawing_id: int) -> int:
        """How often a drawing was changed.

        Raises
        ------
        NotFound
        """
        with self._session() as session:
            return int(self._stands(session, drawing_id).edit)

    def remove(self, drawing_id: int) -> None:
        """Lay a drawing with its history into the basket."""
        self._laid(drawing_id, ~IN_BASKET, now())

    def put_back(self, drawing_id: int) -> None:
        """Take a drawing out of the basket again."""
        self._laid(drawing_id, IN_BASKET, None)

    def _laid(self, drawing_id: int, where: Any, at: datetime | None) -> None:
        gone = update(DRAWINGS).where(DRAWINGS.c.id == drawing_id, where).values(removed=at)
        with self._session(write=True) as session:
            found = abs(drawing_id) < 2**63 and session.connection().execute(gone).rowcount
        if not found:
            raise NotFound(*GONE)

    def remove_for_good(self, drawing_id: int) -> None:
        """Remove a drawing with its history from the basket; the database becomes smaller by it."""
        this = delete(DRAWINGS).where(DRAWINGS.c.id == drawing_id, IN_BASKET)
        with self._session(write=True) as session:
            gone = abs(drawing_id) < 2**63 and session.connection().execute(this).rowcount
        if not gone:
            raise NotFound("It is not in the basket", "It was put back, or removed already.")
        self.give_room_back()

    def empty_basket(self, days: int = DAYS) -> int:
        """Remove for good what has lain in the basket for so many days; how many that were."""
        old = IN_BASKET & (DRAWINGS.c.removed < bindparam("before", type_=DRAWINGS.c.removed.type))
        before = {"before": now() - timedelta(days=days)}
        with self._session() as session:
            # at each start: what has nothing to remove writes nothing
            if session.connection().execute(select(DRAWINGS.c.id).where(old).limit(1), before).first() is None:
                return 0
        gone = 0
        # where there is no room to write, it is removed another time
        with suppress(DBAPIError), self._session(write=True) as session:
            gone = int(session.connection().execute(delete(DRAWINGS).where(old), before).rowcount)
        self.give_room_back()
        return gone

    def history(self, drawing_id: int, before: int | None = None, most: int = PAGE) -> list[tuple[int, str, bool]]:
        """Steps of a drawing, in their order: position, label, whether it stands at or before the present one; of many
        the last, or those that come ``before`` a position."""
        with self._session() as session:
            at = self._stands(session, drawing_id).position
            wanted = select(StepRow.position, StepRow.label).where(StepRow.drawing_id == drawing_id)
            if before is not None:
                wanted = wanted.where(StepRow.position < before)
            rows = session.execute(wanted.order_by(StepRow.position.desc()).limit(max(1, min(most, PAGE)))).all()
            return [(p, str(t), p <= at) for p, t in reversed(rows) if isinstance(p, int)]

    def at_step(self, drawing_id: int, position: int) -> tuple[Drawing, str]:
        """A drawing as it was after a step, and what the step was called.

        Raises
        ------
        NotFound, DamagedDrawing
            Where there is no such step; where it cannot be read.
        """
        with self._session() as session:
            self._stands(session, drawing_id)
            label = session.scalar(
                select(StepRow.label).where(StepRow.drawing_id == drawing_id, StepRow.position == position)
            )
            if label is None:
                raise NotFound("There is no such step", "See the steps of the drawing for those that there are.")
            return self._drawing_at(session, drawing_id, position), str(label)

    def as_kept(self, drawing_id: int) -> dict[str, Any]:
        """All that is kept of a drawing, damaged or not, as plain values."""
        with self._session() as session:
            row = session.get(DrawingRow, drawing_id)
            if row is None:
                raise NotFound(*GONE)
            steps = [
                _as_kept(s)
                for s in session.scalars(
                    select(StepRow).where(StepRow.drawing_id == drawing_id).order_by(StepRow.position)
                )
            ]
            found: dict[str, Any] = {
                "drawing": drawing_id,
                "position": _told(row.position),
                "edit": _told(row.edit),
            }
            if not isinstance(row.position, Spoilt):
                try:
                    found["document"] = document_of(self._rows(session, drawing_id, row.position), row.position)
                except DamagedDrawing as error:
                    found["damaged"] = f"{error.title}. {error.detail}"
            return found | {"steps": steps}

    def act(self, drawing_id: int, edit: int, plan: Callable[[Drawing], Operation]) -> DrawingSnapshot:
        """Apply an operation to a drawing that the caller last saw at ``edit``.

        Raises
        ------
        StaleEdit
            Where it has changed since; the message tells what.
        """
        before = self._seen(drawing_id, edit).drawing
        # planned while nothing is locked: it may wait for views; written only where nothing has changed meanwhile
        operation = plan(before)
        after = apply(before, operation)
        text = label(operation, before)
        with self._session(write=True) as session:
            position = self._fresh(session, drawing_id, edit) + 1
            session.connection().execute(FORGET, {"drawing": drawing_id, "begin": position})
            self._keep_step(session, drawing_id, position, text, before, after)
            self._store(session, drawing_id, (edit + 1, position), after, text)
        return self._hold(DrawingSnapshot(drawing_id, edit + 1, after, text, None))

    def step(self, drawing_id: int, edit: int, by: int) -> DrawingSnapshot:
        """Undo so many steps (``by`` below 0), or do them again.

        Raises
        ------
        BadOperation
            Where there are not so many.
        """
        with self._session(write=True) as session:
            old = self._fresh(session, drawing_id, edit)
            position = old + by
            labels = self._labels(session, drawing_id, old) | self._labels(session, drawing_id, position)
            if position not in labels:
                raise BadOperation(
                    "Nothing to undo" if by < 0 else "Nothing to redo",
                    "The drawing stands at the " + ("first" if by < 0 else "last") + " step."
                    if abs(by) == 1
                    else "There are not so many steps.",
                )
            text = f"Undo: {labels[old]}" if by < 0 else f"Redo: {labels[position]}"
            if abs(by) > 1:
                text = f"Go {'back' if by < 0 else 'forward'} to: {labels[position]}"
            return self._go(session, drawing_id, (edit + 1, position), text)

    def rescue(self, drawing_id: int) -> DrawingSnapshot:
        """Go back to the last step that can be read, of a drawing that is damaged where it stands.

        Raises
        ------
        DamagedDrawing
            Where no step of it can be read.
        """
        with self._session(write=True) as session:
            row = session.get(DrawingRow, drawing_id)
            if row is None:
                raise NotFound(*GONE)
            edit = row.edit if isinstance(row.edit, int) else self._last_act(session, drawing_id)
            places = session.scalars(
                select(StepRow.position).where(StepRow.drawing_id == drawing_id).order_by(StepRow.position.desc())
            )
            for position in [p for p in places if isinstance(p, int)]:
                try:
                    self._drawing_at(session, drawing_id, position)
                except DamagedDrawing:
                    continue
                return self._go(session, drawing_id, (edit + 1, position), "Go back to what can be read")
        raise DamagedDrawing(
            "No step of the drawing can be read", "Take out what is kept of it as a file, and remove it."
        )

    def _last_act(self, session: Session, drawing_id: int) -> int:
        acts = select(ActRow.edit).where(ActRow.drawing_id == drawing_id).order_by(ActRow.edit.desc()).limit(1)
        last = session.scalar(acts)
        return last if isinstance(last, int) else 0

    def _go(self, session: Session, drawing_id: int, to: tuple[int, int], text: str) -> DrawingSnapshot:
        """Have a drawing stand at a step, under a new edit."""
        edit, position = to
        last = session.connection().execute(STANDS, {"drawing": drawing_id}).one().last_id
        drawing = self._drawing_at(session, drawing_id, position, last if isinstance(last, int) else 0)
        labels = self._labels(session, drawing_id, position)
        self._store(session, drawing_id, to, drawing, text)
        undo = labels[position] if position > 0 else None
        return self._hold(DrawingSnapshot(drawing_id, edit, drawing, undo, labels.get(position + 1)))

    def _keep_step(
        self, session: Session, drawing_id: int, position: int, text: str, before: Drawing | None, after: Drawing
    ) -> None:
        """Write a step at a position behind the last one."""
        connection = session.connection()
        since = (0, 0, 0, 0)
        if before is not None:
            found = connection.execute(SINCE, {"drawing": drawing_id, "position": position - 1}).one()
            since = (found[0] or 0, found[1], found[2], found[3])
        kept: Step = step_of(before, after, since)
        values = {"drawing_id": drawing_id, "position": position, "label": text, "data": kept.data, "at": now()}
        parts = _keys(after) if kept.whole or before is None or before.parts is not after.parts else None
        connection.execute(ADD_STEP, {**values, "whole": int(kept.whole), "version": kept.version, "parts": parts})

    def _rows(self, session: Session, drawing_id: int, position: int) -> list[Any]:
        return list(session.connection().execute(UP_TO, {"drawing": drawing_id, "position": position}))

    def _drawing_at(self, session: Session, drawing_id: int, position: int, last_id: int = 0) -> Drawing:
        """A drawing as it was at a step; numbers of elements that were taken back are not given out again."""
        drawing = drawing_of(document_of(self._rows(session, drawing_id, position), position))
        return drawing if last_id <= drawing.last_id else drawing.model_copy(update={"last_id": last_id})

    def _labels(self, session: Session, drawing_id: int, position: int) -> dict[int, str]:
        """Labels of the steps about a position."""
        near = StepRow.drawing_id == drawing_id, StepRow.position.between(position - 1, position + 1)
        rows = session.execute(select(StepRow.position, StepRow.label).where(*near))
        return {p: str(t) for p, t in rows if isinstance(p, int)}

    def _store(self, session: Session, drawing_id: int, at: tuple[int, int], drawing: Drawing, text: str) -> None:
        """Write how a drawing stands ``at`` an edit and a position, and what was done."""
        edit, position = at
        connection = session.connection()
        changes = {"search": _search(drawing), "changed": now(), "last_id": drawing.last_id}
        changes |= {"parts": _keys(drawing), "about": _about(drawing)}
        connection.execute(WRITE, {**changes, "drawing": drawing_id, "revision": edit, "position": position})
        connection.execute(ADD_ACT, {"drawing_id": drawing_id, "revision": edit, "label": text})

    def _stands(self, session: Session, drawing_id: int) -> Any:
        """Edit, position and last number of a drawing; raises NotFound or DamagedDrawing."""
        found = None
        if abs(drawing_id) < 2**63:
            found = session.connection().execute(STANDS, {"drawing": drawing_id}).one_or_none()
        if found is None:
            raise NotFound(*GONE)
        if any(not isinstance(x, int) for x in found):
            raise DamagedDrawing(
                "The drawing is damaged", "The number of its step cannot be read. Take it out as a file."
            )
        return found

    def _fresh(self, session: Session, drawing_id: int, edit: int) -> int:
        """The position of a drawing that stands at ``edit``; raises StaleEdit where it has changed since."""
        found = self._stands(session, drawing_id)
        if found.edit != edit:
            acts = session.scalars(
                select(ActRow.label)
                .where(ActRow.drawing_id == drawing_id, ActRow.edit > max(-1, min(edit, 2**62)))
                .order_by(ActRow.edit.desc())
                .limit(5)
            )
            what = "; ".join(str(a) for a in reversed(list(acts))) or "it was replaced"
            raise StaleEdit(
                "The drawing has changed in another window",
                f"Since then: {what}. Those changes are now shown here; do yours again.",
            )
        return int(found.position)

    def _seen(self, drawing_id: int, edit: int) -> DrawingSnapshot:
        """A drawing that stands at ``edit``; raises StaleEdit where it has changed since."""
        snapshot = self.get(drawing_id)
        if snapshot.edit != edit:
            with self._session() as session:
                self._fresh(session, drawing_id, edit)
        return snapshot

    def _held(self, drawing_id: int, edit: int | None) -> DrawingSnapshot | None:
        return self._snapshots.get((drawing_id, edit or 0))

    def _hold(self, snapshot: DrawingSnapshot) -> DrawingSnapshot:
        return self._snapshots.keep((snapshot.id, snapshot.edit), snapshot)


DRAWINGS, ACTS = (Base.metadata.tables[name] for name in ("drawings", "acts"))
_DATED = func.coalesce(
    DRAWINGS.c.removed.op("GLOB", return_type=Integer())(literal("[0-9][0-9][0-9][0-9]-*", String)), 0
)
IN_BASKET = (_DATED == 1) & func.julianday(DRAWINGS.c.removed).is_not(None)
"""That a drawing lies in the basket: whatever else stands in that column removes none."""
# what every act needs is put together once: that takes longer than doing it
STANDS = select(DRAWINGS.c.revision.label("edit"), DRAWINGS.c.position, DRAWINGS.c.last_id).where(
    DRAWINGS.c.id == bindparam("drawing"), ~IN_BASKET
)
FORGET = delete(STEPS).where(STEPS.c.drawing_id == bindparam("drawing"), STEPS.c.position >= bindparam("begin"))
ADD_STEP, ADD_ACT = insert(STEPS), insert(ACTS).prefix_with("OR REPLACE")
SINCE, UP_TO = since_whole(), up_to()
WRITE = update(DRAWINGS).where(DRAWINGS.c.id == bindparam("drawing"))
GONE = (
    "There is no such drawing",
    "It was removed. Go back to the shelf; what was removed lately lies in the basket there.",
)
HELD = 32
"""Drawings, as they stood at an edit, that are held in memory."""
ABOUT = "number", "title", "part", "sheets", "size"


def _search(drawing: Drawing) -> str:
    words = [*drawing.fields.values(), *(x for p in drawing.parts for x in (p.name, p.number, p.material))]
    return " ".join(words).lower()


def _words(row: DrawingRow) -> str:
    """All words by which a drawing is found, in small letters."""
    tags = " ".join(str(t) for t in row.tags).lower() if isinstance(row.tags, list) else ""
    return f"{row.search} {row.shown} {tags}"


def _keys(drawing: Drawing) -> list[str]:
    return [p.key for p in drawing.parts]


def _about(drawing: Drawing) -> dict[str, Any]:
    sheet = drawing.front_sheet
    use = drawing.subject(sheet)
    number, title = drawing.fields.get("number"), drawing.fields.get("title")
    values = number or (use.number if use else ""), title or (use.name if use else ""), use.name if use else ""
    return dict(zip(ABOUT, (*values, len(drawing.sheets), sheet.size), strict=True))


def _told(value: Any) -> Any:
    return str(value.value) if isinstance(value, Spoilt) else value


def _as_kept(step: StepRow) -> dict[str, Any]:
    """A step as plain values; what cannot be read as text, or else as bytes in base 64."""
    found = {"position": _told(step.position), "label": _told(step.label), "whole": _told(step.whole)}
    data = step.data if isinstance(step.data, bytes) else str(_told(step.data)).encode()
    try:
        text = unpacked(data)
    except ValueError:
        return found | {"bytes": base64.b64encode(data).decode()}
    try:
        return found | {"document" if step.whole == 1 else "change": from_json(text)}
    except ValueError:
        return found | {"text": text.decode("utf-8", "replace")}
