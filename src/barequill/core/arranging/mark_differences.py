"""Marks of two display lists compared: those that are in both, that are gone and that have come; straight lines as far as they lie on
each other."""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from ..display import Hatch, Mark, Region, Stroke, Text
from ..geometry import curves2

Array = NDArray[np.float64]
SAME = 0.02
"""mm within which marks are the same."""


def differences(was: Iterable[Mark], now: Iterable[Mark]) -> tuple[list[Mark], list[Mark], list[Mark]]:
    """Marks that are in both, only in the first, and only in the second; of straight lines as far as they lie on each other."""
    olds, news = [list(m) for m in (was, now)]
    counted = Counter(_key(m) for m in olds)
    kept: list[Mark] = []
    come: list[Mark] = []
    for mark in news:
        key = _key(mark)
        if counted[key] > 0:
            counted[key] -= 1
            kept.append(mark)
        else:
            come.append(mark)
    gone = []
    for mark in reversed(olds):
        key = _key(mark)
        if counted[key] > 0:
            counted[key] -= 1
            gone.append(mark)
    lines = [_straight(marks) for marks in (gone, come)]
    both = lines[0].keys() & lines[1].keys()
    if not both:
        return kept, gone, come
    gone, come = ([m for m in marks if _line_key(m) not in both] for marks in (gone, come))
    for name in both:
        old, new = lines[0][name], lines[1][name]
        at, way, pen = old[0]
        a, b = ([(lo, hi) for lo, hi in _joined(spans)] for spans in (old[1], new[1]))
        for spans, into in ((_common(a, b), kept), (_without(a, b), gone), (_without(b, a), come)):
            into += [Stroke(curves2.line(at + lo * way, at + hi * way), pen) for lo, hi in spans if hi - lo > SAME]
    return kept, gone, come


Line = tuple[tuple[Array, Array, str], list[tuple[float, float]]]


def _straight(marks: Iterable[Mark]) -> dict[tuple[object, ...], Line]:
    """Straight lines by pen and by the line that they lie on: a point on it and its direction, and from where to where."""
    found: dict[tuple[object, ...], Line] = {}
    for mark in marks:
        key = _line_key(mark)
        if key is None or not isinstance(mark, Stroke):
            continue
        p, q = mark.curve.poles[0], mark.curve.poles[-1]
        if key not in found:
            way = (q - p) / np.linalg.norm(q - p)
            if (way[0], way[1]) < (0.0, 0.0):
                way = -way
            found[key] = (p - (p @ way) * way, way, mark.pen), []
        way = found[key][0][1]
        found[key][1].append((min(float(p @ way), float(q @ way)), max(float(p @ way), float(q @ way))))
    return found


def _line_key(mark: Mark) -> tuple[object, ...] | None:
    """A name for the line that a straight stroke lies on, the same for all on it; None for anything else."""
    if not isinstance(mark, Stroke) or mark.curve.kind != "line":
        return None
    p, q = mark.curve.poles[0], mark.curve.poles[-1]
    length = float(np.linalg.norm(q - p))
    if length < SAME:
        return None
    way = (q - p) / length
    angle = round(float(np.degrees(np.arctan2(way[1], way[0]))) % 180.0, 2) % 180.0
    away = float(p[0] * -np.sin(np.radians(angle)) + p[1] * np.cos(np.radians(angle)))
    return mark.pen, angle, round(away / SAME + 0.31)


def _joined(spans: Iterable[tuple[float, float]]) -> list[tuple[float, float]]:
    found: list[tuple[float, float]] = []
    for lo, hi in sorted(spans):
        if found and lo <= found[-1][1] + SAME:
            found[-1] = found[-1][0], max(hi, found[-1][1])
        else:
            found.append((lo, hi))
    return found


def _common(a: list[tuple[float, float]], b: list[tuple[float, float]]) -> list[tuple[float, float]]:
    return [(max(x[0], y[0]), min(x[1], y[1])) for x in a for y in b if min(x[1], y[1]) > max(x[0], y[0])]


def _without(a: list[tuple[float, float]], b: list[tuple[float, float]]) -> list[tuple[float, float]]:
    left = a
    for lo, hi in b:
        left = [p for x, y in left for p in ((x, min(y, lo)), (max(x, hi), y)) if p[1] > p[0]]
    return left


def _key(mark: Mark) -> tuple[object, ...]:
    """The same for marks that look the same."""
    if isinstance(mark, Stroke):
        c = mark.curve
        poles, more = _grid(c.poles), b""
        if c.a is not None and c.b is not None:
            # a whole circle is the same wherever it begins
            whole = c.full_turn and c.is_circular
            more = _round(np.array([np.linalg.norm(c.a)])) if whole else _round(c.evaluate(np.linspace(c.t0, c.t1, 3)))
        if c.kind in ("line", "polyline") and tuple(poles[0]) > tuple(poles[-1]):
            poles = poles[::-1]
        return "stroke", mark.pen, c.kind, poles.tobytes(), more
    if isinstance(mark, Text):
        return (
            "text",
            mark.text,
            round(mark.x + 0.0013, 2),
            round(mark.y + 0.0013, 2),
            mark.height,
            mark.anchor,
            round(mark.angle, 2),
            mark.bold,
            mark.font,
        )
    if isinstance(mark, Region):
        return "region", *(_round(r) for r in mark.rings)
    if isinstance(mark, Hatch):
        return "hatch", mark.angle, round(mark.spacing, 3), mark.pattern, *(_round(r) for r in mark.rings)
    return (
        "tint",
        mark.png,
        round(mark.x0 + 0.0013, 2),
        round(mark.y0 + 0.0013, 2),
        round(mark.x1 + 0.0013, 2),
        round(mark.y1 + 0.0013, 2),
    )


def _round(values: Array | None) -> bytes:
    return b"" if values is None else _grid(values).tobytes()


def _grid(values: Array) -> Array:
    """Rounded to hundredths of a mm, so that usual figures do not lie where it is rounded up or down by chance."""
    found: Array = np.round(values + 0.0013, 2) + 0.0
    return found
