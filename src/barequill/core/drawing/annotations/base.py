"""What all annotations have, and the list of their kinds: each module of this folder holds one."""

from __future__ import annotations

from typing import Annotated, ClassVar

from pydantic import Field

from ...bounds import Figure, Ref
from ..base import Model

Reach = Annotated[Figure, Field(ge=-1000, le=1000)]
"""mm on the sheet by which a line goes on, or stops short."""


class AnyAnnotation(Model):
    """An annotation hangs ``on`` a view, a sheet or another annotation, and goes where that goes."""

    id: Ref
    on: Ref

    noun: ClassVar[str] = "annotation"
    """What it is called in a sentence."""
