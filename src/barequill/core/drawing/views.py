"""Views, by kind. ``place`` is where the centre of the whole part's box stands, in sheet mm.

A view projected from another follows the other's camera, wherever that turns.
"""

from __future__ import annotations

from typing import Annotated, ClassVar, Literal, Self

from pydantic import AfterValidator, Field, model_validator

from ..bounds import FEW, MANY, Figure, Key, Name, Ref, Scale
from .base import Model, Point, Vector
from .cutting import CuttingLine, HatchChoice, Letter, LocalCut
from .windows import Break, Crop, Edge, Outline

Look = Literal["front", "left", "right", "top", "bottom", "back", "corner", "section", "detail", "square"]
Side = Literal[-1, 1]
Slope = Annotated[float, Field(ge=1, le=89)]


def _within_a_quarter(angles: tuple[float, float]) -> tuple[float, float]:
    if sum(angles) >= 90:
        raise ValueError("the two angles are less than 90° together; 30 and 30 are isometric")
    return angles


Slopes = Annotated[tuple[Slope, Slope], AfterValidator(_within_a_quarter)]
ISOMETRIC = (30.0, 30.0)
DIMETRIC = (7.180755781458282, 41.40962210927086)
"""Axes in the ratio 1 : 1 : 1/2 (ISO 5456-3)."""


class FlatPattern(Model):
    """A bent sheet laid flat: which ``body``, the first that is one where it is empty, and where its neutral line lies: at a share ``k`` of
    its thickness from within, or by DIN 6935 where none is given."""

    body: Name = ""
    k: Annotated[float, Field(ge=0, le=1, allow_inf_nan=False)] | None = None


class BodyColour(Model):
    """The colour of a body in a shaded view, as ``#rrggbb``."""

    body: Name
    colour: Annotated[str, Field(pattern=r"^#[0-9a-f]{6}$")]


class BodyStep(Model):
    """A body, by name, moved ``by`` so much (mm, in the part's frame) from where it stands."""

    body: Name
    by: tuple[Figure, Figure, Figure]


class InLine(Model):
    """What holds a view in line: a place of it (``ref`` and which of its points, ``at``) stands ``level`` with a place of an ``other``
    view of its sheet, or ``upright`` above or below it."""

    way: Literal["level", "upright"]
    ref: Ref
    at: Ref = ""
    other: Ref
    other_ref: Ref
    other_at: Ref = ""


class AnyView(Model):
    """What views of all kinds have."""

    id: Ref
    part: Key
    bodies: Annotated[list[Name], Field(max_length=FEW)] | None = None
    """Bodies of the part that the view shows, by name; None for all."""
    adjacent: Annotated[list[Name], Field(max_length=FEW)] = []
    """Bodies among these that are shown as adjacent parts: only to tell what the others stand beside."""
    left_out: Annotated[list[Ref], Field(max_length=MANY)] = []
    """Edges, and faces whose outlines are not drawn."""
    hidden_out: Annotated[list[Ref], Field(max_length=MANY)] = []
    """The same of which only what is hidden is not drawn."""
    parent: Ref | None = None
    place: Point
    scale: Scale | None = None
    """Own scale; None follows the parent, and at the root the sheet."""
    tied: bool = True
    """In line with its parent, and moved with it."""
    lined: Annotated[list[InLine], Field(max_length=2)] = []
    """By what it is held in line with other views of its sheet, wherever these go."""
    hidden_lines: bool = True
    shaded: bool = False
    """In flat tones of ink under its lines."""
    coloured: bool = False
    """In tones of the colours of its bodies on the screen; what is issued is grey."""
    colours: Annotated[list[BodyColour], Field(max_length=FEW)] = []
    """Colours of bodies in place of those that the part's file gives."""
    tangent_edges: Literal["shown", "thin", "off"] = "thin"
    letter: Letter = ""
    """By which it is called at its parent."""
    caption: Name = ""
    style: Name = ""
    """The name of the style of what marks and names it; the drawing's own where none is given."""
    caption_off: Point | None = None
    """Where the caption stands from its own place, sheet mm; None in that place."""
    local_cuts: Annotated[list[LocalCut], Field(max_length=20)] = []
    whole: Annotated[list[Name], Field(max_length=FEW)] = []
    """Bodies of which no cut of this view takes anything."""
    ribs: Annotated[list[Ref], Field(max_length=FEW)] = []
    """Faces of ribs and webs that are cut without hatch."""
    hatches: Annotated[list[HatchChoice], Field(max_length=FEW)] = []
    """How cut faces are hatched in this view; otherwise as in the whole drawing."""

    turn: Annotated[float, Field(ge=-180, le=180, allow_inf_nan=False)] = 0.0
    """Degrees by which the view is turned on the sheet, counter-clockwise."""
    crop: Crop | None = None
    """What of the view is kept; None for all."""
    breaks: Annotated[list[Break], Field(max_length=20)] = []
    """Stretches taken out."""

    pictorial: ClassVar[bool] = False


class _OwnCamera(AnyView):
    """A view with directions of its own, toward the viewer and up, in the part's frame."""

    toward: Vector
    up: Vector
    cut_at: Figure | None = None
    """The plane square to the sight that the view is cut by, mm toward the viewer from the middle of the part."""
    mirrored: bool = False
    """What it shows, and what views show that are projected from it, is the part of the other hand."""
    flat: FlatPattern | None = None
    """This view, and those that are projected from it, show a bent sheet laid flat."""

    @model_validator(mode="after")
    def _makes_a_camera(self) -> Self:
        (a, b, c), (x, y, z) = self.toward, self.up
        lengths = (a * a + b * b + c * c) * (x * x + y * y + z * z)
        across = (b * z - c * y) ** 2 + (c * x - a * z) ** 2 + (a * y - b * x) ** 2
        if across < 1e-12 * lengths:
            raise ValueError("up does not lie along the line of sight")
        return self


class PrincipalView(_OwnCamera):
    """A view with a camera of its own."""

    kind: Literal["principal"] = "principal"
    look: Look = "front"
    """What it is called."""


class ProjectedView(AnyView):
    """A view that looks at its parent's part from a side of the parent."""

    kind: Literal["projected"] = "projected"
    parent: Ref
    look: Literal["left", "right", "top", "bottom", "back"]


class PictorialView(AnyView):
    """A view out of a corner of its parent: to its right (1) or left, above (1) or below."""

    kind: Literal["pictorial"] = "pictorial"
    parent: Ref
    corner: tuple[Side, Side] = (1, 1)
    angles: Slopes = ISOMETRIC
    """Degrees by which the parent's level axis and its depth lean from the horizontal: 30 and 30 for an isometric view."""
    apart: Annotated[list[BodyStep], Field(max_length=FEW)] = []
    """Bodies pulled apart: an exploded view."""
    apart_by: Annotated[float, Field(ge=0, le=10, allow_inf_nan=False)] = 1.0
    """By which share of those steps they are moved: 1 for all of each."""
    form: Literal["axonometric", "cavalier", "cabinet", "military"] = "axonometric"
    """Or an oblique projection (ISO 5456-3): the front true and the depth at 45° in full or half length, or the plan true, turned by 45°,
    with heights in full length."""
    full: bool = False
    """The least foreshortened axes in full length, in place of a true projection."""
    quarter: bool = False
    """With the quarter of the part next to the viewer taken out."""

    pictorial: ClassVar[bool] = True

    @property
    def look(self) -> Look:
        """What it is called."""
        return "corner"


class FreeView(_OwnCamera):
    """A pictorial view with directions of its own."""

    kind: Literal["free"] = "free"

    pictorial: ClassVar[bool] = True

    @property
    def look(self) -> Look:
        """What it is called."""
        return "corner"


class SectionView(AnyView):
    """What a cutting line on its parent shows, looking to the left (1) of the line as it runs, or to its right."""

    kind: Literal["section"] = "section"
    parent: Ref
    line: CuttingLine
    side: Side = 1
    bare: bool = False
    """The cut face alone: a removed section."""
    within: bool = False
    """The cut face turned into its parent, with narrow lines: a revolved section."""
    depth: Annotated[Figure, Field(gt=0)] | None = None
    """mm of the part behind the cut that are shown; None for all."""
    marked: Literal["auto", "full", "line", "off"] = "auto"
    """How the place of the cut is marked: with arrows and letters, by a line alone, or not at all."""
    letters_off: tuple[Point | None, Point | None] = (None, None)
    """Where the letters at both ends of the line stand from their own places, sheet mm; None in that place."""
    hidden_lines: bool = False

    @property
    def look(self) -> Look:
        """What it is called."""
        return "section"


class DetailView(AnyView):
    """What an outline on its parent holds, enlarged. ``place`` is where the outline's centre stands."""

    kind: Literal["detail"] = "detail"
    parent: Ref
    scale: Scale
    outline: Outline
    edge: Edge = "plain"
    border: bool = False
    """With a line around it, clear of its edge."""
    leader: bool = False
    """With a line to the ring on its parent."""
    tied: bool = False

    @property
    def look(self) -> Look:
        """What it is called."""
        return "detail"


class AuxiliaryView(AnyView):
    """A view square onto a slanted edge or face of its parent, by reference, from the left (1) of ``along`` or its right.

    ``along``: how the edge last ran in the parent, where what it was made from is gone. ``marked``: how the way of looking
    is shown at the parent; with an arrow and a letter where the view is out of its line.
    """

    kind: Literal["auxiliary"] = "auxiliary"
    parent: Ref
    onto: Ref
    along: Point
    side: Side = 1
    marked: Literal["auto", "arrow", "off"] = "auto"
    hidden_lines: bool = False

    @property
    def look(self) -> Look:
        """What it is called."""
        return "square"


View = PrincipalView | ProjectedView | PictorialView | FreeView | SectionView | DetailView | AuxiliaryView
OneView = Annotated[View, Field(discriminator="kind")]


def name_for(view: View, what: str) -> str:
    """A name that no stretch or local cut of a view has: the view's, what it is, and a number."""
    taken = {b.id for b in view.breaks} | {c.id for c in view.local_cuts}
    number = 1
    while f"{view.id}-{what}{number}" in taken:
        number += 1
    return f"{view.id}-{what}{number}"


def way_of(view: View) -> Point | None:
    """The only direction (of length 1, y up) in which a tied view can move; None where it moves freely."""
    if not view.tied:
        return None
    if isinstance(view, SectionView) and not (view.bare or view.within):
        (x0, y0), (x1, y1) = (c.place for c in view.line.corners[:2])
        courses = {"level": (0.0, 1.0), "upright": (1.0, 0.0)}
        return courses.get(view.line.courses[0]) or _unit(y0 - y1, x1 - x0)
    if isinstance(view, AuxiliaryView):
        return _unit(-view.along[1], view.along[0])
    if not isinstance(view, ProjectedView):
        return None
    return (1.0, 0.0) if view.look in ("left", "right", "back") else (0.0, 1.0)


def _unit(x: float, y: float) -> Point | None:
    length = (x * x + y * y) ** 0.5
    return (x / length, y / length) if length > 1e-9 else None
