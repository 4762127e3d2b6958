"""What a house keeps for all its drawings, under names: templates of sheets, and its ways."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select

from ..core.errors import NotFound, UserError
from .columns import Spoilt
from .database import Database
from .tables import KeptRow

MOST = 500
"""How many of a kind are kept."""


class Library(Database):
    """What was kept under a name."""

    def kept(self, kind: str) -> list[tuple[int, str, dict[str, Any]]]:
        """All of a kind that can be read, by name: their numbers, names and data."""
        with self._session() as session:
            rows = list(session.scalars(select(KeptRow).where(KeptRow.kind == kind).order_by(KeptRow.name, KeptRow.id)))
        sound = [r for r in rows if not isinstance(r.data, Spoilt) and isinstance(r.data, dict)]
        return [(r.id, str(r.name), r.data) for r in sound]

    def keep(self, kind: str, name: str, data: dict[str, Any]) -> int:
        """Keep something under a name, in place of what was there of its kind under it. Its number."""
        with self._session(write=True) as session:
            rows = list(session.scalars(select(KeptRow).where(KeptRow.kind == kind)))
            same = next((r for r in rows if r.name == name), None)
            if same is None and len(rows) >= MOST:
                raise UserError("The list is full", f"At most {MOST} are kept; remove some first.")
            row = same or KeptRow(kind=kind, name=name, data=data)
            row.data = data
            session.add(row)
            session.flush()
            return int(row.id)

    def remove_kept(self, kind: str, number: int) -> None:
        """Remove one of them."""
        with self._session(write=True) as session:
            row = session.get(KeptRow, number)
            if row is None or row.kind != kind:
                raise NotFound("It is gone", "It was removed already.")
            session.delete(row)
