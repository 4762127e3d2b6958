"""What all parts of the document are made of."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict

from ..bounds import Coordinate, Figure


def _of_some_length(v: tuple[float, float, float]) -> tuple[float, float, float]:
    if not 1e-6 <= sum(x * x for x in v) ** 0.5 <= 1e6:
        raise ValueError("a direction has some length, such as 0, −1, 0")
    return v


Vector = Annotated[tuple[Figure, Figure, Figure], AfterValidator(_of_some_length)]
Point = tuple[Coordinate, Coordinate]
Size = Literal["A0", "A1", "A2", "A3", "A4", "A", "B", "C", "D", "E"]


class Model(BaseModel):
    """Base of all parts of the document: unknown fields are refused; a change makes a new value."""

    model_config = ConfigDict(extra="forbid", frozen=True)
