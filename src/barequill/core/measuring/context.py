"""What an annotation is measured and laid out in: its drawing, sheet and view, and what it asks of other annotations."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field, replace
from functools import cached_property
from itertools import takewhile
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..drawing import Dimension, Drawing, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.dimension import rows_of
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.annotations.notes_block import NotesBlock
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.document import elsewhere
from ..drawing.texture_language import texture_text
from ..values import value
from ..views.placed_view import PlacedView
from .style import Style
from .watched import Answers, still_so, watched

Array = NDArray[np.float64]


@value
class LayoutContext:
    """What an annotation is solved in: its drawing and sheet, how it is to look, and the view on which it hangs (None
    for one on the sheet itself) with its zero at the sheet's."""

    drawing: Drawing
    sheet: Sheet
    style: Style
    placed_view: PlacedView | None
    placed_views: Mapping[str, PlacedView] = field(default_factory=dict)
    """All views of the sheet, for what is said of sizes that hang on others."""
    instead: Mapping[str, AnyAnnotation] = field(default_factory=dict)
    """Annotations by their ids as they are tried, in place of those of the sheet, for what hangs on them."""
    solve: Callable[[AnyAnnotation, LayoutContext], Any] | None = None
    """How another annotation of the sheet is solved, for what it says."""
    asked: Answers | None = None
    """What has been asked so far, and the answers, where somebody wants to know."""

    def watching(self) -> LayoutContext:
        """The same context, with nothing asked so far, and with all noted that is."""
        asked: Answers = {}
        placed_view = self.placed_view
        if placed_view is not None:
            placed_view = replace(placed_view, view=watched(placed_view.view, "view", asked))
        return replace(
            self,
            drawing=watched(self.drawing, "drawing", asked),
            sheet=watched(self.sheet, "sheet", asked),
            placed_view=placed_view,
            asked=asked,
        )

    def answers(self, asked: Answers) -> bool:
        """True where all that was asked in another context has the same answers in this one."""
        models: dict[str, Any] = {"drawing": self.drawing, "sheet": self.sheet, "context": _Answering(self)}
        if self.placed_view is not None:
            models["view"] = self.placed_view.view
        return still_so(asked, models)

    def row(self, of: Dimension) -> list[Dimension]:
        """All dimensions of the set that one belongs to, in their order on the sheet."""
        found: list[Dimension] = self._ask(f"row {of.row.id}") if of.row is not None else [of]
        return found

    def before(self, own: AnyAnnotation) -> list[AnyAnnotation]:
        """The annotations of the same kind that come before one on the sheet, and hang on the same."""
        found: list[AnyAnnotation] = self._ask(f"before {own.id}")
        return found

    def carrier(self, own: AnyAnnotation) -> AnyAnnotation | None:
        """The annotation on which one hangs; None where it hangs on a view or the sheet."""
        if own.on in self.instead:
            return self.instead[own.on]
        found: AnyAnnotation | None = self._ask(f"carrier {own.on}")
        return found

    def says(self, own: str) -> str | None:
        """What a size or note of the sheet says, on whichever view; None where there is none, or it is loose."""
        found: str | None = self._ask(f"says {own}")
        return found

    def textures(self) -> tuple[str, ...]:
        """All textures that are stated on the sheets of the drawing, as they can be typed, each once."""
        found: tuple[str, ...] = self._ask("textures")
        return found

    def number_of(self, block: str, line: str) -> int | None:
        """The number of a general note on the drawing; None where it is gone."""
        found: int | None = self._ask(f"number {block} {line}")
        return found

    def elsewhere(self, own: str) -> str:
        """On which sheet an annotation stands, as it is written, where that is another than this."""
        found: str = self._ask(f"elsewhere {own}")
        return found

    def shown(self, view: str) -> PlacedView | None:
        """A view of the sheet, for what stands on the sheet itself and tells of it; None where there is none of that id."""
        there = self._ask(f"scene {view}")
        return self.placed_views.get(view) if there is not None else None

    def views(self) -> tuple[str, ...]:
        """The ids of all views of the sheet."""
        found: tuple[str, ...] = self._ask("views")
        return found

    def hole_notes(self, part: str) -> tuple[HoleNote, ...]:
        """The notes of holes of a part, on whichever sheet."""
        found: tuple[HoleNote, ...] = self._ask(f"hole notes {part}")
        return found

    def in_view(self, placed_view: PlacedView) -> LayoutContext:
        """The same in one of the sheet's views, for what is worded as it is there; nothing is noted of that."""
        return replace(self, placed_view=placed_view, asked=None)

    def stacked(self, own: AnyAnnotation) -> AnyAnnotation | None:
        """The last tolerance frame that is stacked under what an annotation hangs on; None where there is none."""
        found: AnyAnnotation | None = self._ask(f"stacked {own.on}")
        return found if found is None else self.instead.get(found.id, found)

    def _ask(self, what: str) -> Any:
        found = self._answer(what)
        if self.asked is not None:
            self.asked["context", what] = found
        return found

    def _answer(self, what: str) -> Any:
        about, _, name = what.partition(" ")
        if about == "row":
            return self._rows.get(name, [])
        if about == "carrier":
            return self._by_id.get(name)
        if about == "says":
            return self._said(name)
        if about == "textures":
            every = (a for s in _quietly(self.drawing, "sheets") for a in s.annotations)
            return tuple(dict.fromkeys(texture_text(a) for a in every if isinstance(a, SurfaceTexture)))
        if about == "elsewhere":
            return elsewhere(_quietly(self.drawing, "sheets"), _quietly(self.sheet, "id"), name)
        if about == "number":
            block, _, line = name.partition(" ")
            named = (a for s in _quietly(self.drawing, "sheets") for a in s.annotations if a.id == block)
            own = next(named, None)
            return own.number(line) if isinstance(own, NotesBlock) else None
        if about == "scene":
            there = self.placed_views.get(name)
            return None if there is None else (there.projected.scene.digest, there.transform.name)
        if about == "views":
            return tuple(self.placed_views)
        if about == "hole":
            part = name.removeprefix("notes ")
            return tuple(
                a
                for s in _quietly(self.drawing, "sheets")
                for a in s.annotations
                if isinstance(a, HoleNote) and (own := s.view(a.on)) is not None and own.part == part
            )
        if about == "stacked":
            return self._last_frame(name)
        annotations = _quietly(self.sheet, "annotations")
        own = next((a for a in annotations if a.id == name), None)
        earlier = takewhile(lambda a: a is not own, annotations)
        return [a for a in earlier if own is not None and type(a) is type(own) and a.on == own.on]

    def _said(self, name: str) -> str | None:
        own = self._by_id.get(name)
        root = root_view(self.sheet, own) if own is not None else None
        if own is None or root is None or root not in self.placed_views or self.solve is None:
            return None
        found = self.solve(own, replace(self, placed_view=self.placed_views[root].still(), asked=None))
        return None if found.loose else found.words

    def _last_frame(self, on: str) -> AnyAnnotation | None:
        found: AnyAnnotation | None = None
        for _ in self._by_id:
            more = next((a for a in self._by_id.values() if a.on == on and a.stacks), None)
            if more is None:
                break
            found, on = more, more.id
        return found

    @cached_property
    def _by_id(self) -> dict[str, AnyAnnotation]:
        return {a.id: a for a in _quietly(self.sheet, "annotations")}

    @cached_property
    def _rows(self) -> dict[str, list[Dimension]]:
        return rows_of(_quietly(self.sheet, "annotations"))

    @property
    def view(self) -> PlacedView:
        """The view; for kinds that hang on views only."""
        assert self.placed_view is not None, "it hangs on a view"
        return self.placed_view


class _Answering:
    """A layout context whose answers are had like fields."""

    def __init__(self, context: LayoutContext) -> None:
        self._stage = context

    def __getattr__(self, what: str) -> Any:
        return self._stage._answer(what)


def _quietly(model: Any, field: str) -> Any:
    """A field of a part of the document, whoever watches it."""
    return model.__dict__[field]


def root_view(sheet: Sheet, annotation: AnyAnnotation) -> str | None:
    """The view on which an annotation hangs, be it by way of others; None where it hangs on the sheet."""
    current: AnyAnnotation | None = annotation
    for _ in range(len(sheet.annotations) + 1):
        if current is None:
            return None
        if sheet.view(current.on) is not None:
            return current.on
        current = sheet.annotation(current.on)
    return None
