"""Which files of a folder are the parts of a drawing document."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from ..core.drawing import Drawing
from ..core.drawing.part_files import unit_told
from ..core.errors import UserError
from ..core.reading.reading import SUFFIXES, content_key, key_as
from .jobs import key_of


def parts_within(files: dict[str, bytes], wanted: set[str]) -> dict[str, tuple[str, str | None]]:
    """Of the part files of a drawing in one file those that are ``wanted``, by key: the name, and the unit in which it is to be
    read; None: its own.

    Raises
    ------
    UserError
        Where one is lacking.
    """
    units = {name: unit_told(name) for name in files}
    keys = {key_as(content_key(data), units[name]): name for name, data in files.items()}
    lacking = sorted(wanted - set(keys))
    if lacking:
        raise UserError(
            "A part is lacking", f"The drawing shows {', '.join(lacking[:3])}, which the file does not hold."
        )
    return {key: (name, units[name]) for key, name in keys.items() if key in wanted}


def part_files(drawing: Drawing, folder: Path) -> dict[str, Path]:
    """The file of each part that a drawing shows, by its key: the one of that content, else of that name.

    Raises
    ------
    UserError
        Where there is none.
    """
    wanted = {v.part for s in drawing.sheets for v in s.views}
    try:
        # what is no file, or a link to nothing, is passed over: a pipe would be waited for
        files = sorted(p for p in folder.iterdir() if p.suffix.lower() in SUFFIXES and p.is_file())
        by_key = {}
        for p in files:
            with suppress(OSError):
                by_key[key_of(p)] = p
    except OSError as error:
        raise UserError(f"{folder} cannot be opened", "Say with --parts in which folder the part files are.") from error
    by_name = {p.stem: p for p in files}
    found: dict[str, Path] = {}
    for key in sorted(wanted):
        use = drawing.part(key)
        names = [key, *([use.name, use.number] if use is not None else [])]
        file = by_key.get(key) or next((by_name[n] for n in names if n in by_name), None)
        if file is None:
            words = f"{use.name} ({key})" if use is not None and use.name else key
            raise UserError(
                f"The file of the part {words} is not in {folder}",
                "Put it there, or say with --parts in which folder it is.",
            )
        found[key] = file
    return found
