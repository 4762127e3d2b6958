"""Threads that bores and shafts of a part are declared to have."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..bounds import Key, Name, Ref
from .base import Model

Size = Annotated[float, Field(gt=0, le=1000, allow_inf_nan=False)]


class Thread(Model):
    """The thread of a round face ``ref`` of a ``part``: called ``size``, of a nominal ``diameter`` and ``pitch`` (mm); as long as
    the face where no ``length`` (mm from its mouth or free end) is given; of a tolerance class; right or left handed."""

    part: Key
    ref: Ref
    size: Name
    diameter: Size
    pitch: Size
    length: Size | None = None
    tolerance: Annotated[str, Field(max_length=12, pattern=r"^[0-9A-Za-z /]*$")] = ""
    hand: Literal["right", "left"] = "right"
    runout: Size | None = None
    """How far (mm) its run-out goes beyond its length, where that is drawn."""
