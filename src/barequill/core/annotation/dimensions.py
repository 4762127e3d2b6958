"""Dimensions as ink: extension lines, dimension lines, arrowheads and lettering (ISO 129-1:2018)."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..drawing.document import Dimension, Drawing
from ..errors import Unmeasurable
from ..geometry import curves2
from ..ink import DimensionRecord, Ink
from ..views.picture import Picture
from .measuring import Angular, Linear, Round, measure
from .wording import Lettering, letter

Array = NDArray[np.float64]
OVERRUN = 2.0
ARROW = 3.5
ARROW_HALF = ARROW * float(np.tan(np.radians(10)))
TEXT_GAP = 1.0


def normal_of(along: Array) -> Array:
    """The direction square to a measured one in which its dimension line is set off (up, or to the right)."""
    n = np.array([-along[1], along[0]])
    return -n if n[1] < -1e-9 or (abs(n[1]) <= 1e-9 and n[0] < 0) else n


def level_of(picture: Picture, dimension: Dimension, linear: Linear) -> float:
    """Where the dimension line stands along its normal, sheet mm from the view's place."""
    n = normal_of(linear.along)
    place = dimension.place
    if place.frame == "model":
        return float((linear.first[0] @ n + place.offset) * picture.scale)
    return place.side * (picture.shot.support(place.side * n) * picture.scale + place.offset)


def draw_dimension(ink: Ink, picture: Picture, dimension: Dimension, drawing: Drawing) -> None:
    """Put a dimension into the ink; a loose one is shown as such beside its view."""
    ink.group_of[dimension.id] = dimension.view
    try:
        found = measure(picture.shot, dimension)
        symbol = found.symbol if not isinstance(found, Angular) else ""
        text = letter(dimension, symbol, found.value, drawing, ink.group.lettering)
        if isinstance(found, Linear):
            _draw_linear(ink, picture, dimension, found, text, drawing)
        elif isinstance(found, Round):
            _draw_round(ink, picture, dimension, found, text)
        else:
            _draw_angular(ink, picture, dimension, found, text, drawing)
    except Unmeasurable as error:
        box = picture.box
        ink.text(f"? {error.title}", box.x0, box.y1 + 3, ink.group.lettering, dimension.id)


def arrow(ink: Ink, tip: Array, direction: Array, owner: str) -> None:
    """A filled arrowhead with its tip at a point, pointing along a unit direction."""
    side = np.array([-direction[1], direction[0]])
    base = tip - ARROW * direction
    ink.fill([tip, base + ARROW_HALF * side, base - ARROW_HALF * side], owner)


def _line(ink: Ink, p: Array, q: Array, owner: str) -> None:
    if np.linalg.norm(q - p) > 1e-6:
        ink.stroke(curves2.line(p, q), "dimension", owner)


def _put(ink: Ink, text: Lettering, foot: Array, angle: float, owner: str) -> None:
    """Lettering with the middle of its foot at a point, turned by ``angle`` (degrees)."""
    a = np.radians(angle)
    u, v = np.array([np.cos(a), np.sin(a)]), np.array([-np.sin(a), np.cos(a)])
    for piece, x, y, height in text.pieces:
        at = foot + (x - text.width / 2) * u + y * v
        ink.text(piece, at[0], at[1], height, owner, "start", angle)


def _readable(u: Array) -> float:
    """Angle (degrees) of lettering along a direction, read from below or from the right."""
    angle = float(np.degrees(np.arctan2(u[1], u[0]))) % 180
    return angle - 180 if angle > 90 + 1e-6 else angle


def _draw_linear(
    ink: Ink, picture: Picture, dimension: Dimension, found: Linear, text: Lettering, drawing: Drawing
) -> None:
    owner, u = dimension.id, found.along
    n = normal_of(u)
    level = level_of(picture, dimension, found)
    starts, feet = [], []
    for options in (found.first, found.second):
        points = options * picture.scale
        nearest = points[int(np.argmin(np.abs(points @ n - level)))]
        starts.append(picture.place + nearest)
        feet.append(picture.place + nearest + n * (level - nearest @ n))
    if (feet[1] - feet[0]) @ u < 0:
        starts, feet = starts[::-1], feet[::-1]
    for start, foot in zip(starts, feet, strict=True):
        reach = foot - start
        length = float(np.linalg.norm(reach))
        if length > 0.3:
            d = reach / length
            gap = 1.5 if drawing.standard == "ASME" and length > 4 else 0.0
            _line(ink, start + d * gap, foot + d * OVERRUN, owner)
    room = float(np.linalg.norm(feet[1] - feet[0]))
    asme = drawing.standard == "ASME"
    angle = 0.0 if asme else _readable(u)
    a = np.radians(angle)
    foot_u = np.array([np.cos(a), np.sin(a)])
    half = abs(float(foot_u @ u)) * text.width / 2 + abs(float(foot_u @ n)) * text.height / 2
    outside = dimension.arrows == "outside" or (
        dimension.arrows == "auto" and room < max(2 * ARROW + 1.5, 2 * half + (2 * ARROW + 2 if asme else 1.0))
    )
    middle = (feet[0] + feet[1]) / 2
    shift = dimension.place.along
    if shift == 0.0 and 2 * half + 1.0 > room:
        shift = room / 2 + 2 * ARROW + half + 0.5
    low, high = -room / 2, room / 2
    if outside:
        low, high = low - 2 * ARROW, high + 2 * ARROW
    low, high = min(low, shift - half - 0.5), max(high, shift + half + 0.5)
    gaps = (shift - half - TEXT_GAP, shift + half + TEXT_GAP) if asme else None
    if gaps:
        _line(ink, middle + u * low, middle + u * max(low, gaps[0]), owner)
        _line(ink, middle + u * min(high, gaps[1]), middle + u * high, owner)
    else:
        _line(ink, middle + u * low, middle + u * high, owner)
    sense = 1.0 if outside else -1.0
    arrow(ink, feet[0], u * sense, owner)
    arrow(ink, feet[1], -u * sense, owner)
    v = np.array([-np.sin(a), np.cos(a)])
    at = middle + u * shift + (-v * text.height / 2 if asme else v * TEXT_GAP)
    _put(ink, text, at, angle, owner)
    ink.dimensions.append(
        DimensionRecord(
            owner,
            "linear",
            text.plain,
            {
                "line": tuple(feet[1]),
                "first": tuple(starts[0]),
                "second": tuple(starts[1]),
                "text": tuple(at + v * text.height / 2),
            },
            float(np.degrees(np.arctan2(u[1], u[0]))),
            1 / picture.scale,
        )
    )


def _draw_round(ink: Ink, picture: Picture, dimension: Dimension, found: Round, text: Lettering) -> None:
    owner = dimension.id
    centre = picture.to_sheet(found.centre[None])[0]
    r = found.radius * picture.scale
    angle = np.radians(dimension.place.angle)
    if found.symbol == "R":
        angle = _within(angle, found.span)
    d = np.array([np.cos(angle), np.sin(angle)])
    rim = centre + r * d
    elbow = centre + (r + dimension.place.offset) * d
    inside = dimension.place.offset < -1
    small = r < 2 * ARROW + 2
    across = found.symbol == "Ø" and not small
    outward = dimension.arrows == "inside" or (dimension.arrows == "auto" and not small)
    if outward:
        arrow(ink, rim, d, owner)
        far = centre - r * d if across else centre
        if across:
            arrow(ink, centre - r * d, -d, owner)
        _line(ink, far, elbow if not inside else rim, owner)
    else:
        arrow(ink, rim, -d, owner)
        _line(ink, rim, elbow if dimension.place.offset > ARROW else rim + 2 * ARROW * d, owner)
    sense = 1.0 if d[0] >= -1e-9 else -1.0
    end = elbow + np.array([sense * (text.width + 1.0), 0.0])
    _line(ink, elbow, end, owner)
    foot = (elbow + end) / 2 + [0, TEXT_GAP]
    _put(ink, text, foot, 0.0, owner)
    ink.dimensions.append(
        DimensionRecord(
            owner,
            "diameter" if found.symbol == "Ø" else "radius",
            text.plain,
            {
                "line": tuple(centre - r * d) if found.symbol == "Ø" else tuple(centre),
                "second": tuple(rim),
                "text": (float(foot[0]), float(foot[1] + text.height / 2)),
            },
            0.0,
            1 / picture.scale,
        )
    )


def _within(angle: float, span: tuple[float, float]) -> float:
    """The angle, or the nearest one inside a span (radians)."""
    turn = 2 * np.pi
    low, high = span
    a = low + (angle - low) % turn
    if a <= high:
        return float(a)
    return float(high if a - high < low + turn - a else low)


def _draw_angular(
    ink: Ink, picture: Picture, dimension: Dimension, found: Angular, text: Lettering, drawing: Drawing
) -> None:
    owner = dimension.id
    apex = picture.to_sheet(found.apex[None])[0]
    radius = max(dimension.place.offset, 5.0)
    ends = []
    for ray in (found.start, found.end):
        d = np.array([np.cos(ray), np.sin(ray)])
        reaches = [
            float((p - apex) @ d)
            for points in (found.first, found.second)
            for p in picture.to_sheet(points)
            if np.linalg.norm((p - apex) - ((p - apex) @ d) * d) < 0.05
        ]
        near = max([x for x in reaches if x > 0], default=0.0)
        if near < radius:
            _line(ink, apex + d * near, apex + d * (radius + OVERRUN), owner)
        elif reaches and min(reaches) > radius:
            _line(ink, apex + d * min(reaches), apex + d * (radius - OVERRUN), owner)
        ends.append(apex + radius * d)
    length = radius * (found.end - found.start)
    outside = dimension.arrows == "outside" or (dimension.arrows == "auto" and length < 2 * ARROW + 3)
    more = 2 * ARROW / radius if outside else 0.0
    ink.stroke(curves2.circle(apex, radius, found.start - more, found.end + more), "dimension", owner)
    lead = ARROW / 2 / radius
    for tip, ray, sign in ((ends[0], found.start, -1.0), (ends[1], found.end, 1.0)):
        sign = -sign if outside else sign
        at = ray - sign * lead
        arrow(ink, tip, sign * np.array([-np.sin(at), np.cos(at)]), owner)
    middle = (found.start + found.end) / 2 + dimension.place.along / radius
    d = np.array([np.cos(middle), np.sin(middle)])
    tangent = np.array([-d[1], d[0]])
    angle = 0.0 if drawing.standard == "ASME" else _readable(tangent)
    v = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
    if length < text.width:
        middle = found.end + more + (text.width / 2 + 1) / radius
        d = np.array([np.cos(middle), np.sin(middle)])
    foot = apex + d * radius + v * TEXT_GAP
    _put(ink, text, foot, angle, owner)
    ink.dimensions.append(
        DimensionRecord(
            owner,
            "angular",
            text.plain,
            {
                "line": (float(apex[0] + radius * np.cos(middle)), float(apex[1] + radius * np.sin(middle))),
                "first": tuple(ends[0]),
                "second": tuple(ends[1]),
                "apex": tuple(apex),
                "text": tuple(foot + v * text.height / 2),
            },
        )
    )
