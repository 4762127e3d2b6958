"""Sections: a cutting line grown by clicks, the view pulled out of it, and the line moved afterwards."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..annotation.pointing import words_of_line
from ..annotation.sheet_ink import (
    blank,
    caption_element,
    cutting_line_element,
    hatch_element,
    title_of,
    view_element,
    view_words,
)
from ..bounds import Coordinate, Ref
from ..drawing import Corner, CuttingLine, Drawing, Operation, SectionView, Sheet, Tie, View
from ..drawing.base import Model, Point
from ..drawing.cutting import Course, End
from ..drawing.operations import AddViews, SetView, need_view
from ..errors import BadOperation, UserError
from ..ink import Element
from ..part.chosen import body_names
from ..part.model import Part
from ..part.uncut import left_whole
from ..views.cutting_lines import frame_of, left_of, main_of, run_of, stretches_of, tie_point
from ..views.picture import Picture
from ..views.sections import section_scene
from .base import AnyAct, Bench, Preview

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

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        sheet, parent = need_view(drawing, self.view)
        view = self._section(drawing, bench, sheet, parent)
        checked(drawing, bench, view)
        return AddViews(sheet=sheet.id, views=[view])

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, parent = need_view(drawing, self.view)
        view = self._section(drawing, bench, sheet, parent)
        others = tuple(FORMS[f] for f in FORMS if f != self.form)
        words = line_words(drawing, bench, view)
        if not self.growing:
            checked(drawing, bench, view)
        return shown(drawing, bench, sheet, view, words, others, line_only=self.growing)

    def _section(self, drawing: Drawing, bench: Bench, sheet: Sheet, parent: View) -> SectionView:
        picture = bench.studio.pictures(drawing, sheet)[parent.id]
        part = bench.studio.part(parent.part)
        frame = frame_of(part, picture.shot.scene.toward, picture.shot.scene.up)
        points = [_at_its_tie(p, part, picture) for p in self.points]
        if self.growing:
            points.append(CutPoint(x=self.to[0], y=self.to[1], lean=self.lean))
        elif len(points) == 1:
            # one place alone: the line runs square to where the hand pulls
            x, y = points[0].x, points[0].y
            aside = abs(self.to[0] - x) >= abs(self.to[1] - y)
            points = [points[0], CutPoint(x=x, y=y + 1.0) if aside else CutPoint(x=x + 1.0, y=y)]
        line = line_through(points, picture, self.form)
        run = run_of(line, frame, part)
        main = main_of(stretches_of(run.points))
        chart = picture.chart
        along, start = chart.direction(main.along), chart.to_sheet(main.start[None])[0]
        pulled = float((np.array(self.to) - start) @ left_of(along))
        ahead = pulled >= 0
        # in first angle a view stands where one looks to, in third angle where one looks from
        side: Any = 1 if ahead == (drawing.angle == "first") else -1
        if self.flip:
            side = -side
        (own,) = drawing.fresh()
        bare, within = self.form == "removed", self.form == "revolved"
        place, tied = self.to, not bare
        if within:
            look = left_of(along)
            at = np.array(parent.place) + float((start - parent.place) @ look) * look
            place = float(at[0]), float(at[1])
        elif bare:
            # caught by the extension of its line
            off = np.array(self.to) - start
            if abs(float(off @ left_of(along))) < BESIDE:
                on = start + float(off @ along) * along
                place = float(on[0]), float(on[1])
        elif line.courses[0] == "level":
            place = parent.place[0], self.to[1]
        elif line.courses[0] == "upright":
            place = self.to[0], parent.place[1]
        else:
            # in line with its view, square to the cut
            look = left_of(along)
            at = np.array(parent.place) + float((np.array(self.to) - parent.place) @ look) * look
            place = float(at[0]), float(at[1])
        normal = frame.space(left_of(main.along))
        return SectionView(
            id=own,
            part=parent.part,
            parent=parent.id,
            bodies=parent.bodies,
            place=place,
            tied=tied,
            line=line,
            side=side,
            letter="" if within else drawing.free_letter(),
            bare=bare,
            within=within,
            whole=left_whole(part, normal, parent.bodies),
        )


class MoveCutting(AnyAct):
    """A corner of a section's cutting line dragged ``to`` another place, or its whole line (no corner), aside."""

    act: Literal["move_cutting"] = "move_cutting"
    view: Ref
    corner: int | None = Field(default=None, ge=0, le=40)
    to: Point
    start: Point | None = None
    """Where the hand took hold of the line."""
    ref: Ref = ""
    at: Ref = ""

    def plan(self, drawing: Drawing, bench: Bench) -> Operation:
        _, view = self._moved(drawing, bench)
        checked(drawing, bench, view)
        changes: dict[str, Any] = {"line": view.line.model_dump(mode="json"), "side": view.side}
        if view.within:
            changes["place"] = view.place
        return SetView(view=view.id, changes=changes)

    def preview(self, drawing: Drawing, bench: Bench) -> Preview:
        sheet, view = self._moved(drawing, bench)
        checked(drawing, bench, view)
        return shown(drawing, bench, sheet, view, line_words(drawing, bench, view))

    def _moved(self, drawing: Drawing, bench: Bench) -> tuple[Sheet, SectionView]:
        sheet, view = need_view(drawing, self.view)
        if not isinstance(view, SectionView):
            raise BadOperation("This is no section", "Choose a section; its line can be dragged.")
        parent = drawing.view(view.parent)
        home = drawing.sheet_of(view.parent)
        if parent is None or home is None:
            raise BadOperation("The view of the cutting line is gone", "Put it back with undo.")
        picture = bench.studio.pictures(drawing, home)[parent.id]
        part = bench.studio.part(view.part)
        frame = frame_of(part, picture.shot.scene.toward, picture.shot.scene.up)
        run = run_of(view.line, frame, part)
        corners = [
            c.model_copy(update={"place": (float(p[0]), float(p[1]))})
            for c, p in zip(view.line.corners, run.points, strict=True)
        ]
        here = picture.chart.from_sheet(np.array([self.to]))[0]
        tie = _tie(self.ref, self.at)
        if self.corner is not None:
            if self.corner >= len(corners):
                raise BadOperation("There is no such corner", "Choose one of the line's corners.")
            corners = _corner_moved(view.line, corners, self.corner, here, tie)
        else:
            main = main_of(stretches_of(run.points))
            look = left_of(main.along)
            held = main.start if self.start is None else picture.chart.from_sheet(np.array([self.start]))[0]
            aside = float((here - held) @ look)
            by = aside * look
            corners = [_loose(c, np.array(c.place) + by) for c in corners]
            if tie is not None:
                k = next(k for k, p in enumerate(run.points) if np.allclose(p, main.start))
                corners[k] = corners[k].model_copy(update={"tie": tie})
        line = view.line.model_copy(update={"corners": corners})
        moved = view.model_copy(update={"line": line})
        # a line that is turned about looks to where it looked before
        before, after = (main_of(stretches_of(run_of(c, frame, part).points)).along for c in (view.line, line))
        if float(before @ after) < -0.5:
            moved = moved.model_copy(update={"side": -view.side})
        if view.within:
            now = run_of(line, frame, part).points[0]
            main = main_of(stretches_of(run.points))
            look = picture.chart.direction(left_of(main.along))
            step = float((picture.chart.to_sheet(now[None])[0] - picture.chart.to_sheet(run.points[:1])[0]) @ look)
            place = np.array(view.place) + step * look
            moved = moved.model_copy(update={"place": (float(place[0]), float(place[1]))})
        return sheet, moved


def _tie(ref: str, at: str) -> Tie | None:
    if at == "box":
        return Tie(ref="", at="box")
    if not ref:
        return None
    return Tie.model_validate({"ref": ref, "at": at or "middle"})


def _at_its_tie(point: CutPoint, part: Part, picture: Picture) -> CutPoint:
    """A click with its place moved to what it caught."""
    tie = _tie(point.ref, point.at)
    there = None if tie is None else tie_point(part, tie)
    if there is None:
        return point.model_copy(update={"ref": "", "at": ""})
    x, y = picture.seat(there[None])[0]
    return point.model_copy(update={"x": float(x), "y": float(y)})


def _loose(corner: Corner, place: Array) -> Corner:
    return Corner(place=(float(place[0]), float(place[1])))


def _corner_moved(line: CuttingLine, corners: list[Corner], k: int, to: Array, tie: Tie | None) -> list[Corner]:
    """The corners with one moved: what hangs on it along straight legs goes along."""
    found = list(corners)
    found[k] = Corner(place=(float(to[0]), float(to[1])), tie=tie)
    for step in (-1, 1):
        j = k
        while 0 <= j + step < len(found):
            course = line.courses[min(j, j + step)]
            if course == "lean":
                break
            axis = 1 if course == "level" else 0
            place = list(found[j + step].place)
            if abs(place[axis] - found[j].place[axis]) < 1e-9:
                break
            place[axis] = found[j].place[axis]
            found[j + step] = Corner(place=(place[0], place[1]))
            j += step
    return found


def line_through(points: list[CutPoint], picture: Picture, form: Form) -> CuttingLine:
    """A cutting line through places of a view: legs straighten unless they clearly lean, and two features that are not
    in line get a step between them.

    Raises
    ------
    UserError
        Where there are not two places.
    """
    if len(points) < 2:
        raise UserError("The cutting line has one end only", "Click where it is to go on, or beyond the view.")
    spots = picture.chart.from_sheet(np.array([[p.x, p.y] for p in points]))
    ties = [_tie(p.ref, p.at) for p in points]
    near = CATCH / picture.chart.scale
    corners = [Corner(place=(float(spots[0][0]), float(spots[0][1])), tie=ties[0])]
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
                b = _squared(a, b, picture)
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
            corners[0] = Corner(place=(start[0], start[1]))
        else:
            middle = (a + b) / 2
            one, other = a.copy(), b.copy()
            one[1 - axis] = other[1 - axis] = middle[1 - axis]
            corners += [Corner(place=(float(p[0]), float(p[1]))) for p in (one, other)]
            courses += [main, "upright" if main == "level" else "level", main]
        corners.append(Corner(place=(float(b[0]), float(b[1])), tie=ties[k]))
    if len(corners) < 2:
        raise UserError("The cutting line has no length", "Click where it is to go on, or beyond the view.")
    if all(c.tie is None for c in corners) and courses[0] != "lean":
        axis = 1 if courses[0] == "level" else 0
        if abs(corners[0].place[axis]) < near:
            corners[0] = corners[0].model_copy(update={"tie": Tie(at="box")})
            # the middle of the part is a point: only across the line it counts
            other = list(corners[0].place)
            corners[0] = corners[0].model_copy(update={"off": (other[0], 0.0) if axis == 1 else (0.0, other[1])})
    last: End = {"half": "half", "short": "short"}.get(form, "through")  # type: ignore[assignment]
    first: End = "short" if form == "short" else "through"
    return CuttingLine(corners=corners, courses=courses, ends=(first, last))


def _squared(a: Array, b: Array, picture: Picture) -> Array:
    """The free end of a leaning leg, turned so that it runs square to a straight edge, or along it, where it nearly does."""
    step = b - a
    length = float(np.linalg.norm(step))
    best = np.sin(np.radians(SQUARED))
    found = b
    for curve in picture.shot.curves:
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


def checked(drawing: Drawing, bench: Bench, view: SectionView) -> None:
    """Raises UserError where a section would show nothing, and says why."""
    parent, home = drawing.view(view.parent), drawing.sheet_of(view.parent)
    if parent is None or home is None:
        raise BadOperation("The view of the cutting line is gone", "Choose another view.")
    picture = bench.studio.pictures(drawing, home)[parent.id]
    part = bench.studio.part(view.part)
    frame = frame_of(part, picture.shot.scene.toward, picture.shot.scene.up)
    section_scene(view, part, frame)
    hull = picture.shot.hull
    stretches = stretches_of(run_of(view.line, frame, part).points)
    across = [(hull - s.start) @ left_of(s.along) for s in stretches]
    if all(a.max() <= 0 or a.min() >= 0 for a in across):
        raise UserError("The cutting line misses the part", "Draw it through the view, best through a centre.")
    shown_bodies = set(view.bodies if view.bodies is not None else body_names(part))
    if shown_bodies <= set(view.whole):
        raise UserError("Nothing is left to cut", "All bodies of this view stay whole. Let one be cut.")


def line_words(drawing: Drawing, bench: Bench, view: SectionView) -> str:
    """A cutting line in words: what it runs through."""
    return words_of_line(bench.studio.part(view.part), view.line, drawing)


def shown(
    drawing: Drawing,
    bench: Bench,
    sheet: Sheet,
    view: SectionView,
    words: str,
    others: tuple[str, ...] = (),
    line_only: bool = False,
) -> Preview:
    """The ink of a section and its line as they would be."""
    rest = [v for v in sheet.views if v.id != view.id]
    trial = sheet.model_copy(update={"views": [*rest, view]})
    changed = drawing.with_sheet(trial)
    home = changed.sheet_of(view.parent)
    ink = blank(sheet)
    elements: list[Element] = []
    if line_only:
        lines = bench.studio.pictures(drawing, sheet)
        line = cutting_line_element(drawing, sheet, view, lines[view.parent])
        return Preview(ink, (line,) if line is not None else (), words, others, view.place)
    pictures = bench.studio.pictures(changed, trial)
    if home is not None and home.id == trial.id:
        line = cutting_line_element(changed, trial, view, pictures[view.parent])
        if line is not None:
            elements.append(line)
    own = pictures[view.id]
    hatch = hatch_element(changed, trial, own, ink, bench.well, [])
    caption = caption_element(own, trial, ink.lines, title_of(view, changed, trial, pictures))
    elements += [e for e in (hatch, view_element(own, ink.lines, bench.well), caption) if e is not None]
    return Preview(ink, tuple(elements), f"{view_words(view)}, {words}", others, view.place)
