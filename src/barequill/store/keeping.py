"""How the documents of a drawing are kept: of each step what it changed, and a whole document now and then."""

from __future__ import annotations

import zlib
from dataclasses import dataclass
from typing import Any

from pydantic_core import from_json, to_json
from sqlalchemy import Select, bindparam, func, select

from ..core.drawing import Drawing
from ..core.drawing.differences import changed_by, difference
from ..core.drawing.texts import json_text
from ..core.drawing.upgrade import VERSION
from ..core.errors import UserError
from .tables import Base

STEPS = Base.metadata.tables["steps"]
SHARE, MOST = 0.5, 200
"""A whole document is kept again once what was changed since the last takes this share of it, or after so many steps."""
LARGEST = 500_000_000
"""Bytes that a packed document may unpack to."""


class DamagedDrawing(UserError):
    """A drawing that cannot be read as it was kept."""

    status = 422
    kind = "damaged-drawing"


@dataclass(frozen=True)
class Step:
    """A step as it is kept."""

    whole: bool
    version: int
    data: bytes


def packed(value: Any) -> bytes:
    """Plain values as packed JSON."""
    return zlib.compress(to_json(value), 6)


def unpacked(data: bytes) -> bytes:
    """The JSON that was packed.

    Raises
    ------
    ValueError
        Where it is damaged.
    """
    taker = zlib.decompressobj()
    try:
        text = taker.decompress(data, LARGEST)
    except zlib.error as error:
        raise ValueError("its bytes are damaged") from error
    if not taker.eof:
        raise ValueError("its bytes end too early")
    return text


def step_of(before: Drawing | None, after: Drawing, since: tuple[int, int, int, int]) -> Step:
    """What is to be kept of a step; ``since`` the last whole document: its version, its bytes, those of the changes after
    it, and how many they are."""
    version, size, changes, count = since
    if before is not None and version == VERSION and count < MOST and changes <= max(SHARE * size, 2000):
        return Step(False, VERSION, packed(difference(before, after)))
    return Step(True, VERSION, zlib.compress(json_text(after).encode(), 6))


def since_whole() -> Select:
    """Of the steps of a ``drawing`` up to a ``position``: version and bytes of the last whole one, bytes and number of
    those after it."""
    last = last_whole()
    mine = STEPS.c.drawing_id == bindparam("drawing"), STEPS.c.position <= bindparam("position")
    after = STEPS.c.position > last
    size = func.length(STEPS.c.data)
    return select(
        func.max(STEPS.c.version),
        func.coalesce(func.sum(size).filter(STEPS.c.position == last), 0),
        func.coalesce(func.sum(size).filter(after), 0),
        func.count().filter(after),
    ).where(*mine, STEPS.c.position >= last)


def last_whole() -> Any:
    """The place of the last whole document of a ``drawing`` up to a ``position``."""
    return (
        select(func.max(STEPS.c.position))
        .where(
            STEPS.c.drawing_id == bindparam("drawing"),
            STEPS.c.position <= bindparam("position"),
            STEPS.c.whole == 1,
        )
        .scalar_subquery()
    )


def up_to() -> Select:
    """The steps of a ``drawing`` from the last whole one to a ``position``."""
    return (
        select(STEPS.c.position, STEPS.c.whole, STEPS.c.version, STEPS.c.data)
        .where(
            STEPS.c.drawing_id == bindparam("drawing"),
            STEPS.c.position <= bindparam("position"),
            STEPS.c.position >= func.coalesce(last_whole(), bindparam("position")),
        )
        .order_by(STEPS.c.position)
    )


def document_of(rows: list[Any], position: int) -> dict[str, Any]:
    """The document as plain values at a position, from the rows up to it.

    Raises
    ------
    DamagedDrawing
        Where they do not make one.
    """
    if not rows or rows[-1].position != position or rows[0].whole != 1:
        raise DamagedDrawing("The drawing is damaged", f"Its step {position} is not there. {REMEDY}")
    document: Any = None
    try:
        for row in rows:
            document = (
                from_json(unpacked(row.data)) if row.whole else changed_by(document, from_json(unpacked(row.data)))
            )
        if not isinstance(document, dict):
            raise ValueError("it is no document")
    except (ValueError, TypeError, AttributeError, RecursionError) as error:
        raise DamagedDrawing(
            "The drawing is damaged", f"Its step {row.position} cannot be read: {error}. {REMEDY}"
        ) from error
    return document


def drawing_of(document: dict[str, Any]) -> Drawing:
    """A kept document as a drawing.

    Raises
    ------
    DamagedDrawing
        Where it is none, or of a newer version.
    """
    version = document.get("version", 1)
    if isinstance(version, int) and version > VERSION:
        raise DamagedDrawing(
            "The drawing is of a newer Bare Quill",
            f"Its document is of version {version}, this one knows up to {VERSION}. Start that version. {REMEDY}",
        )
    try:
        return Drawing.load(document)
    except (ValueError, TypeError, KeyError, AttributeError, RecursionError) as error:
        raise DamagedDrawing(
            "The drawing is damaged", f"What is kept of it is not a drawing ({_first(error)}). {REMEDY}"
        ) from error


REMEDY = "Take it out as a file on the shelf, or go back to the last step that can be read."


def _first(error: Exception) -> str:
    found = getattr(error, "errors", None)
    if found is None:
        return str(error)[:120] or type(error).__name__
    first = found()[0]
    return f"{'.'.join(str(x) for x in first['loc'])[:80]}: {first['msg']}"[:160]
