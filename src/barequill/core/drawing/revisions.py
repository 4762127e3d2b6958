"""Revisions of a drawing: what its revision table says of each."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..bounds import Affix, Text
from .base import Model


class Revision(Model):
    """A revision: its letter, what changed, when (ISO 8601), who made and who approved it."""

    letter: Annotated[str, Field(min_length=1, max_length=4, pattern=r"^[A-Z0-9-]+$")]
    words: Text = ""
    date: Annotated[str, Field(max_length=10, pattern=r"^(\d{4}-\d{2}-\d{2})?$")] = ""
    creator: Affix = ""
    approver: Affix = ""
