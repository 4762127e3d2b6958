"""The drawing as a document: plain, typed, versioned. Places are sheet mm from the lower left corner."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, BaseModel, ConfigDict, Field

from ..bounds import FEW, FIELDS, MANY, Affix, Coordinate, Density, Figure, FoundName, Key, Name, Ref, Scale, Text

VERSION = 1


def _of_some_length(v: tuple[float, float, float]) -> tuple[float, float, float]:
    if not 1e-6 <= sum(x * x for x in v) ** 0.5 <= 1e6:
        raise ValueError("a direction has some length, such as 0, −1, 0")
    return v


Vector = Annotated[tuple[Figure, Figure, Figure], AfterValidator(_of_some_length)]
Point = tuple[Coordinate, Coordinate]
Size = Literal["A0", "A1", "A2", "A3", "A4", "A", "B", "C", "D", "E"]


class Model(BaseModel):
    """Base of all parts of the document: unknown fields are refused."""

    model_config = ConfigDict(extra="forbid")


class PartUse(Model):
    """A part that the drawing shows."""

    key: Key
    name: FoundName = ""
    number: FoundName = ""
    material: FoundName = ""
    density: Density | None = None
    """g/cm³; where given it goes before the file's own."""


class View(Model):
    """A view of a part.

    ``place`` is where the centre of the part's box stands. A view with a parent is projected from it
    (``look`` tells from which side of the parent it looks) or pictorial (``corner``).
    """

    id: Ref
    part: Key
    parent: Ref | None = None
    look: Literal["front", "left", "right", "top", "bottom", "back", "corner"] = "front"
    toward: Vector
    up: Vector
    place: Point
    scale: Scale | None = None
    """Own scale; None follows the parent, and at the root the sheet."""
    tied: bool = True
    hidden_lines: bool = True
    shaded: bool = False
    """In flat tones of ink under its lines."""
    tangent_edges: Literal["shown", "thin", "off"] = "thin"
    caption: Name = ""

    @property
    def pictorial(self) -> bool:
        """True for a view out of a corner."""
        return self.look == "corner"


class Anchor(Model):
    """A place on the part that a dimension hangs on, by lasting reference.

    ``line``: a straight edge as a whole. ``start``, ``end``, ``middle``, ``centre``: a point of an edge.
    ``point``: a vertex. ``round``: a circle, arc, or cylinder. ``outline``: the outline of a cylinder or
    cone seen from the side, on the side that ``side`` tells (+1 left of its axis on the sheet, -1 right).
    ``axis``: the axis of such a face.
    """

    ref: Ref
    at: Literal["line", "start", "end", "middle", "centre", "point", "round", "outline", "axis"]
    side: Literal[-1, 1] = 1


class Tolerance(Model):
    """Deviations of a dimension in its own unit (mm, inch or degrees)."""

    kind: Literal["none", "symmetric", "unequal", "limits"] = "none"
    upper: Figure = 0.0
    lower: Figure = 0.0


class Place(Model):
    """Where a dimension line stands.

    Linear: ``offset`` beyond the view's outline (sheet mm) on the side ``side`` of the measured direction,
    or with ``frame`` = ``model`` from the first anchor (model mm). ``along`` shifts the text along the
    line from its middle (sheet mm). Round and angular: ``angle`` (degrees) and ``offset`` (sheet mm) from
    the circle, or from the apex, to the text.
    """

    side: Literal[-1, 1] = 1
    frame: Literal["outline", "model"] = "outline"
    offset: Figure = 10.0
    along: Figure = 0.0
    angle: Figure = 45.0


class Dimension(Model):
    """A dimension, measured from the part whenever it is drawn."""

    kind: Literal["dimension"] = "dimension"
    id: Ref
    view: Ref
    measure: Literal["length", "distance", "angle", "diameter", "radius"]
    anchors: list[Anchor] = Field(min_length=1, max_length=2)
    direction: Literal["aligned", "horizontal", "vertical"] = "aligned"
    place: Place = Place()
    decimals: Annotated[int, Field(ge=0, le=6)] | None = None
    prefix: Affix = ""
    suffix: Affix = ""
    reference: bool = False
    tolerance: Tolerance = Tolerance()
    arrows: Literal["auto", "inside", "outside"] = "auto"


class CentreMark(Model):
    """A centre mark on a circle or arc seen face on."""

    kind: Literal["centre_mark"] = "centre_mark"
    id: Ref
    view: Ref
    ref: Ref


class CentreLine(Model):
    """The axis of round features seen from the side; ``refs`` are their faces."""

    kind: Literal["centre_line"] = "centre_line"
    id: Ref
    view: Ref
    refs: Annotated[list[Ref], Field(max_length=MANY)]


Annotation = Annotated[Dimension | CentreMark | CentreLine, Field(discriminator="kind")]


class Sheet(Model):
    """One sheet; ``scale`` is its main scale."""

    id: Ref
    size: Size = "A3"
    landscape: bool = True
    scale: Scale = 1.0
    views: Annotated[list[View], Field(max_length=MANY)] = []
    annotations: Annotated[list[Annotation], Field(max_length=MANY)] = []

    def view(self, view_id: str) -> View | None:
        """The view of that id."""
        return next((v for v in self.views if v.id == view_id), None)

    def scale_of(self, view: View) -> float:
        """Scale at which a view is drawn."""
        seen = 0
        current: View | None = view
        while current is not None and current.scale is None and seen < 100:
            current = self.view(current.parent) if current.parent else None
            seen += 1
        return current.scale if current is not None and current.scale is not None else self.scale

    def descendants(self, view_id: str, tied_only: bool = False) -> list[View]:
        """Views that hang on a view, nearest first."""
        found: list[View] = []
        level = [view_id]
        while level:
            children = [v for v in self.views if v.parent in level and (v.tied or not tied_only)]
            found += children
            level = [v.id for v in children]
        return found


class Drawing(Model):
    """A drawing: conventions, title block fields, parts and sheets."""

    version: int = VERSION
    standard: Literal["ISO", "ASME"] = "ISO"
    angle: Literal["first", "third"] = "first"
    unit: Literal["mm", "inch"] = "mm"
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}
    parts: Annotated[list[PartUse], Field(max_length=FEW)] = []
    sheets: Annotated[list[Sheet], Field(max_length=FEW)] = [Sheet(id="s1")]
    last_id: Annotated[int, Field(ge=0, le=10**9)] = 0

    def sheet(self, sheet_id: str) -> Sheet | None:
        """The sheet of that id."""
        return next((s for s in self.sheets if s.id == sheet_id), None)

    def sheet_of(self, element: str) -> Sheet | None:
        """The sheet that holds a view or an annotation."""
        return next((s for s in self.sheets if s.view(element) or any(a.id == element for a in s.annotations)), None)

    def part(self, key: str) -> PartUse | None:
        """The part of that key."""
        return next((p for p in self.parts if p.key == key), None)

    def to_json(self) -> dict[str, Any]:
        """The document as plain values."""
        return self.model_dump(mode="json")
