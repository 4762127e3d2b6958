"""Centre marks on circles and arcs seen face on."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Ref
from .base import AnyAnnotation, Reach


class CentreMark(AnyAnnotation):
    """A centre mark on a circle or arc seen face on."""

    noun: ClassVar[str] = "centre mark"
    gives_way: ClassVar[bool] = True

    kind: Literal["centre_mark"] = "centre_mark"
    ref: Ref
    arms: tuple[Reach | None, Reach | None, Reach | None, Reach | None] = (None, None, None, None)
    """How far (mm on the sheet) its lines go beyond the circle to the right, up, left and down; None as far as all do."""
