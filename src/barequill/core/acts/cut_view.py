"""Sections: a cutting line grown by clicks, and the view pulled out of it."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..bounds import Coordinate, Ref
from ..drawing import Corner, CuttingLine, Drawing, Operation, SectionView, Tie, View
from ..drawing.base import Model, Point
from ..drawing.cutting import Course, End, tie_of
from ..drawing.operations import AddViews, need_view
from ..errors import UserError
from ..part.uncut import left_whole
from ..views.cutting_lines import left_of, main_of, run_of, stretches_of, tie_point
from ..views.placed_view import PlacedView
from .base import ActContext, AnyAct, Preview
from .centres import with_centres
from .cutting import LineGround, caught_at, checked, corner_at, crossed, ground_of, line_words, shown

Array = NDArray[np.float64]
Form = Literal["section", "half", "short", "removed", "revolved"]
LEAN = 15.0
"""Degrees off level or upright up to which a leg straightens by itself."""
SQUARED = 5.0
"""Degrees within which a leaning leg turns square to an edge."""
CATCH = 2.5
"""mm on the sheet within which a line without a feature is caught by the middle of the part."""
BESIDE = 8.0
"""mm on the sheet off the line's extension within which a removed section is caught by it."""
HALF = 5.0
"""mm on the sheet by which a hand that pulls a half section is clearly above, or left."""
FORMS: dict[str, str] = {
    "section": "whole",
    "half": "half section",
    "short": "stopping short",
    "removed": "cut face alone",
    "revolved": "turned into the view",
}


class CutPoint(Model):
    """A place where the hand clicked, sheet mm, and what it caught there: which point of which entity."""

    x: Coordinate
    y: Coordinate
    ref: Ref = ""
    at: Ref = ""
    lean: bool = False
    """The leg to this place may lean."""


class CutView(AnyAct):
    """A section out of a view: along a line through ``points``, pulled ``to`` where it is to stand.

    While the line is still ``growing`` only it is shown, with a leg to the pointer.
    """

    act: Literal["cut_view"] = "cut_view"
    view: Ref
    points: list[CutPoint] = Field(min_length=1, max_length=20)
    to: Point
    form: Form = "section"
    flip: bool = False
    growing: bool = False
    lean: bool = False
    """While growing: the leg to the pointer may lean."""

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet, parent = need_view(drawing, self.view)
        view = self.section(drawing, acting, parent)
        checked(drawing, acting, view)
        plan = AddViews(sheet=sheet.id, views=[view])
        # one that is turned into its view has the lines of that
        return plan if view.within else with_centres(acting, drawing, plan, view)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, parent = need_view(drawing, self.view)
        view = self.section(drawing, acting, parent)
        others = tuple(FORMS[f] for f in FORMS if f != self.form)
        words = line_words(drawing, acting, view)
        if not self.growing:
            checked(drawing, acting, view)
        return shown(drawing, acting, sheet, view, words, others, line_only=self.growing)

    def section(self, drawing: Drawing, acting: ActContext, parent: View) -> SectionView:
        """The section that it would add."""
        ground = ground_of(drawing, acting, parent.id)
        placed_view, part, frame = ground.placed_view, ground.part, ground.frame
        points = [_at_its_tie(p, ground) for p in self.points]
        if self.growing:
            points.append(CutPoint(x=self.to[0], y=self.to[1], lean=self.lean))
        elif len(points) == 1:
            # one place alone: the line runs square to where the hand pulls
            x, y = points[0].x, points[0].y
            aside = abs(self.to[0] - x) >= abs(self.to[1] - y)
            way = 1.0
            if self.form == "half":
                # that below or at the right, unless the hand is clearly on the other side
                way = (1.0 if self.to[1] - y > HALF else -1.0) if aside else (-1.0 if x - self.to[0] > HALF else 1.0)
            points = [points[0], CutPoint(x=x, y=y + way) if aside else CutPoint(x=x + way, y=y)]
        line = line_through(points, ground, self.form)
        run = run_of(line, frame, part)
        main = main_of(stretches_of(run.points))
        transform = placed_view.transform
        along, start = transform.direction(main.along), transform.to_sheet(main.start[None])[0]
        pulled = float((np.array(self.to) - start) @ left_of(along))
        ahead = pulled >= 0
        # in first angle a view stands where one looks to, in third angle where one looks from
        side: Any = 1 if ahead == (drawing.angle == "first") else -1
        if self.flip:
            side = -side
        (own,) = drawing.fresh()
        bare, within = self.form == "removed", self.form == "revolved"
        # square to the cut from its view: a section in line with that, a revolved one on its line
        look = left_of(along)
        aim = start if within else np.array(self.to)
        at = np.array(parent.place) + float((aim - parent.place) @ look) * look
        if bare:
            # caught by the extension of its line
            off = aim - start
            at = start + float(off @ along) * along if abs(float(off @ look)) < BESIDE else aim
        normal = frame.space(left_of(main.along))
        return SectionView(
            id=own,
            part=parent.part,
            parent=parent.id,
            bodies=parent.bodies,
            place=(float(at[0]), float(at[1])),
            tied=not bare,
            line=line,
            side=side,
            letter="" if within else drawing.free_letter(),
            bare=bare,
            within=within,
            whole=left_whole(part, normal, parent.bodies),
        )


def _at_its_tie(point: CutPoint, ground: LineGround) -> CutPoint:
    """A click with its place moved to what it caught."""
    tie, transform = tie_of(point.ref, point.at), ground.placed_view.transform
    if tie is None or tie_point(ground.part, tie) is None:
        return point.model_copy(update={"ref": "", "at": ""})
    place, _ = caught_at(ground, transform.from_sheet(np.array([[point.x, point.y]]))[0], tie)
    x, y = transform.to_sheet(place[None])[0]
    return point.model_copy(update={"x": float(x), "y": float(y)})


def line_through(points: list[CutPoint], ground: LineGround, form: Form) -> CuttingLine:
    """A cutting line through places of a view: legs straighten unless they clearly lean, and two features that are not
    in line get a step between them.

    Raises
    ------
    UserError
        Where there are not two places.
    """
    if len(points) < 2:
        raise UserError("The cutting line has one end only", "Click where it is to go on, or beyond the view.")
    placed_view = ground.placed_view
    spots = placed_view.transform.from_sheet(np.array([[p.x, p.y] for p in points]))
    ties = [tie_of(p.ref, p.at) for p in points]
    offs = [caught_at(ground, spot, tie)[1] for spot, tie in zip(spots, ties, strict=True)]
    near = CATCH / placed_view.transform.scale
    corners = [corner_at(spots[0], ties[0], offs[0])]
    courses: list[Course] = []
    step = spots[1] - spots[0]
    main: Course = "level" if abs(step[0]) >= abs(step[1]) else "upright"
    for k in range(1, len(points)):
        a, b = np.array(corners[-1].place), spots[k]
        way = b - a
        if np.linalg.norm(way) < 1e-6:
            continue
        tilt = float(np.degrees(np.arctan2(abs(way[1]), abs(way[0]))))
        leans = points[k].lean or (LEAN < tilt < 90 - LEAN and (ties[k] is None or k == 1) and not _stepped(points))
        axis = 1 if main == "level" else 0
        if leans:
            courses.append("lean")
            if ties[k] is None:
                b = _squared(a, b, placed_view)
        elif ties[k] is None or abs(way[axis]) < 1e-3:
            # a free end follows the leg
            own: Course = "level" if tilt <= 45 else "upright"
            courses.append(own)
            b = b.copy()
            b[1 if own == "level" else 0] = a[1 if own == "level" else 0]
        elif corners[-1].tie is None and len(corners) == 1:
            # begun at a free place: the line runs through the feature that it goes to
            courses.append(main)
            start = list(corners[0].place)
            start[axis] = float(b[axis])
            corners[0] = corner_at(start)
        else:
            middle = (a + b) / 2
            one, other = a.copy(), b.copy()
            one[1 - axis] = other[1 - axis] = middle[1 - axis]
            corners += [corner_at(one), corner_at(other)]
            courses += [main, "upright" if main == "level" else "level", main]
        corners.append(corner_at(b, ties[k], offs[k]))
    if len(corners) < 2:
        raise UserError("The cutting line has no length", "Click where it is to go on, or beyond the view.")
    if all(c.tie is None for c in corners) and courses[0] != "lean":
        axis = 1 if courses[0] == "level" else 0
        if abs(corners[0].place[axis]) < near:
            corners[0] = corners[0].model_copy(update={"tie": Tie(at="box")})
            # the middle of the part is a point: only across the line it counts
            other = list(corners[0].place)
            corners[0] = corners[0].model_copy(update={"off": (other[0], 0.0) if axis == 1 else (0.0, other[1])})
    for k, corner in enumerate(corners):
        ways = [_way(corners, courses, j) for j in (k - 1, k) if 0 <= j < len(courses)]
        if corner.tie is not None and any(corner.off) and crossed(ground, corner.tie, ways):
            corners[k] = corner_at(corner.place)
    first: End = "short" if form == "short" else "through"
    last = first
    if form == "half":
        # it ends on what it is tied to, or of two such places on that nearer the middle of the part
        off = [(c.tie is None, float(np.hypot(*c.place))) for c in (corners[0], corners[-1])]
        first, last = ("half", "through") if off[0] < off[1] else ("through", "half")
    return CuttingLine(corners=corners, courses=courses, ends=(first, last))


def _way(corners: list[Corner], courses: list[Course], k: int) -> Array:
    """The direction (2,) in which a leg runs."""
    if courses[k] != "lean":
        return np.array([1.0, 0.0] if courses[k] == "level" else [0.0, 1.0])
    step = np.subtract(corners[k + 1].place, corners[k].place)
    return step / max(float(np.linalg.norm(step)), 1e-12)


def _squared(a: Array, b: Array, placed_view: PlacedView) -> Array:
    """The free end of a leaning leg, turned so that it runs square to a straight edge, or along it, where it nearly does."""
    step = b - a
    length = float(np.linalg.norm(step))
    best = np.sin(np.radians(SQUARED))
    found = b
    for curve in placed_view.projected.curves:
        if curve.curve.kind != "line" or not curve.visible:
            continue
        edge = curve.curve.poles[1] - curve.curve.poles[0]
        edge = edge / max(float(np.linalg.norm(edge)), 1e-300)
        for way in (edge, left_of(edge)):
            off = abs(float(step @ left_of(way))) / length
            if off < best:
                best, found = off, a + float(step @ way) * way
    return found


def _stepped(points: list[CutPoint]) -> bool:
    """True where a line has more than two places and none of its legs leans by hand."""
    return len(points) > 2 and not any(p.lean for p in points)
