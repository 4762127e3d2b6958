"""Annotations, a file for each kind: a module put into this folder is a kind of the document."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from ...registry import kinds
from .base import AnyAnnotation
from .centre_line import CentreLine
from .centre_mark import CentreMark
from .dimension import Anchor, Dimension, Place, Tolerance

KINDS = kinds(__name__, __path__, AnyAnnotation)
BY_NAME: dict[str, type[AnyAnnotation]] = {k.model_fields["kind"].default: k for k in KINDS}
if TYPE_CHECKING:
    Annotation = AnyAnnotation
else:
    Annotation = Annotated[reduce(or_, KINDS), Field(discriminator="kind")]


def declared(kind: str) -> type[AnyAnnotation]:
    """The kind of that name; of what is no annotation (a view, the frame) one that declares nothing."""
    return BY_NAME.get(kind, AnyAnnotation)


__all__ = [
    "KINDS",
    "Anchor",
    "Annotation",
    "AnyAnnotation",
    "CentreLine",
    "CentreMark",
    "Dimension",
    "Place",
    "Tolerance",
    "declared",
]
