"""Tables: parts on the shelf, drawings, and every step that a drawing took."""

from __future__ import annotations

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, DateTime, Float, ForeignKey, Index, Integer, String
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    """The time in UTC."""
    return datetime.now(UTC)


class Base(DeclarativeBase):
    """Base of all tables."""


class PartRow(Base):
    """A part file on the shelf, by its content."""

    __tablename__ = "parts"

    key: Mapped[str] = mapped_column(String(40), primary_key=True)
    file_name: Mapped[str] = mapped_column(String(300))
    name: Mapped[str] = mapped_column(String(300))
    number: Mapped[str] = mapped_column(String(300))
    material: Mapped[str] = mapped_column(String(200), default="")
    density: Mapped[float | None] = mapped_column(Float, nullable=True)
    directions: Mapped[list[dict[str, Any]]] = mapped_column(JSON, default=list)
    summary: Mapped[dict[str, Any]] = mapped_column(JSON)
    created: Mapped[datetime] = mapped_column(DateTime, default=now)


class DrawingRow(Base):
    """A drawing as it stands; ``position`` is the step it stands at, ``revision`` grows with every act."""

    __tablename__ = "drawings"
    # no number is given out again, so that nothing kept by number can show another drawing
    __table_args__ = {"sqlite_autoincrement": True}

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    revision: Mapped[int] = mapped_column(Integer, default=0)
    position: Mapped[int] = mapped_column(Integer, default=0)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    search: Mapped[str] = mapped_column(String, default="")
    created: Mapped[datetime] = mapped_column(DateTime, default=now)
    changed: Mapped[datetime] = mapped_column(DateTime, default=now)


class StepRow(Base):
    """An operation and the document after it; undo and redo go along these."""

    __tablename__ = "steps"
    __table_args__ = (Index("steps_of_drawing", "drawing_id", "position", unique=True),)

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"))
    position: Mapped[int] = mapped_column(Integer)
    label: Mapped[str] = mapped_column(String)
    operation: Mapped[dict[str, Any]] = mapped_column(JSON)
    document: Mapped[dict[str, Any]] = mapped_column(JSON)
    at: Mapped[datetime] = mapped_column(DateTime, default=now)


class ActRow(Base):
    """What was done at each revision, undo and redo too, for those who look on from another window."""

    __tablename__ = "acts"
    __table_args__ = (Index("acts_of_drawing", "drawing_id", "revision"),)

    id: Mapped[int] = mapped_column(Integer, primary_key=True)
    drawing_id: Mapped[int] = mapped_column(ForeignKey("drawings.id", ondelete="CASCADE"))
    revision: Mapped[int] = mapped_column(Integer)
    label: Mapped[str] = mapped_column(String)
