"""How a dimension's figure is written (ISO 129-1, ISO 14405-1; ASME Y14.5 for ASME drawings)."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Literal, NamedTuple

import numpy as np

from ..display.lettering import text_width
from ..drawing import Dimension, DimensionStyle, Drawing, Tolerance
from ..errors import Unmeasurable, UserError
from ..standards.fits import fit, fit_field
from ..standards.sheets import INCH

SIGNS = {"diameter": "Ø", "square": "□", "thickness": "t=", "none": ""}
PLAIN = DimensionStyle(name="")
FINEST = 64
"""Of the fractions of an inch that are written."""
BOX = 1.0
"""mm between lettering and a box around it."""
Piece = tuple[str, float, float, float]


@dataclass(frozen=True)
class Lettering:
    """A run of lettering: pieces (text, x, y, height) from its own lower left, its width and height; ``boxed`` where it
    stands in a frame."""

    pieces: tuple[Piece, ...]
    width: float
    height: float
    plain: str
    boxed: bool = False


def figure(value: float, decimals: int | None, unit: str, angle: bool, standard: str) -> str:
    """A figure as written; without stated decimals as coarse as it can be, at most two (inch: three)."""
    return written(value, decimals, unit, angle, standard, PLAIN)


def in_unit(value: float, unit: str, angle: bool = False) -> float:
    """A value (mm or degrees) as the figure that is written of it."""
    return value / INCH if unit == "inch" and not angle else value


def written(value: float, decimals: int | None, unit: str, angle: bool, standard: str, style: DimensionStyle) -> str:
    """A value (mm or degrees) as a style has it; ``decimals`` of its own go before those of the style."""
    if angle:
        return _angle(value, style.angle_decimals if decimals is None else decimals, style)
    if unit == "inch":
        return _inches(in_unit(value, unit), decimals, standard, style)
    return _signed(_length(value, decimals, style, 2), style)


def _length(value: float, decimals: int | None, style: DimensionStyle, most: int) -> str:
    if decimals is not None:
        return f"{value:.{decimals}f}"
    places = most if style.decimals is None else style.decimals
    text = f"{round(value, places):.{places}f}"
    if style.decimals is not None and style.trailing_zeros:
        return text
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return "0" if text in ("", "-0") else text


def _signed(text: str, style: DimensionStyle) -> str:
    return text.replace(".", style.decimal_sign)


def _inches(value: float, decimals: int | None, standard: str, style: DimensionStyle) -> str:
    if style.inches != "decimal":
        whole = round(abs(value) * FINEST)
        feet, rest = divmod(whole, 12 * FINEST) if style.inches == "feet" else (0, whole)
        inches, part = divmod(rest, FINEST)
        share = f"{Fraction(part, FINEST)}" if part else ""
        own = " ".join(t for t in (str(inches) if inches or not share else "", share) if t)
        text = f"{feet}'-{own}\"" if feet else f'{own}"'
        return f"-{text}" if value < 0 and whole else text
    places = decimals if decimals is not None else 3 if style.decimals is None else style.decimals
    text = f"{value:.{places}f}"
    if text.startswith("0.") and standard == "ASME":
        text = text.removeprefix("0")
    return _signed(text, style)


def _angle(value: float, decimals: int | None, style: DimensionStyle) -> str:
    if style.angles == "minutes":
        seconds = round(value * 3600)
        minutes, rest = divmod(seconds, 60)
        degrees, minutes = divmod(minutes, 60)
        return f"{degrees}°" + (f"{minutes}'" if minutes or rest else "") + (f'{rest}"' if rest else "")
    text = f"{value:.{decimals}f}" if decimals is not None else f"{round(value, 1):g}"
    return f"{_signed(text, style)}°"


def deviation(value: float, decimals: int, ways: Ways | None = None, other: float = 0.0) -> str:
    """A deviation with its sign; zero stands as a bare 0 (ISO 129-1), but in inches by ASME Y14.5 with all its places, and with
    the sign that the ``other`` has not."""
    if ways is not None and ways.unit == "inch" and ways.standard == "ASME":
        zero = abs(value) < 0.5 * 10**-decimals
        sign = ("–" if other > 0 else "+") if zero else "+" if value > 0 else "–"
        return sign + f"{abs(value):.{decimals}f}".removeprefix("0")
    return "0" if abs(value) < 0.5 * 10**-decimals else f"{'+' if value > 0 else '–'}{abs(value):.{decimals}f}"


def _decimals(*values: float) -> int:
    for n in range(0, 5):
        if all(abs(round(v, n) - v) < 1e-7 for v in values):
            return n
    return 4


def deviations_of(tolerance: Tolerance, value: float, unit: str) -> tuple[float, float]:
    """The upper and lower deviation of a tolerance on a value (mm or degrees), in the unit that is written.

    Raises
    ------
    Unmeasurable
        Where a class has no figures for the size.
    """
    if tolerance.kind != "fit":
        return tolerance.upper, tolerance.lower
    size = round(value, 4)
    try:
        if "/" in tolerance.fit:
            fit(size, tolerance.fit)
            return 0.0, 0.0
        field = fit_field(size, tolerance.fit)
    except UserError as error:
        raise Unmeasurable(error.title, error.detail) from None
    factor = 1000.0 if unit == "mm" else 1000.0 * INCH
    return field.upper / factor, field.lower / factor


class Ways(NamedTuple):
    """In what a drawing measures, and by whose rules it is lettered."""

    unit: Literal["mm", "inch"]
    standard: Literal["ISO", "ASME"]


def ways_of(drawing: Drawing) -> Ways:
    """Those of a drawing."""
    return Ways(drawing.unit, drawing.standard)


FINENESS = {
    "inch": ((0.005, 6), (0.05, 5), (0.5, 4), (5.0, 3), (np.inf, 2)),
    "mm": ((1e-4, 5), (1e-3, 4), (1e-2, 3), (1e-1, 2), (1.0, 1), (np.inf, 0)),
}
"""Of a converted toleranced size, by the unit into which: up to which width of tolerance (in the unit from which) it has how many
decimals (ISO 370, method A)."""


def in_other_unit(value: float, ways: Ways, style: DimensionStyle) -> str:
    """A length (mm) as the figure of the unit in which a drawing does not measure."""
    return written(value, None, "inch" if ways.unit == "mm" else "mm", False, ways.standard, style)


def _in_other(value: float, tolerance: Tolerance, ways: Ways, style: DimensionStyle) -> str:
    """A length (mm) with its tolerance in the other unit: both limits converted and rounded as fine as their tolerance asks for."""
    upper, lower = deviations_of(tolerance, value, ways.unit)
    if tolerance.kind == "symmetric":
        lower = -upper
    width = abs(upper - lower)
    if tolerance.kind in ("none", "minimum", "maximum") or width <= 0 or style.inches != "decimal":
        return in_other_unit(value, ways, style)
    into: Literal["mm", "inch"] = "inch" if ways.unit == "mm" else "mm"
    factor = 1 / INCH if into == "inch" else INCH
    places = next(n for most, n in FINENESS[into] if width < most)
    size = in_unit(round(value, 6), ways.unit)
    nominal = round(size * factor, places)
    # what is written adds up to the converted limits, each of which is rounded by itself
    high, low = (round(round((size + d) * factor, places) - nominal, places) for d in (upper, lower))

    def number(v: float) -> str:
        text = f"{v:.{places}f}"
        return _signed(text.removeprefix("0") if ways.standard == "ASME" and into == "inch" else text, style)

    if tolerance.kind == "limits":
        return f"{number(nominal + high)}/{number(nominal + low)}"
    if abs(high + low) < 0.5 * 10**-places:
        return f"{number(nominal)} ±{number(high)}"
    ends = "/".join(
        _signed(deviation(v, places, Ways(into, ways.standard), o), style) for v, o in ((high, low), (low, high))
    )
    return f"{number(nominal)} {ends}"


def letter(
    dimension: Dimension, symbol: str, value: float, ways: Ways, height: float, style: DimensionStyle = PLAIN
) -> Lettering:
    """The lettering of a dimension for a measured value (mm or degrees)."""
    angle = dimension.measure == "angle"
    unit, standard = ways
    tolerance = dimension.tolerance
    shown = in_unit(value, unit, angle)

    def number(v: float, decimals: int | None) -> str:
        return written(v if angle or unit == "mm" else v * INCH, decimals, unit, angle, standard, style)

    def signed(text: str) -> str:
        return _signed(text, style)

    times = f"{dimension.count}× " if dimension.count > 1 else ""
    sign = SIGNS.get(dimension.sign, symbol)
    if dimension.sign == "sphere":
        sign = "SR" if symbol == "R" else "SØ"
    head, tail = f"{times}{dimension.prefix}{sign}", dimension.suffix
    if style.second_unit and not angle:
        tail = f" [{_in_other(value, tolerance, ways, style)}]{tail}"
    upper, lower = deviations_of(tolerance, value, unit)
    kind = tolerance.kind
    named = f" {tolerance.fit}" if kind == "fit" and (tolerance.shown != "deviations" or "/" in tolerance.fit) else ""
    if kind == "fit" and "/" not in tolerance.fit:
        kind = {"class": "none", "deviations": "unequal", "both": "unequal", "limits": "limits"}[tolerance.shown]  # type: ignore[assignment]
    small = height if standard == "ASME" else max(2.5, height * 0.7)
    places = dimension.decimals
    padded = unit == "inch" and standard == "ASME" and not angle and style.inches == "decimal"
    if padded and places is None and kind in ("symmetric", "unequal"):
        # the value has as many places as its tolerance (ASME Y14.5)
        places = max(3 if style.decimals is None else style.decimals, _decimals(upper, lower))
    main = f"{head}{number(shown, places)}{named}"
    parts = angle and style.angles == "minutes"
    mark = "°" if angle and not parts else ""

    def off(v: float, count: int, other: float) -> str:
        if parts:
            return deviation(v, 4)[0] + ("°" if not v else _angle(abs(v), None, style))
        return signed(deviation(v, count, ways if padded else None, other)) + mark

    if kind == "limits":
        places = dimension.decimals
        if places is None:
            places = max(_decimals(upper, lower), _decimals(round(shown, 4)))
        ends = number(shown + upper, places), number(shown + lower, places)
        if named:
            found = _stacked(f"{main} (", *ends, f"){tail}", height, small)
        else:
            found = _stacked(head, *ends, tail, height, height)
    elif kind == "unequal":
        count = max(places or 0, _decimals(upper, lower)) if padded else _decimals(upper, lower)
        ends = off(upper, count, lower), off(lower, count, upper)
        if not tolerance.bare_zero:
            ends = ("" if ends[0][0] == "0" else ends[0]), ("" if ends[1][0] == "0" else ends[1])
        opening, closing = ("(", ")") if named else ("", "")
        found = _stacked(f"{main} {opening}", *ends, f"{closing}{tail}", height, small)
    else:
        if kind == "symmetric":
            count = max(places or 0, _decimals(upper)) if padded else _decimals(upper)
            figure = f"{abs(upper):.{count}f}"
            figure = figure.removeprefix("0") if padded else figure
            main += f" ±{_angle(abs(upper), None, style)}" if parts else signed(f" ±{figure}") + mark
        elif kind in ("minimum", "maximum"):
            short = kind[:3]
            main += f" {short.upper()}" if standard == "ASME" else f" {short}."
        text = f"{main}{tail}"
        found = Lettering(((text, 0.0, 0.0, height),), text_width(text, height), height, text)
    return _framed(_lines(found, dimension, height), dimension, height)


def _framed(text: Lettering, dimension: Dimension, height: float) -> Lettering:
    """Lettering of a reference in parentheses, of a theoretically exact dimension in a box."""
    if dimension.reference:
        wide = text_width("(", height)
        middle = (text.height - height) / 2
        pieces = [(t, x + wide, y, h) for t, x, y, h in text.pieces]
        pieces = [("(", 0.0, middle, height), *pieces, (")", wide + text.width, middle, height)]
        if len(text.pieces) == 1:
            # one run, so that it can be found as one
            pieces = [(f"({text.pieces[0][0]})", 0.0, text.pieces[0][2], height)]
        text = Lettering(tuple(pieces), text.width + 2 * wide, text.height, f"({text.plain})")
    if dimension.exact:
        pieces = [(t, x + BOX, y + BOX, h) for t, x, y, h in text.pieces]
        text = Lettering(tuple(pieces), text.width + 2 * BOX, text.height + 2 * BOX, f"[{text.plain}]", True)
    return text


def _lines(text: Lettering, dimension: Dimension, height: float) -> Lettering:
    """Lettering with its further lines above and below."""
    for line, above in ((dimension.above, True), (dimension.below, False)):
        if not line:
            continue
        wide = text_width(line, height)
        width, step = max(wide, text.width), 1.5 * height
        lift = 0.0 if above else step
        pieces = [(t, x + (width - text.width) / 2, y + lift, h) for t, x, y, h in text.pieces]
        pieces.append((line, (width - wide) / 2, text.height + 0.5 * height if above else 0.0, height))
        plain = f"{line} {text.plain}" if above else f"{text.plain} {line}"
        text = Lettering(tuple(pieces), width, text.height + step, plain)
    return text


def _stacked(head: str, upper: str, lower: str, tail: str, height: float, small: float) -> Lettering:
    x = text_width(head, height) + (0.4 if head else 0.0)
    width = max(text_width(upper, small), text_width(lower, small))
    total = small * 2 + small * 0.4
    middle = (total - height) / 2
    pieces = [
        (head, 0.0, middle, height),
        (upper, x, small * 1.4, small),
        (lower, x, 0.0, small),
    ]
    end = x + width
    if tail:
        pieces.append((tail, end + 0.6, middle, height))
        end += 0.6 + text_width(tail, height)
    said = "/".join(t for t in (upper, lower) if t)
    plain = f"{head.rstrip()}{'' if head.endswith('(') else ' '}{said}{tail}".strip()
    return Lettering(tuple(p for p in pieces if p[0]), end, total, plain)
