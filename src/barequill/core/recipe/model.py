"""What a recipe says: its sizes and its steps. Lengths in mm, angles in degrees, in the frame of the part."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from typing import Annotated, Any, Literal

from pydantic import BaseModel, ConfigDict, Field, TypeAdapter, ValidationError, model_validator

from ..bounds import FEW, Key, Name, Text
from ..errors import BadPartFile, UserError
from .figures import LONGEST, worked_out

VERSION = 1
LARGEST = 1_000_000
"""Bytes of a recipe."""
MANY = 1000

Figure = (
    Annotated[float, Field(ge=-1e6, le=1e6, allow_inf_nan=False)]
    | Annotated[str, Field(min_length=1, max_length=LONGEST)]
)
"""A number, or a sum of sizes such as ``"(length - 20) / 2"``."""
Spot = tuple[Figure, Figure]
Place = tuple[Figure, Figure, Figure]
SizeName = Annotated[str, Field(pattern=r"^[A-Za-z][A-Za-z0-9_]{0,39}$")]
StepName = Annotated[str, Field(min_length=1, max_length=60)]
Places = Annotated[list[Place], Field(min_length=1, max_length=MANY)]


class Model(BaseModel):
    """Base of all parts of a recipe: what is not known is refused."""

    model_config = ConfigDict(extra="forbid", frozen=True)


# ---- sizes


class Shown(Model):
    """What a size measures on the part: the distance ``between`` two places, along the line between them or along X, Y or Z;
    the ``diameter`` or ``radius`` of the round face on which a place lies; the ``angle`` between two straight edges or flat
    faces on which places lie."""

    between: tuple[Place, Place] | None = None
    diameter: Place | None = None
    radius: Place | None = None
    angle: tuple[Place, Place] | None = None

    @model_validator(mode="after")
    def _one(self) -> Shown:
        if len(self.model_fields_set) != 1:
            raise ValueError("say one of between, diameter, radius, angle")
        return self

    @property
    def measure(self) -> Literal["between", "diameter", "radius", "angle"]:
        """Which it is."""
        return next(m for m in ("between", "diameter", "radius", "angle") if getattr(self, m) is not None)  # type: ignore[return-value]

    @property
    def places(self) -> list[Place]:
        """One place or two."""
        found = getattr(self, self.measure)
        return list(found) if self.measure in ("between", "angle") else [found]


class Size(Model):
    """A named size: a value, or a sum of sizes before it; a tolerance as one writes it (``H7``, ``±0,1``); what it is, in words."""

    name: SizeName
    value: Figure
    tolerance: Annotated[str, Field(max_length=60)] = ""
    says: Text = ""
    shown: Shown | None = None


# ---- profiles


class Arc(Model):
    """An arc from the place before ``through`` one ``to`` another."""

    through: Spot
    to: Spot


class ArcInSpace(Model):
    """The same in space."""

    through: Place
    to: Place


class FreePlane(Model):
    """A plane by its own two ways; it is extruded along right × up."""

    right: Place
    up: Place


Plane = Literal["xy", "xz", "yz"] | FreePlane
Outline = Annotated[list[Spot | Arc], Field(min_length=2, max_length=MANY)]


class Circle(Model):
    """A circle."""

    centre: Spot = (0.0, 0.0)
    diameter: Figure


class Rectangle(Model):
    """A rectangle from its lower left corner, its corners with a radius of ``round``."""

    corner: Spot
    size: Spot
    round: Figure = 0.0


class Polygon(Model):
    """A regular polygon, by the distance ``across`` its flats; the first corner at ``start`` degrees from the plane's right."""

    centre: Spot = (0.0, 0.0)
    sides: Annotated[int, Field(ge=3, le=100)]
    across: Figure
    start: Figure = 0.0


Area = Outline | Circle | Rectangle | Polygon
"""A closed outline of places and arcs, a circle, a rectangle or a polygon."""


class Profile(Model):
    """An area of a plane, with ``holes`` in it. The first place of the plane is its ``origin``."""

    plane: Plane = "xy"
    origin: Place = (0.0, 0.0, 0.0)
    area: Area
    holes: Annotated[list[Area], Field(max_length=FEW)] = []


# ---- steps


class AnyStep(Model):
    """A step: by its own name it can be repeated; it works on one ``body``, that of the part's name where none is named."""

    name: StepName
    body: Name = ""


class AnyShaped(AnyStep):
    """A step that adds a shape, cuts it off, or keeps what lies within it."""

    mode: Literal["add", "cut", "keep"] = "add"


class Extrude(AnyShaped):
    """A profile moved along the axis that the plane's name lacks, ``by`` so much, to ``both`` sides by half of it."""

    do: Literal["extrude"]
    profile: Profile
    by: Figure
    both: bool = False


class Turn(AnyShaped):
    """A profile turned about the line from ``axis`` one place of its plane to another; about the plane's right where none is given."""

    do: Literal["turn"]
    profile: Profile
    axis: tuple[Spot, Spot] = ((0.0, 0.0), (1.0, 0.0))
    degrees: Figure = 360.0


class Sweep(AnyShaped):
    """A profile moved along a path of places and arcs that begins in its plane."""

    do: Literal["sweep"]
    profile: Profile
    path: Annotated[list[Place | ArcInSpace], Field(min_length=2, max_length=MANY)]


class BendSheet(AnyShaped):
    """Bent sheet: ``flats`` from bend to bend along x, each bend by ``turns`` degrees, all of one ``radius`` within; ``thick``, and
    ``wide`` along y from its ``origin``, where its lower side begins."""

    do: Literal["bend"]
    origin: Place = (0.0, 0.0, 0.0)
    flats: Annotated[list[Figure], Field(min_length=1, max_length=100)]
    turns: Annotated[list[Figure], Field(max_length=99)]
    radius: Figure
    thick: Figure
    wide: Figure

    @model_validator(mode="after")
    def _between(self) -> BendSheet:
        if len(self.turns) != len(self.flats) - 1:
            raise ValueError("there is one bend between each two flats")
        return self


class Counterbore(Model):
    """A wider bore at the mouth of a hole."""

    diameter: Figure
    depth: Figure


class Countersink(Model):
    """A cone at the mouth of a hole."""

    diameter: Figure
    angle: Figure = 90.0


class HoleThread(Model):
    """The thread of a hole, as long as the hole where no length is given."""

    size: Annotated[str, Field(max_length=30)]
    length: Figure | None = None


class Hole(AnyStep):
    """Holes from the places ``at`` of their mouths, along ``into``: through all where no ``depth`` is given, else with a point of
    ``tip`` degrees, flat where that is 0."""

    do: Literal["hole"]
    at: Places
    into: Place = (0.0, 0.0, -1.0)
    diameter: Figure
    depth: Figure | None = None
    tip: Figure = 118.0
    counterbore: Counterbore | None = None
    countersink: Countersink | None = None
    thread: HoleThread | None = None


class Thread(AnyStep):
    """The thread of the round face on which a place lies."""

    do: Literal["thread"]
    at: Place
    size: Annotated[str, Field(max_length=30)]
    length: Figure | None = None


class Axis(Model):
    """A line in space."""

    at: Place = (0.0, 0.0, 0.0)
    along: Place


class Pattern(AnyStep):
    """Steps of before once more: ``count`` times in all, each so far ``along`` from the one before, or ``about`` an axis, over so many
    ``degrees``, which where they are 360 are shared out equally."""

    do: Literal["pattern"]
    of: Annotated[list[StepName], Field(min_length=1, max_length=FEW)]
    count: Annotated[int, Field(ge=2, le=MANY)] | Annotated[str, Field(max_length=LONGEST)]
    along: Place | None = None
    about: Axis | None = None
    degrees: Figure = 360.0

    @model_validator(mode="after")
    def _one_way(self) -> Pattern:
        if (self.along is None) == (self.about is None):
            raise ValueError("say along or about")
        return self


class Mirror(AnyStep):
    """Steps of before, or where none are named the whole body, once more on the other side of a plane through ``origin``."""

    do: Literal["mirror"]
    of: Annotated[list[StepName], Field(max_length=FEW)] = []
    plane: Plane
    origin: Place = (0.0, 0.0, 0.0)


class Shell(AnyStep):
    """The body hollowed out to walls so ``thick``, ``open`` at the faces on which places lie."""

    do: Literal["shell"]
    thick: Figure
    open: Places


class Fillet(AnyStep):
    """The ``edges`` on which places lie, rounded."""

    do: Literal["fillet"]
    radius: Figure
    edges: Places


class Chamfer(AnyStep):
    """The ``edges`` on which places lie, chamfered."""

    do: Literal["chamfer"]
    width: Figure
    edges: Places


Step = Annotated[
    Extrude | Turn | Sweep | BendSheet | Hole | Thread | Pattern | Mirror | Shell | Fillet | Chamfer,
    Field(discriminator="do"),
]


class Recipe(Model):
    """A part by its sizes and steps."""

    recipe: Literal[1]
    name: Name
    number: Name = ""
    material: Name = ""
    after: Key = ""
    """The key of the part of which it was built anew with other values: so that going back to these is a revision too."""
    sizes: Annotated[list[Size], Field(max_length=500)] = []
    steps: Annotated[list[Step], Field(min_length=1, max_length=500)]

    @model_validator(mode="after")
    def _told_apart(self) -> Recipe:
        for what, names in (("size", [s.name for s in self.sizes]), ("step", [s.name for s in self.steps])):
            twice = next((n for k, n in enumerate(names) if n in names[:k]), None)
            if twice is not None:
                raise ValueError(f"two {what}s are named {twice}")
        return self

    def values(self) -> dict[str, float]:
        """What each size comes to.

        Raises
        ------
        UserError
            Where one cannot be worked out.
        """
        found: dict[str, float] = {}
        for size in self.sizes:
            try:
                found[size.name] = worked_out(size.value, found)
            except UserError as error:
                raise UserError(f"Size {size.name}: {error.title}", error.detail) from error
        return found


_SAYS_SO = re.compile(rb'"recipe"\s{0,9}:')
_RECIPE: TypeAdapter[Recipe] = TypeAdapter(Recipe)


def looks_like_one(head: bytes) -> bool:
    """True for the beginning of a file that says it is a recipe."""
    text = head.lstrip(b"\xef\xbb\xbf \t\r\n")
    return text.startswith(b"{") and _SAYS_SO.search(text) is not None


def read_recipe(data: bytes, label: str) -> Recipe:
    """A recipe from its file.

    Raises
    ------
    BadPartFile
        Where it is none; the message says where and what is wrong.
    """
    try:
        if len(data) > LARGEST:
            raise BadPartFile(f"{label} is too large", f"A recipe has at most {LARGEST // 1000} kB.")
        return _RECIPE.validate_python(_loaded(data))
    except ValidationError as error:
        first = error.errors()[0]
        raise BadPartFile(f"{label} is no sound recipe", f"{_where(first)}: {_what(first)}.") from error
    except (ValueError, RecursionError) as error:
        raise BadPartFile(f"{label} cannot be read", f"The recipe is no sound JSON ({str(error)[:120]}).") from error


def _loaded(data: bytes) -> Any:
    def no_nan(text: str) -> float:
        raise ValueError(f"{text} is no figure")

    return json.loads(data, parse_constant=no_nan)


def _where(error: Any) -> str:
    """The place of a fault in words: ``steps 3, profile``."""
    told: list[str] = []
    for part in error["loc"]:
        if isinstance(part, int):
            told[-1:] = [f"{told[-1]} {part + 1}" if told else str(part + 1)]
        elif part.isidentifier() and part not in told:
            told.append(part)
    return ", ".join(told) or "at its top"


def _what(error: Any) -> str:
    message = str(error["msg"]).removeprefix("Value error, ")
    return message[:200]


def with_values(data: bytes, changes: Mapping[str, float], label: str, after: str = "") -> bytes:
    """The file of a recipe with other values of some sizes, built ``after`` a part; all else is as it was.

    Raises
    ------
    UserError
        Where there is no such size, or it is worked out of others.
    """
    recipe = read_recipe(data, label)
    known = {s.name: s for s in recipe.sizes}
    for name in changes:
        if name not in known:
            raise UserError(f"There is no size named {name}", f"The recipe has {', '.join(known) or 'none'}.")
        if isinstance(known[name].value, str):
            raise UserError(
                f"{name} is worked out", f"It is {known[name].value}. Change the sizes of which it is made."
            )
    plain = _loaded(data)
    for size in plain["sizes"]:
        if size["name"] in changes:
            size["value"] = changes[size["name"]]
    if after:
        plain["after"] = after
    read_recipe(changed := json.dumps(plain, ensure_ascii=False, indent=1).encode(), label)
    return changed + b"\n"
