"""Sheets from the command line: parts read in processes of their own, drawing documents, and what is written of them.

What takes long to load is loaded where it is asked for.
"""

from __future__ import annotations

import json
import os
import stat
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any, NamedTuple

import click

from .core.errors import UserError

LARGEST = 200 << 20
"""Bytes of a drawing document."""
ONE_FILE = ".quill"
DOCUMENTS = (".json", ONE_FILE)
FORMATS = (".pdf", ".svg", ".dxf", ".png")


def reading(path: str, unit: str = "") -> Any:
    """Begin to read a part in a process of its own, so that a bad file cannot take the command with it; ``unit``: that in which its
    lengths are to be taken, where that is said."""
    from .work.reading import Reading

    return Reading(Path(path), Path(path).name, unit=unit)


def make_ready(suffix: str) -> None:
    """Load what projects, and what writes a format if one is to be written, while a part is being read."""
    from .core.projection.warming import warm_views

    if suffix:
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


def for_archives(drawing: Any, inks: list[Any], parts: dict[str, bytes]) -> bytes:
    """The sheets as a PDF for archives, with the document and the files of its parts in it."""
    from .core.writers import write_pdf
    from .core.writers.archive import with_sources

    return with_sources(write_pdf(inks), json.dumps(drawing.to_json(), indent=1).encode(), parts)


def draw_document(
    path: str, folder: str | None, output: str, suffix: str, wanted: str = "", archive: bool = False
) -> None:
    """Draw a drawing document with the part files of a folder: all its sheets, or those that are wanted (``2``, ``1-3,5``); of
    formats that hold one sheet each to a file of its own where there are several. With ``archive`` as a PDF for archives."""
    drawn = _drawn(path, folder, suffix, wanted)
    drawing, sheets, inks = drawn.drawing, drawn.sheets, drawn.inks
    views = sum(len(s.views) for s in sheets)
    if archive:
        write(output, for_archives(drawing, inks, drawn.files))
        click.echo(f"{output}: {len(sheets)} sheets, {views} views, for archives")
        return
    if suffix in (".pdf", ".dxf") or len(inks) == 1:
        write(output, issued(suffix, inks))
        click.echo(f"{output}: {len(sheets)} sheets, {views} views")
        return
    for sheet, ink in zip(sheets, inks, strict=True):
        one = Path(output).with_stem(f"{Path(output).stem}-sheet-{drawing.number_of_sheet(sheet.id)}")
        write(str(one), issued(suffix, [ink]))
        click.echo(f"{one}: {len(sheet.views)} views")


def check_document(path: str, folder: str | None) -> int:
    """Tell what a checker would mark on each sheet of a drawing document, a line each; returns how much that is."""
    from .core.arranging.checking import checked

    drawn, count = _drawn(path, folder, "", ""), 0
    for sheet, ink in zip(drawn.sheets, drawn.inks, strict=True):
        number = drawn.drawing.number_of_sheet(sheet.id)
        remarks = [
            r.words for r in checked(drawn.drawing, sheet, ink, drawn.projections.placed_views(drawn.drawing, sheet))
        ]
        remarks += [f"{f.label} is empty" for f in ink.fields if f.needed and not f.value]
        count += len(remarks)
        for words in remarks:
            click.echo(f"sheet {number}: {words}")
    click.echo(f"{path}: {len(drawn.sheets)} sheets, {count} remarks")
    return count


class _Drawn(NamedTuple):
    """A document, those of its sheets that are wanted, as they are drawn, the projections of its parts, and their files by name."""

    drawing: Any
    sheets: Any
    inks: list[Any]
    projections: Any
    files: dict[str, bytes]


def _drawn(path: str, folder: str | None, suffix: str, wanted: str) -> _Drawn:
    from .core.errors import BadOperation
    from .core.sheet.stages import draw_sheet
    from .core.views.placed_view import ProjectionCache

    with _opened(path, folder) as (drawing, begun, files):
        sheets = drawing.sheets_named(wanted)
        make_ready(suffix)
        parts = {key: one.part() for key, one in begun.items()}
    projections = ProjectionCache(parts.__getitem__)
    try:
        inks = [draw_sheet(drawing, sheet, projections) for sheet in sheets]
        return _Drawn(drawing, sheets, inks, projections, files)
    except BadOperation as error:
        raise UserError(error.title, error.detail) from error


@contextmanager
def _opened(path: str, folder: str | None) -> Iterator[tuple[Any, dict[str, Any], dict[str, bytes]]]:
    """A document, the readings of its parts that have begun, and their files by name: with part files of a folder, or all out of one file."""
    from .work.documents import part_files, parts_within

    if Path(path).suffix.lower() != ONE_FILE:
        data = _read(path)
        drawing = _document(path, lambda: json.loads(data))
        files = part_files(drawing, Path(folder) if folder else Path(path).parent)
        begun = {key: reading(str(file)) for key, file in files.items()}
        yield drawing, begun, {file.name: file.read_bytes() for file in files.values()}
        return
    from .core.drawing.container import unpacked
    from .work.leftovers import own_prefix

    found = unpacked(_read(path))
    drawing = _document(path, lambda: found.document)
    within = parts_within(found.parts, {v.part for s in drawing.sheets for v in s.views})
    with tempfile.TemporaryDirectory(prefix=own_prefix()) as own:
        begun = {}
        for key, (name, unit) in within.items():
            file = Path(own) / f"{key}{Path(name).suffix.lower()}"
            file.write_bytes(found.parts[name])
            begun[key] = reading(str(file), unit or "")
        yield drawing, begun, {name: found.parts[name] for name, _ in within.values()}


def _read(path: str) -> bytes:
    """The bytes of a document's file; raises UserError where it is none."""
    try:
        if not stat.S_ISREG(os.stat(path).st_mode):
            raise UserError(f"{path} is no file", "It is a folder, pipe or device. Give a drawing document.")
        if os.stat(path).st_size > LARGEST:
            raise UserError(f"{path} is no drawing document", f"It is larger than {LARGEST >> 20} MB.")
        return Path(path).read_bytes()
    except OSError as error:
        raise UserError(f"{path} cannot be opened", f"{error.strerror}. Check the path.") from error


def _document(path: str, load: Callable[[], Any]) -> Any:
    """A drawing document out of plain values, which are loaded from a file.

    Raises
    ------
    UserError
        Where it is none, or does not hold together.
    """
    from pydantic import ValidationError

    from .core.drawing import Drawing
    from .core.drawing.soundness import check_all

    try:
        drawing = Drawing.load(load())
        check_all(drawing)
        return drawing
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
