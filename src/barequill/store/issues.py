"""What was issued: files that are kept as they went out, and are never made anew."""

from __future__ import annotations

import hashlib
import os
import re
import shutil
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any
from uuid import uuid4

from sqlalchemy import select

from ..core.errors import NotFound, UserError
from .columns import Spoilt
from .database import Database
from .keeping import DamagedDrawing
from .tables import IssueRow

NAME = re.compile(r"[A-Za-z0-9][A-Za-z0-9._-]{0,120}")
"""What a file of an issue is called."""


@dataclass(frozen=True)
class Issued:
    """One issue: its number, of which drawing, as which revision, and its files by name with their size and hash (SHA-256)."""

    id: int
    drawing: int
    letter: str
    about: dict[str, Any]
    files: list[dict[str, Any]]
    created: str


class Issues(Database):
    """All that was issued."""

    def issues(self, drawing_id: int) -> list[Issued]:
        """What was issued of a drawing, the latest first."""
        with self._session() as session:
            rows = session.scalars(
                select(IssueRow).where(IssueRow.drawing_id == drawing_id).order_by(IssueRow.id.desc())
            )
            return [_told(r) for r in rows]

    def letters_issued(self, drawing_id: int) -> list[str]:
        """The letters of the revisions that were issued of a drawing."""
        return [i.letter for i in self.issues(drawing_id)]

    @contextmanager
    def laid_out(self, files: Mapping[str, bytes | Path]) -> Iterator[Path]:
        """The files of an issue written into a folder of their own, before anything tells of them; what is not kept within is
        removed."""
        folder = self.home / "issues" / f".laid-{uuid4().hex}"
        folder.mkdir(mode=0o700, parents=True)
        try:
            for name, source in files.items():
                if not NAME.fullmatch(name):
                    raise UserError("That is no name of a file", name[:60])
                if isinstance(source, Path):
                    shutil.copyfile(source, folder / name)
                else:
                    (folder / name).write_bytes(source)
                with open(folder / name, "rb") as written:
                    os.fsync(written.fileno())
                (folder / name).chmod(0o400)
            yield folder
        finally:
            # what was kept is called otherwise by now
            shutil.rmtree(folder, ignore_errors=True)

    def keep_issue(self, drawing_id: int, letter: str, about: dict[str, Any], folder: Path) -> Issued:
        """Files that were laid out kept as an issue, for good.

        Raises
        ------
        UserError
            Where that revision of the drawing was issued before.
        """
        files = [
            {"name": p.name, "size": p.stat().st_size, "sha256": hashlib.sha256(p.read_bytes()).hexdigest()}
            for p in sorted(folder.iterdir())
        ]
        with self._session(write=True) as session:
            same = select(IssueRow).where(IssueRow.drawing_id == drawing_id, IssueRow.letter == letter)
            if session.scalars(same).first() is not None:
                raise UserError(f"{letter} was issued already", "What was issued stays as it is.")
            row = IssueRow(drawing_id=drawing_id, letter=letter, about=about, files=files)
            session.add(row)
            session.flush()
            os.replace(folder, self.home / "issues" / str(row.id))
            return _told(row)

    def issued_file(self, drawing_id: int, letter: str, name: str) -> Path:
        """A file of an issue.

        Raises
        ------
        NotFound, DamagedDrawing
            Where there is none; where it is not what was issued any more.
        """
        own = next((i for i in self.issues(drawing_id) if i.letter == letter), None)
        file = next((f for f in own.files if f["name"] == name), None) if own is not None else None
        if own is None or file is None:
            raise NotFound("That was not issued", "See what there is in the list of issues.")
        path = self.home / "issues" / str(own.id) / name
        if not path.is_file():
            raise NotFound("The issued file is gone", f"{path} was removed; bring it back from a copy of the folder.")
        if hashlib.sha256(path.read_bytes()).hexdigest() != file["sha256"]:
            raise DamagedDrawing(
                "The issued file is not what was issued", f"{path} was changed since; bring it back from a copy."
            )
        return path


def _told(row: IssueRow) -> Issued:
    about = row.about if isinstance(row.about, dict) else {}
    files = [f for f in row.files if isinstance(f, dict)] if isinstance(row.files, list) else []
    created = "" if isinstance(row.created, Spoilt) else row.created.isoformat()
    return Issued(row.id, row.drawing_id, str(row.letter), about, files, created)
