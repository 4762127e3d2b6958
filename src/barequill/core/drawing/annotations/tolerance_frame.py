"""Geometrical tolerances (ISO 1101)."""

from __future__ import annotations

from typing import ClassVar, Literal

from ..geometrical.model import Frame
from ..geometrical.rules import check
from .hung import AnyHung


class ToleranceFrame(AnyHung):
    """A tolerance frame. What it is about follows from where it hangs: led to an outline it is the surface; on a size of a
    feature its axis, middle plane or centre. ``derived``: with Ⓐ, the axis of the surface that it is led to."""

    noun: ClassVar[str] = "tolerance frame"

    kind: Literal["tolerance_frame"] = "tolerance_frame"
    frame: Frame
    derived: bool = False

    def check(self) -> None:
        check(self.frame)

    @property
    def stacks(self) -> bool:
        return self.foot is None
