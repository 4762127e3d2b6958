"""Requests and responses, defined once; OpenAPI and the front end's types come from these."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ..core.bounds import FEW, FIELDS, MANY, Coordinate, Density, Key, Name, Ref, Scale, Text
from ..core.drawing import Drawing, Operation
from ..core.drawing.document import Model, Point, Size

ViewName = Literal["front", "back", "top", "bottom", "left", "right", "iso"]
FaceName = Literal["-Y", "+Y", "+Z", "-Z", "-X", "+X"]


class Problem(Model):
    """Problem details (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str = ""


class BodyInfo(Model):
    """A body of a part."""

    name: str
    volume: float
    area: float
    centroid: list[float]
    solid: bool
    material: str | None
    density: float | None


class PartSummary(Model):
    """What was read from a part file; mm, mm², mm³, g."""

    unit: str
    size: list[float]
    volume: float
    area: float
    centroid: list[float]
    mass: float | None
    bodies: list[BodyInfo]
    faces: int
    edges: int
    name: str
    number: str
    remarks: list[str]


class PartInfo(Model):
    """A part on the shelf; ``mass`` is with the chosen density."""

    key: str
    file_name: str
    name: str
    number: str
    material: str
    density: float | None
    mass: float | None
    created: str
    drawings: int
    doubtful_unit: bool
    """True where its size makes it doubtful that the file's unit is right."""
    summary: PartSummary


class PartChanges(Model):
    """Changes to a part on the shelf."""

    name: Name | None = None
    number: Name | None = None
    material: Name | None = None
    density: Density | None = None


class ReadAgain(Model):
    """A part's file to be read as another unit."""

    unit: Literal["mm", "cm", "m", "inch"]


class MaterialInfo(Model):
    """A material of the short list, density in g/cm³."""

    name: str
    density: float


class JobInfo(Model):
    """How far the reading of a part is."""

    id: str
    name: str
    state: Literal["working", "done", "failed", "cancelled"]
    share: float
    doing: str
    part: str | None = None
    problem: Problem | None = None


class FacePreview(Model):
    """One face of a part as a small picture: SVG path data in a box of ``width`` by ``height`` mm."""

    face: FaceName
    width: float
    height: float
    visible: str
    hidden: str


class NewDrawing(Model):
    """What a new drawing is to be; what is left out is proposed."""

    part: Key
    size: Size | None = None
    landscape: bool = True
    standard: Literal["ISO", "ASME"] = "ISO"
    angle: Literal["first", "third"] | None = None
    unit: Literal["mm", "inch"] | None = None
    scale: Scale | None = None
    views: Annotated[list[ViewName], Field(max_length=FEW)] = ["front", "top", "left", "iso"]
    face: FaceName = "-Y"
    quarter_turns: int = Field(default=0, ge=0, le=3)
    centres: bool = True
    fields: Annotated[dict[Ref, Text], Field(max_length=FIELDS)] = {}


class MarkJson(Model):
    """A mark of ink: ``m`` is s (stroke), f (fill), i (picture, in ``d``), t (text), or u (a stroke that lies under
    another: not drawn, but to be pointed at); coordinates mm, y down."""

    m: Literal["s", "f", "i", "t", "u"]
    o: str
    d: str = ""
    pen: str = ""
    w: float = 0
    h: float = 0
    pts: list[float] = []
    src: str = ""
    dash: list[float] = []
    text: str = ""
    x: float = 0
    y: float = 0
    size: float = 0
    anchor: Literal["start", "middle", "end"] = "start"
    angle: float = 0
    box: list[float] = []


class FieldJson(Model):
    """A cell of the title block; coordinates mm, y down."""

    field: str
    label: str
    value: str
    auto: bool
    x: float
    y: float
    width: float
    height: float


class SnapJson(Model):
    """A point that the pointer catches."""

    ref: str
    at: str
    x: float
    y: float
    word: str


class ViewJson(Model):
    """A view as it stands on the sheet; box in mm, y down."""

    id: str
    name: str
    x: float
    y: float
    width: float
    height: float
    scale: float
    scale_text: str
    part_name: str
    facing: str
    meshed: int
    """Outlines that could not be had exactly, and are drawn from the mesh."""
    pending: bool
    """True where its lines are not there yet: being projected, or stopped."""
    snaps: list[SnapJson]
    words: dict[str, str]


class ViewProgress(Model):
    """A view that is being projected, or was stopped."""

    view: str
    share: float
    what: str
    stopped: bool


class ProjectionRequest(Model):
    """Stop projecting a view, or begin again."""

    act: Literal["stop", "again"]


class SheetInk(Model):
    """A sheet as ink, with all that can be pointed at."""

    width: float
    height: float
    scale_text: str
    marks: list[MarkJson]
    groups: dict[str, str]
    fields: list[FieldJson]
    views: list[ViewJson]
    texts: dict[str, str]
    """Each dimension's lettering."""


class Proposal(Model):
    """A new drawing before it is kept."""

    size: Size
    scale_text: str
    scale: float
    ink: SheetInk


class Step(Model):
    """A step of a drawing's history."""

    position: int
    label: str
    done: bool


class DrawingState(Model):
    """A drawing as it stands."""

    id: int
    revision: int
    document: Drawing
    undo: str | None
    redo: str | None
    created: list[str] = []
    """Ids of elements that the act made."""


class DrawingInfo(Model):
    """A drawing on the shelf."""

    id: int
    revision: int
    number: str
    title: str
    part: str
    sheets: int
    size: str
    changed: str


class PickJson(Model):
    """Something pointed at, mm from the lower left corner."""

    ref: Ref
    x: Coordinate
    y: Coordinate
    at: Ref = ""


class DoOperation(Model):
    """An operation as it is."""

    act: Literal["operation"] = "operation"
    operation: Operation


class PullView(Model):
    """A view pulled out of a side (left, right, above, below) or corner (above-right, …) of another."""

    act: Literal["pull_view"] = "pull_view"
    view: Ref
    side: Ref
    to: Point


class PlaceSet(Model):
    """A set of views placed at once."""

    act: Literal["place_set"] = "place_set"
    sheet: Ref
    views: list[ViewName] = Field(min_length=1, max_length=FEW)
    face: FaceName = "-Y"
    quarter_turns: int = Field(default=0, ge=0, le=3)


class Centres(Model):
    """Centre marks and centre lines for views, or for all of a sheet."""

    act: Literal["centres"] = "centres"
    sheet: Ref
    views: Annotated[list[Ref], Field(max_length=MANY)] | None = None


class ChangeSheet(Model):
    """Another size, direction, scale, angle or standard; the views are rearranged."""

    act: Literal["change_sheet"] = "change_sheet"
    sheet: Ref
    size: Size | None = None
    landscape: bool | None = None
    scale: Scale | None = None
    angle: Literal["first", "third"] | None = None
    standard: Literal["ISO", "ASME"] | None = None
    unit: Literal["mm", "inch"] | None = None


class Spread(Model):
    """Views moved to where they stand best."""

    act: Literal["spread"] = "spread"
    sheet: Ref


class PullDimension(Model):
    """A dimension pulled out of one or two picks to the pointer."""

    act: Literal["pull_dimension"] = "pull_dimension"
    view: Ref
    picks: list[PickJson] = Field(min_length=1, max_length=2)
    pointer: Point
    wish: Ref = ""


class MoveDimension(Model):
    """A dimension's line, or its text alone, dragged to the pointer."""

    act: Literal["move_dimension"] = "move_dimension"
    id: Ref
    pointer: Point
    text_only: bool = False


Act = Annotated[
    DoOperation | PullView | PlaceSet | Centres | ChangeSheet | Spread | PullDimension | MoveDimension,
    Field(discriminator="act"),
]


class ActRequest(Model):
    """An act on a drawing last seen at ``revision``."""

    revision: int
    act: Act


class RevisionRequest(Model):
    """Undo or redo on a drawing last seen at ``revision``."""

    revision: int


class PreviewRequest(Model):
    """An act to be shown before it is done."""

    act: Act


class Preview(Model):
    """Ink of what an act would make; ``words`` says what it is, ``others`` what else it could be."""

    marks: list[MarkJson]
    words: str
    others: list[str] = []
    place: Point | None = None


def problem(title: str, detail: str, status: int, kind: str) -> dict[str, Any]:
    """Problem details as plain values."""
    return Problem(type=f"urn:barequill:{kind}", title=title, status=status, detail=detail).model_dump()
