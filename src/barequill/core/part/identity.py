"""Lasting references: a short mark made from what an entity is, not from where it stands in a file.

The mark is a hash of the entity's kind and rounded geometry, so it is the same on each import of the
same file, and mostly also in a later revision of the part in which the entity did not change.
Entities alike in all of this (coincident faces of two bodies) are told apart by their order.
"""

from __future__ import annotations

import hashlib
from collections import Counter

import numpy as np
from numpy.typing import ArrayLike


class Marker:
    """Gives out references of one part; ``size`` (mm) sets the rounding (1e-6 of it)."""

    def __init__(self, size: float) -> None:
        digits = 6 - int(np.floor(np.log10(max(size, 1e-9))))
        self._digits, self._form = digits, f"%.{max(digits, 0)}f"
        self._zero = self._form % -0.0, self._form % 0.0
        self._seen: Counter[str] = Counter()

    def mark(self, letter: str, kind: str, *figures: ArrayLike) -> str:
        """Reference such as ``E3f9a2c81d``: letter F, E or V, then a hash of kind and figures."""
        flat: list[float] = []
        for f in figures:
            flat += f.ravel().tolist() if isinstance(f, np.ndarray) else [float(f)]  # type: ignore[arg-type]
        rounded = [x + 0.318e-7 for x in flat]
        if self._digits < 0:
            rounded = [round(x, self._digits) for x in rounded]
        # zero has no sign
        text = kind + ":" + (",".join([self._form] * len(rounded)) % tuple(rounded)).replace(*self._zero)
        mark = letter + hashlib.sha1(text.encode()).hexdigest()[:9]
        self._seen[mark] += 1
        count = self._seen[mark]
        return mark if count == 1 else f"{mark}-{count}"
