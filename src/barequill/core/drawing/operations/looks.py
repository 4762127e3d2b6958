"""Styles of dimensions made and chosen."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW, Name
from ..document import Drawing
from ..styles import DimensionStyle
from .base import AnyOperation


class SetStyles(AnyOperation):
    """The drawing's own styles of dimensions, and which of all its dimensions have that name none."""

    op: Literal["set_styles"] = "set_styles"
    styles: Annotated[list[DimensionStyle], Field(max_length=FEW)] | None = None
    style: Name | None = None

    def applied(self, drawing: Drawing) -> Drawing:
        changes: dict[str, object] = {}
        if self.styles is not None:
            changes["styles"] = list(self.styles)
        if self.style is not None:
            changes["style"] = self.style
        return drawing.model_copy(update=changes)

    def words(self) -> str:
        return "Set the look of dimensions"
