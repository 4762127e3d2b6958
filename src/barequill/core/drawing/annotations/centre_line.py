"""Centre lines: axes of round features seen from the side."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ...bounds import MANY, Ref
from .base import AnyAnnotation, Reach


class CentreLine(AnyAnnotation):
    """The axis of round features seen from the side; ``refs`` are their faces."""

    noun: ClassVar[str] = "centre line"
    gives_way: ClassVar[bool] = True

    kind: Literal["centre_line"] = "centre_line"
    refs: Annotated[list[Ref], Field(max_length=MANY)]
    beyond: tuple[Reach | None, Reach | None] = (None, None)
    """How far (mm on the sheet) it goes beyond its features at both ends; None as far as all do."""
