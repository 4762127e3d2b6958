"""How a dimension's figure is written (ISO 129-1, ISO 14405-1; ASME Y14.5 for ASME drawings)."""

from __future__ import annotations

from dataclasses import dataclass

from ..drawing import Dimension, Drawing
from ..ink.lettering import text_width
from ..standards.sheets import INCH

SIGNS = {"diameter": "Ø", "square": "□"}


@dataclass(frozen=True)
class Lettering:
    """A run of lettering: pieces (text, x, y, height) from its own lower left, its width and height."""

    pieces: tuple[tuple[str, float, float, float], ...]
    width: float
    height: float
    plain: str


def figure(value: float, decimals: int | None, unit: str, angle: bool, standard: str) -> str:
    """A figure as written; without stated decimals as coarse as it can be, at most two (inch: three)."""
    if angle:
        text = f"{value:.{decimals}f}" if decimals is not None else f"{round(value, 1):g}"
        return f"{text}°"
    if unit == "inch":
        text = f"{value / INCH:.{3 if decimals is None else decimals}f}"
        return text.removeprefix("0") if text.startswith("0.") and standard == "ASME" else text
    if decimals is not None:
        return f"{value:.{decimals}f}"
    text = f"{round(value, 2):.2f}".rstrip("0").rstrip(".")
    return text or "0"


def deviation(value: float, decimals: int) -> str:
    """A deviation with its sign; zero stands as a bare 0 (ISO 129-1)."""
    return "0" if abs(value) < 0.5 * 10**-decimals else f"{'+' if value > 0 else '–'}{abs(value):.{decimals}f}"


def _decimals(*values: float) -> int:
    for n in range(0, 5):
        if all(abs(round(v, n) - v) < 1e-7 for v in values):
            return n
    return 4


def letter(dimension: Dimension, symbol: str, value: float, drawing: Drawing, height: float) -> Lettering:
    """The lettering of a dimension for a measured value (mm or degrees)."""
    angle = dimension.measure == "angle"
    unit = drawing.unit
    tolerance = dimension.tolerance
    shown = value if angle or unit == "mm" else value / INCH

    def number(v: float, decimals: int | None) -> str:
        return figure(v if angle or unit == "mm" else v * INCH, decimals, unit, angle, drawing.standard)

    times = f"{dimension.count}× " if dimension.count > 1 else ""
    head, tail = f"{times}{dimension.prefix}{SIGNS.get(dimension.sign, symbol)}", dimension.suffix
    if tolerance.kind == "limits":
        places = (
            dimension.decimals
            if dimension.decimals is not None
            else max(_decimals(tolerance.upper, tolerance.lower), _decimals(round(shown, 4)))
        )
        upper, lower = number(shown + tolerance.upper, places), number(shown + tolerance.lower, places)
        return _stacked(head, upper, lower, tail, height, height, dimension.reference)
    main = f"{head}{number(shown, dimension.decimals)}"
    mark = "°" if angle else ""
    if tolerance.kind == "symmetric":
        main += f" ±{abs(tolerance.upper):.{_decimals(tolerance.upper)}f}{mark}"
    if tolerance.kind == "unequal":
        places = _decimals(tolerance.upper, tolerance.lower)
        return _stacked(
            f"{main} ",
            deviation(tolerance.upper, places) + mark,
            deviation(tolerance.lower, places) + mark,
            tail,
            height,
            max(2.5, height * 0.7),
            dimension.reference,
        )
    text = f"{main}{tail}"
    text = f"({text})" if dimension.reference else text
    return Lettering(((text, 0.0, 0.0, height),), text_width(text, height), height, text)


def _stacked(head: str, upper: str, lower: str, tail: str, height: float, small: float, reference: bool) -> Lettering:
    if reference:
        head, tail = f"({head}", f"{tail})"
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
    plain = f"{head.rstrip()} {upper}/{lower}{tail}".strip()
    return Lettering(tuple(p for p in pieces if p[0]), end, total, plain)
