"""The display list: all that can be drawn on a sheet, in sheet mm from its lower left corner, y up."""

from __future__ import annotations

import base64
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2
from ..standards.lines import PENS, LineGroup, fitted_pattern
from .lettering import drawable, font_size, text_width
from .paths import path_data

Array = NDArray[np.float64]


@dataclass(frozen=True, eq=False)
class Stroke:
    """A line drawn with a pen. ``source`` is the reference of the entity that it shows."""

    curve: Curve2
    pen: str
    owner: str
    source: str = ""


@dataclass(frozen=True, eq=False)
class Fill:
    """A filled outline (n, 2)."""

    points: Array
    owner: str


@dataclass(frozen=True, eq=False)
class Tint:
    """A picture in tones of ink (PNG, clear where there is nothing) between two corners."""

    png: bytes
    x0: float
    y0: float
    x1: float
    y1: float
    owner: str


@dataclass(frozen=True, eq=False)
class Text:
    """One line of lettering; ``x``, ``y`` is the foot of it at its ``anchor``, ``angle`` in degrees."""

    text: str
    x: float
    y: float
    height: float
    owner: str
    anchor: Literal["start", "middle", "end"] = "start"
    angle: float = 0.0

    @property
    def width(self) -> float:
        return text_width(self.text, self.height)

    def corners(self) -> Array:
        """The four corners of its box (4, 2)."""
        shift = {"start": 0.0, "middle": -0.5, "end": -1.0}[self.anchor] * self.width
        box = np.array([[0, -0.15], [1, -0.15], [1, 1], [0, 1]]) * [self.width, self.height] + [shift, 0]
        a = np.radians(self.angle)
        turn = np.array([[np.cos(a), np.sin(a)], [-np.sin(a), np.cos(a)]])
        return box @ turn + [self.x, self.y]


Mark = Stroke | Fill | Tint | Text


@dataclass(frozen=True)
class FieldZone:
    """A cell of the title block that can be filled in, or fills itself (``auto``)."""

    field: str
    label: str
    value: str
    auto: bool
    x0: float
    y0: float
    x1: float
    y1: float


@dataclass(frozen=True)
class DimensionRecord:
    """What a dimension means, for formats that know dimensions: points in sheet mm."""

    owner: str
    form: Literal["linear", "angular", "diameter", "radius"]
    text: str
    points: dict[str, tuple[float, float]]
    angle: float = 0.0
    factor: float = 1.0
    """Model units per sheet mm."""


@dataclass
class Ink:
    """All marks of a sheet; ``group_of`` tells the view that an owner belongs to."""

    width: float
    height: float
    group: LineGroup
    marks: list[Mark] = field(default_factory=list)
    fields: list[FieldZone] = field(default_factory=list)
    dimensions: list[DimensionRecord] = field(default_factory=list)
    group_of: dict[str, str] = field(default_factory=dict)
    names: dict[str, str] = field(default_factory=dict)
    title: str = ""
    under: list[Stroke] = field(default_factory=list)
    """Lines that give way to others on paper: not drawn, but found where one points at them."""

    def stroke(self, curve: Curve2, pen: str, owner: str, source: str = "") -> None:
        """Add a stroke."""
        self.marks.append(Stroke(curve, pen, owner, source))

    def lie_under(self, curve: Curve2, pen: str, owner: str, source: str) -> None:
        """Add a stroke that is not drawn, since it lies under another."""
        self.under.append(Stroke(curve, pen, owner, source))

    def fill(self, points: Any, owner: str) -> None:
        """Add a filled outline."""
        self.marks.append(Fill(np.asarray(points, float), owner))

    def text(
        self,
        text: str,
        x: float,
        y: float,
        height: float,
        owner: str,
        anchor: Literal["start", "middle", "end"] = "start",
        angle: float = 0.0,
    ) -> None:
        """Add a line of lettering (nothing where it is empty)."""
        if text:
            self.marks.append(Text(drawable(text), float(x), float(y), height, owner, anchor, angle))

    def width_of(self, pen: str) -> float:
        """Line width of a pen on this sheet, mm."""
        return self.group.width(pen)

    def dashes(self, stroke: Stroke) -> list[float]:
        """The pattern of a stroke in mm, empty where it is continuous."""
        if not PENS[stroke.pen].pattern:
            return []
        return fitted_pattern(stroke.pen, self.group.narrow, stroke.curve.length())


def picture_data(png: bytes) -> str:
    """A PNG picture as a data URL."""
    return "data:image/png;base64," + base64.b64encode(png).decode()


def mark_json(ink: Ink, mark: Mark) -> dict[str, Any]:
    """A mark as the screen takes it: SVG path data with y down, in mm."""
    if isinstance(mark, Stroke):
        points = mark.curve.points(0.05)
        out: dict[str, Any] = {
            "m": "s",
            "d": path_data(mark.curve, ink.height),
            "pen": mark.pen,
            "w": ink.width_of(mark.pen),
            "o": mark.owner,
            "pts": [round(v, 3) for p in points for v in (p[0], ink.height - p[1])],
        }
        if mark.source:
            out["src"] = mark.source
        dashes = ink.dashes(mark)
        if dashes:
            out["dash"] = [round(d, 4) for d in dashes]
        return out
    if isinstance(mark, Tint):
        return {
            "m": "i",
            "o": mark.owner,
            "x": round(mark.x0, 3),
            "y": round(ink.height - mark.y1, 3),
            "w": round(mark.x1 - mark.x0, 4),
            "h": round(mark.y1 - mark.y0, 4),
            "d": picture_data(mark.png),
        }
    if isinstance(mark, Fill):
        return {"m": "f", "o": mark.owner, "pts": [round(v, 3) for p in mark.points for v in (p[0], ink.height - p[1])]}
    return {
        "m": "t",
        "o": mark.owner,
        "text": mark.text,
        "x": round(mark.x, 3),
        "y": round(ink.height - mark.y, 3),
        "size": round(font_size(mark.height), 4),
        "anchor": mark.anchor,
        "angle": round(-mark.angle, 4),
        "box": [round(v, 3) for p in mark.corners() for v in (p[0], ink.height - p[1])],
    }
