"""Acts: what a hand means, a file for each kind; the web, the command line and the demo use the same."""

from __future__ import annotations

from functools import reduce
from operator import or_
from typing import TYPE_CHECKING, Annotated

from pydantic import Field

from ..registry import kinds
from .base import ActContext, AnyAct, Preview
from .centres import Centres, centres_plan
from .change_sheet import ChangeSheet, Spread
from .new_drawing import NewDrawing, Shelved, new_drawing
from .operation import DoOperation
from .paste import Paste
from .place_set import PlaceSet
from .pull_dimension import MoveDimension, PickJson, PullDimension
from .pull_view import PullView
from .turn_front import TurnFront

if TYPE_CHECKING:
    Act = AnyAct
else:
    Act = Annotated[reduce(or_, kinds(__name__, __path__, AnyAct)), Field(discriminator="act")]

__all__ = [
    "Act",
    "ActContext",
    "AnyAct",
    "Centres",
    "ChangeSheet",
    "DoOperation",
    "MoveDimension",
    "NewDrawing",
    "Paste",
    "PickJson",
    "PlaceSet",
    "Preview",
    "PullDimension",
    "PullView",
    "Shelved",
    "Spread",
    "TurnFront",
    "centres_plan",
    "new_drawing",
]
