"""Datum features (ISO 5459)."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from .hung import AnyHung


class DatumFeature(AnyHung):
    """A datum's letter in its square on a triangle, ``filled`` or open. On an outline it is the surface; on a size of a feature
    its axis or middle plane."""

    noun: ClassVar[str] = "datum"

    kind: Literal["datum_feature"] = "datum_feature"
    letter: Annotated[str, Field(pattern=r"^[A-Z]{1,2}$")]
    filled: bool = True

    @property
    def letters(self) -> frozenset[str]:
        return frozenset((self.letter,))

    def copied(self, on: str) -> None:
        """A letter stands once on a drawing."""
        return None
