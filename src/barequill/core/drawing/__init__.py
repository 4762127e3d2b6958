"""The drawing document and the operations that change it."""

from .document import (
    Anchor,
    Annotation,
    CentreLine,
    CentreMark,
    Dimension,
    Drawing,
    PartUse,
    Place,
    Sheet,
    Tolerance,
    View,
)
from .operations import Operation, apply, label

__all__ = [
    "Anchor",
    "Annotation",
    "CentreLine",
    "CentreMark",
    "Dimension",
    "Drawing",
    "Operation",
    "PartUse",
    "Place",
    "Sheet",
    "Tolerance",
    "View",
    "apply",
    "label",
]
