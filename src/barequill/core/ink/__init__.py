"""Ink: the display list of a sheet, the same for the screen and every format."""

from .marks import (
    DimensionRecord,
    Element,
    FieldZone,
    Ink,
    Mark,
    Region,
    Sketch,
    Stroke,
    Text,
    Tint,
    box_of,
)

__all__ = [
    "DimensionRecord",
    "Element",
    "FieldZone",
    "Ink",
    "Mark",
    "Region",
    "Sketch",
    "Stroke",
    "Text",
    "Tint",
    "box_of",
]
