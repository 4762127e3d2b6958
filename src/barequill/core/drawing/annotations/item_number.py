"""Item numbers: which items of the parts list a body is, on a leader to it (ISO 6433)."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal

from pydantic import Field

from ..items import ItemId
from .hung import AnyHung


class ItemNumber(AnyHung):
    """The numbers of items, the first at the leader and the others in a line beside or below it (``stack``); in a ring, underlined, or bare."""

    noun: ClassVar[str] = "item number"

    kind: Literal["item_number"] = "item_number"
    items: Annotated[list[ItemId], Field(min_length=1, max_length=20)]
    form: Literal["ring", "underline", "bare"] = "ring"
    stack: Literal["beside", "below"] = "beside"
