"""Centre marks on circles and arcs seen face on."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Ref
from .base import AnyAnnotation


class CentreMark(AnyAnnotation):
    """A centre mark on a circle or arc seen face on."""

    noun: ClassVar[str] = "centre mark"

    kind: Literal["centre_mark"] = "centre_mark"
    ref: Ref
