"""Tolerances as they are typed, and what a dimension gets from the title block or its class, in words."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

import numpy as np

from ...display import DimensionRecord
from ...drawing import Dimension, Tolerance
from ...drawing.title_fields import field_values
from ...errors import Unmeasurable, UserError
from ...measuring.context import LayoutContext
from ...measuring.measuring import Angular, ArcLength, Linear, Measure, Round, measure
from ...measuring.wording import PLAIN, deviations_of, written
from ...standards.fits import CLASS, LARGEST, fit, fit_field
from ...standards.general import general
from ...standards.sheets import INCH

FIGURE = r"(?:\d+\.?\d*|\.\d+)"
NUMBER = r"[-+]?(?:\d+\.?\d*|\.\d+)"
SHOWN = {"deviations": "deviations", "with deviations": "both", "both": "both", "limits": "limits", "class": "class"}


PAIR = re.compile(rf"^(?:limits )?({FIGURE})(?: ?[/-] ?| to )({FIGURE})$")
"""Two figures without a sign: the limits themselves."""
PARTS = re.compile(rf"({FIGURE})°(?: ?({FIGURE})')?(?: ?({FIGURE})\")?|({FIGURE})'(?: ?({FIGURE})\")?|({FIGURE})\"")
"""Degrees, minutes, seconds."""


def parsed(text: str, value: float | None = None, angle: bool = False) -> Tolerance:
    """A tolerance as it is typed: ``±0.1`` or ``0.1``, ``+0.05/-0.03``, ``0/-0.04``, ``+0.1`` (the other is 0), ``limits
    +0.1/0``, ``min``, ``max``, ``H7``, ``H7/g6``, ``H7 with deviations``, ``H7 limits``; ``none`` for no tolerance.

    Two figures without a sign are the limits of the ``value`` (in the unit that is written), whichever comes first:
    ``119.9/120.1``, ``120.1-119.9``. Deviations of an ``angle`` may be told in minutes and seconds: ``±30'``.

    Raises
    ------
    UserError
        Where it is none of these.
    """
    spaced = text.replace("−", "-").replace("–", "-").replace(",", ".").replace("′", "'").replace("″", '"')
    if angle:
        spaced = PARTS.sub(_in_degrees, spaced)
    raw = " ".join(spaced.replace("°", "").split())
    low = raw.lower()
    if low in ("", "none", "no tolerance"):
        return Tolerance()
    if low.rstrip(".") in ("min", "minimum", "max", "maximum"):
        return Tolerance(kind="minimum" if low.startswith("min") else "maximum")
    first, _, rest = raw.partition(" ")
    if all(CLASS.match(name) for name in first.split("/")):
        return _fit(first, rest.lower().strip())
    pair = PAIR.match(low)
    if pair is not None and all(float(p) for p in pair.groups()):
        return _limits(sorted(float(p) for p in pair.groups()), text, value)
    limits = low.startswith("limits")
    figures = [float(f) for f in re.findall(NUMBER, low)]
    odd = re.sub(NUMBER, "", low.replace("limits", "")).replace("±", "").replace("/", "").strip()
    if odd or len(figures) not in (1, 2):
        raise UserError(
            f"“{text}” is not a tolerance", "Write 0.1 for ±0.1, +0.2/-0.1, limits +0.2/-0.1, or a class such as H7."
        )
    if len(figures) == 1:
        (a,) = figures
        if re.match(r"^(limits )?[-+]", low):
            # one-sided: the other deviation is 0
            figures = [a, 0.0]
        elif a == 0:
            return Tolerance()
        else:
            return Tolerance(kind="symmetric", upper=abs(a), lower=-abs(a))
    a, b = max(figures), min(figures)
    if a == b:
        raise UserError("Both deviations are the same", "Give an upper and a lower one, such as +0.2/-0.1.")
    return Tolerance(kind="limits" if limits else "unequal", upper=a, lower=b)


def _limits(ends: list[float], text: str, value: float | None) -> Tolerance:
    """Limits that were typed as they are, where they can be those of a value."""
    low, high = ends
    if value is None or not value / 2 < low <= high < 2 * value:
        about = "" if value is None else f" of {value:.6g}"
        such = "119.9/120.1" if value is None else f"{value * 0.999:.6g}/{value * 1.001:.6g}"
        raise UserError(
            f"“{text}” was read as the limits {low:g} and {high:g}{about}",
            f"They are not{about or ' known here'}: write limits such as {such}, and deviations with their signs: +{high:g}/-{low:g}.",
        )
    if low == high:
        raise UserError("Both limits are the same", "Give an upper and a lower one, such as 119.9/120.1.")
    return Tolerance(kind="limits", upper=round(high - value, 9), lower=round(low - value, 9))


def _in_degrees(found: re.Match[str]) -> str:
    """Degrees, minutes and seconds as degrees."""
    degrees, minutes, seconds, only, rest, least = (float(g or 0) for g in found.groups())
    return f"{degrees + (minutes + only) / 60 + (seconds + rest + least) / 3600:.9f}"


def _fit(name: str, shown: str) -> Tolerance:
    if "/" in name:
        fit(40.0, name)
    if shown and shown not in SHOWN:
        raise UserError(
            f"“{shown}” is no way to show a class", f"Write {name} alone, or with one of: deviations, limits."
        )
    return Tolerance.model_validate({"kind": "fit", "fit": name, "shown": SHOWN.get(shown, "class")})


@dataclass(frozen=True)
class Said:
    """What the sentence of a dimension tells besides its looks: what the title block gives it, its class in figures."""

    general: str = ""
    fit: str = ""
    size: float | None = None
    """The length (mm) that a fit could be stated on."""


def said_of(context: LayoutContext, dimension: Dimension) -> Said:
    """What holds for a dimension by the title block, and by its class."""
    try:
        found = measure(context.view.projected, dimension)
    except Unmeasurable:
        return Said()
    drawing, tolerance = context.drawing, dimension.tolerance
    fits = isinstance(found, Linear | Round) and 0 < found.value <= LARGEST
    size = round(found.value, 4) if fits else None
    if tolerance.kind == "fit":
        return Said(fit=_in_figures(tolerance, found.value), size=size)
    if tolerance.kind != "none" or dimension.reference or dimension.exact or getattr(found, "ratio", False):
        return Said(size=size)
    field = field_values(drawing, context.sheet, None).get("general_tolerance", "")
    text = written(found.value, dimension.decimals, drawing.unit, False, drawing.standard, PLAIN)
    decimals = len(text.partition(".")[2])
    shown = found.value if drawing.unit == "mm" or not _block(field) else found.value / INCH
    return Said(general(field, _group(found), shown, _leg(found), decimals), size=size)


def _block(field: str) -> bool:
    return ".X" in field.upper()


def _group(found: Measure) -> str:
    """Which table of general tolerances holds."""
    if isinstance(found, Angular):
        return "angle"
    edge = (isinstance(found, Round) and found.symbol.endswith("R")) or (
        isinstance(found, Linear) and found.slant is not None
    )
    return "edge" if edge and not isinstance(found, ArcLength) else "length"


def _leg(found: Measure) -> float:
    if not isinstance(found, Angular):
        return 0.0
    return min(float(np.linalg.norm(p[-1] - p[0])) for p in (found.first, found.second))


def _in_figures(tolerance: Tolerance, value: float) -> str:
    size = round(value, 4)
    try:
        if "/" in tolerance.fit:
            return fit(size, tolerance.fit).words
        field = fit_field(size, tolerance.fit)
    except UserError as error:
        return error.title
    return f"{size + field.lower / 1000:.3f} to {size + field.upper / 1000:.3f}"


def with_tolerance(context: LayoutContext, dimension: Dimension, record: DimensionRecord) -> DimensionRecord:
    """A record of a dimension with its deviations, for formats that have fields for them."""
    tolerance = dimension.tolerance
    if tolerance.kind in ("none", "minimum", "maximum") or "/" in tolerance.fit:
        return record
    try:
        found = measure(context.view.projected, dimension)
        upper, lower = deviations_of(tolerance, found.value, context.drawing.unit)
    except Unmeasurable:
        return record
    limits = tolerance.kind == "limits" or (tolerance.kind == "fit" and tolerance.shown == "limits")
    return replace(record, upper=upper, lower=lower, limits=limits)


def checked(tolerance: Tolerance, value: float, unit: str) -> None:
    """Raises UserError where a tolerance has no figures for a value."""
    try:
        deviations_of(tolerance, value, unit)
    except Unmeasurable as error:
        raise UserError(error.title, error.detail) from None
