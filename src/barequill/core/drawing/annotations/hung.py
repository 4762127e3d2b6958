"""What signs and notes have in common that are led to geometry, or stacked under a size or another sign."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import Figure, Ref
from ...standards.geometrical import Feature
from ..base import Model
from .base import AnyAnnotation

Share = Annotated[float, Field(ge=-4.0, le=5.0, allow_inf_nan=False)]


class Foot(Model):
    """Where on the part something hangs: an edge or a face by its lasting reference, and a ``spot`` of it in shares of the box
    that it takes up in the view (right, up). With a ``dot`` it is inside a face, else on an outline."""

    ref: Ref
    spot: tuple[Share, Share] = (0.5, 0.5)
    dot: bool = False


class AnyHung(AnyAnnotation):
    """Led to its ``foot`` on the part by a leader at an ``angle`` (degrees) and so long (``offset``, sheet mm), or without a
    foot stacked under the size, note or sign on which it hangs, moved by ``shift`` (sheet mm)."""

    lettered: ClassVar[bool] = True
    tidied: ClassVar[Literal["stays", "measured", "leader"]] = "leader"
    placed_by: ClassVar[tuple[str, ...]] = ("angle", "offset", "shift")
    counts_as: ClassVar[str] = "sign"

    foot: Foot | None = None
    angle: Figure = 45.0
    offset: Figure = 15.0
    shift: tuple[Figure, Figure] = (0.0, 0.0)
    pinned: bool = False

    @property
    def fixed(self) -> bool:
        return self.pinned or self.foot is None

    @property
    def feature(self) -> Feature:
        return "surface"

    @property
    def leader(self) -> tuple[float, float]:
        return self.angle, self.offset

    def led(self, angle: float, offset: float) -> AnyHung:
        return self.model_copy(update={"angle": angle, "offset": offset})

    def copied(self, on: str) -> AnyHung | None:
        """What is stacked goes with what it is stacked under, not by itself."""
        return None if self.foot is None else self.model_copy(update={"on": on})
