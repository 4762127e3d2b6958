"""What can be drawn: strokes, regions, tones, lettering; in sheet mm, y up, from the zero of their element."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2
from ..standards.lines import HEADING, LETTERING, PENS, LineGroup, fitted_pattern
from ..standards.sheets import Rectangle
from ..values import value
from .hatching import Hatch
from .lettering import Font, drawable, font_size, lettering_now, pieces, text_width
from .signs import has_signs, sign_of

Array = NDArray[np.float64]
Place = tuple[float, float]


@value
class Stroke:
    """A line drawn with a pen. ``source`` is the reference of the entity that it shows."""

    curve: Curve2
    pen: str
    source: str = ""

    def moved(self, by: Place) -> Stroke:
        """The same elsewhere."""
        return replace(self, curve=self.curve.moved(1.0, 0.0, by))


@value
class Region:
    """A filled region: closed outlines (n, 2), those after the first are holes in it."""

    rings: tuple[Array, ...]

    def moved(self, by: Place) -> Region:
        """The same elsewhere."""
        return Region(tuple(r + by for r in self.rings))


@value
class Tint:
    """A picture in tones of ink (PNG, clear where there is nothing) between two corners; ``coloured``: the same in colours, for the
    screen."""

    png: bytes
    x0: float
    y0: float
    x1: float
    y1: float
    coloured: bytes = b""

    def moved(self, by: Place) -> Tint:
        """The same elsewhere."""
        return Tint(self.png, self.x0 + by[0], self.y0 + by[1], self.x1 + by[0], self.y1 + by[1], self.coloured)


@value
class Text:
    """One line of lettering; ``x``, ``y`` is the foot of it at its ``anchor``, ``angle`` in degrees."""

    text: str
    x: float
    y: float
    height: float
    anchor: Literal["start", "middle", "end"] = "start"
    angle: float = 0.0
    bold: bool = False
    font: Font = "upright"

    @property
    def stroke(self) -> float:
        """mm that the lines of its signs are wide."""
        return self.height * (HEADING if self.bold else LETTERING)

    @property
    def grown(self) -> float:
        """Width, mm, of a line along the outlines of its letters that makes their own lines as wide; 0 where they are so."""
        return self.height * (HEADING - LETTERING) if self.bold else 0.0

    @property
    def width(self) -> float:
        return text_width(self.text, self.height, self.font)

    @property
    def start(self) -> Place:
        """The foot of its first letter, wherever its anchor is."""
        back = {"start": 0.0, "middle": 0.5, "end": 1.0}[self.anchor] * self.width
        a = np.radians(self.angle)
        return float(self.x - back * np.cos(a)), float(self.y - back * np.sin(a))

    def corners(self) -> Array:
        """The four corners of its box (4, 2)."""
        box = np.array([[0, -0.15], [1, -0.15], [1, 1], [0, 1]]) * [self.width, self.height]
        a = np.radians(self.angle)
        turn = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
        return box @ turn + self.start

    def runs(self) -> list[tuple[str, str, Array]]:
        """Its runs of letters, each with the name of its font, and its signs, each without one: with where they begin."""
        a, size = np.radians(self.angle), font_size(self.height)
        way, start = np.array([np.cos(a), np.sin(a)]), np.array(self.start)
        return [
            (face.name if face else "", letters, start + at * size * way)
            for face, letters, at in pieces(self.text, self.font)
        ]

    def signs(self) -> tuple[list[Curve2], list[Array]]:
        """Strokes and filled outlines of its signs, where they stand."""
        strokes: list[Curve2] = []
        fills: list[Array] = []
        for font, letter, at in self.runs() if has_signs(self.text) else []:
            if not font:
                own, filled = sign_of(letter).placed(at, self.height, self.angle)  # type: ignore[union-attr]
                strokes += own
                fills += filled
        return strokes, fills

    def moved(self, by: Place) -> Text:
        """The same elsewhere."""
        return replace(self, x=self.x + by[0], y=self.y + by[1])


Mark = Stroke | Region | Tint | Text | Hatch


@dataclass(frozen=True)
class FieldZone:
    """A cell of the title block that can be filled in, or fills itself (``auto``); ``needed`` on every sheet."""

    cell: str
    """The id of the cell; what it shows may be no field."""
    field: str
    label: str
    value: str
    auto: bool
    needed: bool
    choices: tuple[str, ...]
    """What is offered where it is filled in."""
    x0: float
    y0: float
    x1: float
    y1: float
    says: str = ""
    """From what it follows, in words."""


@dataclass(frozen=True)
class DimensionRecord:
    """What a dimension means, for formats that know dimensions: points from the zero of its element, mm."""

    form: Literal["linear", "angular", "diameter", "radius"]
    text: str
    points: dict[str, Place]
    angle: float = 0.0
    factor: float = 1.0
    """Model units per sheet mm."""
    upper: float | None = None
    lower: float | None = None
    """Deviations, in the unit that is written."""
    limits: bool = False
    """They are written as limits."""

    def moved(self, by: Place) -> DimensionRecord:
        """The same elsewhere."""
        return replace(self, points={k: (p[0] + by[0], p[1] + by[1]) for k, p in self.points.items()})


@value
class Element:
    """The ink of one element of a sheet. Its marks are where it stands with its zero at ``at``.

    ``group`` is the view that it belongs to (its own id for a view, ``sheet`` for frame and title block); ``words`` say
    what it is; ``key`` is the same as long as its marks are. ``under`` are lines that give way to others on paper: not
    drawn, but found where one points at them. ``view`` is the view that it is a part of the drawing of, which its group
    need not be: a section's cutting line stands on the section's parent; empty for frames and annotations.
    """

    id: str
    kind: str
    group: str
    words: str
    key: str
    at: Place
    marks: tuple[Mark, ...]
    under: tuple[Stroke, ...] = ()
    record: DimensionRecord | None = None
    loose: bool = False
    """True where what it is about is gone, or cannot be drawn."""
    view: str = ""

    def placed(self, at: Place) -> Element:
        """The same ink at another place."""
        if at == self.at:
            return self
        return Element(
            id=self.id,
            kind=self.kind,
            group=self.group,
            words=self.words,
            key=self.key,
            at=at,
            marks=self.marks,
            under=self.under,
            record=self.record,
            loose=self.loose,
            view=self.view,
        )

    def like(self, other: Element | None) -> bool:
        """True where another is the same ink in the same place."""
        return other is not None and (self.key, self.at, self.id) == (other.key, other.at, other.id)

    def on_sheet(self) -> tuple[Mark, ...]:
        """Its marks where they stand on the sheet."""
        return tuple(m.moved(self.at) for m in self.marks) if self.at != (0.0, 0.0) else self.marks


@dataclass
class Sketch:
    """The display list of one element while it is being drawn."""

    lines: LineGroup
    marks: list[Mark] = field(default_factory=list)
    under: list[Stroke] = field(default_factory=list)
    record: DimensionRecord | None = None

    def stroke(self, curve: Curve2, pen: str, source: str = "") -> None:
        """Add a stroke."""
        self.marks.append(Stroke(curve, pen, source))

    def lie_under(self, curve: Curve2, pen: str, source: str) -> None:
        """Add a stroke that is not drawn, since it lies under another."""
        self.under.append(Stroke(curve, pen, source))

    def fill(self, *rings: Any) -> None:
        """Add a filled region; outlines after the first are holes."""
        self.marks.append(Region(tuple(np.asarray(r, float) for r in rings)))

    def hatch(self, rings: Sequence[Any], angle: float, spacing: float, pattern: str = "general") -> None:
        """Add a hatched region; outlines after the first are holes."""
        self.marks.append(Hatch(tuple(np.asarray(r, float) for r in rings), angle, spacing, pattern))

    def text(
        self,
        text: str,
        x: float,
        y: float,
        height: float,
        anchor: Literal["start", "middle", "end"] = "start",
        angle: float = 0.0,
        bold: bool = False,
    ) -> None:
        """Add a line of lettering (nothing where it is empty)."""
        if text:
            self.marks.append(
                Text(
                    text=drawable(text),
                    x=float(x),
                    y=float(y),
                    height=height,
                    anchor=anchor,
                    angle=angle,
                    bold=bold,
                    font=lettering_now(),
                )
            )

    def element(
        self, id: str, kind: str, group: str, words: str, key: str, at: Place, *, loose: bool = False, view: str = ""
    ) -> Element:
        """What was drawn, as an element."""
        # ink of another lettering is other ink
        key = key if self.lines.font == "upright" else f"{key}-{self.lines.font}"
        return Element(
            id=id,
            kind=kind,
            group=group,
            words=words,
            key=key,
            at=at,
            marks=tuple(self.marks),
            under=tuple(self.under),
            record=self.record,
            loose=loose,
            view=view,
        )


@dataclass
class DisplayList:
    """All ink of a sheet, element by element; ``names`` of groups serve files."""

    width: float
    height: float
    lines: LineGroup
    elements: list[Element] = field(default_factory=list)
    fields: list[FieldZone] = field(default_factory=list)
    names: dict[str, str] = field(default_factory=dict)
    title: str = ""

    def of(self, id: str) -> Element | None:
        """The element of that id."""
        return next((e for e in self.elements if e.id == id), None)

    def marks_of(self, *ids: str) -> list[Mark]:
        """The marks of some elements (of all where none is named), where they stand on the sheet."""
        return [m for e in self.elements if not ids or e.id in ids for m in e.on_sheet()]

    @property
    def dimensions(self) -> dict[str, DimensionRecord]:
        """What the dimensions of the sheet mean, by their ids."""
        return {e.id: e.record.moved(e.at) for e in self.elements if e.record is not None}

    def width_of(self, pen: str) -> float:
        """Line width of a pen on this sheet, mm."""
        return self.lines.width(pen)

    def dashes(self, stroke: Stroke) -> list[float]:
        """The pattern of a stroke in mm, empty where it is continuous."""
        if not PENS[stroke.pen].pattern:
            return []
        return fitted_pattern(stroke.pen, self.lines.narrow, stroke.curve.length())


def box_of(marks: Sequence[Mark]) -> Rectangle | None:
    """The upright box of marks; None where there is none."""
    points = []
    for mark in marks:
        if isinstance(mark, Stroke):
            points.append(np.array(mark.curve.bounds()).reshape(2, 2))
        elif isinstance(mark, Region | Hatch):
            points += mark.rings
        elif isinstance(mark, Text):
            points.append(mark.corners())
        else:
            points.append(np.array([[mark.x0, mark.y0], [mark.x1, mark.y1]]))
    if not points:
        return None
    low, high = np.concatenate(points).min(axis=0), np.concatenate(points).max(axis=0)
    return Rectangle(float(low[0]), float(low[1]), float(high[0]), float(high[1]))
