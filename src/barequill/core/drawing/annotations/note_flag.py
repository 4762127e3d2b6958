"""Flags: the number of a general note, where on the part it holds."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Ref
from .hung import AnyHung
from .notes_block import LineId


class NoteFlag(AnyHung):
    """A flag that refers to a note (``line``) of a block (``block``, by its id)."""

    noun: ClassVar[str] = "flag"

    kind: Literal["note_flag"] = "note_flag"
    block: Ref
    line: LineId
