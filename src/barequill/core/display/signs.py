"""Signs that are drawn as strokes, whatever font a reader has: those of geometrical tolerances and of holes.

Proportions after ISO 7083, ISO 129-1 and ISO 1101, in lettering heights ``h``, from the foot of the letters on; the line is
h/10 wide.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves2 import Curve2, circle, line, polyline
from ..values import value

Array = NDArray[np.float64]
SIDE = 0.2
"""Room on both sides of a sign."""
WORDS = {
    "⏤": "straightness", "⏥": "flatness", "○": "roundness", "⌭": "cylindricity", "⌒": "profile of a line",
    "⌓": "profile of a surface", "∥": "parallelism", "⊥": "perpendicularity", "∠": "angularity", "⌖": "position",
    "◎": "coaxiality", "⌯": "symmetry", "↗": "circular run-out", "⌰": "total run-out", "↧": "depth",
    "⌴": "counterbore", "⌵": "countersink", "□": "square", "↔": "between",
    **{sign: f"({letter})" for sign, letter in zip("ⓂⓁⓇⓅⒻⓊⒺⒼⓃⒸⓍⓉⒶ", "MLRPFUEGNCXTA", strict=True)},
}  # fmt: skip
"""The word for each sign, for who searches or hears a sheet."""


@value
class Sign:
    """A sign: its width with the room beside it, its strokes, and what is filled of it."""

    width: float
    strokes: tuple[Curve2, ...]
    fills: tuple[Array, ...] = ()
    word: str = ""

    def placed(self, at: Array, height: float, angle: float) -> tuple[list[Curve2], list[Array]]:
        """Strokes and filled outlines with its foot at a place, turned by an angle (degrees)."""
        turn = float(np.radians(angle))
        c, s = np.cos(turn), np.sin(turn)
        spin = np.array([[c, s], [-s, c]]) * height
        return [k.moved(height, turn, tuple(at)) for k in self.strokes], [f @ spin + at for f in self.fills]


def _lines(*points: tuple[float, float]) -> Curve2:
    return polyline(np.array(points, float)) if len(points) > 2 else line(np.array(points[0]), np.array(points[1]))


def _arc(x: float, y: float, radius: float, start: float, end: float) -> Curve2:
    return circle(np.array([x, y]), radius, float(np.radians(start)), float(np.radians(end)))


def _head(tip: tuple[float, float], degrees: float, length: float) -> Array:
    """A filled arrowhead, a third as wide as long."""
    a = np.radians(degrees)
    way, across = np.array([np.cos(a), np.sin(a)]), np.array([-np.sin(a), np.cos(a)])
    base = np.array(tip) - length * way
    return np.array([tip, base + across * length / 6, base - across * length / 6])


def _slanted(middle: float, half: float) -> tuple[tuple[float, float], tuple[float, float]]:
    """Ends of a line at 60° through a point at half the letters' height, so high above and below it."""
    lean = half / np.tan(np.radians(60))
    return (middle - lean, 0.5 - half), (middle + lean, 0.5 + half)


def _arrows(*feet: float) -> tuple[list[Curve2], list[Array]]:
    """Arrows at 45° from the foot of the letters, 1.5 h long."""
    reach = 1.5 * float(np.sqrt(0.5))
    strokes, fills = [], []
    for x in feet:
        tip = (x + reach, 0.5 + reach / 2)
        strokes.append(_lines((x, 0.5 - reach / 2), (tip[0] - 0.3, tip[1] - 0.3)))
        fills.append(_head(tip, 45, 0.6))
    return strokes, fills


LETTERS: dict[str, list[Curve2]] = {
    "M": [_lines((0, 0), (0, 1), (0.45, 0.3), (0.9, 1), (0.9, 0))],
    "L": [_lines((0.1, 1), (0.1, 0), (0.75, 0))],
    "R": [_lines((0.75, 1), (0, 1)), _lines((0, 1), (0, 0)), _lines((0, 0.5), (0.55, 0.5), (0.8, 0)), _arc(0.55, 0.75, 0.25, -90, 90), _lines((0, 1), (0.55, 1))],
    "P": [_lines((0.55, 0.5), (0.05, 0.5)), _lines((0.05, 0), (0.05, 1), (0.55, 1)), _arc(0.55, 0.75, 0.25, -90, 90)],
    "F": [_lines((0.1, 0), (0.1, 1), (0.75, 1)), _lines((0.1, 0.52), (0.6, 0.52))],
    "U": [_lines((0.05, 1), (0.05, 0.35)), _arc(0.4, 0.35, 0.35, 180, 360), _lines((0.75, 0.35), (0.75, 1))],
    "E": [_lines((0.75, 1), (0.1, 1), (0.1, 0), (0.75, 0)), _lines((0.1, 0.52), (0.6, 0.52))],
    "G": [_arc(0.42, 0.5, 0.45, 45, 315), _lines((0.74, 0.18), (0.74, 0.45), (0.45, 0.45))],
    "N": [_lines((0.05, 0), (0.05, 1), (0.75, 0), (0.75, 1))],
    "C": [_arc(0.45, 0.5, 0.45, 45, 315)],
    "X": [_lines((0.05, 0), (0.75, 1)), _lines((0.05, 1), (0.75, 0))],
    "A": [_lines((0, 0), (0.4, 1), (0.8, 0)), _lines((0.14, 0.35), (0.66, 0.35))],
    "T": [_lines((0, 1), (0.8, 1)), _lines((0.4, 1), (0.4, 0))],
}  # fmt: skip
"""Letters of one height, for those in a circle."""
LETTERS["R"] = [LETTERS["P"][1], LETTERS["P"][2], _lines((0.05, 0.5), (0.55, 0.5), (0.8, 0))]
CIRCLED = 0.8
"""Height of a letter in a circle of 1.6."""


def _circled(letter: str) -> tuple[list[Curve2], list[Array], float]:
    own = LETTERS[letter]
    low = min(c.bounds()[0] for c in own)
    high = max(c.bounds()[2] for c in own)
    aside = 0.8 - CIRCLED * (low + high) / 2
    return [_arc(0.8, 0.5, 0.8, 0, 360), *(c.moved(CIRCLED, 0.0, (aside, 0.5 - CIRCLED / 2)) for c in own)], [], 1.6


@lru_cache(maxsize=64)
def _shape(sign: str) -> tuple[list[Curve2], list[Array], float]:
    """Strokes, filled outlines and width of a sign without the room beside it."""
    lean = float(1 / np.tan(np.radians(60)))
    match sign:
        case "⏤":
            return [_lines((0, 0.5), (2, 0.5))], [], 2.0
        case "⏥":
            return [_lines((0, 0), (1.5, 0), (1.5 + lean, 1), (lean, 1), (0, 0))], [], 1.5 + lean
        case "○":
            return [_arc(0.75, 0.5, 0.75, 0, 360)], [], 1.5
        case "⌭":
            # both lines touch the circle
            away, half = 0.5 / float(np.sin(np.radians(60))), 0.75
            wide = 2 * (away + half * lean)
            lines = [_lines(*_slanted(wide / 2 + side * away, half)) for side in (-1, 1)]
            return [_arc(wide / 2, 0.5, 0.5, 0, 360), *lines], [], wide
        case "⌒":
            return [_arc(1, 0, 1, 0, 180)], [], 2.0
        case "⌓":
            return [_arc(1, 0, 1, 0, 180), _lines((0, 0), (2, 0))], [], 2.0
        case "∥":
            wide = 0.6 + 1.5 * lean
            return [_lines(*_slanted(0.75 * lean + x, 0.75)) for x in (0.0, 0.6)], [], wide
        case "⊥":
            return [_lines((0, 0), (2, 0)), _lines((1, 0), (1, 1.5))], [], 2.0
        case "∠":
            return (
                [
                    _lines(
                        (
                            1.5 * float(np.cos(np.radians(30))) + 0.5,
                            (1.5 * np.cos(np.radians(30)) + 0.5) * np.tan(np.radians(30)),
                        ),
                        (0, 0),
                        (2, 0),
                    )
                ],
                [],
                2.0,
            )
        case "⌖":
            return [_arc(1, 0.5, 0.5, 0, 360), _lines((0, 0.5), (2, 0.5)), _lines((1, -0.5), (1, 1.5))], [], 2.0
        case "◎":
            return [_arc(0.75, 0.5, 0.75, 0, 360), _arc(0.75, 0.5, 0.4, 0, 360)], [], 1.5
        case "⌯":
            return [_lines((0.4, 0), (1.6, 0)), _lines((0, 0.5), (2, 0.5)), _lines((0.4, 1), (1.6, 1))], [], 2.0
        case "↗":
            strokes, fills = _arrows(0.0)
            return strokes, fills, 1.5 * float(np.sqrt(0.5))
        case "⌰":
            strokes, fills = _arrows(0.0, 1.1)
            foot = 0.5 - 0.75 * float(np.sqrt(0.5))
            return [*strokes, _lines((0, foot), (1.1, foot))], fills, 1.1 + 1.5 * float(np.sqrt(0.5))
        case "↧":
            return [_lines((0, 1), (1, 1)), _lines((0.5, 1), (0.5, 0.4))], [_head((0.5, 0), -90, 0.6)], 1.0
        case "⌴":
            return [_lines((0, 1), (0, 0), (2, 0), (2, 1))], [], 2.0
        case "⌵":
            return [_lines((0, 1), (1, 0), (2, 1))], [], 2.0
        case "□":
            return [_lines((0, 0), (1, 0), (1, 1), (0, 1), (0, 0))], [], 1.0
        case "↔":
            return [_lines((0.4, 0.5), (1.6, 0.5))], [_head((0, 0.5), 180, 0.6), _head((2, 0.5), 0, 0.6)], 2.0
    return _circled(WORDS[sign][1])


@lru_cache(maxsize=64)
def sign_of(letter: str) -> Sign | None:
    """The sign that a character stands for; None for letters."""
    if letter not in WORDS:
        return None
    strokes, fills, wide = _shape(letter)
    moved = tuple(c.moved(1.0, 0.0, (SIDE, 0.0)) for c in strokes)
    return Sign(wide + 2 * SIDE, moved, tuple(f + np.array([SIDE, 0.0]) for f in fills), WORDS[letter])


SIGNS = frozenset(WORDS)


def has_signs(text: str) -> bool:
    """True where a text has a sign in it."""
    return not text.isascii() and not SIGNS.isdisjoint(text)
