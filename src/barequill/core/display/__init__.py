"""The display list of a sheet, the same for the screen and every format."""

from .hatching import Hatch
from .marks import DimensionRecord, DisplayList, Element, FieldZone, Mark, Region, Sketch, Stroke, Text, Tint, box_of

__all__ = [
    "DimensionRecord",
    "DisplayList",
    "Element",
    "FieldZone",
    "Hatch",
    "Mark",
    "Region",
    "Sketch",
    "Stroke",
    "Text",
    "Tint",
    "box_of",
]
