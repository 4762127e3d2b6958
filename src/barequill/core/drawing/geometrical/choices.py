"""What a tolerance frame could say instead, cell by cell: each choice leads to a frame that is no nonsense."""

from __future__ import annotations

from collections.abc import Collection, Iterator, Sequence
from itertools import combinations
from typing import Any, NamedTuple, get_args

from ...standards.geometrical import (
    CHARACTERISTICS,
    CIRCLED,
    SAYS,
    Characteristic,
    DatumModifier,
    Feature,
    Modifier,
    Zone,
)
from .language import figure_text, text_of
from .model import DatumCell, Frame, FrameRow
from .rules import refusals

USUAL = (0.005, 0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0)
"""Values that are usual, mm."""
ZONES: dict[Zone, str] = {"width": "a width", "diameter": "Ø, a cylinder", "sphere": "SØ, a sphere"}


class Choice(NamedTuple):
    """A cell: what it is, what it says, and what else it could say: the whole frame as typed, and that in words."""

    name: str
    says: str
    options: tuple[tuple[str, str], ...]


class Setting(NamedTuple):
    """What a frame is about, and the datums of its drawing, those with a size apart."""

    feature: Feature | None
    datums: Collection[str]
    sized: Collection[str]


def choices(frame: Frame, setting: Setting, k: int = 0) -> list[Choice]:
    """The cells of a row of a frame, with what they could say instead."""
    row = frame.rows[k]

    def offered(options: Sequence[tuple[FrameRow, str]]) -> tuple[tuple[str, str], ...]:
        found = []
        for new, words in options:
            rows = [new if i == k else r for i, r in enumerate(frame.rows)]
            other = frame.model_copy(update={"rows": rows})
            if not any(True for _ in refusals(other, setting.feature, setting.datums, setting.sized)):
                found.append((text_of(other), words))
        return tuple(found)

    found = [
        Choice("characteristic", row.characteristic, offered([(_as(row, c, setting), c) for c in CHARACTERISTICS])),
        Choice("zone", ZONES[row.zone], offered([(_with(row, zone=z), words) for z, words in ZONES.items()])),
        Choice("value", figure_text(row.value), offered([(_with(row, value=v), figure_text(v)) for v in USUAL])),
        Choice("modifiers", _signs(row.modifiers) or "plain", offered(list(_modified(row)))),
    ]
    for i in range(len(row.datums) + 1):
        cell = row.datums[i] if i < len(row.datums) else None
        options = offered(list(_other_datums(row, i, setting.datums)))
        if cell is not None or options:
            name = ("first", "second", "third", "fourth")[min(i, 3)] + " datum"
            found.append(Choice(name, cell.name + _signs(cell.modifiers) if cell else "none", options))
    return found


def starting(setting: Setting) -> str:
    """What a frame says at first where nothing is known but what it is about."""
    first = sorted(setting.datums)[:1]
    if setting.feature == "axis":
        return f"position Ø0.1 {first[0]}" if first else "straightness Ø0.05"
    if setting.feature == "middle plane":
        return f"symmetry 0.1 {first[0]}" if first else "flatness 0.05"
    if setting.feature == "centre":
        return f"position SØ0.1 {first[0]}" if first else "position SØ0.1 CZ"
    return f"parallelism 0.05 {first[0]}" if first else "flatness 0.05"


def _with(row: FrameRow, **changes: Any) -> FrameRow:
    return row.model_copy(update=changes)


def _signs(modifiers: Sequence[str]) -> str:
    return "".join(_sign(m) for m in modifiers).strip()


def _sign(modifier: str) -> str:
    """A modifier as the interface's lettering has it, which lacks letters in circles."""
    return f"({modifier})" if modifier in CIRCLED else modifier if modifier == "><" else f" {modifier}"


def _as(row: FrameRow, characteristic: Characteristic, setting: Setting) -> FrameRow:
    """A row with another characteristic: what that cannot say is left out, what it needs is added."""
    rule = CHARACTERISTICS[characteristic]
    zone = row.zone if row.zone in rule.zones else rule.zones[0]
    if zone == "diameter" and setting.feature in ("surface", "middle plane") and "width" in rule.zones:
        zone = "width"
    datums = row.datums[: rule.most]
    if not datums and (rule.least or characteristic == "position") and setting.datums:
        datums = [DatumCell(letters=[sorted(setting.datums)[0]])]
    kept = [m for m in row.modifiers if m in ("CZ", "SZ", "F", "G", "N", "C", "X") or (m in "MLR" and rule.material)]
    if rule.group == "run-out":
        datums = [d.model_copy(update={"modifiers": []}) for d in datums]
    per = row.per if (2 if row.per_round else len(row.per)) in rule.per else []
    return _with(
        row,
        characteristic=characteristic,
        zone=zone,
        datums=datums,
        modifiers=kept,
        per=per,
        per_round=row.per_round and bool(per),
        projected=None,
        offset=None,
    )


def _modified(row: FrameRow) -> Iterator[tuple[FrameRow, str]]:
    """A row with one modifier more, or one less."""
    for m in get_args(Modifier):
        sign = _sign(m).strip()
        if m in row.modifiers:
            left = [x for x in row.modifiers if x != m]
            gone: dict[str, Any] = {"projected": None} if m == "P" else {"offset": None} if m in ("U", "UZ") else {}
            yield _with(row, modifiers=left, **gone), f"without {sign}"
        else:
            more: dict[str, Any] = {"projected": 20.0} if m == "P" else {}
            more |= {"offset": row.value / 2} if m in ("U", "UZ") else {}
            yield _with(row, modifiers=[*row.modifiers, m], **more), f"{sign} {SAYS[m]}"


def _other_datums(row: FrameRow, i: int, known: Collection[str]) -> Iterator[tuple[FrameRow, str]]:
    """A row with another datum in a cell, with that left out, or with a modifier of it more or less."""

    def put(cell: DatumCell | None) -> FrameRow:
        rest = [*row.datums[:i], *([cell] if cell else []), *row.datums[i + 1 :]]
        return _with(row, datums=rest)

    letters = sorted(known)
    for letter in letters:
        yield put(DatumCell(letters=[letter])), letter
    for pair in list(combinations(letters, 2))[:20]:
        yield put(DatumCell(letters=list(pair))), "–".join(pair)
    if i < len(row.datums):
        cell = row.datums[i]
        yield put(None), "none"
        for m in get_args(DatumModifier):
            sign = _sign(m) if m in CIRCLED or m == "><" else f"[{m}]"
            has = m in cell.modifiers
            own = [x for x in cell.modifiers if x != m] if has else [*cell.modifiers, m]
            new = cell.model_copy(update={"modifiers": own})
            yield put(new), f"{cell.name} without {sign}" if has else f"{cell.name} {sign} {SAYS[m]}"
