"""Requests and responses, defined once; OpenAPI and the front end's types come from these."""

from __future__ import annotations

from typing import Annotated, Any, Literal

from pydantic import Field

from ..core.acts import Act
from ..core.acts.new_drawing import NewDrawing as NewDrawing
from ..core.acts.state_frame import ChangeFrame, StateFrame
from ..core.bounds import FEW, Key, Name, Ref
from ..core.drawing import Annotation, Drawing
from ..core.drawing.base import Model, Point, Size
from ..core.drawing.templates import Template
from ..core.drawing.texts import json_text
from ..core.drawing.ways import Ways
from ..core.drawing.ways_taken import Departure
from ..core.measuring.pointing import Shape
from ..core.writers.screen import ScreenElement


class Problem(Model):
    """Problem details (RFC 9457)."""

    type: str
    title: str
    status: int
    detail: str = ""


class FieldJson(Model):
    """A cell of the title block; coordinates mm, y down."""

    cell: str
    field: str
    label: str
    value: str
    auto: bool
    missing: bool
    """True where a sheet needs it, and it is empty."""
    told: bool
    """Somebody filled it in, or emptied it; else it fills itself."""
    says: str
    """From what it follows, in words, where that is worth telling."""
    choices: list[str]
    x: float
    y: float
    width: float
    height: float


class Pointed(Model):
    """What can be pointed at in a view: for each line the entity that it shows, its shape and (by its place in ``words``)
    what it is; and points: of which line (by its place), which of its points, x, y from the view's zero in mm, y down,
    what each is, and whether it is the centre of a full circle."""

    words: list[str]
    lines: list[tuple[str, Shape, int]]
    snaps: list[tuple[int, str, float, float, int, bool]]


class HatchJson(Model):
    """How the cut faces of a body are hatched in a view just now."""

    body: str
    angle: float
    spacing: float
    pattern: str
    off: bool


class SectionJson(Model):
    """The cutting line of a section: in words, and its corners on the sheet, mm, y down; how it is marked just now, and
    why it cannot be drawn, where it cannot."""

    words: str
    corners: list[Point]
    marked: str
    loose: bool
    fault: str


class OutlineJson(Model):
    """The outline of a detail or crop: the view on which it lies, its centre and a place on it (sheet mm, y down), about
    which feature it was drawn, and whether that is gone."""

    on: str
    centre: Point
    notch: Point
    about: str
    loose: bool


class RemarkJson(Model):
    """What a checker would mark, and the element that it is about."""

    on: str
    words: str
    lies: bool
    """It lies on something, and can be put elsewhere by one act."""


class SeatJson(Model):
    """A place where something that is loose may hang: by reference that is gone what it would be, and what speaks for it."""

    refs: dict[str, str]
    words: str


class LooseJson(Model):
    """Something that is loose since its part changed: what it said, which references are gone, and up to three places for it."""

    id: str
    sheet: str
    words: str
    gone: list[str]
    seats: list[SeatJson]


class BreakJson(Model):
    """A stretch taken out of a view: a place on each of its break lines, sheet mm, y down; what its ends are held to."""

    id: str
    along: Literal["x", "y"]
    about: list[str]
    first: Point
    second: Point


class LocalJson(Model):
    """The corners of the outline of a local cut, sheet mm, y down."""

    id: str
    corners: list[Point]


class AxisJson(Model):
    """An axis of the part in a pictorial view: its angle from the horizontal, degrees, and how long a mm along it shows."""

    name: str
    angle: float
    share: float


class ViewJson(Model):
    """A view as it stands on the sheet; box in mm, y down."""

    id: str
    name: str
    words: str
    """Its name with what it is: "Front view", "Section A–A"."""
    x: float
    y: float
    width: float
    height: float
    scale: float
    scale_text: str
    axes: list[AxisJson]
    """Of a pictorial view: how the part's axes show in it."""
    part_name: str
    facing: str
    hull: list[Point]
    """Corners of the hull of what it shows, mm, y down."""
    meshed: int
    """Outlines that could not be had exactly, and are drawn from the mesh."""
    pending: bool
    """True where its lines are not there yet: being projected, or stopped."""
    moves: Point | None
    """The only way in which it can be moved: it is tied to its parent."""
    carries: list[str]
    """Views that move with it."""
    own_direction: bool
    """True where its direction is its own, not that of a parent."""
    bodies: list[str]
    """All bodies of its part, by name."""
    colours: list[str]
    """Of these, as they are shown; none where the view is not in colours."""
    bent: bool
    """True where its part is, or holds, a bent sheet, which can be laid flat."""
    section: SectionJson | None
    outline: OutlineJson | None
    breaks: list[BreakJson]
    """Its own, not those that it has from the view with which it is in line."""
    local_cuts: list[LocalJson]
    broken: bool
    """True where stretches are taken out, its own or such."""
    hatches: list[HatchJson]
    """Of the bodies that are cut in it."""
    key: str
    """The same as long as what can be pointed at is."""
    pointed: Pointed | None
    """None where the screen has it already."""


class ViewProgress(Model):
    """A view that is being projected, or was stopped."""

    view: str
    share: float
    what: str
    stopped: bool


class ProjectionRequest(Model):
    """Stop projecting a view, or begin again."""

    act: Literal["stop", "again"]


class BoxJson(Model):
    """An upright box, mm, y down."""

    x: float
    y: float
    width: float
    height: float


class SheetInk(Model):
    """A sheet as ink, element by element, with all that can be pointed at. ``token`` stands for all that was sent;
    ``order`` are the ids of all elements, the lowest first; ``elements`` are those that are not where they were, or not
    as they were, when the sheet was sent before; but for what stood at the place of its view (``group``) and went along
    with it."""

    token: str
    order: list[str]
    width: float
    height: float
    scale_text: str
    elements: list[ScreenElement]
    fields: list[FieldJson]
    views: list[ViewJson]
    remarks: list[RemarkJson]
    space: BoxJson
    """Within the frame."""
    title: BoxJson
    """The title block."""


class FitJson(Model):
    """A usual fit on a size: what it is for, its clearances in words, and both fields (upper and lower deviation, µm)."""

    pair: str
    purpose: str
    words: str
    hole: tuple[float, float]
    shaft: tuple[float, float]


class PrintPlanJson(Model):
    """A print: the size of each page (mm), and what is to be known before."""

    pages: list[tuple[float, float]]
    warnings: list[str]


class RecipeSizeJson(Model):
    """A size of the recipe of a ``part``: its value (mm, degrees), how it is ``written`` where it is worked out of others."""

    part: str
    name: str
    value: float
    written: str
    says: str


class SaidJson(Model):
    """What the sentence of a dimension tells besides: what the title block gives it, its class in figures; the styles that it
    can have."""

    general: str
    fit: str
    alike: int
    """How many features of the part are as its own."""
    fits: list[FitJson]
    """Usual fits on its size; none where it has no such size."""
    styles: list[str]
    explained: str
    """What it asks of the part, in full, for who does not know the signs."""
    named: RecipeSizeJson | None = None
    """The size of the part's recipe that it shows."""


class StockJson(Model):
    """Features of the part that are alike: what they are, how they stand to each other, how many; whether a size or note is
    on one of them; the references by which the first is found in a view."""

    words: str
    stands: str
    count: int
    sized: bool
    refs: list[str]


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


class Tags(Model):
    """Words that a drawing is filed under."""

    tags: Annotated[list[Name], Field(max_length=20)]


class EditJson(Model):
    """How often a drawing was changed."""

    edit: int


class NewerPart(Model):
    """A part of a drawing of which the shelf has a newer revision (``by``)."""

    part: str
    by: str
    name: str
    file_name: str


class DrawingState(Model):
    """A drawing as it stands."""

    id: int
    edit: int
    document: Drawing
    undo: str | None
    redo: str | None
    created: list[str] = []
    """Ids of elements that the act made."""
    newer: list[NewerPart] = []
    """Of which of its parts the shelf has newer revisions."""
    ink: SheetInk | None = None
    """The sheet that was asked for with an act, where all its views are there; otherwise it is asked for on its own."""

    def json_text(self) -> str:
        """As JSON; the ink without what is empty."""
        told = f'{self.model_dump_json(exclude={"ink", "document"})[:-1]},"document":{json_text(self.document)}'
        return told + ("}" if self.ink is None else f',"ink":{self.ink.model_dump_json(exclude_unset=True)}}}')


class DrawingInfo(Model):
    """A drawing on the shelf."""

    id: int
    edit: int
    number: str
    title: str
    part: str
    sheets: int
    size: str
    changed: str
    damaged: str = ""
    """Why it cannot be opened, where it cannot."""
    tags: list[str] = []
    """What it is filed under."""
    removed: str = ""
    """When it was laid into the basket; empty where it was not."""
    newer: bool = False
    """True where the shelf has a newer revision of one of its parts."""


class Shown(Model):
    """A sheet that a screen shows, with the token of what it was sent of it."""

    sheet: Ref
    since: str = Field("", max_length=64)


class ActRequest(Model):
    """An act on a drawing last seen at ``edit``; what becomes of the sheet that is shown is told with the answer."""

    edit: int
    act: Act
    shown: Shown | None = None


class StepRequest(Model):
    """Undo or redo on a drawing last seen at ``edit``, of one step or so many."""

    edit: int
    by: int = Field(1, ge=1, le=10**6)
    shown: Shown | None = None


class RescueRequest(Model):
    """A damaged drawing to be brought back to the last step that can be read."""


class Nothing(Model):
    """What needs no more words."""


class LastWays(Model):
    """The drawing that was begun last, what it is called, and its ways."""

    drawing: int | None
    called: str
    ways: Ways | None


class CopyRequest(Model):
    """How a drawing is copied: for another ``part``, or with its own."""

    part: Key = ""


class FrameRequest(Model):
    """A tolerance frame as it is typed: of one that is there (``id``), or of one that is to hang on geometry or on a size."""

    act: StateFrame | ChangeFrame = Field(discriminator="act")


class FrameChoice(Model):
    """A cell of a frame: what it is, what it says, and what else it could say: the whole frame as typed, and words for it."""

    name: str
    says: str
    options: list[tuple[str, str]]


class FrameJson(Model):
    """A tolerance frame as it is understood: ``text`` as it can be typed, in ``words``, in full for a beginner, what is to be
    remarked, the cells of its rows, and what it is about; ``meant``: the same with what of it is toleranced. ``fault``: why
    it is not understood, or nonsense."""

    text: str
    words: str
    explained: str
    remarks: list[str]
    rows: list[list[FrameChoice]]
    feature: str
    about: str
    meant: str
    fault: str


class OwnSignsRequest(Model):
    """Signs and notes to be kept under a name."""

    name: Annotated[Name, Field(min_length=1)]
    annotations: Annotated[list[Annotation], Field(min_length=1, max_length=FEW)]


class OwnSignsJson(Model):
    """Signs and notes that were kept under a name."""

    id: int
    name: str
    annotations: list[Annotation]


class ChangeJson(Model):
    """What is otherwise in another state of a drawing, in words; on which sheet, and where (mm, y down)."""

    kind: str
    words: str
    sheet: str
    box: BoxJson | None
    of: Literal["setting", "view", "annotation"]


class ComparedSheet(Model):
    """The picture of what differs on a sheet: elements ``kept``, ``gone``, ``come`` and ``moved``."""

    id: str
    name: str
    width: float
    height: float
    elements: list[ScreenElement]


class ComparisonJson(Model):
    """Two states of a drawing, what they are, and what differs."""

    before: str
    after: str
    changes: list[ChangeJson]
    sheets: list[ComparedSheet]


class KeepTemplate(Model):
    """The template of a drawing's sheet to be kept under a name."""

    drawing: int
    sheet: Ref
    name: Annotated[Name, Field(min_length=1, max_length=100)]


class KeptTemplate(Model):
    """A template that is kept, or that comes along (without an ``id``)."""

    id: int | None
    name: str
    template: Template


class KeepWays(Model):
    """The ways of a drawing to be kept under a name."""

    drawing: int
    name: Annotated[Name, Field(min_length=1, max_length=100)]


class DeparturesJson(Model):
    """In what a drawing departs from the ways of the house that it was given; ``changed``: these are kept otherwise by now."""

    departs: list[Departure]
    changed: bool


class KeptWays(Model):
    """Ways of a house that are kept."""

    id: int
    name: str
    ways: Ways


class PreviewRequest(Model):
    """An act to be shown before it is done."""

    act: Act


class Preview(Model):
    """The display list of what an act would make; ``words`` says what it is, ``others`` what else it could be."""

    elements: list[ScreenElement]
    words: str
    others: list[str] = []
    place: Point | None = None
    changes: list[str] = []
    """What becomes of what is there, a line each."""


def problem(title: str, detail: str, status: int, kind: str) -> dict[str, Any]:
    """Problem details as plain values."""
    return Problem(type=f"urn:barequill:{kind}", title=title, status=status, detail=detail).model_dump()
