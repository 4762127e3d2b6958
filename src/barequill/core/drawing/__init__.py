"""The drawing document and the operations that change it."""

from .annotations import Anchor, Annotation, AnyAnnotation, CentreLine, CentreMark, Dimension, Place, Tolerance
from .document import Drawing, PartUse, Sheet
from .operations import Operation, apply, label
from .views import BaseView, FreeView, PictorialView, ProjectedView, View

__all__ = [
    "Anchor",
    "Annotation",
    "AnyAnnotation",
    "BaseView",
    "CentreLine",
    "CentreMark",
    "Dimension",
    "Drawing",
    "FreeView",
    "Operation",
    "PartUse",
    "PictorialView",
    "Place",
    "ProjectedView",
    "Sheet",
    "Tolerance",
    "View",
    "apply",
    "label",
]
