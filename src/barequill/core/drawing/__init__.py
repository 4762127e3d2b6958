"""The drawing document and the operations that change it."""

from .annotations import Anchor, Annotation, AnyAnnotation, CentreLine, CentreMark, Dimension, Place, Tolerance
from .document import Drawing, PartUse, Sheet
from .operations import Operation, apply, label
from .views import FreeView, PictorialView, PrincipalView, ProjectedView, View

__all__ = [
    "Anchor",
    "Annotation",
    "AnyAnnotation",
    "CentreLine",
    "CentreMark",
    "Dimension",
    "Drawing",
    "FreeView",
    "Operation",
    "PartUse",
    "PictorialView",
    "Place",
    "PrincipalView",
    "ProjectedView",
    "Sheet",
    "Tolerance",
    "View",
    "apply",
    "label",
]
