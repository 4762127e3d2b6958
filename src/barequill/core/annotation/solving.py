"""Annotations are solved before they are inked: what they say, where, and on what they stand is known first."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from dataclasses import field, replace
from functools import cached_property
from itertools import takewhile
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..drawing import Dimension, Drawing, Sheet
from ..drawing.annotations import AnyAnnotation
from ..drawing.annotations.dimension import rows_of
from ..drawing.annotations.notes_block import NotesBlock
from ..drawing.annotations.surface_texture import SurfaceTexture
from ..drawing.document import elsewhere
from ..drawing.texture_language import texture_text
from ..geometry import curves2
from ..ink import Sketch
from ..standards.sheets import Rectangle
from ..values import value
from ..views.picture import Picture
from .style import Style
from .watched import Answers, still_so, watched
from .wording import Lettering

Array = NDArray[np.float64]


@value
class Stage:
    """What an annotation is solved in: its drawing and sheet, how it is to look, and the view on which it hangs (None
    for one on the sheet itself) with its zero at the sheet's."""

    drawing: Drawing
    sheet: Sheet
    style: Style
    picture: Picture | None
    pictures: Mapping[str, Picture] = field(default_factory=dict)
    """All views of the sheet, for what is said of sizes that hang on others."""
    instead: Mapping[str, AnyAnnotation] = field(default_factory=dict)
    """Annotations by their ids as they are tried, in place of those of the sheet, for what hangs on them."""
    asked: Answers | None = None
    """What has been asked so far, and the answers, where somebody wants to know."""

    def watching(self) -> Stage:
        """The same stage, with nothing asked so far, and with all noted that is."""
        asked: Answers = {}
        picture = self.picture
        if picture is not None:
            picture = replace(picture, view=watched(picture.view, "view", asked))
        return replace(
            self,
            drawing=watched(self.drawing, "drawing", asked),
            sheet=watched(self.sheet, "sheet", asked),
            picture=picture,
            asked=asked,
        )

    def answers(self, asked: Answers) -> bool:
        """True where all that was asked in another stage has the same answers in this one."""
        models: dict[str, Any] = {"drawing": self.drawing, "sheet": self.sheet, "stage": _Answering(self)}
        if self.picture is not None:
            models["view"] = self.picture.view
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

    def stacked(self, own: AnyAnnotation) -> AnyAnnotation | None:
        """The last tolerance frame that is stacked under what an annotation hangs on; None where there is none."""
        found: AnyAnnotation | None = self._ask(f"stacked {own.on}")
        return found if found is None else self.instead.get(found.id, found)

    def _ask(self, what: str) -> Any:
        found = self._answer(what)
        if self.asked is not None:
            self.asked["stage", what] = found
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
        if about == "stacked":
            return self._last_frame(name)
        annotations = _quietly(self.sheet, "annotations")
        own = next((a for a in annotations if a.id == name), None)
        earlier = takewhile(lambda a: a is not own, annotations)
        return [a for a in earlier if own is not None and type(a) is type(own) and a.on == own.on]

    def _said(self, name: str) -> str | None:
        from .kinds import solve

        own = self._by_id.get(name)
        root = root_view(self.sheet, own) if own is not None else None
        if own is None or root is None or root not in self.pictures:
            return None
        found = solve(own, replace(self, picture=self.pictures[root].still(), asked=None))
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
    def view(self) -> Picture:
        """The view; for kinds that hang on views only."""
        assert self.picture is not None, "it hangs on a view"
        return self.picture


class _Answering:
    """A stage whose answers are had like fields."""

    def __init__(self, stage: Stage) -> None:
        self._stage = stage

    def __getattr__(self, what: str) -> Any:
        return self._stage._answer(what)


def _quietly(model: Any, field: str) -> Any:
    """A field of a part of the document, whoever watches it."""
    return model.__dict__[field]


BELOW = 1.5
"""mm between what is written of a size and what is stacked under it."""


@value
class Under:
    """Where something is stacked under lettering: its upper left corner, the unit way ``along`` which it reads, how wide what
    stands above is, and how far that lies above the corner (``gap``). ``ends``: those of a dimension line, each with the unit
    way in which it goes on; ``room``: what is between its extension lines."""

    corner: Array
    along: Array
    width: float
    gap: float = BELOW
    ends: tuple[tuple[Array, Array], ...] = ()
    room: float = np.inf

    @property
    def across(self) -> Array:
        """The unit way across the lettering."""
        return np.array([-self.along[1], self.along[0]])

    def at(self, shift: tuple[float, float]) -> Array:
        """The corner, moved by so much along and across."""
        return np.asarray(self.corner + shift[0] * self.along + shift[1] * self.across)


class Solved(ABC):
    """An annotation with all that can be asked of it. Places are sheet mm from the zero of what it hangs on."""

    words: str
    """What it says."""
    stands_on: tuple[str, ...]
    """References of the entities that it is about."""
    loose: bool = False
    """True where what it is about is gone, or is not seen so that it can be drawn."""

    @abstractmethod
    def occupies(self) -> Array:
        """Points (n, 2) that its ink reaches."""

    @abstractmethod
    def draw(self, sketch: Sketch) -> None:
        """Ink it."""

    def under(self) -> Under | None:
        """Where a sign that hangs on it is stacked; None where it carries none."""
        return None

    @property
    def box(self) -> Rectangle:
        """The upright box of its ink."""
        low, high = self.occupies().min(axis=0), self.occupies().max(axis=0)
        return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))


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


@value
class Run:
    """Lettering put somewhere: the middle of its foot, and its angle (degrees)."""

    text: Lettering
    foot: Array
    angle: float

    @property
    def up(self) -> Array:
        """The unit vector across the lettering."""
        a = np.radians(self.angle)
        return np.array([-np.sin(a), np.cos(a)])

    @property
    def along(self) -> Array:
        """The unit vector along it."""
        return way_at(self.angle)

    def corners(self) -> Array:
        """Corners (4, 2) of its box."""
        half, up = self.along * self.text.width / 2, self.up * self.text.height
        return self.foot + np.array([-half, half, half + up, -half + up])

    def middle(self) -> tuple[float, float]:
        """The middle of its box."""
        x, y = self.foot + self.up * self.text.height / 2
        return float(x), float(y)

    def draw(self, sketch: Sketch) -> None:
        """Ink it."""
        if self.text.boxed:
            corners = self.corners()
            sketch.stroke(curves2.polyline(np.concatenate([corners, corners[:1]])), "dimension")
        for piece, x, y, height in self.text.pieces:
            at = self.foot + (x - self.text.width / 2) * self.along + y * self.up
            sketch.text(piece, at[0], at[1], height, "start", self.angle)


def under_runs(runs: Sequence[Run]) -> Under:
    """Where something is stacked under runs of lettering that read one way."""
    first = runs[0]
    places = np.concatenate([r.corners() for r in runs])
    left, right = (places @ first.along).min(), (places @ first.along).max()
    low = (places @ first.up).min() - BELOW
    return Under(left * first.along + low * first.up, first.along, float(right - left))


SIGHT = 1.4
"""How many times as large as those of dimensions arrows are that tell from where one looks."""


def draw_arrow(sketch: Sketch, style: Style, tip: Array, direction: Array) -> None:
    """A filled arrowhead with its tip at a point, pointing along a unit direction."""
    _arrowhead(sketch, style, tip, direction, 1.0)


def draw_sight_arrow(sketch: Sketch, style: Style, tail: Array, tip: Array, direction: Array) -> None:
    """An arrow that tells from where one looks: its wide shaft from ``tail``, its tip, and the way in which it points."""
    base = _arrowhead(sketch, style, tip, direction, SIGHT)
    sketch.stroke(curves2.line(tail, base), "cutting-end")


def _arrowhead(sketch: Sketch, style: Style, tip: Array, direction: Array, size: float) -> Array:
    """Ink an arrowhead of the style's form; the middle of its base."""
    across = np.array([-direction[1], direction[0]])
    side = across * style.arrow_half * size
    base: Array = tip - style.arrow * size * direction
    if style.arrow_form == "stroke":
        lean = (direction + across) * style.arrow * size * 0.42
        sketch.stroke(curves2.line(tip - lean, tip + lean), "visible")
        return tip
    if style.arrow_form == "dot":
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        sketch.fill(list(tip + 0.22 * style.arrow * size * np.c_[np.cos(turn), np.sin(turn)]))
        return tip
    if style.arrow_form == "open":
        sketch.stroke(curves2.polyline(np.array([base + side, tip, base - side])), "dimension")
        return tip
    if style.arrow_form == "closed":
        sketch.stroke(curves2.polyline(np.array([tip, base + side, base - side, tip])), "dimension")
        return base
    sketch.fill([tip, base + side, base - side])
    return base


def draw_letter(sketch: Sketch, letter: str, at: Array, height: float) -> None:
    """A letter with its middle at a place, read from below."""
    sketch.text(letter, float(at[0]), float(at[1]) - height / 2, height, "middle")


def draw_line(sketch: Sketch, p: Array, q: Array, pen: str = "dimension", source: str = "") -> None:
    """A straight line, where it has any length."""
    if np.linalg.norm(q - p) > 1e-6:
        sketch.stroke(curves2.line(p, q), pen, source)


def way_at(angle: float) -> Array:
    """The unit vector (2,) at an angle (degrees), counter-clockwise from the right."""
    a = np.radians(angle)
    return np.array([np.cos(a), np.sin(a)])


def readable(u: Array) -> float:
    """Angle (degrees) of lettering along a direction, read from below or from the right."""
    angle = float(np.degrees(np.arctan2(u[1], u[0]))) % 180
    return angle - 180 if angle > 90 + 1e-6 else angle


def pair(p: Any) -> tuple[float, float]:
    """A place as plain figures."""
    return float(p[0]), float(p[1])
