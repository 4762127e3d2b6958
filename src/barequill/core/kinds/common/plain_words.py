"""Sizes and hole notes in plain words, in full, for somebody who does not know the signs."""

from __future__ import annotations

from ...drawing import Dimension
from ...drawing.annotations.hole_note import HoleNote
from ...errors import Unmeasurable
from ...features.holes import Hole, hole_at
from ...measuring.context import LayoutContext
from ...measuring.measuring import Angular, measure
from ...measuring.threads import thread_of
from ...measuring.wording import deviations_of, figure
from ...standards.sheets import INCH
from ..hole_note import count_of
from .tolerancing import said_of

SUBJECTS = {
    "length": "This edge is {v} long",
    "distance": "Both places are {v} apart",
    "angle": "The angle between both is {v}",
    "diameter": "This round feature is {v} across",
    "radius": "This arc has a radius of {v}",
    "arc": "This arc is {v} long, measured along it",
    "chord": "The ends of this arc are {v} apart",
    "chamfer": "This edge is cut off by {v}",
    "slope": "This line rises by the stated slope",
    "taper": "This cone narrows by the stated taper",
    "depth": "This hole is {v} deep",
}


def size_explained(context: LayoutContext, size: Dimension) -> str:
    """What a dimension asks of the part; nothing where it is loose."""
    try:
        found = measure(context.view.projected, size)
    except Unmeasurable:
        return ""
    drawing, angle = context.drawing, isinstance(found, Angular)
    unit = "" if angle else " mm" if drawing.unit == "mm" else " inch"

    def said(value: float, decimals: int | None = None) -> str:
        return figure(value, decimals, drawing.unit, angle, drawing.standard) + unit

    subject = SUBJECTS[size.measure]
    if size.sign == "diameter" and size.measure in ("length", "distance"):
        subject = SUBJECTS["diameter"]
    text = subject.format(v=said(found.value))
    if size.count > 1:
        text = f"{text}; so is each of {size.count} features"
    tolerance = size.tolerance
    if size.exact:
        return f"{text}. That is theoretically exact: it has no tolerance of its own; a tolerance frame says how far the part may stray."
    if size.reference:
        return f"{text}. That stands in brackets for information: it follows from other sizes, and nothing is measured by it."
    if tolerance.kind in ("minimum", "maximum"):
        return f"{text}, or {'more' if tolerance.kind == 'minimum' else 'less'}."
    if tolerance.kind == "none":
        general = said_of(context, size).general
        return f"{text}. It has no tolerance of its own: {general} holds." if general else f"{text}."
    try:
        upper, lower = deviations_of(tolerance, found.value, drawing.unit)
    except Unmeasurable as error:
        return f"{text}. {error.title}."
    if "/" in tolerance.fit:
        return f"{text}. {tolerance.fit} is a pair of parts: {said_of(context, size).fit}."
    shown = found.value if angle or drawing.unit == "mm" else found.value / INCH
    digits = 4 if drawing.unit == "inch" else 3
    limits = [
        f"{x:.{digits}f}".rstrip("0").rstrip(".") + (unit or "°")
        for x in (shown + min(upper, lower), shown + max(upper, lower))
    ]
    if tolerance.kind == "limits":
        limits = [f"{x:g}{unit or '°'}" for x in sorted((tolerance.lower, tolerance.upper))]
    named = f" ({tolerance.fit})" if tolerance.fit else ""
    return f"{text}. On the finished part it may measure from {limits[0]} to {limits[1]}{named}."


def note_explained(context: LayoutContext, note: HoleNote) -> str:
    """What a hole's note asks of the part; nothing where the hole is gone."""
    part = context.view.projected.whole
    hole = hole_at(part, note.ref)
    if hole is None:
        return ""
    drawing, out = context.drawing, set(note.leaves_out)
    unit = " mm" if drawing.unit == "mm" else " inch"

    def said(value: float) -> str:
        return figure(value, None, drawing.unit, False, drawing.standard) + unit

    n = count_of(context, note, hole)
    thread = thread_of(drawing, context.view.view.part, part, hole.faces)
    words = [f"{n} holes, all made alike:" if n > 1 else "One hole:"]
    if thread is not None and "thread" not in out:
        words.append(f"threaded {thread.size}{' (left-hand)' if thread.hand == 'left' else ''},")
    if "bore" not in out:
        words.append(f"{said(hole.bore.diameter)} across,")
    words.append(_deep(hole, said(hole.depth) if hole.depth is not None else ""))
    if hole.countersink is not None and "countersink" not in out:
        words.append(
            f"with a cone of {hole.countersink.angle:g}° that is {said(hole.countersink.diameter)} across at the face,"
        )
    if hole.counterbore is not None and "counterbore" not in out:
        step = hole.counterbore
        words.append(
            f"with a flat recess {said(step.diameter)} across and {said(step.end - step.start)} deep at its mouth,"
        )
    return " ".join(w for w in words if w).rstrip(",") + "."


def _deep(hole: Hole, depth: str) -> str:
    return "right through the part," if hole.through else f"{depth} deep," if depth else ""
