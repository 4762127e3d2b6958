"""The drawing document and the operations that change it."""

from .annotations import Anchor, Annotation, AnyAnnotation, CentreLine, CentreMark, Dimension, Place, Tolerance
from .cutting import Corner, CuttingLine, HatchChoice, LocalCut, Tie
from .document import Drawing, PartUse, Sheet
from .operations import Operation, apply, label
from .styles import DimensionStyle
from .views import AuxiliaryView, DetailView, FreeView, PictorialView, PrincipalView, ProjectedView, SectionView, View
from .windows import Break, Crop, Outline

__all__ = [
    "Anchor",
    "Annotation",
    "AnyAnnotation",
    "AuxiliaryView",
    "Break",
    "CentreLine",
    "CentreMark",
    "Corner",
    "Crop",
    "CuttingLine",
    "DetailView",
    "Dimension",
    "DimensionStyle",
    "Drawing",
    "FreeView",
    "HatchChoice",
    "LocalCut",
    "Operation",
    "Outline",
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
