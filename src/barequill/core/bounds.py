"""How long a text, how many of a thing, how large a figure may be that comes in from outside: one table for the web,
documents and part files alike."""

from __future__ import annotations

from typing import Annotated, Any

from pydantic import AfterValidator, BeforeValidator, Field

NAME = 200
"""Characters of a name: of parts, bodies, products, files."""
TEXT = 300
"""Characters of a field of the title block."""
REF = 40
"""Characters of an id or a lasting reference."""
MANY = 5_000
"""Elements of a list: views and annotations of a sheet, operations of a group."""
FEW = 200
"""Parts and sheets of a drawing, views placed at once."""
FIELDS = 100
"""Fields of a title block."""
FAR = 1e5
"""mm on the sheet within which a place may lie."""
SCALE = 1e-4, 1e4
"""Smallest and largest scale: ISO 5455 goes from 1:10000 to 50:1, and on by tens."""
DENSITY = 100.0
"""g/cm³; osmium has 22.6."""


def plain(text: Any) -> Any:
    """A text with control characters, line breaks among them, as spaces; anything else as it is."""
    if not isinstance(text, str) or text.isprintable():
        return text
    return "".join(c if c.isprintable() else " " for c in text)


def clipped(text: Any, most: int = NAME) -> Any:
    """A text of at most so many characters, without control characters; what is cut off is marked."""
    if not isinstance(text, str):
        return text
    text = plain(text[: 4 * most]).strip()
    return text if len(text) <= most else text[: most - 1].rstrip() + "…"


def one_of(*allowed: float) -> AfterValidator:
    """A check that refuses all figures but some."""

    def check(value: float) -> float:
        if value not in allowed:
            raise ValueError(f"it is one of {', '.join(f'{a:g}' for a in allowed)}")
        return value

    return AfterValidator(check)


Name = Annotated[str, BeforeValidator(plain), Field(max_length=NAME)]
FoundName = Annotated[str, BeforeValidator(clipped), Field(max_length=NAME)]
"""A name that comes from a part file: what is too long is cut, not refused."""
Text = Annotated[str, BeforeValidator(plain), Field(max_length=TEXT)]
Affix = Annotated[str, BeforeValidator(plain), Field(max_length=60)]
Ref = Annotated[str, Field(max_length=REF, pattern=r"^[A-Za-z0-9_.:+-]*$")]
Key = Annotated[str, Field(pattern=r"^[0-9A-Za-z_-]{0,40}$")]
"""A key of a part: it becomes part of file names."""
Coordinate = Annotated[float, Field(ge=-FAR, le=FAR, allow_inf_nan=False)]
Figure = Annotated[float, Field(ge=-1e9, le=1e9, allow_inf_nan=False)]
Scale = Annotated[float, Field(ge=SCALE[0], le=SCALE[1], allow_inf_nan=False)]
Density = Annotated[float, Field(gt=0, lt=DENSITY, allow_inf_nan=False)]
