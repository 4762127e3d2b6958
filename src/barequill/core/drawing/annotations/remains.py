"""What is left of an annotation whose faces or edges are gone from a revision of the part."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ...bounds import Key, Ref
from ..base import Model, Point


class Remains(Model):
    """What an annotation said, and where it said it, when it last hung on something: in the revision ``part``. ``at``: sheet mm
    from the place of its view; ``refs``: by what they are called in the annotation now, what they were called there."""

    part: Key
    words: Annotated[str, Field(max_length=500)] = ""
    at: Point
    refs: Annotated[dict[Ref, Ref], Field(max_length=100)] = {}
