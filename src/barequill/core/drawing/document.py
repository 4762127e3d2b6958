"""The drawing as a document: plain, typed, versioned. Places are sheet mm from the lower left corner."""

from __future__ import annotations

import itertools
import re
from collections.abc import Collection
from itertools import islice
from typing import Annotated, Any, Literal

from pydantic import Field

from ..bounds import FEW, FIELDS, MANY, Density, FoundName, Key, Name, Ref, Scale, Text, one_of
from ..errors import UserError
from ..standards.lines import GROUPS, HEIGHTS, LineGroup, line_group
from .annotations import Annotation, AnyAnnotation
from .base import Model, Size
from .cutting import HatchChoice
from .items import Item
from .revisions import Revision
from .styles import DimensionStyle, ViewStyle
from .templates import ISO_7200, Template
from .threads import Thread
from .upgrade import VERSION, upgrade
from .views import OneView, View
from .ways import NamedWays

NUMBERS = 10**8
"""Above this no number of an element is given out."""


class PartUse(Model):
    """A part that the drawing shows."""

    key: Key
    name: FoundName = ""
    number: FoundName = ""
    material: FoundName = ""
    density: Density | None = None
    """g/cm³; where given it goes before the file's own."""
    told: bool = False
    """The material was chosen in this drawing: what the shelf says of it later does not reach it."""


class Sheet(Model):
    """One sheet; ``scale`` is its main scale."""

    id: Ref
    name: Name = ""
    size: Size = "A3"
    landscape: bool = True
    template: Name = ""
    """The name of the template of the drawing that gives it frame and title block; without one that of ISO 7200."""
    scale: Scale = 1.0
    views: Annotated[list[OneView], Field(max_length=MANY)] = []
    annotations: Annotated[list[Annotation], Field(max_length=MANY)] = []

    def view(self, view_id: str | None) -> View | None:
        """The view of that id."""
        return next((v for v in self.views if v.id == view_id), None)

    def annotation(self, annotation_id: str) -> AnyAnnotation | None:
        """The annotation of that id."""
        return next((a for a in self.annotations if a.id == annotation_id), None)

    def scale_of(self, view: View) -> float:
        """Scale at which a view is drawn."""
        current: View | None = view
        for _ in self.views:
            if current is None or current.scale is not None:
                break
            current = self.view(current.parent)
        return current.scale if current is not None and current.scale is not None else self.scale


def elsewhere(sheets: list[Sheet], here: str, element: str) -> str:
    """On which of the sheets an element stands, as it is written on the one of the id ``here``: nothing where that is the same."""
    for number, sheet in enumerate(sheets, 1):
        if sheet.view(element) or sheet.annotation(element):
            return "" if sheet.id == here else f" (sheet {number})"
    return ""


class Drawing(Model):
    """A drawing: conventions, title block fields, parts and sheets."""

    version: int = VERSION
    standard: Literal["ISO", "ASME"] = "ISO"
    angle: Literal["first", "third"] = "first"
    unit: Literal["mm", "inch"] = "mm"
    wide: Annotated[float, one_of(*GROUPS)] | None = None
    """mm of its wide lines, which tells its line group (ISO 128-2); None for that of each sheet's size."""
    lettering: Annotated[float, one_of(*HEIGHTS)] | None = None
    """mm of its lettering (ISO 3098-1); None for that of each sheet's size."""
    font: Literal["upright", "sloped", "plain"] = "upright"
    """Its lettering: as ISO 3098 has it, upright or sloped by 75°, or a plain sans serif."""
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}
    parts: Annotated[list[PartUse], Field(max_length=FEW)] = []
    sheets: Annotated[list[Sheet], Field(min_length=1, max_length=FEW)]
    hatches: Annotated[list[HatchChoice], Field(max_length=FEW)] = []
    """How cut faces are hatched in all views."""
    styles: Annotated[list[DimensionStyle], Field(max_length=FEW)] = []
    style: Name = ""
    """The name of the style of dimensions that name none."""
    view_styles: Annotated[list[ViewStyle], Field(max_length=FEW)] = []
    view_style: Name = ""
    """The name of the style of views that name none."""
    templates: Annotated[list[Template], Field(max_length=20)] = []
    """The templates that its sheets take, by their names."""
    threads: Annotated[list[Thread], Field(max_length=FEW)] = []
    letters_left_out: Annotated[str, Field(max_length=20, pattern=r"^[A-Z]*$")] = "IOQ"
    """Letters that sections and other views do not get by themselves."""
    items: Annotated[list[Item], Field(max_length=MANY)] = []
    """The items of the parts list, in its order."""
    revisions: Annotated[list[Revision], Field(max_length=FEW)] = []
    """What was changed when, the latest last."""
    ways: NamedWays | None = None
    """The ways of a house that it was given, as they were then; what departs from them is told."""
    last_id: Annotated[int, Field(ge=0, le=10**9)] = 0

    @classmethod
    def load(cls, document: dict[str, Any]) -> Drawing:
        """A stored document of this version or an older one.

        Raises
        ------
        ValidationError
            Where it is none.
        """
        return cls.model_validate(upgrade(document))

    @property
    def front_sheet(self) -> Sheet:
        """The sheet that stands for the drawing on the shelf."""
        return next(iter(self.sheets))

    def lines_of(self, sheet: Sheet) -> LineGroup:
        """The widths of lines and heights of lettering of a sheet."""
        return line_group(sheet.size, self.wide, self.lettering, self.font)

    def template_of(self, sheet: Sheet) -> Template:
        """The template of a sheet."""
        return next((t for t in self.templates if t.name == sheet.template and t.name), ISO_7200)

    def look_of(self, view: View) -> ViewStyle:
        """The style of a view: its own, else that of the drawing, else as the standard has it."""
        wanted = view.style or self.view_style
        return next((s for s in self.view_styles if s.name == wanted), ViewStyle(name=""))

    def sheet(self, sheet_id: str) -> Sheet | None:
        """The sheet of that id."""
        return next((s for s in self.sheets if s.id == sheet_id), None)

    def sheets_named(self, words: str) -> list[Sheet]:
        """Sheets by their numbers, such as ``2`` or ``1-3,5``; all where none are named.

        Raises
        ------
        UserError
            Where these are no numbers of its sheets.
        """
        count = len(self.sheets)
        numbers: list[int] = []
        for piece in words.split(",") if words.strip() else [f"1-{count}"]:
            found = re.fullmatch(r"\s*(\d{1,6})\s*(?:-\s*(\d{1,6})\s*)?", piece, re.ASCII)
            first, last = (int(found[1]), int(found[2] or found[1])) if found else (0, 0)
            if not 1 <= first <= last <= count:
                has = "one sheet" if count == 1 else f"{count} sheets"
                raise UserError(
                    f"There is no sheet {piece.strip()[:40] or 'without a number'}", f"The drawing has {has}."
                )
            numbers += range(first, last + 1)
        return [self.sheets[n - 1] for n in dict.fromkeys(numbers)]

    def number_of_sheet(self, sheet_id: str) -> int:
        """The place of a sheet among all, from 1 on; 1 of one that is not there yet."""
        return next((k for k, s in enumerate(self.sheets, 1) if s.id == sheet_id), 1)

    def root_of(self, view: View) -> View:
        """The view from which a view is projected, over however many others."""
        for _ in range(40):
            parent = self.view(view.parent)
            if parent is None:
                break
            view = parent
        return view

    def elsewhere(self, sheet: Sheet, element: str) -> str:
        """Where an element stands, as it is written on a ``sheet``: nothing where that is the same."""
        return elsewhere(self.sheets, sheet.id, element)

    def sheet_of(self, element: str) -> Sheet | None:
        """The sheet that holds a view or an annotation."""
        return next((s for s in self.sheets if s.view(element) or s.annotation(element)), None)

    def view(self, view_id: str | None) -> View | None:
        """The view of that id, on whichever sheet."""
        return next((v for s in self.sheets for v in s.views if v.id == view_id), None)

    def main_scale(self, view_id: str) -> float:
        """The main scale of the sheet on which a view stands; of one that is not there yet, of the first sheet."""
        return (self.sheet_of(view_id) or self.front_sheet).scale

    def part(self, key: str) -> PartUse | None:
        """The part of that key."""
        return next((p for p in self.parts if p.key == key), None)

    def subject(self, sheet: Sheet) -> PartUse | None:
        """The part that a sheet is about: that of its first view, else the first that the drawing took up."""
        shown = next((v.part for v in sheet.views), None)
        return next((p for p in self.parts if shown is None or p.key == shown), None)

    def fresh(self, count: int = 1) -> list[str]:
        """Ids that were never given out; of a drawing that once took a number beyond all others, such as it does not hold."""
        if self.last_id < NUMBERS:
            return [f"e{self.last_id + 1 + k}" for k in range(count)]
        held = {e.id for s in self.sheets for e in (s, *s.views, *s.annotations)}
        return list(islice((n for k in itertools.count(NUMBERS // 2) if (n := f"e{k}") not in held), count))

    def letters(self, but: str = "") -> set[str]:
        """The letters that are taken, of views and annotations on whichever sheet, ``but`` for those of that id."""
        found = {v.letter for s in self.sheets for v in s.views if v.letter and v.id != but}
        return found.union(*(a.letters for s in self.sheets for a in s.annotations if a.id != but))

    def free_letter(self, also: Collection[str] = ()) -> str:
        """The next letter that nothing of the drawing has, on whichever sheet, and that is none of some others (``also``)."""
        taken = self.letters().union(also)
        letters = [c for c in "ABCDEFGHIJKLMNOPQRSTUVWXYZ" if c not in self.letters_left_out] or ["A"]
        names = [*letters, *(a + b for a in letters for b in letters), *(f"A{k}" for k in range(10))]
        return next((n for n in names if n not in taken), "Z9")

    def descendants(self, view_id: str, tied_only: bool = False) -> list[View]:
        """Views that hang on a view, on all sheets, nearest first."""
        found: list[View] = []
        level = {view_id}
        while level:
            children = [
                v
                for s in self.sheets
                for v in s.views
                if v.parent in level and (v.tied or not tied_only) and v not in found
            ]
            found += children
            level = {v.id for v in children}
        return found

    def hanging(self, roots: set[str]) -> set[str]:
        """The ids of all that hangs on these elements, at however many removes, and they themselves."""
        gone = set(roots)
        while True:
            more = {v.id for s in self.sheets for v in s.views if v.parent in gone}
            more |= {a.id for s in self.sheets for a in s.annotations if a.on in gone}
            if more <= gone:
                return gone
            gone |= more

    def with_sheet(self, sheet: Sheet) -> Drawing:
        """The drawing with a sheet in place of that of its id."""
        return self.model_copy(update={"sheets": [sheet if s.id == sheet.id else s for s in self.sheets]})

    def to_json(self) -> dict[str, Any]:
        """The document as plain values."""
        return self.model_dump(mode="json")
