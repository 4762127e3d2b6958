"""Sheets from the command line: parts read in processes of their own, drawing documents, and what is written of them.

What takes long to load is loaded where it is asked for.
"""

from __future__ import annotations

import json
import os
import stat
from pathlib import Path
from typing import Any

import click

from .core.errors import UserError

LARGEST = 200 << 20
"""Bytes of a drawing document."""
FORMATS = (".pdf", ".svg", ".dxf", ".png")


def reading(path: str) -> Any:
    """Begin to read a part in a process of its own, so that a bad file cannot take the command with it."""
    from .work.reading import Reading

    return Reading(Path(path), Path(path).name)


def make_ready(suffix: str) -> None:
    """Load what writes a format and what projects, while a part is being read."""
    from .core.projection.warming import warm_views

    writer_of(suffix)
    warm_views()


def writer_of(suffix: str) -> Any:
    """What writes sheets as PDF or DXF, or one in another format."""
    from .core import writers

    if suffix == ".pdf":
        return writers.write_pdf
    if suffix == ".dxf":
        return lambda inks: writers.write_dxf(*inks)
    one: Any = getattr(writers, f"write_{suffix[1:]}")
    return lambda inks: one(inks[0])


def issued(suffix: str, inks: list[Any]) -> bytes:
    """The sheets in that format."""
    data: bytes = writer_of(suffix)(inks)
    return data


def draw_document(path: str, folder: str | None, output: str, suffix: str, wanted: str = "") -> None:
    """Draw a drawing document with the part files of a folder: all its sheets, or those that are wanted (``2``, ``1-3,5``); of
    formats that hold one sheet each to a file of its own where there are several."""
    from .core.errors import BadOperation
    from .core.sheet.stages import draw_sheet
    from .core.views.placed_view import ProjectionCache
    from .work.documents import part_files

    drawing = _document(path)
    sheets = drawing.sheets_named(wanted)
    files = part_files(drawing, Path(folder) if folder else Path(path).parent)
    readings = {key: reading(str(file)) for key, file in files.items()}
    make_ready(suffix)
    parts = {key: reading.part() for key, reading in readings.items()}
    projections = ProjectionCache(parts.__getitem__)
    try:
        inks = [draw_sheet(drawing, sheet, projections) for sheet in sheets]
    except BadOperation as error:
        raise UserError(error.title, error.detail) from error
    views = sum(len(s.views) for s in sheets)
    if suffix in (".pdf", ".dxf") or len(inks) == 1:
        write(output, issued(suffix, inks))
        click.echo(f"{output}: {len(sheets)} sheets, {views} views")
        return
    for sheet, ink in zip(sheets, inks, strict=True):
        one = Path(output).with_stem(f"{Path(output).stem}-sheet-{drawing.number_of_sheet(sheet.id)}")
        write(str(one), issued(suffix, [ink]))
        click.echo(f"{one}: {len(sheet.views)} views")


def _document(path: str) -> Any:
    """A drawing document from a file.

    Raises
    ------
    UserError
        Where it is none, or does not hold together.
    """
    from pydantic import ValidationError

    from .core.drawing import Drawing
    from .core.drawing.soundness import check_all

    try:
        if not stat.S_ISREG(os.stat(path).st_mode):
            raise UserError(f"{path} is no file", "It is a folder, pipe or device. Give a drawing document.")
        if os.stat(path).st_size > LARGEST:
            raise UserError(f"{path} is no drawing document", f"It is larger than {LARGEST >> 20} MB.")
        drawing = Drawing.load(json.loads(Path(path).read_bytes()))
        check_all(drawing)
        return drawing
    except OSError as error:
        raise UserError(f"{path} cannot be opened", f"{error.strerror}. Check the path.") from error
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"])
        raise UserError(f"{path} is no drawing document", f"{where[:200]}: {first['msg'][:300]}.") from error
    except RecursionError:
        raise UserError(
            f"{path} is no drawing document", "Its lists and objects stand too deep in each other."
        ) from None
    except (ValueError, AttributeError, TypeError, KeyError) as error:
        why = str(error)[:200] if isinstance(error, ValueError) else f"something in it is not as it should be ({error})"
        raise UserError(f"{path} is no drawing document", f"{why}. See docs/drawing-format.md.") from error


def write(output: str, data: bytes) -> None:
    try:
        Path(output).write_bytes(data)
    except OSError as error:
        raise UserError(
            f"{output} cannot be written", f"{error.strerror}. Check the folder and its permissions."
        ) from error
