"""Tolerance frames as one types or says them: ``position Ø0.1 M A B``, ``flatness 0.02 / 100x100``, ``⌖ Ø0.1 Ⓜ | A | B``."""

from __future__ import annotations

import re
from typing import Any, get_args

from ...errors import UserError
from ...standards.geometrical import CHARACTERISTICS, CIRCLED, ZONES, Characteristic, DatumModifier, Modifier
from .model import DatumCell, Frame, FrameRow, PlaneIndicator

NAMES: dict[str, Characteristic] = {
    **{name: name for name in CHARACTERISTICS},
    **{rule.sign: name for name, rule in CHARACTERISTICS.items()},
    "straight": "straightness", "flat": "flatness", "round": "roundness", "circularity": "roundness",
    "cylindrical": "cylindricity", "line profile": "profile of a line", "profile line": "profile of a line",
    "profile of line": "profile of a line", "profile of any line": "profile of a line",
    "surface profile": "profile of a surface", "profile surface": "profile of a surface",
    "profile of surface": "profile of a surface", "profile": "profile of a surface",
    "parallel": "parallelism", "perpendicular": "perpendicularity", "square": "perpendicularity",
    "squareness": "perpendicularity", "angular": "angularity", "true position": "position", "coaxial": "coaxiality",
    "concentricity": "coaxiality", "concentric": "coaxiality", "symmetrical": "symmetry", "symmetric": "symmetry",
    "run-out": "circular run-out", "runout": "circular run-out", "run out": "circular run-out",
    "circular runout": "circular run-out", "circular run out": "circular run-out", "total runout": "total run-out",
    "total run out": "total run-out", "//": "parallelism", "⟂": "perpendicularity", "⏊": "perpendicularity",
    "—": "straightness", "◯": "roundness", "⌰": "total run-out", "⫽": "parallelism",
}  # fmt: skip
"""What each characteristic is called."""
SAID: tuple[tuple[str, str], ...] = (
    (r"\b(at )?max(imum)?[ -]material( condition| requirement)?\b|\bmm[cr]\b", "(M)"),
    (r"\b(at )?least[ -]material( condition| requirement)?\b|\blm[cr]\b", "(L)"),
    (r"\bfree state\b", "(F)"),
    (r"\breciprocity\b", "(R)"),
    (r"\bprojected\b", "(P)"),
    (r"\bunequal\b", "(U)"),
    (r"\benvelope\b", "(E)"),
    (r"\bcombined zone\b|\bcommon zone\b", "CZ"),
    (r"\bseparate zones?\b", "SZ"),
    (r"\bspherical\b|\bsphere\b|\bs ?dia(meter)?\b|s[øØ⌀∅]", "SØ"),
    (r"\bdia(meter|metre)?\b|(?<!s)[⌀∅ø]", "Ø"),
    (r"\bdirection only\b", "><"),
    (r"\bper\b", "/"),
    (r"\ball around\b|\ball round\b", "@around"),
    (r"\ball over\b", "@over"),
)
PLANE = re.compile(
    r"\b(?:in (?:the |an )?)?(intersection|orientation|direction|collection)(?: plane| feature)?\s*"
    r"(∥|//|parallel|⊥|⟂|perpendicular|square|∠|angled?|⌯|symmetrical|↗|run-?out)(?: to)?\s+([A-Za-z]{1,2}(?:-[A-Za-z]{1,2})*)\b",
    re.IGNORECASE,
)
RELATIONS: dict[str, Any] = {
    "∥": "parallel", "//": "parallel", "parallel": "parallel", "⊥": "perpendicular", "⟂": "perpendicular",
    "perpendicular": "perpendicular", "square": "perpendicular", "∠": "angle", "angle": "angle", "angled": "angle",
    "⌯": "symmetrical", "symmetrical": "symmetrical", "↗": "run-out", "runout": "run-out", "run-out": "run-out",
}  # fmt: skip
BETWEEN = re.compile(r"\bbetween ([A-Za-z]{1,2}) and ([A-Za-z]{1,2})\b|\b([A-Z]{1,2})\s*(?:↔|<->|<>)\s*([A-Z]{1,2})\b")
QUOTED = re.compile(r"\b(above|below)\s+[\"“']([^\"”']*)[\"”']", re.IGNORECASE)
COUNT = re.compile(r"^\s*(\d{1,4})\s*[x×]\s*(?=[^\d\s])", re.IGNORECASE)
TOKEN = re.compile(
    r"\((?P<circle>[A-Za-z]{1,3})\)|\[(?P<bracket>[A-Za-z]{2,3})\]|(?P<free>><)|(?P<zone>SØ|Ø)|(?P<number>[+-]?\d+(?:\.\d+)?|[+-]?\.\d+)"
    r"|(?P<word>[A-Za-z]+(?:-[A-Za-z]+)*)|(?P<sign>[/x×|])"
)
FILLERS = {"to", "and", "with", "of", "datum", "datums", "at", "within", "the", "mm", "in", "respect", "tolerance"}
BARE = ("M", "L", "R", "P")
"""Modifiers that may be typed as bare letters right behind the value or a datum."""


def frame_of(text: str) -> Frame:
    """The frame that a text tells, whatever it may not say.

    Raises
    ------
    UserError
        Where it is not understood; the message says at which word.
    """
    if len(text) > 600:
        raise UserError("Too long for a frame", "Write at most 600 signs.")
    about, rest = _about(text)
    rows: list[FrameRow] = []
    for piece in re.split(r"[;\n]", rest):
        if piece.strip():
            rows.append(_row(piece, rows[-1].characteristic if rows else None))
    if not rows:
        raise UserError("An empty frame", "Write what it says, such as: position Ø0.1 M A B.")
    if len(rows) > 6:
        raise UserError("Too many rows", "A frame has at most six.")
    return Frame(rows=rows, **about)


def _about(text: str) -> tuple[dict[str, Any], str]:
    """What a text tells about the frame as a whole, and the rest of it."""
    about: dict[str, Any] = {}
    for kind, words in QUOTED.findall(text):
        if len(words) > 60:
            raise UserError(f"Too long {kind.lower()} the frame", "Write at most 60 signs there.")
        about[kind.lower()] = words.strip()
    text = QUOTED.sub(" ", text)
    for letter, sign in CIRCLED.items():
        text = text.replace(sign, f" ({letter})")
    text = text.replace("–", "-").replace("−", "-").replace("·", " ")
    text = re.sub(r"(?<=\d),(?=\d)", ".", text).replace(",", " ")
    found = COUNT.match(text)
    if found:
        about["count"] = int(found[1])
        if not 1 <= about["count"] <= 9999:
            raise UserError("A frame for no feature", "Write for how many features it is meant: 4×.")
        text = text[found.end() :]
    planes = []
    for kind, relation, datum in PLANE.findall(text):
        letters = datum.upper().split("-")
        if len(letters) > 4 or any(len(x) == 2 and x[0] != x[1] for x in letters):
            raise UserError(f"“{datum}” is no datum", "Datums are single letters: A, or A-B for a common one.")
        cell = DatumCell(letters=letters)
        planes.append(PlaneIndicator(kind=kind.lower(), relation=RELATIONS[relation.lower()], datum=cell))
    if planes:
        about["planes"] = planes[:4]
        text = PLANE.sub(" ", text)
    two = BETWEEN.search(text)
    if two:
        pair = [g.upper() for g in two.groups() if g]
        about["between"] = (pair[0], pair[1])
        text = BETWEEN.sub(" ", text)
    for pattern, said in SAID:
        text = re.sub(pattern, f" {said} ", text, flags=re.IGNORECASE)
    for what in ("around", "over"):
        if f"@{what}" in text:
            about["around"] = what
            text = text.replace(f"@{what}", " ")
    return about, text


def _row(text: str, before: Characteristic | None) -> FrameRow:
    characteristic, rest = _characteristic(text.strip().lstrip("|").strip(), before)
    reader = _Reader(rest)
    return reader.row(characteristic)


def _characteristic(text: str, before: Characteristic | None) -> tuple[Characteristic, str]:
    """The characteristic at the head of a row, and what follows."""
    plain = text.lower()
    for name in sorted(NAMES, key=len, reverse=True):
        if plain.startswith(name.lower()) and not re.match(r"[a-z-]", plain[len(name) :]):
            return NAMES[name], text[len(name) :]
    if before is not None and re.match(r"\s*(SØ|Ø|[\d.])", text):
        return before, text
    word = text.split()[0] if text.split() else ""
    names = ", ".join(CHARACTERISTICS)
    raise UserError(f"“{word[:40]}” is no characteristic", f"Begin with one of these: {names}.")


class _Reader:
    """Reads a row behind its characteristic, token by token."""

    def __init__(self, text: str) -> None:
        self.tokens: list[tuple[str, str]] = []
        end = 0
        for m in TOKEN.finditer(text):
            self._nothing_between(text[end : m.start()])
            self.tokens.append((m.lastgroup or "", m[m.lastgroup or 0]))
            end = m.end()
        self._nothing_between(text[end:])
        self.at = 0

    @staticmethod
    def _nothing_between(gap: str) -> None:
        if gap.strip():
            raise UserError(
                f"“{gap.strip()[:20]}” is not understood", "Write it in words, or by a letter in brackets: (M)."
            )

    def peek(self) -> tuple[str, str]:
        return self.tokens[self.at] if self.at < len(self.tokens) else ("", "")

    def take(self) -> tuple[str, str]:
        found = self.peek()
        self.at += 1
        return found

    def fill(self) -> None:
        """Pass over words that say nothing by themselves."""
        while self.peek() == ("sign", "|") or (self.peek()[0] == "word" and self.peek()[1].lower() in FILLERS):
            self.at += 1

    def number(self, what: str) -> float:
        kind, text = self.take()
        if kind != "number":
            raise UserError(
                f"{what} is missing", f"Write a figure in place of “{text[:20]}”." if text else "Write a figure."
            )
        if len(text) > 12:
            raise UserError(f"{what} has too many figures", "Write it with at most ten.")
        return float(text)

    def zone(self) -> str | None:
        kind, text = self.peek()
        if kind != "zone":
            return None
        self.at += 1
        return "sphere" if text == "SØ" else "diameter"

    def row(self, characteristic: Characteristic) -> FrameRow:
        self.fill()
        zone = self.zone()
        value = self.number("The tolerance's value")
        if value < 0:
            raise UserError("A tolerance below zero", "Write how wide the zone is.")
        if value > 1e4:
            raise UserError("A tolerance beyond all measure", "Write at most 10000.")
        found: dict[str, Any] = {"modifiers": []}
        if self.peek()[1].lower() == "mm":
            self.at += 1
        zone = self.zone() or zone or "width"
        while self._about_value(found):
            pass
        found["datums"] = self._datums()
        return FrameRow(characteristic=characteristic, zone=zone, value=value, **found)  # type: ignore[arg-type]

    def _about_value(self, found: dict[str, Any]) -> bool:
        """Read one thing that is said of the value; False where there is none."""
        kind, text = self.peek()
        if (kind, text) == ("sign", "/"):
            self.at += 1
            found["per_round"] = self.zone() is not None
            found["per"] = [self.number("Along what it is limited")]
            if self.peek()[0] in ("sign", "word") and self.peek()[1].lower() in ("x", "×", "by"):
                self.at += 1
                found["per"].append(self.number("The other side of the area"))
            if any(not 0 < p <= 1e5 for p in found["per"]):
                raise UserError(
                    "A length of nothing", "Write along what length, or over what area, it is limited: 100x100."
                )
            return True
        letters = text.upper()
        bare = kind == "word" and (letters in ("CZ", "SZ", "UZ", "OZ", "VA") or letters in BARE)
        if (
            kind == "word"
            and letters == "U"
            and self.tokens[self.at + 1 : self.at + 2]
            and self.tokens[self.at + 1][0] == "number"
        ):
            bare = True
        if kind != "circle" and not bare:
            return False
        if letters not in get_args(Modifier):
            raise UserError(
                f"({text}) is no modifier of a value", "Known are M L R P F U E G N C X T, and CZ SZ UZ OZ VA."
            )
        self.at += 1
        found["modifiers"].append(letters)
        if letters == "P" and self.peek()[0] == "number":
            found["projected"] = self.number("The length of Ⓟ")
            if not 0 < found["projected"] <= 1e5:
                raise UserError("A projected zone of no length", "Write how far it reaches out: (P) 20.")
        if letters in ("U", "UZ") and self.peek()[0] == "number":
            found["offset"] = self.number("The offset of the zone")
        return True

    def _datums(self) -> list[DatumCell]:
        cells: list[DatumCell] = []
        said_to = False
        while True:
            while self.peek() == ("sign", "|") or (self.peek()[0] == "word" and self.peek()[1].lower() in FILLERS):
                said_to = True
                self.at += 1
            kind, text = self.peek()
            if not kind:
                return cells
            own = text.upper()
            bare = kind == "word" and own in ("M", "L") and not said_to
            said_to = False
            if kind in ("circle", "bracket", "free") or bare:
                self.at += 1
                if not cells:
                    raise UserError(f"“{text}” stands before any datum", "Write the datum's letter first.")
                if own not in get_args(DatumModifier):
                    raise UserError(
                        f"“{text}” is no modifier of a datum",
                        "Known are (M) (L) (P) [DV] [PT] [SL] [PL] [LD] [CF] [ACS] ><.",
                    )
                cells[-1] = cells[-1].model_copy(update={"modifiers": [*cells[-1].modifiers, own]})
                if len(cells[-1].modifiers) > 4:
                    raise UserError(f"Too many modifiers of datum {cells[-1].name}", "A datum has at most four.")
                continue
            parts = own.split("-")
            if kind != "word" or not all(len(p) == 1 or (len(p) == 2 and p[0] == p[1]) for p in parts):
                raise UserError(f"“{text}” is no datum", "Datums are single letters: A B, or A-B for a common one.")
            if len(parts) > 4 or len(cells) >= 6:
                raise UserError("Too many datums", "A frame has at most three cells of datums.")
            self.at += 1
            cells.append(DatumCell(letters=parts))


def figure_text(value: float) -> str:
    """A value as it is written: with a point, and no more figures than it needs."""
    return f"{value:.6f}".rstrip("0").rstrip(".")


def row_text(row: FrameRow, brief: bool = False) -> str:
    """A row as it can be typed; ``brief``: without its characteristic."""
    words: list[str] = [] if brief else [row.characteristic]
    words.append(ZONES[row.zone] + value_text(row))
    words += [cell.name + "".join(_bracketed(m) for m in cell.modifiers) for cell in row.datums]
    return " ".join(words)


def _bracketed(modifier: str) -> str:
    return modifier if modifier == "><" else f"({modifier})" if len(modifier) == 1 else f"[{modifier}]"


def value_text(row: FrameRow) -> str:
    """The value of a row with all that is said of it, as it can be typed."""
    found = figure_text(row.value)
    if row.per:
        found += "/" + ("Ø" if row.per_round else "") + "x".join(figure_text(p) for p in row.per)
    for m in row.modifiers:
        found += f"({m})" if m in CIRCLED else f" {m}"
        if m == "P" and row.projected is not None:
            found += f" {figure_text(row.projected)}"
        if m in ("U", "UZ") and row.offset is not None:
            found += f" {'+' if row.offset >= 0 else '-'}{figure_text(abs(row.offset))}"
    return found


def text_of(frame: Frame) -> str:
    """A frame as it can be typed; read again it is the same."""
    rows = []
    for k, row in enumerate(frame.rows):
        rows.append(row_text(row, k > 0 and row.characteristic == frame.rows[k - 1].characteristic))
    found = "; ".join(rows)
    if frame.count > 1:
        found = f"{frame.count}× {found}"
    for plane in frame.planes:
        found += f" {plane.kind} plane {plane.relation} to {plane.datum.name}"
    if frame.around:
        found += f" all {frame.around}"
    if frame.between:
        found += f" between {frame.between[0]} and {frame.between[1]}"
    for where in ("above", "below"):
        if getattr(frame, where):
            found += f' {where} "{getattr(frame, where)}"'
    return found
