"""Sizes over all of views, by their farthest places."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..bounds import FEW, NAME, Ref
from ..drawing import AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.operations import Annotate, Group
from ..errors import BadOperation, Unmeasurable, UserError
from ..measuring.anchor_geometry import resolve
from ..measuring.extremes import overall
from ..measuring.measuring import Linear, measure
from ..sheet.elements import view_words
from ..values import value
from .base import ActContext, AnyAct


class OverallSizes(AnyAct):
    """The length over all of views, level and upright; such as are stated already, be it in another of these views, are not
    stated twice. What cannot be stated is said by name."""

    act: Literal["overall_sizes"] = "overall_sizes"
    views: list[Ref] = Field(min_length=1, max_length=FEW)
    axes: list[Literal["x", "y"]] = ["x", "y"]

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = drawing.sheet_of(self.views[0])
        if sheet is None:
            raise BadOperation("The view is gone", "Choose another view.")
        ids, found, left = drawing.fresh(2 * len(self.views)), list[Dimension](), list[tuple[str, Unmeasurable]]()
        stated = [s for a in sheet.annotations if (s := span_of(drawing, sheet, acting, a)) is not None]
        for view in self.views:
            context, _ = acting.context(drawing, sheet, view)
            for axis in self.axes:
                try:
                    made = overall(context, 0 if axis == "x" else 1, ids[len(found)])
                except Unmeasurable as error:
                    named = f"{view_words(context.view.view)}, {'level' if axis == 'x' else 'upright'}"
                    left.append((named, error))
                    continue
                span = span_of(drawing, sheet, acting, made)
                alike = (s for s in stated if span is not None and _covers(s, span, self.views))
                if not any(_same(made, a) for a in sheet.annotations) and not any(alike):
                    found.append(made)
                    stated += [span] if span is not None else []
        if not found:
            if left:
                raise UserError(left[0][1].title, f"{left[0][0]}: {left[0][1].detail}")
            raise UserError("The sizes over all are there already", "Nothing was added.")
        operation = Annotate(sheet=sheet.id, annotations=list(found))
        if not left:
            return operation
        names = "; ".join(f"{name} ({error.title[0].lower()}{error.title[1:]})" for name, error in left)
        return Group(label=f"Sizes over all, but not {names}"[:NAME], operations=[operation])


@value
class Span:
    """What a size over all says: between which levels along which way of the part, in which view."""

    view: str
    part: str
    way: tuple[float, float, float]
    levels: tuple[float, float]
    near: float


def span_of(drawing: Drawing, sheet: Sheet, acting: ActContext, size: AnyAnnotation) -> Span | None:
    """Between which levels a distance of a sheet is, along which way of the part; None of anything else."""
    if not isinstance(size, Dimension) or size.measure not in ("distance", "length") or sheet.view(size.on) is None:
        return None
    context, _ = acting.context(drawing, sheet, size.on)
    projected = context.view.projected
    try:
        found = measure(projected, size)
        ends = [resolve(projected, a).space for a in size.anchors]
    except Unmeasurable:
        return None
    if not isinstance(found, Linear) or projected.pictorial:
        return None
    way = found.along[0] * projected.view.right + found.along[1] * projected.view.up
    way = way * (1.0 if way[int(np.argmax(np.abs(way)))] > 0 else -1.0)
    levels = sorted(float(x) for end in ends for x in end @ way)
    x, y, z = (float(c) for c in way)
    return Span(size.on, context.view.view.part, (x, y, z), (levels[0], levels[-1]), 1e-6 * projected.whole.size)


def _covers(said: Span, wanted: Span, asked: list[str]) -> bool:
    """True where a size says already, in another view of the same part that was asked about too, what is wanted."""
    if said.part != wanted.part or said.view == wanted.view or said.view not in asked:
        return False
    apart = max(abs(a - b) for a, b in zip(said.levels, wanted.levels, strict=True))
    return apart < wanted.near and float(np.dot(said.way, wanted.way)) > 1 - 1e-9


def _same(made: Dimension, other: object) -> bool:
    return (
        isinstance(other, Dimension)
        and (other.on, other.direction) == (made.on, made.direction)
        and other.anchors in (made.anchors, made.anchors[::-1])
    )
