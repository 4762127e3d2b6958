"""What is asked and answered about issuing."""

from __future__ import annotations

from typing import Annotated

from pydantic import Field

from ..core.bounds import Affix, Text
from ..core.drawing.base import Model
from .schemas import Shown


class NextIssue(Model):
    """What is proposed for the next issue."""

    letter: str
    date: str
    creator: str
    approver: str
    words: str


class IssueRequest(Model):
    """A drawing last seen at ``edit`` issued as a revision."""

    edit: Annotated[int, Field(ge=0, lt=2**63)]
    letter: Annotated[str, Field(min_length=1, max_length=4, pattern=r"^[A-Z0-9-]+$")]
    date: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    words: Text = ""
    creator: Affix = ""
    approver: Affix = ""
    shown: Shown | None = None


class SeveralRequest(Model):
    """Drawings (their numbers on the shelf) issued at once; what changed is told of each by itself where nothing is said."""

    drawings: Annotated[list[Annotated[int, Field(ge=1, lt=2**63)]], Field(min_length=1, max_length=100)]
    date: Annotated[str, Field(pattern=r"^\d{4}-\d{2}-\d{2}$")]
    words: Text = ""
    creator: Affix = ""
    approver: Affix = ""


class OneIssued(Model):
    """A drawing that was issued, and under which letter."""

    drawing: int
    letter: str


class OneRefused(Model):
    """A drawing that could not be issued, and why."""

    drawing: int
    title: str
    detail: str


class SeveralIssued(Model):
    """What became of drawings that were to be issued at once."""

    issued: list[OneIssued]
    refused: list[OneRefused]


class IssuedFile(Model):
    """A file of an issue; ``sha256`` its hash."""

    name: str
    size: int
    sha256: str


class IssueInfo(Model):
    """What was issued, when and by whom; ``created`` is the moment (UTC)."""

    id: int
    letter: str
    words: str
    date: str
    creator: str
    approver: str
    created: str
    files: list[IssuedFile]
