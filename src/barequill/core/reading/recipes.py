"""Recipes: a part built by the kernel, step by step, from its named sizes."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from ..errors import BadPartFile, UserError
from ..part.named_sizes import NamedSize, NamedThread, misses
from ..recipe import model as m
from ..recipe.figures import Figures
from . import shapes
from .raw import RawBody
from .solids import Areas, Vector, edges_at, faces_at, solids_of, sound, volume_of
from .splitting import split_bodies

NEAR = 1e-4
"""mm from a place within which an edge or a face is to lie that it names."""


@dataclass
class Made:
    """What a recipe has come to: bodies by name, the tools of each step, and the threads that were said."""

    bodies: dict[str, Any] = field(default_factory=dict)
    tools: dict[str, list[tuple[str, str, Any]]] = field(default_factory=dict)
    """By step: body, mode and shape of all that it added or cut."""
    threads: list[NamedThread] = field(default_factory=list)
    values: Mapping[str, float] = field(default_factory=dict)
    """What its sizes come to."""


def build(recipe: m.Recipe, label: str, say: Callable[[float, str], None] = lambda share, what: None) -> Made:
    """Build a recipe.

    Raises
    ------
    BadPartFile
        Where a step cannot be built; the message names the step and the reason.
    """
    try:
        values = recipe.values()
    except UserError as error:
        raise BadPartFile(f"{label}: {error.title}", error.detail) from error
    work = _Work(recipe.name, values)
    for k, step in enumerate(recipe.steps):
        say(k / len(recipe.steps), f"step {k + 1} of {len(recipe.steps)}: {step.name}")
        try:
            work.do(step)
        except BadPartFile:
            raise
        except UserError as error:
            raise BadPartFile(f"{label}, step {step.name}: {error.title}", error.detail) from error
        except Exception as error:
            # the kernel's refusals are of many kinds
            if not type(error).__module__.startswith("OCP"):
                raise
            raise BadPartFile(
                f"{label}, step {step.name}: the kernel cannot build it",
                "It does not fit the body as it stands: a radius may be too large, or an outline cross itself. "
                "Change its sizes.",
            ) from error
    for name, shape in work.made.bodies.items():
        if solids_of(shape) > 1:
            raise BadPartFile(
                f"{label}: {name} is of {solids_of(shape)} pieces that do not touch",
                "Move its steps together, or give each piece a body of its own.",
            )
    if not work.made.bodies:
        raise BadPartFile(f"{label} builds no body", "None of its steps adds anything.")
    return work.made


def bodies_of(made: Made, recipe: m.Recipe) -> list[RawBody]:
    """The bodies that were built, each of one name."""
    found = []
    for name, shape in made.bodies.items():
        found += [RawBody(n, s, material=recipe.material or None) for n, s in split_bodies(shape, name)]
    return found


def sizes_of(recipe: m.Recipe, made: Made, label: str) -> tuple[NamedSize, ...]:
    """The sizes of a recipe as they came out, measured on what was built.

    Raises
    ------
    BadPartFile
        Where the part does not have one that it is said to show.
    """
    figures, found = Figures(made.values), []
    whole = list(made.bodies.values())
    for size in recipe.sizes:
        places = [] if size.shown is None else size.shown.places
        try:
            spots = tuple(figures.place(p) for p in places)
        except UserError as error:
            raise BadPartFile(f"{label}, size {size.name}: {error.title}", error.detail) from error
        one = NamedSize(
            name=size.name,
            value=made.values[size.name],
            written=size.value if isinstance(size.value, str) else "",
            tolerance=size.tolerance,
            says=size.says,
            measure=size.shown.measure if size.shown is not None else "",
            places=spots,
        )
        wrong = misses(one, NEAR) or shapes_miss(whole, one)
        if wrong:
            raise BadPartFile(
                f"{label}, size {size.name}: the part does not have it",
                f"It is {one.value:.6g}, but {wrong}. Change the places under shown, or the steps.",
            )
        found.append(one)
    return tuple(found)


def shapes_miss(whole: list[Any], size: NamedSize) -> str:
    """How what is built differs at the place of a round size, in words; nothing where it does not."""
    if size.measure not in ("diameter", "radius"):
        return ""
    from OCP.BRepAdaptor import BRepAdaptor_Surface
    from OCP.GeomAbs import GeomAbs_SurfaceType as Kind

    told = "there is no round face at its place"
    for shape in whole:
        for face in faces_at(shape, size.places[0], NEAR, every=True):
            surface = BRepAdaptor_Surface(face)
            radius = {
                Kind.GeomAbs_Cylinder: lambda s=surface: s.Cylinder().Radius(),
                Kind.GeomAbs_Sphere: lambda s=surface: s.Sphere().Radius(),
                Kind.GeomAbs_Torus: lambda s=surface: s.Torus().MinorRadius(),
            }.get(surface.GetType())
            if radius is not None:
                have = radius() * (2 if size.measure == "diameter" else 1)
                if abs(have - size.value) <= NEAR:
                    return ""
                told = f"the face at its place has {have:.6g}"
    return told


def _sum(at: Vector, way: Vector, by: float) -> Vector:
    """A place so far along a way."""
    return at[0] + by * way[0], at[1] + by * way[1], at[2] + by * way[2]


class _Work:
    """A recipe while it is being built."""

    def __init__(self, name: str, values: Mapping[str, float]) -> None:
        self.made = Made(values=values)
        self._name, self._figures = name, Figures(values)
        self._figure, self._positive = self._figures.of, self._figures.above_nothing
        self._areas = Areas(self._figures)

    def do(self, step: Any) -> None:
        """Do one step."""
        body = step.body or self._name
        match step:
            case m.Extrude() | m.Turn() | m.Sweep() | m.BendSheet():
                self._take(step.name, body, step.mode, self._shaped(step))
            case m.Hole():
                self._holes(step, body)
            case m.Thread():
                self._thread(step.at, step.size, step.length)
            case m.Pattern():
                self._pattern(step)
            case m.Mirror():
                self._mirror(step, body)
            case _:
                shape = self._need(body)
                if isinstance(step, m.Shell):
                    changed = self._shelled(step, shape)
                else:
                    changed = self._edged(step, shape)
                self.made.bodies[body] = sound(changed)

    def _way(self, place: m.Place, what: str = "direction") -> Vector:
        found = self._figures.place(place)
        if math.hypot(*found) < 1e-9:
            raise UserError(f"its {what} has no length", "Say a way, such as 0, 0, 1.")
        return found

    # ---- shapes

    def _shaped(self, step: Any) -> Any:
        if isinstance(step, m.BendSheet):
            strip = shapes.bent(
                [self._positive(f, "flat") for f in step.flats],
                [self._figure(t) for t in step.turns],
                self._positive(step.radius, "radius"),
                self._positive(step.thick, "thickness"),
                self._positive(step.wide, "width"),
            )
            return shapes.moved(strip, self._figures.place(step.origin))
        frame = self._areas.plane(step.profile.plane, step.profile.origin)
        face = self._areas.face(step.profile, frame)
        if isinstance(step, m.Extrude):
            by = self._figure(step.by)
            if abs(by) < 1e-6:
                raise UserError("it is extruded by nothing", "Say by how much, more or less than 0.")
            if step.both:
                face = shapes.moved(face, frame.along(-by / 2))
            return shapes.pushed(face, frame.along(by))
        if isinstance(step, m.Turn):
            first, second = (frame.at(*(self._figure(c) for c in spot)) for spot in step.axis)
            way = (second[0] - first[0], second[1] - first[1], second[2] - first[2])
            if math.hypot(*way) < 1e-9:
                raise UserError("its axis has no length", "Say two places of it.")
            degrees = self._figure(step.degrees)
            if not 0 < abs(degrees) <= 360:
                raise UserError(f"it is turned by {degrees:g}°", "Say more than 0 and at most 360.")
            return shapes.turned_about(face, first, way, degrees)
        return shapes.swept(face, self._areas.path(step.path))

    def _take(self, name: str, body: str, mode: str, tool: Any) -> None:
        """Add a tool to a body, cut it off, or keep what lies within it; the step is known by it from now on."""
        if volume_of(tool) < 0:
            tool = tool.Reversed()
        self.made.tools.setdefault(name, []).append((body, mode, tool))
        before = self.made.bodies.get(body)
        if before is None:
            if mode != "add":
                raise UserError("there is nothing yet to cut", f"{body} has no step before it that adds something.")
            self.made.bodies[body] = sound(tool)
            return
        combine = {"add": shapes.fuse, "cut": shapes.cut, "keep": shapes.common}[mode]
        after = sound(combine(before, tool))
        pieces = solids_of(after)
        if mode != "add" and pieces > solids_of(before):
            raise UserError(f"it cuts the body into {pieces} pieces", "Make it smaller, or move it.")
        change = volume_of(after) - volume_of(before)
        if abs(change) <= 1e-9 * volume_of(before):
            does = {"add": "adds", "cut": "takes away", "keep": "takes away"}[mode]
            raise UserError(f"it {does} nothing", "What it makes lies wholly within the body, or beside it. Move it.")
        self.made.bodies[body] = after

    def _need(self, body: str) -> Any:
        if body not in self.made.bodies:
            raise UserError(f"there is no body {body}", "A step before it has to add something.")
        return self.made.bodies[body]

    def _holes(self, step: m.Hole, body: str) -> None:
        reach = 2 * shapes.extent(self._need(body)) + 1
        way = self._way(step.into, "way in")
        unit = _sum((0.0, 0.0, 0.0), way, 1 / math.hypot(*way))
        diameter = self._positive(step.diameter, "diameter")
        depth = reach if step.depth is None else self._positive(step.depth, "depth")
        tip = self._figure(step.tip) if step.depth is not None else 0.0
        if tip and not 30 <= tip < 180:
            raise UserError(f"its point is of {tip:g}°", "Say 118 or so, or 0 for a flat bottom.")
        # from a little above its mouth, so that nothing thin is left there
        over = 1e-2 * diameter
        end = depth + diameter / 2 / math.tan(math.radians(tip / 2)) if tip else depth
        tools = [[(-over, 0.0), (-over, diameter / 2), (depth, diameter / 2), (end, 0.0)]]
        if step.counterbore is not None:
            wide = self._positive(step.counterbore.diameter, "counterbore")
            deep = self._positive(step.counterbore.depth, "counterbore's depth")
            if wide <= diameter:
                raise UserError("its counterbore is no wider than the hole", "Make it wider.")
            tools.append([(-over, 0.0), (-over, wide / 2), (deep, wide / 2), (deep, 0.0)])
        if step.countersink is not None:
            wide = self._positive(step.countersink.diameter, "countersink")
            angle = self._positive(step.countersink.angle, "countersink's angle")
            if wide <= diameter or not 10 <= angle < 180:
                raise UserError("its countersink is no wider than the hole", "Make it wider, of 10 to 179°.")
            slope = math.tan(math.radians(angle / 2))
            tools.append(
                [(-over, 0.0), (-over, wide / 2 + over * slope), (wide / 2 / slope, 0.0)],
            )
        for mouth in step.at:
            at = self._figures.place(mouth)
            for outline in tools:
                self._take(step.name, body, "cut", shapes.turned_along(outline, at, unit))
            if step.thread is not None:
                spot = _sum(at, unit, min(1.0, depth / 2))
                on = _sum(spot, shapes.square_to(unit), diameter / 2)
                self._thread(on, step.thread.size, step.thread.length)

    def _thread(self, at: m.Place, size: str, length: float | str | None) -> None:
        place = self._figures.place(at)
        if not any(faces_at(shape, place, NEAR, every=True) for shape in self.made.bodies.values()):
            told = ", ".join(f"{c:.6g}" for c in place)
            raise UserError(f"no face lies at {told}", "Say a place on the round face that has the thread.")
        self.made.threads.append(NamedThread(place, size, 0.0 if length is None else self._positive(length, "length")))

    def _pattern(self, step: m.Pattern) -> None:
        figure = self._figure(step.count)
        count = round(figure)
        if abs(figure - count) > 1e-9 or not 2 <= count <= m.MANY:
            raise UserError(f"its count comes to {figure:g}", f"Say a whole number from 2 to {m.MANY}.")
        tools = self._repeated(step.of)
        whole = self._figure(step.degrees)
        between = whole / count if abs(abs(whole) - 360) < 1e-9 else whole / (count - 1)
        for k in range(1, count):
            for body, mode, tool in tools:
                if step.along is not None:
                    x, y, z = self._way(step.along)
                    again = shapes.moved(tool, (k * x, k * y, k * z))
                else:
                    assert step.about is not None
                    about = self._figures.place(step.about.at)
                    axis = self._way(step.about.along, "axis")
                    again = shapes.moved(tool, axis=axis, degrees=k * between, about=about)
                self._take(step.name, body, mode, again)

    def _repeated(self, names: list[str]) -> list[tuple[str, str, Any]]:
        found = []
        for name in names:
            if name not in self.made.tools:
                raise UserError(f"there is no step {name} to repeat", "Name steps before it that add or cut something.")
            found += self.made.tools[name]
        return found

    def _mirror(self, step: m.Mirror, body: str) -> None:
        frame = self._areas.plane(step.plane, step.origin)
        tools = self._repeated(step.of) if step.of else [(body, "add", self._need(body))]
        for own, mode, tool in list(tools):
            self._take(step.name, own, mode, shapes.mirrored(tool, frame.origin, frame.normal))

    def _shelled(self, step: m.Shell, shape: Any) -> Any:
        faces = [f for p in step.open for f in faces_at(shape, self._figures.place(p), NEAR)]
        return shapes.hollowed(shape, faces, self._positive(step.thick, "thickness"))

    def _edged(self, step: m.Fillet | m.Chamfer, shape: Any) -> Any:
        edges = [e for p in step.edges for e in edges_at(shape, self._figures.place(p), NEAR)]
        if isinstance(step, m.Fillet):
            return shapes.filleted(shape, self._positive(step.radius, "radius"), edges)
        return shapes.bevelled(shape, self._positive(step.width, "width"), edges)
