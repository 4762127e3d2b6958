"""A hand that makes drawings as a user's would: it points at places on the sheet and pulls."""

from __future__ import annotations

from typing import Any

import numpy as np

from ..core.acts import ActContext, AnyAct, Centres, DoOperation, PickJson, PullDimension
from ..core.acts.cut_view import CutPoint, CutView, Form
from ..core.acts.declare_thread import DeclareThread
from ..core.acts.hanging import AnyHanging
from ..core.acts.planning import planned
from ..core.acts.rows import RowForm, StateRow
from ..core.acts.state_hole import StateHole
from ..core.acts.state_notes import StateNotes, need_block, proposals
from ..core.acts.state_tolerance import StateTolerance
from ..core.drawing import Operation
from ..core.drawing.annotations.notes_block import NotesBlock
from ..core.drawing.operations import ChangeAnnotation, Group, MoveView, Remove, SetField, SetView
from ..core.sheet.elements import solved
from ..core.views.placed_view import PlacedView
from ..store import DrawingSnapshot, Store

Point = tuple[float, float, float]


class Hand:
    """Works on one drawing."""

    def __init__(self, store: Store, acting: ActContext, snapshot: DrawingSnapshot) -> None:
        self.store = store
        self.acting = acting
        self.now = snapshot

    def act(self, act: AnyAct) -> None:
        """Do an act."""
        self.now = self.store.act(self.now.id, self.now.edit, lambda drawing: planned(act, drawing, self.acting))

    def operation(self, operation: Operation) -> None:
        """Do an operation."""
        self.act(DoOperation(operation=operation))

    def placed_view(self, look: str) -> PlacedView:
        """The view that looks so; ``section B`` is the one of that letter."""
        sheet = self.now.drawing.front_sheet
        view = next(v for v in sheet.views if look in (v.look, f"section {getattr(v, 'letter', '')}"))
        return self.acting.projections.placed_views(self.now.drawing, sheet)[view.id]

    def pick(self, placed_view: PlacedView, place: Point, at: str = "") -> PickJson:
        """What lies nearest to a place of the part (mm, in the part's frame) in a view."""
        aim = placed_view.projected.flat(np.array([place]))[0] + placed_view.projected.centre
        best: tuple[float, str] = (np.inf, "")
        for curve in placed_view.projected.curves:
            gap = (
                float(np.linalg.norm(curve.curve.points(0.01) - aim, axis=1).min())
                if curve.curve.kind != "line"
                else _to_line(curve.curve.poles, aim)
            )
            gap += 0.0 if curve.visible else 1e-4
            if gap < best[0] - 1e-9:
                best = (gap, curve.source)
        x, y = placed_view.transform.to_sheet((aim - placed_view.projected.centre)[None])[0]
        if at in ("start", "end"):
            curve3 = placed_view.projected.part.edges[placed_view.projected.part.index[best[1]][1]].curve
            ends = curve3.points(np.array([curve3.t0, curve3.t1]))
            at = "start" if np.linalg.norm(ends[0] - place) <= np.linalg.norm(ends[1] - place) else "end"
        return PickJson(ref=best[1], x=float(x), y=float(y), at=at)

    def pull(
        self,
        look: str,
        places: list[Point | tuple[Point, str]],
        side: str,
        row: int = 0,
        along: float | None = None,
        **changes: Any,
    ) -> None:
        """Pull a dimension out of one or two places to a row on a side of the view (left, right, above, below)."""
        placed_view = self.placed_view(look)
        picks = [self.pick(placed_view, *(p if isinstance(p[1], str) else (p,))) for p in places]  # type: ignore[arg-type,misc]
        box = placed_view.box
        reach = 10 + 7 * row
        x = float(np.mean([p.x for p in picks]))
        y = float(np.mean([p.y for p in picks]))
        pointer = {
            "left": (box.x0 - reach, y),
            "right": (box.x1 + reach, y),
            "above": (x, box.y1 + reach),
            "below": (x, box.y0 - reach),
        }[side]
        wish = (
            {"left": "vertical", "right": "vertical", "above": "horizontal", "below": "horizontal"}[side]
            if len(places) == 2
            else ""
        )
        self._pulled(
            PullDimension(view=placed_view.view.id, picks=picks, pointer=pointer, wish=wish),
            {**changes, **({"place": {"along": along}} if along is not None else {})},
        )

    def pull_out(
        self,
        look: str,
        places: list[Point | tuple[Point, str]],
        by: tuple[float, float],
        wish: str = "",
        **changes: Any,
    ) -> None:
        """Pull a dimension to so many sheet mm from the first place."""
        placed_view = self.placed_view(look)
        picks = [self.pick(placed_view, *(p if isinstance(p[1], str) else (p,))) for p in places]  # type: ignore[arg-type,misc]
        self._pulled(
            PullDimension(
                view=placed_view.view.id, picks=picks, pointer=(picks[0].x + by[0], picks[0].y + by[1]), wish=wish
            ),
            changes,
        )

    def place(self, look: str, to: tuple[float, float]) -> None:
        """Move a view."""
        self.operation(MoveView(view=self.placed_view(look).view.id, to=to))

    def centres(self, look: str) -> None:
        """Centre marks and lines of a view."""
        self.act(Centres(sheet=self.now.drawing.front_sheet.id, views=[self.placed_view(look).view.id]))

    def drop(self, look: str) -> None:
        """Remove a view."""
        self.operation(Remove(ids=[self.placed_view(look).view.id]))

    def change(self, look: str, **changes: Any) -> None:
        """Change properties of a view."""
        self.operation(SetView(view=self.placed_view(look).view.id, changes=changes))

    def cut(
        self,
        look: str,
        places: list[Point | tuple[Point, str]],
        to: tuple[float, float],
        form: Form = "section",
        **changes: Any,
    ) -> None:
        """A section along a line through places of a view, or where it passes them free, set down ``to`` sheet mm from
        the view's place; ``changes`` are made to it then."""
        placed_view = self.placed_view(look)
        points = []
        for place in places:
            if isinstance(place[1], str):
                found = self.pick(placed_view, *place)  # type: ignore[arg-type]
                points.append(CutPoint(x=found.x, y=found.y, ref=found.ref, at=found.at))
            else:
                x, y = placed_view.on_sheet(np.array([place]))[0]
                points.append(CutPoint(x=float(x), y=float(y)))
        at = placed_view.transform.place[0] + to[0], placed_view.transform.place[1] + to[1]
        lean = changes.pop("lean", ())
        points = [p.model_copy(update={"lean": k in lean}) for k, p in enumerate(points)]
        self.act(CutView(view=placed_view.view.id, points=points, to=at, form=form, flip=changes.pop("flip", False)))
        made = self.now.drawing.front_sheet.views[-1].id
        if changes:
            self.operation(SetView(view=made, changes=changes))

    def _pulled(self, act: PullDimension, changes: dict[str, Any]) -> None:
        before = {a.id for a in self.now.drawing.front_sheet.annotations}
        self.act(act)
        made = next(a.id for a in self.now.drawing.front_sheet.annotations if a.id not in before)
        typed = changes.pop("tolerance", "")
        if changes:
            self.operation(ChangeAnnotation(id=made, changes=changes))
        if typed:
            self.act(StateTolerance(ids=[made], text=typed))

    def note(self, look: str, place: Point, by: tuple[float, float], tolerance: str = "") -> None:
        """The note of the hole next to a place, so many sheet mm from it."""
        placed_view = self.placed_view(look)
        pick = self.pick(placed_view, place)
        self.act(StateHole(view=placed_view.view.id, ref=pick.ref, pointer=(pick.x + by[0], pick.y + by[1])))
        if tolerance:
            made = self.now.drawing.front_sheet.annotations[-1].id
            self.act(StateTolerance(ids=[made], text=tolerance))

    def thread(self, look: str, place: Point, size: str) -> None:
        """Declare the bore or shaft next to a place to be threaded."""
        placed_view = self.placed_view(look)
        self.act(DeclareThread(view=placed_view.view.id, ref=self.pick(placed_view, place).ref, size=size))

    def row(self, look: str, places: list[Point | tuple[Point, str]], form: RowForm, side: str, row: int = 0) -> None:
        """A set of sizes through places, its line in a row on a side of the view."""
        placed_view = self.placed_view(look)
        picks = [self.pick(placed_view, *(p if isinstance(p[1], str) else (p,))) for p in places]  # type: ignore[arg-type,misc]
        box, reach = placed_view.box, 10 + 7 * row
        pointer = {
            "left": (box.x0 - reach, picks[0].y),
            "right": (box.x1 + reach, picks[0].y),
            "above": (picks[0].x, box.y1 + reach),
            "below": (picks[0].x, box.y0 - reach),
        }[side]
        self.act(StateRow(view=placed_view.view.id, picks=picks, pointer=pointer, form=form))

    def hang(self, act: type[AnyHanging], look: str, place: Point, by: tuple[float, float], **says: Any) -> None:
        """A sign pulled out of what lies next to a place, so many sheet mm from it."""
        placed_view = self.placed_view(look)
        pick = self.pick(placed_view, place)
        pointer = (pick.x + by[0], pick.y + by[1])
        self.act(act(view=placed_view.view.id, ref=pick.ref, at=(pick.x, pick.y), pointer=pointer, **says))

    def hang_on(self, act: type[AnyHanging], words: str, by: tuple[float, float] = (0.0, 0.0), **says: Any) -> None:
        """A sign hung on the size or sign that says some words, pulled so many sheet mm out of its middle."""
        sheet = self.now.drawing.front_sheet
        found = solved(self.now.drawing, sheet, self.acting.projections)
        own, (x, y) = next((k, at) for k, (s, at) in found.items() if s.words == words)
        box = found[own][0].box
        middle = (box.x0 + box.x1) / 2 + x, (box.y0 + box.y1) / 2 + y
        self.act(act(on=own, pointer=(middle[0] + by[0], middle[1] + by[1]), **says))

    def general_notes(self, *more: str) -> NotesBlock:
        """The notes that are proposed, and more."""
        sheet = self.now.drawing.front_sheet
        text = "\n".join([*proposals(self.now.drawing, sheet, self.acting), *more])
        self.act(StateNotes(sheet=sheet.id, text=text))
        return need_block(self.now.drawing, self.last())[1]

    def last(self) -> str:
        """The id of what was made last."""
        return self.now.drawing.front_sheet.annotations[-1].id

    def shade(self) -> None:
        """The pictorial view in tones."""
        self.operation(SetView(view=self.placed_view("corner").view.id, changes={"shaded": True}))

    def fill(self, **fields: str) -> None:
        """Fill in fields of the title block."""
        self.operation(
            Group(label="Fill in the title block", operations=[SetField(field=k, value=v) for k, v in fields.items()])
        )


def _to_line(poles: np.ndarray, aim: np.ndarray) -> float:
    d = poles[1] - poles[0]
    share = float(np.clip((aim - poles[0]) @ d / (d @ d), 0, 1))
    return float(np.linalg.norm(poles[0] + share * d - aim))
