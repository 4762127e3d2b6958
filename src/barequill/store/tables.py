"""Tables: parts on the shelf, drawings, and every step that a drawing took."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import ForeignKey, Integer
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from .columns import Bytes, Json, Moment, Real, Whole, Words


def now() -> datetime:
    """The time in UTC."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Base of all tables."""


class PartRow(Base):
    """A part file on the shelf, by its content; ``former``: the key of that of which it is the next revision, empty where it is of none."""

    __tablename__ = "parts"

    key: Mapped[str] = mapped_column(Words, primary_key=True)
    file_name: Mapped[str] = mapped_column(Words)
    name: Mapped[str] = mapped_column(Words)
    number: Mapped[str] = mapped_column(Words)
    material: Mapped[str] = mapped_column(Words, default="")
    density: Mapped[float | None] = mapped_column(Real, nullable=True)
    directions: Mapped[list[dict[str, Any]]] = mapped_column(Json, default=list)
    summary: Mapped[dict[str, Any]] = mapped_column(Json)
    former: Mapped[str] = mapped_column(Words, default="")
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class DrawingRow(Base):
    """A drawing: ``position`` is the step it stands at, ``edit`` grows with every act, ``last_id`` is the last number
    that was given to an element of it, ``parts`` are the keys of those it shows, ``about`` is what the shelf says of it,
    ``search`` and ``shown`` are words that it holds and that its sheets showed when they were drawn last, ``tags`` what it is filed under,
    ``removed`` when it was laid into the basket."""

    __tablename__ = "drawings"
    # no number is given out again, so that nothing kept by number can show another drawing
    __table_args__ = {"sqlite_autoincrement": True}

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    edit: Mapped[int] = mapped_column("revision", Whole, default=0)
    position: Mapped[int] = mapped_column(Whole, default=0)
    last_id: Mapped[int] = mapped_column(Whole, default=0)
    parts: Mapped[list[str]] = mapped_column(Json, default=list)
    about: Mapped[dict[str, Any] | None] = mapped_column(Json, nullable=True)
    search: Mapped[str] = mapped_column(Words, default="")
    shown: Mapped[str] = mapped_column(Words, default="")
    tags: Mapped[list[str]] = mapped_column(Json, default=list)
    created: Mapped[datetime] = mapped_column(Moment, default=now)
    changed: Mapped[datetime] = mapped_column(Moment, default=now)
    removed: Mapped[datetime | None] = mapped_column(Moment, nullable=True)


class StepRow(Base):
    """A step: what it was called, and what it made of the document before it (``whole`` where it is the document itself),
    packed; ``version`` is that of the document, ``parts`` the keys that it shows, where others than those of the step
    before."""

    __tablename__ = "steps"
    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"), primary_key=True)
    position: Mapped[int] = mapped_column(Whole, primary_key=True)
    label: Mapped[str] = mapped_column(Words)
    whole: Mapped[int] = mapped_column(Whole)
    version: Mapped[int] = mapped_column(Whole)
    parts: Mapped[list[str] | None] = mapped_column(Json, nullable=True)
    data: Mapped[bytes] = mapped_column(Bytes)
    at: Mapped[datetime] = mapped_column(Moment, default=now)


class ActRow(Base):
    """What was done at each edit, undo and redo too, for those who look on from another window."""

    __tablename__ = "acts"
    __table_args__ = {"sqlite_with_rowid": False}

    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"), primary_key=True)
    edit: Mapped[int] = mapped_column("revision", Whole, primary_key=True)
    label: Mapped[str] = mapped_column(Words)


class OwnSignsRow(Base):
    """Signs and notes that were kept under a name, as annotations of the document, for any drawing."""

    __tablename__ = "own_signs"

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    name: Mapped[str] = mapped_column(Words)
    annotations: Mapped[list[dict[str, Any]]] = mapped_column(Json)
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class IssueRow(Base):
    """A revision of a drawing as it was issued: what was said of it (``about``), and its ``files`` with their hashes. It stays where the
    drawing is removed."""

    __tablename__ = "issues"
    __table_args__ = {"sqlite_autoincrement": True}

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    drawing_id: Mapped[int] = mapped_column(Whole)
    letter: Mapped[str] = mapped_column(Words)
    about: Mapped[dict[str, Any]] = mapped_column(Json)
    files: Mapped[list[dict[str, Any]]] = mapped_column(Json)
    created: Mapped[datetime] = mapped_column(Moment, default=now)


class KeptRow(Base):
    """What a house keeps for all its drawings under a name; ``kind`` is what it is: a template, or ways."""

    __tablename__ = "kept"

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    kind: Mapped[str] = mapped_column(Words)
    name: Mapped[str] = mapped_column(Words)
    data: Mapped[dict[str, Any]] = mapped_column(Json)
    created: Mapped[datetime] = mapped_column(Moment, default=now)
