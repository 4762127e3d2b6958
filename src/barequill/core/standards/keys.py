"""Keys and their ways: ISO 773 (DIN 6885-1), parallel keys of the usual series."""

from __future__ import annotations

from typing import Literal, NamedTuple

Seat = Literal["normal", "tight", "free"]


class Key(NamedTuple):
    """For shafts of diameters above ``over`` up to ``most``: width, depth of the way in the shaft and in the hub, all mm."""

    over: float
    most: float
    width: float
    shaft: float
    hub: float


KEYS = tuple(
    Key(*row)
    for row in (
        (6, 8, 2, 1.2, 1.0),
        (8, 10, 3, 1.8, 1.4),
        (10, 12, 4, 2.5, 1.8),
        (12, 17, 5, 3.0, 2.3),
        (17, 22, 6, 3.5, 2.8),
        (22, 30, 8, 4.0, 3.3),
        (30, 38, 10, 5.0, 3.3),
        (38, 44, 12, 5.0, 3.3),
        (44, 50, 14, 5.5, 3.8),
        (50, 58, 16, 6.0, 4.3),
        (58, 65, 18, 7.0, 4.4),
        (65, 75, 20, 7.5, 4.9),
        (75, 85, 22, 9.0, 5.4),
        (85, 95, 25, 9.0, 5.4),
        (95, 110, 28, 10.0, 6.4),
        (110, 130, 32, 11.0, 7.4),
    )
)
WIDTHS: dict[tuple[str, Seat], str] = {
    ("shaft", "normal"): "N9",
    ("shaft", "tight"): "P9",
    ("shaft", "free"): "H9",
    ("hub", "normal"): "JS9",
    ("hub", "tight"): "P9",
    ("hub", "free"): "D10",
}
"""Classes of the width of a way."""


def depth_tolerance(width: float) -> float | None:
    """mm by which the way of a key of that width may be deeper; None for a width that is none of the series."""
    key = next((k for k in KEYS if abs(k.width - width) < 0.01), None)
    return None if key is None else 0.1 if key.width <= 6 else 0.2
