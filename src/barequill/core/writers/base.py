"""The one narrow way out: a writer has to know every mark, or it is no writer."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Iterable
from typing import assert_never

from ..display import DisplayList, Hatch, Mark, Region, Stroke, Text, Tint


class Writer(ABC):
    """Writes marks of a sheet's ink."""

    def __init__(self, ink: DisplayList) -> None:
        self.ink = ink

    def write(self, marks: Iterable[Mark]) -> None:
        """Write marks one after the other."""
        for mark in marks:
            match mark:
                case Stroke():
                    self.stroke(mark)
                case Region():
                    self.region(mark)
                case Tint():
                    self.tint(mark)
                case Text():
                    self.text(mark)
                case Hatch():
                    self.hatch(mark)
                case _:
                    assert_never(mark)

    @abstractmethod
    def stroke(self, mark: Stroke) -> None:
        """Write a line."""

    @abstractmethod
    def region(self, mark: Region) -> None:
        """Write a filled region with its holes."""

    @abstractmethod
    def tint(self, mark: Tint) -> None:
        """Write a picture in tones."""

    @abstractmethod
    def text(self, mark: Text) -> None:
        """Write a line of lettering."""

    @abstractmethod
    def hatch(self, mark: Hatch) -> None:
        """Write a region filled with parallel lines."""
