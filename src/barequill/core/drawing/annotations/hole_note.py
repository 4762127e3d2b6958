"""Notes of holes: all that is to be said of how one is made, measured from the part."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import Affix, Figure, Ref
from ...standards.geometrical import Feature
from .base import AnyAnnotation
from .dimension import Tolerance

Line = Literal["bore", "counterbore", "countersink", "thread", "depth"]


class HoleNote(AnyAnnotation):
    """The note of a hole, by a face of it: ``angle`` (degrees) and ``offset`` (sheet mm) of its leader. ``count`` says how many
    holes it stands for; None counts those of the part that are made alike."""

    noun: ClassVar[str] = "hole note"
    counts_as: ClassVar[str] = "note"
    lettered: ClassVar[bool] = True
    tidied: ClassVar[Literal["stays", "measured", "leader"]] = "leader"
    placed_by: ClassVar[tuple[str, ...]] = ("angle", "offset")

    kind: Literal["hole_note"] = "hole_note"
    ref: Ref
    angle: Figure = 45.0
    offset: Figure = 15.0
    count: Annotated[int, Field(ge=1, le=9999)] | None = None
    leaves_out: Annotated[list[Line], Field(max_length=5)] = []
    """What is not said of it."""
    tolerance: Tolerance = Tolerance()
    """The tolerance of the bore."""
    spaced: bool = False
    """With the pitch circle that the holes lie on, and that they are equally spaced there where they are; it then stands for
    the holes of that circle."""
    prefix: Affix = ""
    suffix: Affix = ""
    pinned: bool = False

    @property
    def fixed(self) -> bool:
        return self.pinned

    @property
    def feature(self) -> Feature:
        return "axis"

    def says_of(self) -> dict[str, str]:
        return {self.ref: "diameter"}

    @property
    def leader(self) -> tuple[float, float]:
        return self.angle, self.offset

    def led(self, angle: float, offset: float) -> HoleNote:
        return self.model_copy(update={"angle": angle, "offset": offset})
