"""Items of the parts list of a drawing (ISO 7573): which product each is, and what the list says of it."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..bounds import FIELDS, FoundName, Key, Name, Ref, Text
from .base import Model

ItemId = Annotated[str, Field(pattern=r"^i[0-9]{1,6}$")]
Grams = Annotated[float, Field(ge=0, le=1e12, allow_inf_nan=False)]


class Item(Model):
    """One item. ``product``: the name of the product of the ``part`` of which it is, or of its body where the part has no
    products; such as a lubricant has none. ``mass``: g, of one of it."""

    id: ItemId
    number: Annotated[int, Field(ge=1, le=9999)]
    part: Key = ""
    product: FoundName = ""
    quantity: Annotated[int, Field(ge=0, le=10**6)] = 1
    name: Text = ""
    reference: Text = ""
    material: Text = ""
    mass: Grams | None = None
    remarks: Text = ""
    more: Annotated[dict[Ref, Name], Field(max_length=FIELDS)] = {}
    """What columns of one's own say, by their ids."""
