"""A display list to the screen: SVG path data in mm, y down, from the zero of each element, and all that can be pointed at."""

from __future__ import annotations

from typing import Any, Literal, NotRequired

from pydantic import BaseModel, ConfigDict, Field, with_config
from typing_extensions import TypedDict

from ..display import DisplayList, Element, Hatch, Region, Stroke, Text, Tint
from ..display.lettering import font_size, pieces
from ..display.paths import path_data, picture_data
from ..display.signs import has_signs
from .base import Writer

STRICT = ConfigDict(extra="forbid")


@with_config(STRICT)
class ScreenStroke(TypedDict):
    """A line; ``m`` is u for one that lies under another: not drawn, but to be pointed at."""

    m: Literal["s", "u"]
    d: str
    pen: str
    w: float
    src: NotRequired[str]
    dash: NotRequired[list[float]]


@with_config(STRICT)
class ScreenRegion(TypedDict):
    """A filled region, by the even-odd rule."""

    m: Literal["f"]
    d: str


@with_config(STRICT)
class ScreenHatch(TypedDict):
    """Lines of a hatch, all in one path."""

    m: Literal["h"]
    d: str
    w: float


@with_config(STRICT)
class ScreenTint(TypedDict):
    """A picture in tones, as a data URL."""

    m: Literal["i"]
    d: str
    x: float
    y: float
    w: float
    h: float


@with_config(STRICT)
class ScreenText(TypedDict):
    """A line of lettering from its first letter on; ``box`` are its four corners. Where it has signs, ``runs`` are its letters,
    each run with how far along it begins, ``d`` and ``fill`` the strokes and what is filled of its signs, ``w`` wide;
    ``bold``: the width of a line along the outlines of its letters, where it is; ``font``: where it is another than the upright one."""

    m: Literal["t"]
    text: str
    runs: NotRequired[list[tuple[str, float]]]
    d: NotRequired[str]
    fill: NotRequired[str]
    w: NotRequired[float]
    bold: NotRequired[float]
    font: NotRequired[str]
    x: float
    y: float
    size: float
    angle: float
    box: list[float]


# a sheet has thousands of them: plain dictionaries, that are checked by their schema all the same
ScreenMark = ScreenStroke | ScreenRegion | ScreenHatch | ScreenTint | ScreenText


class ScreenElement(BaseModel):
    """An element of the sheet: its ink from its zero at ``x``, ``y``; None where the screen has it already.

    ``key`` is the same as long as the ink is.
    """

    model_config = ConfigDict(extra="forbid", frozen=True)

    id: str
    kind: str
    group: str
    view: str
    words: str
    key: str
    x: float
    y: float
    marks: list[ScreenMark] | None = Field(default=None)


def screen_element(ink: DisplayList, element: Element, bare: bool = False) -> ScreenElement:
    """An element as the screen takes it; ``bare`` without its ink."""
    found = None
    if not bare:
        writer = _Screen(ink)
        writer.write(element.marks)
        writer.under = True
        writer.write(element.under)
        found = writer.out
    return ScreenElement.model_construct(
        id=element.id,
        kind=element.kind,
        group=element.group,
        view=element.view,
        words=element.words,
        key=element.key,
        x=round(element.at[0], 4),
        y=round(ink.height - element.at[1], 4),
        marks=found,
    )


class _Screen(Writer):
    """Marks as the screen takes them."""

    def __init__(self, ink: DisplayList) -> None:
        super().__init__(ink)
        self.out: list[ScreenMark] = []
        self.under = False

    def stroke(self, mark: Stroke) -> None:
        found = ScreenStroke(
            m="u" if self.under else "s",
            d=path_data(mark.curve, 0.0, 3),
            pen=mark.pen,
            w=self.ink.width_of(mark.pen),
        )
        if mark.source:
            found["src"] = mark.source
        dashes = self.ink.dashes(mark)
        if dashes:
            found["dash"] = [round(d, 3) for d in dashes]
        self.out.append(found)

    def region(self, mark: Region) -> None:
        d = "".join(_outline(ring) for ring in mark.rings)
        self.out.append(ScreenRegion(m="f", d=d))

    def hatch(self, mark: Hatch) -> None:
        d = "".join(f"M{a:.3f} {-b:.3f}L{c:.3f} {-e:.3f}" for (a, b), (c, e) in mark.segments.tolist())
        self.out.append(ScreenHatch(m="h", d=d, w=self.ink.width_of(mark.pen)))

    def tint(self, mark: Tint) -> None:
        self.out.append(
            ScreenTint(
                m="i",
                d=picture_data(mark.coloured or mark.png),
                x=round(mark.x0, 3),
                y=round(-mark.y1, 3),
                w=round(mark.x1 - mark.x0, 4),
                h=round(mark.y1 - mark.y0, 4),
            )
        )

    def text(self, mark: Text) -> None:
        x, y = mark.start
        found = ScreenText(
            m="t",
            text=mark.text,
            x=round(x, 3),
            y=round(-y, 3),
            size=round(font_size(mark.height), 4),
            angle=round(-mark.angle, 4),
            box=[round(v, 3) for p in mark.corners() for v in (float(p[0]), -float(p[1]))],
        )
        if mark.font != "upright":
            found["font"] = "osifont-sloped" if mark.font == "sloped" else "osifont-wide"
        if mark.bold:
            found["bold"] = round(mark.grown, 3)
        if has_signs(mark.text):
            size = font_size(mark.height)
            found["runs"] = [
                (letters, round(at * size, 3)) for face, letters, at in pieces(mark.text, mark.font) if face is not None
            ]
            strokes, fills = mark.signs()
            found["d"] = "".join(path_data(curve, 0.0, 3) for curve in strokes)
            found["w"] = round(mark.stroke, 3)
            if fills:
                found["fill"] = "".join(_outline(ring) for ring in fills)
        self.out.append(found)


def _outline(ring: Any) -> str:
    return "M" + "L".join(f"{x:.3f} {-y:.3f}" for x, y in ring) + "Z"
