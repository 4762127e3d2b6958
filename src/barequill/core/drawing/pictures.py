"""Pictures on a sheet, such as a logo: outlines and lines in the one colour of all drawing, without anything from elsewhere."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field, field_validator

from .base import Model

LARGEST = 1000.0
"""Units of the longer side of a picture."""
MOST_PATHS, MOST_LETTERS = 400, 120_000


class PicturePath(Model):
    """Outlines of straight stretches, filled by the even-odd rule, or lines where it is not ``filled``."""

    outlines: Annotated[
        str, Field(max_length=MOST_LETTERS, pattern=r"^(M-?[0-9.]+ -?[0-9.]+(L-?[0-9.]+ -?[0-9.]+)*Z?)+$")
    ]
    """Corners as in a path of SVG: ``M0 0L10 0L10 5Z``; units of the picture, from its lower left corner upward."""
    filled: bool = True

    @field_validator("outlines")
    @classmethod
    def _figures(cls, text: str) -> str:
        for corners, _ in corners_of(text):
            if not all(-LARGEST <= x <= 2 * LARGEST for corner in corners for x in corner):
                raise ValueError(f"a corner lies beyond the picture, which has {LARGEST:g} units at most")
        return text


class Picture(Model):
    """A picture of areas and lines; the longer of its sides has :data:`LARGEST` units at most."""

    width: Annotated[float, Field(gt=0, le=LARGEST, allow_inf_nan=False)]
    height: Annotated[float, Field(gt=0, le=LARGEST, allow_inf_nan=False)]
    paths: Annotated[list[PicturePath], Field(max_length=MOST_PATHS)]


def corners_of(outlines: str) -> list[tuple[list[tuple[float, float]], bool]]:
    """The corners of each outline, and whether it is closed."""
    found = []
    for piece in outlines.split("M")[1:]:
        closed = piece.endswith("Z")
        corners = [tuple(float(n) for n in corner.split()) for corner in piece.rstrip("Z").split("L")]
        found.append(([(x, y) for x, y in corners], closed))
    return found
