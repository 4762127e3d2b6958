"""Ink: the display list of a sheet, the same for the screen and every format."""

from .hatching import Hatch
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
    "Hatch",
    "Ink",
    "Mark",
    "Region",
    "Sketch",
    "Stroke",
    "Text",
    "Tint",
    "box_of",
]
