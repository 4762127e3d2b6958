"""Limits and fits (ISO 286-1:2010): standard tolerances IT01 to IT18 and fundamental deviations, as tabulated, in µm.

Holes follow the shafts of the same letter by the general rule, and by the special rule with its Δ for K, M and N to IT8
and for P to ZC to IT7, as the standard has it; J has figures of its own.
"""

from __future__ import annotations

import re
from bisect import bisect_left
from dataclasses import dataclass

from ..errors import UserError

LARGEST = 3150.0
"""mm of the largest size with tabulated figures."""
STEPS = [3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500]
STEPS += [630, 800, 1000, 1250, 1600, 2000, 2500, 3150]
"""mm up to which each step of sizes goes."""
PARTED = [
    3,
    6,
    10,
    14,
    18,
    24,
    30,
    40,
    50,
    65,
    80,
    100,
    120,
    140,
    160,
    180,
    200,
    225,
    250,
    280,
    315,
    355,
    400,
    450,
    500,
]
PARTED += [560, 630, 710, 800, 900, 1000, 1120, 1250, 1400, 1600, 1800, 2000, 2240, 2500, 2800, 3150]
"""The same of the parted steps, by which a to c and r to zc go."""

_GRADES = """
01 0.3 0.4 0.4 0.5 0.6 0.6 0.8 1 1.2 2 2.5 3 4
0 0.5 0.6 0.6 0.8 1 1 1.2 1.5 2 3 4 5 6
1 0.8 1 1 1.2 1.5 1.5 2 2.5 3.5 4.5 6 7 8 9 10 11 13 15 18 22 26
2 1.2 1.5 1.5 2 2.5 2.5 3 4 5 7 8 9 10 11 13 15 18 21 25 30 36
3 2 2.5 2.5 3 4 4 5 6 8 10 12 13 15 16 18 21 24 29 35 41 50
4 3 4 4 5 6 7 8 10 12 14 16 18 20 22 25 28 33 39 46 55 68
5 4 5 6 8 9 11 13 15 18 20 23 25 27 32 36 40 47 55 65 78 96
6 6 8 9 11 13 16 19 22 25 29 32 36 40 44 50 56 66 78 92 110 135
7 10 12 15 18 21 25 30 35 40 46 52 57 63 70 80 90 105 125 150 175 210
8 14 18 22 27 33 39 46 54 63 72 81 89 97 110 125 140 165 195 230 280 330
9 25 30 36 43 52 62 74 87 100 115 130 140 155 175 200 230 260 310 370 440 540
10 40 48 58 70 84 100 120 140 160 185 210 230 250 280 320 360 420 500 600 700 860
11 60 75 90 110 130 160 190 220 250 290 320 360 400 440 500 560 660 780 920 1100 1350
12 100 120 150 180 210 250 300 350 400 460 520 570 630 700 800 900 1050 1250 1500 1750 2100
13 140 180 220 270 330 390 460 540 630 720 810 890 970 1100 1250 1400 1650 1950 2300 2800 3300
14 250 300 360 430 520 620 740 870 1000 1150 1300 1400 1550 1750 2000 2300 2600 3100 3700 4400 5400
15 400 480 580 700 840 1000 1200 1400 1600 1850 2100 2300 2500 2800 3200 3600 4200 5000 6000 7000 8600
16 600 750 900 1100 1300 1600 1900 2200 2500 2900 3200 3600 4000 4400 5000 5600 6600 7800 9200 11000 13500
17 1000 1200 1500 1800 2100 2500 3000 3500 4000 4600 5200 5700 6300 7000 8000 9000 10500 12500 15000 17500 21000
18 1400 1800 2200 2700 3300 3900 4600 5400 6300 7200 8100 8900 9700 11000 12500 14000 16500 19500 23000 28000 33000
"""
"""IT grades by step (ISO 286-1:2010, table 1)."""

_BY_STEP = """
cd -34 -46 -56
d -20 -30 -40 -50 -65 -80 -100 -120 -145 -170 -190 -210 -230 -260 -290 -320 -350 -390 -430 -480 -520
e -14 -20 -25 -32 -40 -50 -60 -72 -85 -100 -110 -125 -135 -145 -160 -170 -195 -220 -240 -260 -290
ef -10 -14 -18
f -6 -10 -13 -16 -20 -25 -30 -36 -43 -50 -56 -62 -68 -76 -80 -86 -98 -110 -120 -130 -145
fg -4 -6 -8
g -2 -4 -5 -6 -7 -9 -10 -12 -14 -15 -17 -18 -20 -22 -24 -26 -28 -30 -32 -34 -38
h 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0
k 0 1 1 1 2 2 2 3 3 4 4 4 5 0 0 0 0 0 0 0 0
m 2 4 6 7 8 9 11 13 15 17 20 21 23 26 30 34 40 48 58 68 76
n 4 8 10 12 15 17 20 23 27 31 34 37 40 44 50 56 66 78 92 110 135
p 6 12 15 18 22 26 32 37 43 50 56 62 68 78 88 100 120 140 170 195 240
"""
"""Fundamental deviations of shafts by step (tables 4 and 5): the upper one of cd to h, the lower one of k to p."""

_BY_PART = """
a -270 -270 -280 -290 -290 -300 -300 -310 -320 -340 -360 -380 -410 -460 -520 -580 -660 -740 -820 -920 -1050 -1200 -1350 -1500 -1650
b -140 -140 -150 -150 -150 -160 -160 -170 -180 -190 -200 -220 -240 -260 -280 -310 -340 -380 -420 -480 -540 -600 -680 -760 -840
c -60 -70 -80 -95 -95 -110 -110 -120 -130 -140 -150 -170 -180 -200 -210 -230 -240 -260 -280 -300 -330 -360 -400 -440 -480
r 10 15 19 23 23 28 28 34 34 41 43 51 54 63 65 68 77 80 84 94 98 108 114 126 132 150 155 175 185 210 220 250 260 300 330 370 400 440 460 550 580
s 14 19 23 28 28 35 35 43 43 53 59 71 79 92 100 108 122 130 140 158 170 190 208 232 252 280 310 340 380 430 470 520 580 640 720 820 920 1000 1100 1250 1400
t . . . . . . 41 48 54 66 75 91 104 122 134 146 166 180 196 218 240 268 294 330 360 400 450 500 560 620 680 780 840 960 1050 1200 1350 1500 1650 1900 2100
u 18 23 28 33 33 41 48 60 70 87 102 124 144 170 190 210 236 258 284 315 350 390 435 490 540 600 660 740 840 940 1050 1150 1300 1450 1600 1850 2000 2300 2500 2900 3200
v . . . . 39 47 55 68 81 102 120 146 172 202 228 252 284 310 340 385 425 475 530 595 660
x 20 28 34 40 45 54 64 80 97 122 146 178 210 248 280 310 350 385 425 475 525 590 660 740 820
y . . . . . 63 75 94 114 144 174 214 254 300 340 380 425 470 520 580 650 730 820 920 1000
z 26 35 42 50 60 73 88 112 136 172 210 258 310 365 415 465 520 575 640 710 790 900 1000 1100 1250
za 32 42 52 64 77 98 118 148 180 226 274 335 400 470 535 600 670 740 820 920 1000 1150 1300 1450 1600
zb 40 50 67 90 108 136 160 200 242 300 360 445 525 620 700 780 880 960 1050 1200 1300 1500 1650 1850 2100
zc 60 80 97 130 150 188 218 274 325 405 480 585 690 800 900 1000 1150 1250 1350 1550 1700 1900 2100 2400 2600
"""
"""The same by parted step."""

_J = """
j5 -2 -2 -2 -3 -4 -5 -7 -9 -11 -13 -16 -18 -20
j6 -2 -2 -2 -3 -4 -5 -7 -9 -11 -13 -16 -18 -20
j7 -4 -4 -5 -6 -8 -10 -12 -15 -18 -21 -26 -28 -32
j8 -6
J6 2 5 5 6 8 10 13 16 18 22 25 29 33
J7 4 6 8 10 12 14 18 22 26 30 36 39 43
J8 6 10 12 15 20 24 28 34 41 47 55 60 66
"""
"""The lower deviation of shafts j, the upper one of holes J."""


def _table(text: str) -> dict[str, list[float | None]]:
    return {
        name: [None if f == "." else float(f) for f in figures]
        for name, *figures in (line.split() for line in text.strip().splitlines())
    }


GRADES, BY_STEP, BY_PART, OF_J = (_table(t) for t in (_GRADES, _BY_STEP, _BY_PART, _J))
ORDER = list(GRADES)
"""Grades from the finest to the coarsest."""
LETTERS = [
    "a",
    "b",
    "c",
    "cd",
    "d",
    "e",
    "ef",
    "f",
    "fg",
    "g",
    "h",
    "js",
    "j",
    "k",
    "m",
    "n",
    "p",
    "r",
    "s",
    "t",
    "u",
    "v",
    "x",
    "y",
    "z",
    "za",
    "zb",
    "zc",
]
PURPOSES = [
    ("H11/c11", "loose running: wide temperature, dirt, wide tolerances"),
    ("H9/d9", "free running: large changes of temperature, fast shafts, heavy loads"),
    ("H8/f7", "close running: shafts that run at moderate speed and are guided well"),
    ("H7/g6", "sliding: parts that turn or slide and are put in place exactly"),
    ("H7/h6", "locating clearance: put together by hand, and taken apart"),
    ("H7/k6", "locating transition: put together with a light blow"),
    ("H7/n6", "locating transition, tighter: driven"),
    ("H7/p6", "locating interference: pressed, exactly in place"),
    ("H7/s6", "medium drive: pressed or shrunk, carries load"),
    ("H7/u6", "force fit: shrunk, carries high load"),
]
"""Usual fits, and what for."""
CLASS = re.compile(r"^([A-Za-z]{1,2})(0?1|0|[2-9]|1[0-8])$")


@dataclass(frozen=True)
class Field:
    """A tolerance class on a size: both deviations, µm."""

    upper: float
    lower: float

    @property
    def width(self) -> float:
        """The tolerance, µm."""
        return self.upper - self.lower


def _at(figures: list[float | None], steps: list[int], size: float) -> float | None:
    row = bisect_left(steps, size - 1e-9)
    return figures[row] if row < len(figures) else None


def grade(size: float, name: str) -> float:
    """The standard tolerance (µm) of a size (mm) in a grade such as ``7`` or ``01``.

    Raises
    ------
    UserError
        Where the standard has no figure.
    """
    _in_reach(size)
    found = _at(GRADES[name], STEPS, size) if name in GRADES else None
    if found is None:
        raise UserError(f"There is no grade IT{name} for {size:g} mm", "Take a grade from IT1 to IT18.")
    return found


def _in_reach(size: float) -> None:
    if not 0 < size <= LARGEST:
        raise UserError(f"{size:g} mm is beyond the tables", f"Fits go from above 0 to {LARGEST:g} mm.")


def fit_field(size: float, name: str) -> Field:
    """The deviations of a class such as ``H7`` or ``g6`` on a nominal size (mm).

    Raises
    ------
    UserError
        Where that is no class, or the standard has none for the size; the message says which.
    """
    _in_reach(size)
    match = CLASS.match(name)
    letter = match[1] if match else ""
    if not match or letter.lower() not in LETTERS or letter not in (letter.lower(), letter.upper()):
        raise UserError(f"“{name}” is not a tolerance class", "Write a letter and a grade, such as H7, g6 or JS9.")
    step = grade(size, match[2])
    if letter.lower() == "js":
        return Field(step / 2, -step / 2)
    found = _hole(size, letter, match[2], step) if letter.isupper() else _shaft(size, letter, match[2], step)
    if found is None:
        raise UserError(
            f"The standard has no {name} for {size:g} mm", "Take a neighbouring letter or grade, or state deviations."
        )
    return found


def _deviation(size: float, letter: str) -> float | None:
    if letter in BY_STEP:
        return _at(BY_STEP[letter], STEPS, size)
    return _at(BY_PART[letter], PARTED, size) if letter in BY_PART else None


def _shaft(size: float, letter: str, name: str, step: float) -> Field | None:
    if letter == "j":
        low = _at(OF_J.get(f"j{name}", []), STEPS, size)
        return None if low is None else Field(low + step, low)
    found = _deviation(size, letter)
    if found is None:
        return None
    if LETTERS.index(letter) <= LETTERS.index("h"):
        return Field(found, found - step)
    if letter == "k" and not 4 <= ORDER.index(name) - 1 <= 7:
        found = 0.0
    return Field(found + step, found)


def _hole(size: float, letter: str, name: str, step: float) -> Field | None:
    low, row = letter.lower(), ORDER.index(name) - 1
    if low == "j":
        high = _at(OF_J.get(f"J{name}", []), STEPS, size)
        return None if high is None else Field(high, high - step)
    found = _deviation(size, low)
    if found is None:
        return None
    if LETTERS.index(low) <= LETTERS.index("h"):
        return Field(step - found, 0.0 - found)
    top = 0.0 - found
    if 3 < size <= 500:
        special = 8 if low in ("k", "m", "n") else 7
        if row <= special:
            top += _delta(size, row)
        elif low == "k":
            return None
        elif low == "n":
            top = 0.0
    if low == "m" and row == 6 and 250 < size <= 315:
        # an exception of the standard
        top = -9.0
    return Field(top, top - step)


def _delta(size: float, row: int) -> float:
    """Δ: how much wider the grade is than the next finer one; from IT3 on."""
    if row < 3:
        return 0.0
    return grade(size, ORDER[row + 1]) - grade(size, ORDER[row])


@dataclass(frozen=True)
class Fit:
    """A hole and a shaft of the same nominal size: the greatest and least clearance, µm; below 0 they interfere."""

    hole: Field
    shaft: Field

    @property
    def most(self) -> float:
        """The greatest clearance, µm."""
        return self.hole.upper - self.shaft.lower

    @property
    def least(self) -> float:
        """The least clearance, µm."""
        return self.hole.lower - self.shaft.upper

    @property
    def words(self) -> str:
        """What kind of fit it is, with its figures in mm."""
        if self.least >= 0:
            return f"clearance {self.least / 1000:.3f} to {self.most / 1000:.3f}"
        if self.most <= 0:
            return f"interference {-self.most / 1000:.3f} to {-self.least / 1000:.3f}"
        return f"transition: interference to {-self.least / 1000:.3f}, clearance to {self.most / 1000:.3f}"


def fit(size: float, pair: str) -> Fit:
    """A pair such as ``H7/g6`` on a nominal size (mm). Raises UserError where it is none."""
    hole, _, shaft = pair.partition("/")
    if not (hole[:1].isupper() and shaft[:1].islower()):
        raise UserError(f"“{pair}” is not a fit", "Write the hole's class, then the shaft's, such as H7/g6.")
    return Fit(fit_field(size, hole), fit_field(size, shaft))


def usual(size: float) -> list[tuple[str, str, Fit]]:
    """Usual fits on a nominal size (mm), with what each is for; those that the standard has for it."""
    found = []
    for pair, purpose in PURPOSES:
        try:
            found.append((pair, purpose, fit(size, pair)))
        except UserError:
            continue
    return found
