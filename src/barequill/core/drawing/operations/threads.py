"""Threads declared, changed and taken back."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ...bounds import FEW
from ..document import Drawing
from ..threads import Thread
from .base import AnyOperation


class SetThreads(AnyOperation):
    """All threads of the drawing's parts."""

    op: Literal["set_threads"] = "set_threads"
    threads: Annotated[list[Thread], Field(max_length=FEW)]

    def applied(self, drawing: Drawing) -> Drawing:
        return drawing.model_copy(update={"threads": list(self.threads)})

    def words(self) -> str:
        return "Set the threads"
