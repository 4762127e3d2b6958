"""What all annotations have, and the list of their kinds: each module of this folder holds one."""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import Field

from ...bounds import Figure, Ref
from ...standards.geometrical import Feature
from ..base import Model
from .remains import Remains

Reach = Annotated[Figure, Field(ge=-1000, le=1000)]
"""mm on the sheet by which a line goes on, or stops short."""


class AnyAnnotation(Model):
    """An annotation hangs ``on`` a view, a sheet or another annotation, and goes where that goes."""

    id: Ref
    on: Ref
    was: Remains | None = None
    """What it was before it lost what it hung on."""

    noun: ClassVar[str] = "annotation"
    """What it is called in a sentence."""
    counts_as: ClassVar[str] = "mark"
    """What it is called where sizes, notes and marks are counted or checked."""
    hangs_on: ClassVar[frozenset[Literal["view", "sheet", "annotation"]]] = frozenset({"view", "annotation"})
    """On what it may hang."""
    lettered: ClassVar[bool] = False
    """Its lettering is to be read: thin lines give way to it, and nothing may lie on it."""
    gives_way: ClassVar[bool] = False
    """Its lines are interrupted for such lettering."""
    tidied: ClassVar[Literal["stays", "measured", "leader"]] = "stays"
    """How *Tidy* sets it down: not at all; in a row or on a leader, by what it measures; on a leader."""
    placed_by: ClassVar[tuple[str, ...]] = ()
    """The fields that tell where it stands; all others tell what it says."""

    @property
    def fixed(self) -> bool:
        """True where a hand has pinned it: *Tidy* leaves it where it is."""
        return False

    @property
    def stacks(self) -> bool:
        """True where it is stacked under what it hangs on, so that others are stacked under it."""
        return False

    @property
    def letters(self) -> frozenset[str]:
        """The letters that it takes from the drawing's register: no two things of a drawing have the same."""
        return frozenset()

    @property
    def feature(self) -> Feature | None:
        """What a sign is about that hangs on it; None where it carries no signs."""
        return None

    def on_sheet(self, sheet: str, by: tuple[float, float]) -> Self:
        """One that stands on a sheet by itself, on another, moved by so much (mm)."""
        at = getattr(self, "at", None)
        there = {} if at is None else {"at": (at[0] + by[0], at[1] + by[1])}
        return self.model_copy(update={"on": sheet, **there})

    def check(self) -> None:
        """See that it says no nonsense, as far as it can tell by itself; raises BadOperation with the reason."""

    def says_of(self) -> dict[str, str]:
        """By reference of a face or edge what it says of that: what is measured, or ``diameter``."""
        return {}

    def led(self, angle: float, offset: float) -> Self:
        """The same with its leader at an angle (degrees) and so long (sheet mm); for those on leaders."""
        raise NotImplementedError(self.noun)

    def slid(self) -> tuple[Self, ...]:
        """The same moved along what it sits on; none for those that are led to it."""
        return ()

    @property
    def leader(self) -> tuple[float, float]:
        """Angle (degrees) and length (sheet mm) of its leader; for those on leaders."""
        raise NotImplementedError(self.noun)

    def place_as_json(self) -> dict[str, object]:
        """The fields that tell where it stands."""
        return self.model_dump(mode="json", include=set(self.placed_by))

    def meant(self) -> str:
        """What it says of the part, whatever its place: a copy of it says the same."""
        return self.model_dump_json(exclude={"id", "on", *self.placed_by})

    def copied(self, on: str) -> Self | None:
        """A copy of it for another view; None of one that cannot be copied by itself."""
        return self.model_copy(update={"on": on})
