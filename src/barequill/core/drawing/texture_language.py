"""Texture signs as one types them: ``Ra 1.6``, ``removed Ra 3.2 / Ra 0.8 ground lay ⊥ allowance 0.5 all round``."""

from __future__ import annotations

import re
from typing import Any

from ..errors import UserError

VALUE = re.compile(
    r"\b([UL]\s+)?((?:[RPW][a-z][a-z0-9]*|Rmr\([^)]{1,12}\))(?:max)?)\s*(max\s*)?(\d+(?:[.,]\d+)?)(?:\s*[µu]m)?",
    re.UNICODE,
)
LAY = re.compile(r"\blay\s*(=|⊥|⟂|X|M|C|R|P)(?![A-Za-z])", re.IGNORECASE)
ALLOWANCE = re.compile(r"\ballowance\s*(\d+(?:[.,]\d+)?)(?:\s*mm)?", re.IGNORECASE)
MADE = (
    ("not removed", r"\bnot removed\b|\bas (cast|rolled|forged|made)\b"),
    ("removed", r"\bremoved\b|\bmachined\b"),
    ("any", r"\bany( process)?\b"),
)


def texture_of(text: str) -> dict[str, Any]:
    """The fields of a texture sign that a text tells.

    Raises
    ------
    UserError
        Where there is no parameter with its value, or too many.
    """
    if len(text) > 200:
        raise UserError("Too long for a texture", "Write a parameter and its value: Ra 1.6.")
    found: dict[str, Any] = {"made": "removed"}
    rest = f" {text.strip()} "
    if re.search(r"\ball round\b|\ball around\b", rest, re.IGNORECASE):
        found["all_round"] = True
        rest = re.sub(r"\ball (a)?round\b", " ", rest, flags=re.IGNORECASE)
    for made, pattern in MADE:
        if re.search(pattern, rest, re.IGNORECASE):
            found["made"] = made
            rest = re.sub(pattern, " ", rest, count=1, flags=re.IGNORECASE)
            break
    lay = LAY.search(rest)
    if lay:
        found["lay"] = lay[1].upper().replace("⟂", "⊥")
        rest = LAY.sub(" ", rest)
    allowance = ALLOWANCE.search(rest)
    if allowance:
        found["allowance"] = allowance[1].replace(",", ".")
        rest = ALLOWANCE.sub(" ", rest)
    values = []
    for m in VALUE.finditer(rest):
        values.append(((m[1] or "").strip(), f"{m[2]}{'max' if m[3] else ''} {m[4].replace(',', '.')}"))
    rest = VALUE.sub(" ", rest)
    if len(values) > 2:
        raise UserError("Too many values", "A texture has an upper and a lower limit.")
    if not values and found["made"] != "any":
        raise UserError("A texture without its value", "Write a parameter and its value: Ra 1.6.")
    if values and any(float(v.split()[-1]) <= 0 for _, v in values):
        raise UserError("A texture of nothing", "Write a value above 0, in µm.")
    named = {k: v for k, v in values if k}
    plain = [v for k, v in values if not k]
    upper = named.get("U") or (plain.pop(0) if plain else "")
    lower = named.get("L") or (plain.pop(0) if plain else "")
    if lower and not upper:
        upper, lower = "", lower
    if (
        upper
        and lower
        and upper.split()[0] == lower.split()[0]
        and float(upper.split()[-1]) <= float(lower.split()[-1])
    ):
        raise UserError("The upper limit is below the lower one", f"Write {lower} / {upper}.")
    found |= {"upper": upper, "lower": lower}
    process = " ".join(rest.replace("/", " ").replace(",", " ").split())
    if len(process) > 60:
        raise UserError("Too long a process", "Write at most 60 signs.")
    return found | {"process": process}


def texture_text(fields: Any) -> str:
    """A texture sign as it can be typed; read again it is the same."""
    words = [] if fields.made == "removed" else [fields.made]
    if fields.upper and fields.lower:
        words += [f"U {fields.upper}", f"L {fields.lower}"]
    elif fields.lower:
        words.append(f"L {fields.lower}")
    elif fields.upper:
        words.append(fields.upper)
    words += [fields.process] if fields.process else []
    words += [f"lay {fields.lay}"] if fields.lay else []
    words += [f"allowance {fields.allowance}"] if fields.allowance else []
    return " ".join([*words, "all round"] if fields.all_round else words)
