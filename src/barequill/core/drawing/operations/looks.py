"""Styles of dimensions and of views made and chosen."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW, Name
from ..document import Drawing
from ..styles import DimensionStyle, ViewStyle
from .base import AnyOperation


class SetStyles(AnyOperation):
    """The drawing's own styles of dimensions and of views, and which of them all have that name none."""

    op: Literal["set_styles"] = "set_styles"
    styles: Annotated[list[DimensionStyle], Field(max_length=FEW)] | None = None
    style: Name | None = None
    view_styles: Annotated[list[ViewStyle], Field(max_length=FEW)] | None = None
    view_style: Name | None = None

    def applied(self, drawing: Drawing) -> Drawing:
        names = ("styles", "style", "view_styles", "view_style")
        return drawing.model_copy(update={n: v for n in names if (v := getattr(self, n)) is not None})

    def words(self) -> str:
        of_views = self.view_styles is not None or self.view_style is not None
        return "Set the look of sections, details and captions" if of_views else "Set the look of dimensions"
