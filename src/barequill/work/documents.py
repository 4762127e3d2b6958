"""Which files of a folder are the parts of a drawing document."""

from __future__ import annotations

from contextlib import suppress
from pathlib import Path

from ..core.drawing import Drawing
from ..core.drawing.part_files import unit_told
from ..core.errors import UserError
from ..core.reading.reading import SUFFIXES, content_key, key_as
from .jobs import key_of


def parts_within(drawing: Drawing, files: dict[str, bytes], folder: Path) -> dict[str, tuple[Path, str]]:
    """The parts that a drawing shows out of ``files``, written into a folder: by key the file, and the unit in which it is to be read
    (``""``: its own).

    Raises
    ------
    UserError
        Where one is lacking.
    """
    wanted = {v.part for s in drawing.sheets for v in s.views}
    found: dict[str, tuple[Path, str]] = {}
    for name, data in files.items():
        unit = unit_told(name)
        key = key_as(content_key(data), unit)
        if key in wanted:
            path = folder / f"{key}{Path(name).suffix.lower()}"
            path.write_bytes(data)
            found[key] = path, unit or ""
    lacking = sorted(wanted - set(found))
    if lacking:
        raise UserError(
            "A part is lacking", f"The drawing shows {', '.join(lacking[:3])}, which the file does not hold."
        )
    return found


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
