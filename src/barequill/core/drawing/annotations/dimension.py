"""Dimensions, measured from the part whenever they are drawn."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Annotated, ClassVar, Literal

from pydantic import Field, model_validator

from ...bounds import FEW, Affix, Figure, Name, Ref
from ...standards.geometrical import Feature
from ..base import Model
from .base import AnyAnnotation

Measured = Literal[
    "length", "distance", "angle", "diameter", "radius", "arc", "chord", "chamfer", "slope", "taper", "depth"
]


class Anchor(Model):
    """A place on the part that a dimension hangs on, by lasting reference.

    ``line``: a straight edge as a whole. ``start``, ``end``, ``middle``, ``centre``: a point of an edge.
    ``point``: a vertex. ``round``: a circle, arc, or cylinder. ``outline``: the outline of a cylinder or
    cone seen from the side, on the side that ``side`` tells (+1 left of its axis on the sheet, -1 right); where that is in
    pieces the one at, or nearest to, so great a ``share`` of how far the axis reaches.
    ``axis``: the axis of such a face. ``rim``: the point of a round seen face on at so many degrees (``angle``,
    counter-clockwise from the right of the view). ``cross``: where a straight edge, extended, meets ``other``.
    ``meet``: where an edge and ``other`` cross in the view. ``along``: a point at so great a ``share`` of an edge, by its
    parameter. ``pierced``: where an edge meets the cut of a section; of several places the one nearest to that ``share``.
    ``farthest``: the point of a face or edge that lies farthest in a direction of the view (``angle``).
    ``pitch``: the circle through the centres of the rounds ``ring``. ``spoke``: the line from the middle of that circle to the
    centre of the round ``ref``.
    """

    ref: Ref
    at: Literal[
        "line",
        "start",
        "end",
        "middle",
        "centre",
        "point",
        "round",
        "outline",
        "axis",
        "rim",
        "cross",
        "meet",
        "along",
        "pierced",
        "farthest",
        "pitch",
        "spoke",
    ]
    side: Literal[-1, 1] = 1
    angle: Figure = 0.0
    other: Ref = ""
    share: Annotated[float, Field(ge=0.0, le=1.0)] = 0.0
    ring: Annotated[list[Ref], Field(max_length=FEW)] = []


class Tolerance(Model):
    """Deviations of a dimension in its own unit (mm, inch or degrees), or an ISO 286 class on its size.

    ``minimum`` and ``maximum`` say that the figure is the least or the greatest. A ``fit`` is ``shown`` as its class, its
    deviations, its class with them, or its class with the limits; a pair (``H7/g6``) as its classes. Where one deviation
    is 0 it stands as a ``bare_zero``, or is left out.
    """

    kind: Literal["none", "symmetric", "unequal", "limits", "minimum", "maximum", "fit"] = "none"
    upper: Figure = 0.0
    lower: Figure = 0.0
    fit: Annotated[str, Field(max_length=12, pattern=r"^([A-Za-z]{1,2}\d{1,2}(/[a-z]{1,2}\d{1,2})?)?$")] = ""
    shown: Literal["class", "deviations", "both", "limits"] = "class"
    bare_zero: bool = True

    @model_validator(mode="after")
    def _names_its_class(self) -> Tolerance:
        if (self.kind == "fit") != bool(self.fit):
            raise ValueError("a fit names its class, such as H7; nothing else does")
        return self


class Place(Model):
    """Where a dimension line stands.

    Linear: ``offset`` beyond the view's outline (sheet mm) on the side ``side`` of the measured direction,
    or with ``frame`` = ``model`` from the first anchor (model mm). ``along`` shifts the text along the
    line from its middle (sheet mm); in a pictorial view ``angle`` (degrees) is about where its extension lines run to. Round
    and angular: ``angle`` (degrees) and ``offset`` (sheet mm) from
    the circle, or from the apex, to the text. With an ``aside`` (sheet mm to the right and up) the text stands so far off from
    where it would, level, at the end of a leader from there.
    """

    side: Literal[-1, 1] = 1
    frame: Literal["outline", "model"] = "outline"
    offset: Figure = 10.0
    along: Figure = 0.0
    angle: Figure = 45.0
    aside: tuple[Figure, Figure] = (0.0, 0.0)


class Row(Model):
    """The set that a dimension belongs to, by a name of its own: in a ``chain`` each begins where the last ends; ``parallel``
    and ``running`` ones all begin at one datum, running ones on one line from an origin; ``symmetrical`` ones lie about one
    middle."""

    id: Ref
    form: Literal["chain", "parallel", "running", "symmetrical"] = "chain"


class Extension(Model):
    """An extension line as a hand wants it: left out, from another ``gap`` on, interrupted at ``breaks`` (sheet mm from the
    dimension line), or with a ``jog`` to so far aside (sheet mm along the dimension line)."""

    shown: bool = True
    gap: Annotated[float, Field(ge=0.0, le=1000.0)] | None = None
    jog: Figure = 0.0
    breaks: Annotated[list[Figure], Field(max_length=8)] = []


class Dimension(AnyAnnotation):
    """A dimension."""

    noun: ClassVar[str] = "dimension"
    counts_as: ClassVar[str] = "size"
    lettered: ClassVar[bool] = True
    tidied: ClassVar[Literal["stays", "measured", "leader"]] = "measured"
    placed_by: ClassVar[tuple[str, ...]] = ("place", "extensions")

    kind: Literal["dimension"] = "dimension"
    measure: Measured
    anchors: list[Anchor] = Field(min_length=1, max_length=2)
    direction: Literal["aligned", "horizontal", "vertical", "inward"] = "aligned"
    """Of a distance of two points. In a pictorial view these are directions of the part: those that are level, upright and
    along the sight in the view that it is a picture of; elsewhere ``inward`` has nothing to measure."""
    along: Ref = ""
    """The straight edge, or the round face by its axis, along which a distance of two points is measured."""
    place: Place = Place()
    extensions: Annotated[list[Extension], Field(max_length=2)] = []
    """Its extension lines, in the order of its ends, where they are not as usual."""
    style: Name = ""
    """The name of its style; the drawing's own where none is given."""
    decimals: Annotated[int, Field(ge=0, le=6)] | None = None
    count: Annotated[int, Field(ge=1, le=9999)] = 1
    """How many features of the part it stands for: written as 6×."""
    sign: Literal["auto", "diameter", "square", "sphere", "thickness", "none"] = "auto"
    """What the length is across: a diameter (Ø), a square (□), a sphere (SØ, SR), a plate (t=); auto as measured."""
    prefix: Affix = ""
    suffix: Affix = ""
    above: Affix = ""
    below: Affix = ""
    """Lines of text above and below the figure."""
    reference: bool = False
    exact: bool = False
    """Theoretically exact: in a box."""
    tolerance: Tolerance = Tolerance()
    arrows: Literal["auto", "inside", "outside"] = "auto"
    ends: Annotated[list[Literal["auto", "inside", "outside"]], Field(max_length=2)] = []
    """Its arrows each by itself, from the left or from below; auto as both are."""
    text: Literal["auto", "above", "level"] = "auto"
    """Its text above its line and along it, or level in a gap of it; auto as its style has it."""
    zigzag: bool = False
    """With a zigzag in its line where that goes across a stretch that is taken out."""
    half: bool = False
    """Of a diameter or symmetrical size one half of the line, with one arrow, a little beyond the middle."""
    jog: bool = False
    """A radius with its line shortened and jogged, where its centre is far away."""
    on_paper: bool = False
    """An angle of a pictorial view as it lies on the paper, not as it is in space."""
    reflex: bool = False
    """An angle the other way round, beyond 180°."""
    chamfer: Literal["angle", "letter", "lengths"] = "angle"
    """A chamfer as 2 × 45°, as C2, or by both lengths."""
    row: Row | None = None
    pinned: bool = False
    """It stays where a hand has put it when the sheet is tidied."""
    size: Annotated[str, Field(max_length=40, pattern=r"^([A-Za-z][A-Za-z0-9_]*)?$")] = ""
    """The size of the part's recipe that it shows, by its name."""

    @property
    def fixed(self) -> bool:
        return self.pinned

    @property
    def feature(self) -> Feature:
        if self.sign == "sphere":
            return "centre"
        if "diameter" in (self.measure, self.sign):
            return "axis"
        return "middle plane" if self.measure in ("distance", "length") else "surface"

    def says_of(self) -> dict[str, str]:
        what = "diameter" if self.sign == "diameter" else self.measure
        return {r: what for a in self.anchors if a.at not in ("pitch", "spoke") for r in (a.ref, a.other) if r}

    @property
    def leader(self) -> tuple[float, float]:
        return self.place.angle, self.place.offset

    def led(self, angle: float, offset: float) -> Dimension:
        return self.model_copy(update={"place": self.place.model_copy(update={"angle": angle, "offset": offset})})


def rows_of(annotations: Iterable[AnyAnnotation]) -> dict[str, list[Dimension]]:
    """The sets among annotations, by the names of their rows: the members of each in their order on the sheet."""
    found: dict[str, list[Dimension]] = {}
    for a in annotations:
        if isinstance(a, Dimension) and a.row is not None:
            found.setdefault(a.row.id, []).append(a)
    return found
