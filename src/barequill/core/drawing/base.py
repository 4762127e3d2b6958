"""What all parts of the document are made of."""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..bounds import Coordinate, Figure
from ..errors import UserError
from ..standards.sheets import paper


def _of_some_length(v: tuple[float, float, float]) -> tuple[float, float, float]:
    if not 1e-6 <= sum(x * x for x in v) ** 0.5 <= 1e6:
        raise ValueError("a direction has some length, such as 0, −1, 0")
    return v


Vector = Annotated[tuple[Figure, Figure, Figure], AfterValidator(_of_some_length)]
Point = tuple[Coordinate, Coordinate]


def _of_a_sheet(size: str) -> str:
    try:
        paper(size)
    except UserError as error:
        raise ValueError(error.detail) from error
    return size


Size = Annotated[str, AfterValidator(_of_a_sheet), Field(max_length=20)]
"""Of a sheet: by its name, or as ``420x1200``, both sides in mm."""


class Model(BaseModel):
    """Base of all parts of the document: unknown fields are refused; a change makes a new value."""

    model_config = ConfigDict(extra="forbid", frozen=True)
