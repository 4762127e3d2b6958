"""A folder that is watched for part files: what is new there goes on the shelf, newer files of a part as its next revisions."""

from __future__ import annotations

import time
from collections.abc import Iterator
from pathlib import Path

from .core.errors import UserError
from .core.reading.reading import SUFFIXES, key_as
from .store import Store
from .store.shelf import likely_former
from .work.jobs import key_of
from .work.reading import Reading

SETTLED = 2.0
"""s for which a file must not have changed: what is still being written is not read."""


class Watch:
    """One folder, and what of it was looked at: each state of a file is read once, also where it is refused."""

    def __init__(self, store: Store, folder: Path) -> None:
        if not folder.is_dir():
            raise UserError(f"There is no folder {folder}", "Name the folder into which part files are written.")
        self._store, self._folder = store, folder
        self._seen: set[tuple[str, int, int]] = set()

    def look(self, settled: float = SETTLED) -> Iterator[str]:
        """What was found since the last look, in a line each."""
        for path in sorted(self._folder.iterdir()):
            if path.suffix.lower() not in SUFFIXES or path.is_symlink() or not path.is_file():
                continue
            state = path.stat()
            name = (path.name, state.st_mtime_ns, state.st_size)
            if name in self._seen or time.time() - state.st_mtime < settled:
                continue
            self._seen.add(name)
            try:
                told = self._brought(path)
            except UserError as error:
                told = " ".join(str(error).split())
            if told:
                yield f"{path.name}: {told}"

    def _brought(self, path: Path) -> str:
        """What became of a file; nothing of one that lies on the shelf already."""
        key = key_as(key_of(path), None)
        if any(row.key == key for row in self._store.parts()):
            return ""
        part = Reading(path, path.name).part()
        self._store.keep_part(part.key, path.name, path, part.summary())
        row = self._store.part(part.key)
        former = likely_former(row, self._store.parts(), by_file=True)
        if not former:
            return f"on the shelf as {row.name}"
        row = self._store.revise(row.key, former)
        before = self._store.part(former)
        return f"a newer revision of {before.number or before.name} ({before.file_name})"
