"""Ink: the display list of a sheet, the same for the screen and every format."""

from .marks import DimensionRecord, FieldZone, Fill, Ink, Mark, Stroke, Text, Tint, mark_json

__all__ = ["DimensionRecord", "FieldZone", "Fill", "Ink", "Mark", "Stroke", "Text", "Tint", "mark_json"]
