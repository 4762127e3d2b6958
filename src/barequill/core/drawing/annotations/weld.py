"""Welds (ISO 2553, systems A and B)."""

from __future__ import annotations

import re
from typing import Annotated, Any, ClassVar, Literal

from pydantic import Field

from ...bounds import Affix
from ...errors import UserError
from ..base import Model
from .typed import AnyTyped

Form = Literal[
    "fillet", "square", "V", "bevel", "Y", "half Y", "U", "J", "plug", "spot", "seam", "edge", "flange", "surfacing"
]
FORMS: dict[str, Form] = {
    "fillet": "fillet", "square": "square", "square butt": "square", "butt": "square", "v": "V", "v butt": "V", "bevel": "bevel",
    "half v": "bevel", "y": "Y", "half y": "half Y", "u": "U", "j": "J", "plug": "plug", "slot": "plug", "spot": "spot",
    "seam": "seam", "edge": "edge", "flange": "flange", "surfacing": "surfacing",
}  # fmt: skip
SHAPES = ("flat", "convex", "concave")
NUMBER = r"\d+(?:\.\d+)?"
SIDE = re.compile(
    rf"^\s*(?:(?P<letter>[azsAZS])\s*)?(?P<size>{NUMBER})?\s*(?P<form>[a-z ]+?)\s*"
    rf"(?:(?P<shape>flat|convex|concave)\s*)?"
    rf"(?:(?P<count>\d{{1,3}})\s*[x×]\s*(?P<length>{NUMBER})(?:\s*\((?P<gap>{NUMBER})\))?|(?P<alone>{NUMBER}))?\s*$",
    re.IGNORECASE,
)


class WeldSide(Model):
    """The weld on one side: its ``form``, its size (``a`` the throat, ``z`` the leg, ``s`` the depth), how its face is to be, and how
    many stretches of which length and gap (mm)."""

    form: Form
    letter: Literal["", "a", "z", "s"] = ""
    size: Annotated[float, Field(ge=0, le=1000)] = 0.0
    shape: Literal["", "flat", "convex", "concave"] = ""
    count: Annotated[int, Field(ge=0, le=999)] = 0
    length: Annotated[float, Field(ge=0, le=1e5)] = 0.0
    gap: Annotated[float, Field(ge=0, le=1e5)] = 0.0

    @property
    def typed(self) -> str:
        """As it can be typed."""
        words = [f"{self.letter}{self.size:g}" if self.size else "", self.form.lower(), self.shape]
        if self.count:
            words.append(f"{self.count}x{self.length:g}" + (f"({self.gap:g})" if self.gap else ""))
        elif self.length:
            words.append(f"{self.length:g}")
        return " ".join(w for w in words if w)

    @property
    def before(self) -> str:
        """What stands before the sign."""
        return f"{self.letter}{self.size:g}" if self.size else ""

    @property
    def behind(self) -> str:
        """What stands behind it."""
        if self.count:
            return f"{self.count}×{self.length:g}" + (f" ({self.gap:g})" if self.gap else "")
        return f"{self.length:g}" if self.length else ""


class Weld(AnyTyped):
    """A weld where the arrow points (``near``), on the ``other`` side, or on both; ``staggered`` stretches; ``tail``: the process (ISO
    4063) and what else is to be said."""

    noun: ClassVar[str] = "weld"
    form: ClassVar[str] = "a5 fillet; other z4 fillet 3x50(30); all round, on site, tail 111"

    kind: Literal["weld"] = "weld"
    near: WeldSide | None = None
    other: WeldSide | None = None
    all_round: bool = False
    on_site: bool = False
    staggered: bool = False
    tail: Affix = ""
    system: Literal["A", "B"] = "A"

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        if len(text) > 300:
            raise UserError("Too long for a weld", "Write a form with its size for each side.")
        found: dict[str, Any] = {"tail": ""}
        tail = re.search(r"\b(?:tail|process)\s+(.+)$", text, re.IGNORECASE)
        if tail:
            found["tail"] = tail[1].strip(" ;,")
            text = text[: tail.start()]
            if len(found["tail"]) > 60:
                raise UserError("Too long a tail", "Write at most 60 signs behind “tail”.")
        flags = (("all_round", r"\ball (a)?round\b"), ("on_site", r"\b(on )?site\b"), ("staggered", r"\bstaggered\b"))
        for name, pattern in flags:
            found[name] = bool(re.search(pattern, text, re.IGNORECASE))
            text = re.sub(pattern, " ", text, flags=re.IGNORECASE)
        system = re.search(r"\bsystem\s+([AB])\b", text, re.IGNORECASE)
        if system:
            found["system"] = system[1].upper()
            text = text[: system.start()] + text[system.end() :]
        both = bool(re.search(r"\bboth( sides)?\b", text, re.IGNORECASE))
        text = re.sub(r"\bboth( sides)?\b", " ", text, flags=re.IGNORECASE)
        near, other, *more = [*re.split(r"\bother(?: side)?\b:?", text, flags=re.IGNORECASE), "", ""][:3]
        found["near"] = _side(near)
        found["other"] = found["near"] if both else _side(other)
        if any(m.strip() for m in more):
            raise UserError(
                "A weld has two sides", "Write what is at the arrow, then “other” and what is on the other side."
            )
        if found["near"] is None and found["other"] is None:
            raise UserError(
                "No weld is told",
                f"Write a form with its size: a5 fillet. Forms: {', '.join(dict.fromkeys(FORMS.values()))}.",
            )
        if found["staggered"] and (found["near"] is None or found["other"] is None):
            raise UserError("One row cannot be staggered", "Say what is on the other side.")
        return found

    @property
    def typed(self) -> str:
        words = []
        if self.near is not None and self.near == self.other:
            words.append(f"{self.near.typed} both sides")
        else:
            words += [self.near.typed] if self.near is not None else []
            words += [f"other {self.other.typed}"] if self.other is not None else []
        words += ["all round"] if self.all_round else []
        words += ["on site"] if self.on_site else []
        words += ["staggered"] if self.staggered else []
        words += ["system B"] if self.system == "B" else []
        words += [f"tail {self.tail}"] if self.tail else []
        return "; ".join(words)


def _side(text: str) -> dict[str, Any] | None:
    plain = re.sub(r"(?<=\d),(?=\d)", ".", text).replace(",", " ").replace(";", " ").strip()
    if not plain:
        return None
    m = SIDE.match(plain)
    form = FORMS.get(" ".join(m["form"].lower().split()).removesuffix(" weld")) if m else None
    if m is None or form is None:
        raise UserError(
            f"“{plain[:40]}” is no weld",
            f"Write a form with its size: a5 fillet. Forms: {', '.join(dict.fromkeys(FORMS.values()))}.",
        )
    letter, size = (m["letter"] or "").lower(), float(m["size"] or 0)
    if form == "fillet" and size and letter not in ("a", "z"):
        raise UserError("A fillet is told by its throat or its leg", f"Write a{size:g} (throat) or z{size:g} (leg).")
    if letter in ("a", "z") and form != "fillet":
        raise UserError(f"{letter}{size:g} is of a fillet", f"Write s{size:g} for how deep a {form} weld goes.")
    return {
        "form": form,
        "letter": letter if size else "",
        "size": size,
        "shape": (m["shape"] or "").lower(),
        "count": int(m["count"] or 0),
        "length": float(m["length"] or m["alone"] or 0),
        "gap": float(m["gap"] or 0),
    }
