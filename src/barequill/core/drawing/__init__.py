"""The drawing document and the operations that change it."""

from .annotations import Anchor, Annotation, AnyAnnotation, CentreLine, CentreMark, Dimension, Place, Tolerance
from .cutting import Corner, CuttingLine, HatchChoice, LocalCut, Tie
from .document import Drawing, PartUse, Sheet
from .operations import Operation, apply, label
from .views import FreeView, PictorialView, PrincipalView, ProjectedView, SectionView, View

__all__ = [
    "Anchor",
    "Annotation",
    "AnyAnnotation",
    "CentreLine",
    "CentreMark",
    "Corner",
    "CuttingLine",
    "Dimension",
    "Drawing",
    "FreeView",
    "HatchChoice",
    "LocalCut",
    "Operation",
    "PartUse",
    "PictorialView",
    "Place",
    "PrincipalView",
    "ProjectedView",
    "SectionView",
    "Sheet",
    "Tie",
    "Tolerance",
    "View",
    "apply",
    "label",
]
