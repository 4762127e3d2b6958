"""Letters of revisions: A, B, C … without those taken for figures (ISO 7200 leaves the choice); by ASME Y14.35 a dash first, and without S, X and Z too."""

from __future__ import annotations

from collections.abc import Collection

_ISO = "ABCDEFGHJKLMNPRSTUVWXYZ"
_ASME = "ABCDEFGHJKLMNPRTUVWY"


def letters(standard: str) -> list[str]:
    """The letters in their order: single ones, then double ones."""
    one = _ASME if standard == "ASME" else _ISO
    return [*(["-"] if standard == "ASME" else []), *one, *(a + b for a in one for b in one)]


def next_letter(taken: Collection[str], standard: str) -> str:
    """The letter after the last that is taken; the first where none is."""
    order = letters(standard)
    last = max((order.index(t) for t in taken if t in order), default=-1)
    return order[min(last + 1, len(order) - 1)]
