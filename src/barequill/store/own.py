"""Signs and notes of one's own: kept under a name, and set down again in any drawing."""

from __future__ import annotations

from typing import Any

from sqlalchemy import select

from ..core.errors import NotFound, UserError
from .columns import Spoilt
from .database import Database
from .tables import OwnSignsRow

MOST = 500
"""How many are kept."""


class OwnSigns(Database):
    """What was kept under a name."""

    def own_signs(self) -> list[tuple[int, str, list[dict[str, Any]]]]:
        """All of them that can be read, by name."""
        with self._session() as session:
            rows = list(session.scalars(select(OwnSignsRow).order_by(OwnSignsRow.name, OwnSignsRow.id)))
        sound = [r for r in rows if not isinstance(r.annotations, Spoilt) and isinstance(r.annotations, list)]
        return [(r.id, str(r.name), r.annotations) for r in sound]

    def keep_own_signs(self, name: str, annotations: list[dict[str, Any]]) -> int:
        """Keep annotations under a name; those that were there under it give way to them. Their number."""
        with self._session(write=True) as session:
            rows = list(session.scalars(select(OwnSignsRow)))
            same = next((r for r in rows if r.name == name), None)
            if same is None and len(rows) >= MOST:
                raise UserError("The list is full", f"At most {MOST} are kept; remove some first.")
            row = same or OwnSignsRow(name=name, annotations=annotations)
            row.annotations = annotations
            session.add(row)
            session.flush()
            return int(row.id)

    def remove_own_signs(self, number: int) -> None:
        """Remove one of them."""
        with self._session(write=True) as session:
            row = session.get(OwnSignsRow, number)
            if row is None:
                raise NotFound("It is gone", "It was removed already.")
            session.delete(row)
