"""The folder of user data: told apart from other folders, and what is written into it told apart from what is not ours."""

from __future__ import annotations

import fcntl
import os
import re
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from uuid import uuid4

from ..core.drawing.part_files import PART_FILE
from ..core.errors import Unwritable, UserError

MARK = "bare-quill-home"
DATABASE = "barequill.sqlite"
FOLDERS = "parts", "cache", "issues"
OURS = {MARK, DATABASE, f"{DATABASE}-wal", f"{DATABASE}-shm", f"{DATABASE}-journal", *FOLDERS, "demo-filled"}
UNDER_WAY = re.compile(r"barequill-under-way-[0-9a-f]{32}")
OTHER = "Name another folder in BAREQUILL_HOME; nothing was changed here."


def prepare(home: Path) -> None:
    """Have a folder ready for user data, for its owner alone.

    Raises
    ------
    UserError
        Where it is none of ours, or cannot be used; nothing in it is changed then.
    """
    try:
        if home.is_symlink() and not home.exists():
            raise UserError(
                f"{home} is a link to {home.readlink()}, which is not there",
                "Mend the link, or name another folder in BAREQUILL_HOME.",
            )
        if home.exists() and not home.is_dir():
            raise UserError(f"{home} is a file", "User data wants a folder. Name another in BAREQUILL_HOME.")
        home.mkdir(parents=True, exist_ok=True, mode=0o700)
        _ours_or_refused(home)
        for folder in [home / name for name in FOLDERS]:
            if folder.exists() and not folder.is_dir():
                raise UserError(f"{folder} is a file", f"A folder belongs there. Move the file away. {OTHER}")
            if folder.is_symlink() and not folder.exists():
                raise UserError(
                    f"{folder} is a link to {folder.readlink()}, which is not there", "Mend the link, or remove it."
                )
        for name in FOLDERS:
            (home / name).mkdir(exist_ok=True, mode=0o700)
        trial = home / f".barequill-{uuid4().hex}"
        trial.touch()
        trial.unlink()
        # made here, for its owner alone: what the database writes beside it is as this is
        (home / DATABASE).touch(mode=0o600)
        (home / MARK).write_text("Parts and drawings of Bare Quill. Leave the files here as they are.\n")
    except OSError as error:
        where = f" ({error.filename})" if error.filename and Path(error.filename) != home else ""
        raise Unwritable(
            f"{home} cannot be used",
            f"{error.strerror}{where}. See to the folder's permissions, or name another in BAREQUILL_HOME.",
        ) from error
    for path, mode in ((home, 0o700), (home / DATABASE, 0o600), (home / MARK, 0o600)):
        with suppress(OSError):
            path.chmod(mode)


def _ours_or_refused(home: Path) -> None:
    names = sorted(p.name for p in home.iterdir())
    if MARK in names or DATABASE in names:
        return
    strange = [n for n in names if n not in OURS and not n.startswith(".") and n != "lost+found"]
    if not strange and "parts" in names:
        parts = home / "parts"
        if parts.is_symlink():
            strange = ["parts, a link to elsewhere"]
        elif parts.is_dir():
            strange = [f"parts/{p.name}" for p in parts.iterdir() if not PART_FILE.fullmatch(p.name)]
    if strange:
        some = ", ".join(strange[:3]) + (f" and {len(strange) - 3} more" if len(strange) > 3 else "")
        raise UserError(
            f"{home} is not a folder of Bare Quill's",
            f"It holds what others have put there ({some}). Name an empty or a new folder in BAREQUILL_HOME; nothing "
            "was changed.",
        )


@contextmanager
def under_way(target: Path) -> Iterator[Path]:
    """A file to be written, which becomes ``target`` whole; while it is written, this process holds a lock on it, so that
    another can tell whether anybody is still at work on it."""
    partial = target.with_name(f"barequill-under-way-{uuid4().hex}")
    handle = os.open(partial, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600)
    try:
        fcntl.flock(handle, fcntl.LOCK_EX)
        yield partial
        os.fsync(handle)
        os.replace(partial, target)
    except BaseException:
        partial.unlink(missing_ok=True)
        raise
    finally:
        os.close(handle)
    folder = os.open(target.parent, os.O_RDONLY)
    try:
        os.fsync(folder)
    finally:
        os.close(folder)


def sweep(folder: Path) -> None:
    """Remove files under way on which nobody is at work any more; all else stays."""
    for path in folder.iterdir():
        if not UNDER_WAY.fullmatch(path.name) or path.is_symlink() or not path.is_file():
            continue
        with suppress(OSError):
            handle = os.open(path, os.O_RDWR | os.O_NOFOLLOW)
            try:
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                path.unlink(missing_ok=True)
            finally:
                os.close(handle)
