"""Parts on the shelf: their files, and what is known of them."""

from __future__ import annotations

import re
import shutil
from pathlib import Path
from typing import Any
from uuid import uuid4

from sqlalchemy import String, cast, select

from ..core.errors import NotFound, UserError
from .database import Database
from .tables import DrawingRow, PartRow, StepRow

SUFFIX = r"\.[a-z0-9]{1,8}"
"""What the name of a part file may end in; it becomes part of file names."""


class Shelf(Database):
    """The parts that were brought."""

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
