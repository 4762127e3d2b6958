"""Letters of holes: by which name a hole stands in a table of holes."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Ref
from .hung import AnyHung


class HoleLetter(AnyHung):
    """The name by which tables of its view call a hole, beside it; ``hole``: one of its faces."""

    noun: ClassVar[str] = "letter of a hole"
    counts_as: ClassVar[str] = "mark"

    kind: Literal["hole_letter"] = "hole_letter"
    hole: Ref
