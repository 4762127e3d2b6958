"""What all annotations have, and the list of their kinds: each module of this folder holds one."""

from __future__ import annotations

from typing import ClassVar

from ...bounds import Ref
from ..base import Model


class AnyAnnotation(Model):
    """An annotation hangs ``on`` a view, a sheet or another annotation, and goes where that goes."""

    id: Ref
    on: Ref

    noun: ClassVar[str] = "annotation"
    """What it is called in a sentence."""
