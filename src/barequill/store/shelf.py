"""Parts on the shelf: their files, and what is known of them."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from datetime import datetime
from pathlib import Path
from typing import Any

from sqlalchemy import select
from sqlalchemy.orm import Session

from ..core.drawing.part_files import ENDING, PART_FILE, SUFFIX
from ..core.errors import NotFound, StaleEdit, UserError
from ..core.standards.materials import MATERIALS
from .columns import Spoilt
from .database import Database
from .home import under_way
from .tables import DrawingRow, PartRow, StepRow, now


class Shelf(Database):
    """The parts that were brought."""

    def parts(self, search: str = "") -> list[PartRow]:
        """Parts on the shelf, newest first."""
        with self._session() as session:
            rows = list(session.scalars(select(PartRow).order_by(PartRow.created.desc(), PartRow.key)))
        wanted = search.lower().split()
        return [r for r in rows if all(w in f"{r.name} {r.number} {r.file_name} {r.material}".lower() for w in wanted)]

    def found(self) -> list[tuple[str, Path, str | None]]:
        """Part files that no row tells of: key, file, and as which unit it is read. They may have lain here before."""
        with self._session() as session:
            keys = set(session.scalars(select(PartRow.key)))
        named = ((PART_FILE.fullmatch(p.name), p) for p in sorted((self.home / "parts").iterdir()))
        return [(m[1], p, m[2]) for m, p in named if m and m[1] not in keys and p.is_file() and not p.is_symlink()]

    def part(self, key: str) -> PartRow:
        """A part by its key."""
        with self._session() as session:
            return _on_shelf(session, key, "It was removed from the shelf. Bring its file again.")

    def keep_part(
        self,
        key: str,
        file_name: str,
        source: Path,
        summary: dict[str, Any],
        as_unit: str | None = None,
        former: str = "",
    ) -> PartRow:
        """Put a part on the shelf, with a copy of its file, which tells by its name as which unit it is read; the same
        content again gives the row that is there. As the next revision of a ``former`` part it has from that what its file does not say.

        Raises
        ------
        UserError
            Where it cannot be a revision of that.
        """
        if next(self._files(key), None) is None:
            suffix = Path(file_name).suffix.lower()
            told = f".as-{as_unit}" if as_unit else ""
            target = self.home / "parts" / f"{key}{told}{suffix if re.fullmatch(SUFFIX, suffix) else '.part'}"
            with under_way(target) as partial:
                shutil.copyfile(source, partial)
        material = next((b["material"] for b in summary["bodies"] if b["material"]), "") or ""
        fresh = {"name": summary["name"], "number": summary["number"], "material": material, "summary": summary}
        # what a file weighs by itself counts before what its material usually does
        density = MATERIALS.get(material) if summary.get("mass") is None else None
        fresh |= {"file_name": file_name, "density": density, "directions": [], "created": now()}
        with self._session(write=True) as session:
            row = session.get(PartRow, key)
            before = session.get(PartRow, former) if former else None
            if row is None:
                row = PartRow(key=key, **(fresh | _carried(before, fresh)))
                session.add(row)
            if before is not None and row.former != former:
                _check_former(session, row, former)
                row.former = former
            for name, value in fresh.items():
                # what is damaged is put right by bringing the same file again
                if isinstance(getattr(row, name), Spoilt) or (name == "summary" and not sound(row.summary)):
                    setattr(row, name, value)
        return row

    def part_file(self, key: str) -> Path:
        """The file of a part as it was brought."""
        self.part(key)
        path = next(self._files(key), None)
        if path is None:
            raise NotFound("The part's file is gone", "Bring the part file again; drawings of it will find it.")
        return path

    def _files(self, key: str) -> Iterator[Path]:
        """The files of a part."""
        named = re.compile(rf"{re.escape(key)}{ENDING}")
        return (p for p in (self.home / "parts").iterdir() if named.fullmatch(p.name))

    def set_part(self, key: str, changes: dict[str, Any], seen: list[dict[str, Any]] | None = None) -> PartRow:
        """Change a part's name, number, material, density, or directions, these only where they still are as ``seen``.

        Raises
        ------
        StaleEdit
            Where the directions are others by now.
        """
        with self._session(write=True) as session:
            row = _on_shelf(session, key, "It was removed from the shelf.")
            if seen is not None and not isinstance(row.directions, Spoilt) and row.directions != seen:
                raise StaleEdit(
                    "The directions have changed in another window",
                    "Nothing was overwritten. Look at the part again, and keep yours then.",
                )
            for name, value in changes.items():
                setattr(row, name, value)
        return row

    def newer(self) -> dict[str, str]:
        """By key of each part that has one, its newest revision: that which came last of those after which none comes."""
        with self._session() as session:
            columns = select(PartRow.key, PartRow.former, PartRow.created)
            # asked with every act: most parts are revisions of none
            rows = list(session.execute(columns.where(PartRow.former != "")))
        after: dict[str, list[str]] = {}
        came = {key: created for key, _, created in rows if isinstance(created, datetime)}
        for key, former, _ in rows:
            if isinstance(former, str) and former:
                after.setdefault(former, []).append(key)
        found = {}
        for key in after:
            seen, waiting, last = {key}, [key], []
            while waiting:
                more = [k for k in after.get(waiting.pop(), []) if k not in seen]
                seen |= set(more)
                waiting += more
                last += [k for k in more if k not in after]
            if last:
                found[key] = max(last, key=lambda k: (came.get(k, datetime.min), k))
        return found

    def revise(self, key: str, former: str) -> PartRow:
        """Say of which part one is the next revision; of none where that is empty.

        Raises
        ------
        UserError
            Where it cannot be one of that.
        """
        with self._session(write=True) as session:
            row = _on_shelf(session, key, "It was removed from the shelf.")
            if former:
                _check_former(session, row, former)
            row.former = former
        return row

    def remove_part(self, key: str) -> None:
        """Take a part off the shelf, where no drawing shows it."""
        with self._session(write=True) as session:
            row = _on_shelf(session, key, "It was removed already.")
            for drawing in session.scalars(select(DrawingRow)):
                if isinstance(drawing.parts, list) and key in drawing.parts:
                    about = drawing.about if isinstance(drawing.about, dict) else {}
                    title = about.get("number") or f"drawing {drawing.id}"
                    if isinstance(drawing.removed, datetime):
                        way = f"{title}, which lies in the basket, shows it. Remove that for good first."
                        raise UserError("The part is in use", way)
                    raise UserError("The part is in use", f"{title} shows it. Remove that drawing first.")
            held = select(StepRow.drawing_id, StepRow.parts).where(StepRow.parts.is_not(None))
            for drawing_id, parts in session.execute(held):
                if isinstance(parts, list) and key in parts:
                    way = f"Drawing {drawing_id} showed it, and can go back to that. Remove that drawing first."
                    raise UserError("The part is in use", way)
            # what came after it comes after what was before it
            for later in session.scalars(select(PartRow).where(PartRow.former == key)):
                later.former = row.former if isinstance(row.former, str) else ""
            session.delete(row)
        for path in self._files(key):
            path.unlink(missing_ok=True)


def _on_shelf(session: Session, key: str, what_to_do: str) -> PartRow:
    """A part by its key; raises NotFound where it does not lie there."""
    row = session.get(PartRow, key)
    if row is None:
        raise NotFound("There is no such part", what_to_do)
    return row


def likely_former(row: PartRow, rows: list[PartRow], by_file: bool = False) -> str:
    """Of all ``rows`` the key of the part that came last before one, none after it yet, and has its number, or where neither has
    one its name, or its file name where that counts; nothing for one that is a revision already."""
    if row.former or isinstance(row.created, Spoilt):
        return ""
    after = {r.former for r in rows}
    found = [
        r
        for r in rows
        if r.key != row.key and r.key not in after and not isinstance(r.created, Spoilt) and r.created <= row.created
    ]
    for same in (
        lambda r: bool(r.number) and r.number == row.number,
        lambda r: not (r.number or row.number) and bool(r.name) and r.name == row.name,
        lambda r: by_file and r.file_name == row.file_name,
    ):
        alike = [r for r in found if same(r)]
        if alike:
            return max(alike, key=lambda r: (r.created, r.key)).key
    return ""


def _carried(before: PartRow | None, fresh: dict[str, Any]) -> dict[str, Any]:
    """What a part has from that before it, where its own file does not say."""
    if before is None:
        return {}
    found = {n: getattr(before, n) for n in ("number", "material") if not fresh[n]}
    if found.get("material"):
        found["density"] = before.density
    found |= {"directions": before.directions}
    return {n: v for n, v in found.items() if not isinstance(v, Spoilt)}


def _check_former(session: Session, row: PartRow, former: str) -> None:
    """Refuse a part as the one before another, where it is gone, or comes after that itself."""
    at, seen = former, set[str]()
    while at and at not in seen:
        if at == row.key:
            raise UserError(
                "A part cannot come before itself",
                "What is chosen as the one before is this part, or a later revision of it. Choose another.",
            )
        seen.add(at)
        own = session.get(PartRow, at)
        if own is None:
            if at == former:
                raise NotFound("There is no such part", "It was removed from the shelf; choose another.")
            break
        at = own.former if isinstance(own.former, str) else ""


def sound(summary: Any) -> bool:
    """True for what is known of a part, where it can be read."""
    return (
        isinstance(summary, dict) and isinstance(summary.get("bodies"), list) and isinstance(summary.get("size"), list)
    )
