"""Dimensions: measured, worded, and put where they stand; what cannot be measured is said to be loose."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from ..drawing import Dimension
from ..errors import Unmeasurable
from ..measuring.context import LayoutContext
from ..measuring.measuring import Angular, ArcLength, Linear, Measure, Pointed, measure
from ..measuring.style import style_of
from ..measuring.wording import Lettering, Ways, letter, ways_of, written
from ..part.model import Part
from .common.angular import solve_angular
from .common.arcs import solve_arc, solve_pointed
from .common.linear import solve_linear, solve_running
from .common.loose import Loose
from .common.rounds import solve_round
from .common.solving import Solved


def lettering(context: LayoutContext, dimension: Dimension, found: Measure) -> Lettering:
    """What a dimension says."""
    drawing, own = context.drawing, context.style.own
    symbol = "" if isinstance(found, Angular) else found.symbol

    def size(value: float) -> str:
        return written(value, dimension.decimals, drawing.unit, False, drawing.standard, own)

    if isinstance(found, Linear) and found.slant is not None:
        even = abs(found.slant - 45.0) < 1e-6
        angle = written(found.slant, None, drawing.unit, True, drawing.standard, own)
        if dimension.chamfer == "letter" and even:
            symbol = "C"
        else:
            more = f" × {size(found.across)}" if dimension.chamfer == "lengths" else f" × {angle}"
            dimension = dimension.model_copy(update={"suffix": more + dimension.suffix})
    if isinstance(found, Pointed) and found.ratio:
        dimension = dimension.model_copy(update={"sign": "none", "prefix": f"{symbol} 1:{dimension.prefix}"})
        return letter(dimension, symbol, found.value, Ways("mm", drawing.standard), context.style.lettering, own)
    return letter(dimension, symbol, found.value, ways_of(drawing), context.style.lettering, own)


def solve(dimension: Dimension, context: LayoutContext) -> Solved:
    """Measure a dimension and find its place."""
    return placer(dimension, context)(dimension)


def placer(dimension: Dimension, context: LayoutContext) -> Callable[[Dimension], Solved]:
    """What solves a dimension for one place after another: it is measured and worded once."""
    placed_view = context.view
    if dimension.style:
        context = replace(context, style=style_of(context.drawing, context.sheet, dimension.style))
    try:
        found = measure(placed_view.projected, dimension)
        text = lettering(context, dimension, found)
    except Unmeasurable as error:
        refs = tuple(a.ref for a in dimension.anchors)
        # those that have lost what they hung on stand one above another
        lost = [
            d for d in context.before(dimension) if isinstance(d, Dimension) and _lost(placed_view.projected.part, d)
        ]
        foot = np.array([placed_view.box.x0, placed_view.box.y1 + 3 + 1.6 * context.style.lettering * len(lost)])
        loose = Loose(f"? {error.title}", refs, foot, context.style.lettering)
        return lambda _: loose
    if isinstance(found, Angular):
        # which angle it is tells its place
        return lambda d: _put(
            context, d, measure(placed_view.projected, d), lettering(context, d, measure(placed_view.projected, d))
        )
    return lambda d: _put(context, d, found, text)


def _lost(part: Part, dimension: Dimension) -> bool:
    """True where the part no longer holds what a dimension hangs on."""
    return any(part.find(a.ref) is None for a in dimension.anchors)


def _put(context: LayoutContext, dimension: Dimension, found: Measure, text: Lettering) -> Solved:
    """A measured and worded dimension in its place."""
    if isinstance(found, Linear) and dimension.row is not None and dimension.row.form == "running":
        plain = Dimension(id="zero", on=dimension.on, measure="length", anchors=dimension.anchors)
        zero = letter(plain, "", 0.0, ways_of(context.drawing), context.style.lettering, context.style.own)
        return solve_running(context, dimension, found, text, zero)
    if isinstance(found, Linear):
        return solve_linear(context, dimension, found, text)
    if isinstance(found, ArcLength):
        return solve_arc(context, dimension, found, text)
    if isinstance(found, Pointed):
        return solve_pointed(context, dimension, found, text)
    if isinstance(found, Angular):
        return solve_angular(context, dimension, found, text)
    return solve_round(context, dimension, found, text)
