"""What the interface says of parts and of jobs that read them."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from ..core.acts.new_drawing import FaceName
from ..core.bounds import FEW, Density, Figure, Name
from ..core.drawing.base import Model, Vector
from .schemas import Problem


class BodyInfo(Model):
    """A body of a part."""

    name: str
    volume: float
    area: float
    centroid: list[float]
    solid: bool
    material: str | None
    density: float | None


class ProductInfo(Model):
    """A product of a part file: how often it is in the whole, the names of those it stands in, and its own bodies."""

    name: str
    number: str
    quantity: int
    of: list[str]
    bodies: int


class SizeInfo(Model):
    """A size that the recipe of a part names: how it is ``written`` where it is worked out of others, its tolerance as one types it,
    what it is in words, how it is measured where it is shown."""

    name: str
    value: float
    written: str
    tolerance: str
    says: str
    measure: str


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
    products: list[ProductInfo] = []
    sizes: list[SizeInfo] = []
    """Of a recipe."""


class Direction(Model):
    """A direction from which a part is looked at, under a name: toward the viewer and up, in the part's frame."""

    name: Name
    toward: Vector
    up: Vector


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
    directions: list[Direction]
    """From which it is looked at, kept under names."""
    summary: PartSummary
    former: str = ""
    """The part of which it is the next revision."""
    newest: str = ""
    """The newest revision of it, where it is not that itself."""
    likely: str = ""
    """A part of which it may be the next revision, having the same number or name, where it is of none; told of one that is asked
    for by itself."""
    damaged: str = ""
    """What of this cannot be read as it was kept, where something cannot."""


class PartChanges(Model):
    """Changes to a part on the shelf."""

    name: Name | None = None
    number: Name | None = None
    material: Name | None = None
    directions: Annotated[list[Direction], Field(max_length=FEW)] | None = None
    directions_seen: Annotated[list[Direction], Field(max_length=FEW)] | None = None
    """The directions as they were when these were changed: where they are others by now, nothing is overwritten."""
    density: Density | None = None
    former: str | None = None
    """The part of which it is the next revision; empty: of none."""


class FaceChangeJson(Model):
    """Faces that changed alike: what became of them, and their rows before and after."""

    change: Literal["gone", "new", "moved", "resized"]
    words: str
    before: list[int]
    after: list[int]


class PartChangesJson(Model):
    """What differs between a part and the one before it (``since``), each figure before and after: mm, mm³, g. ``turn`` (by rows) and
    ``by`` tell where a point of that one's shape stands in this one's; ``words``: how the whole was moved in its file."""

    since: str
    part: str
    size: list[list[float]]
    volume: list[float]
    mass: list[float | None]
    counts: list[int]
    changes: list[FaceChangeJson]
    lines_before: list[int]
    lines_after: list[int]
    """Lines of either shape that are not in the other as they are, by their places among those that are sent."""
    turn: list[float]
    by: list[float]
    words: str
    sure: bool


class ReadAgain(Model):
    """A part's file to be read as another unit."""

    unit: Literal["mm", "cm", "m", "inch"]


class NewSizes(Model):
    """Other values of sizes of a recipe, by name: mm, degrees."""

    values: Annotated[dict[str, Figure], Field(min_length=1, max_length=500)]


class DemoParts(Model):
    """The parts that ship with the application, to be brought."""


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
    more: list[JobInfo] = []
    """Of several parts that were brought together the others."""


class FacePreview(Model):
    """One face of a part as a small picture: SVG path data in a box of ``width`` by ``height`` mm."""

    face: FaceName
    width: float
    height: float
    visible: str
    hidden: str
