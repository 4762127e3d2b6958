"""A section's cutting line dragged, or one of its corners; the section follows."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..bounds import Ref
from ..drawing import Corner, CuttingLine, Drawing, Operation, SectionView, Sheet
from ..drawing.base import Point
from ..drawing.cutting import tie_of
from ..drawing.operations import SetView, need_view
from ..errors import BadOperation
from ..views.cutting_lines import left_of, main_of, run_of, stretches_of
from .base import ActContext, AnyAct, Preview
from .cutting import caught_at, checked, corner_at, crossed, ground_of, line_words, shown

Array = NDArray[np.float64]


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

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view = self._moved(drawing, acting)
        checked(drawing, acting, view)
        changes: dict[str, Any] = {"line": view.line.model_dump(mode="json"), "side": view.side}
        if view.within:
            changes["place"] = view.place
        return SetView(view=view.id, changes=changes)

    def preview(self, drawing: Drawing, acting: ActContext) -> Preview:
        sheet, view = self._moved(drawing, acting)
        checked(drawing, acting, view)
        return shown(drawing, acting, sheet, view, line_words(drawing, acting, view))

    def _moved(self, drawing: Drawing, acting: ActContext) -> tuple[Sheet, SectionView]:
        sheet, view = need_view(drawing, self.view)
        if not isinstance(view, SectionView):
            raise BadOperation("This is no section", "Choose a section; its line can be dragged.")
        ground = ground_of(drawing, acting, view.parent)
        placed_view, part, frame = ground.placed_view, ground.part, ground.frame
        run = run_of(view.line, frame, part)
        main = main_of(stretches_of(run.points))
        look = left_of(main.along)
        corners = [
            c.model_copy(update={"place": (float(p[0]), float(p[1]))})
            for c, p in zip(view.line.corners, run.points, strict=True)
        ]
        here = placed_view.transform.from_sheet(np.array([self.to]))[0]
        tie = tie_of(self.ref, self.at)
        here, off = caught_at(ground, here, tie)
        if self.corner is not None:
            if self.corner >= len(corners):
                raise BadOperation("There is no such corner", "Choose one of the line's corners.")
            corners = _corner_moved(view.line, corners, self.corner, corner_at(here, tie, off))
        else:
            held = main.start if self.start is None else placed_view.transform.from_sheet(np.array([self.start]))[0]
            aside = float((here - held) @ look)
            corners = [corner_at(np.array(c.place) + aside * look) for c in corners]
            if tie is not None and not (off.any() and crossed(ground, tie, [main.along])):
                k = next(k for k, p in enumerate(run.points) if np.allclose(p, main.start))
                corners[k] = corner_at(corners[k].place, tie, off)
        line = view.line.model_copy(update={"corners": corners})
        moved = view.model_copy(update={"line": line})
        # a line that is turned about looks to where it looked before
        now = run_of(line, frame, part)
        if float(main.along @ main_of(stretches_of(now.points)).along) < -0.5:
            moved = moved.model_copy(update={"side": -view.side})
        if view.within:
            way = placed_view.transform.direction(look)
            before, after = placed_view.transform.to_sheet(np.array([run.points[0], now.points[0]]))
            place = np.array(view.place) + float((after - before) @ way) * way
            moved = moved.model_copy(update={"place": (float(place[0]), float(place[1]))})
        return sheet, moved


def _corner_moved(line: CuttingLine, corners: list[Corner], k: int, moved: Corner) -> list[Corner]:
    """The corners with one moved: what hangs on it along straight legs goes along."""
    found = list(corners)
    found[k] = moved
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
            found[j + step] = corner_at(place)
            j += step
    return found
