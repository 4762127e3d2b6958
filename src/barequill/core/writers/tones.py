"""Pictures in tones as regions of one tone each, for formats that hold no pictures."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray
from PIL import Image

from ..display import Tint
from ..geometry.planar import polygons_of, rings_of

Array = NDArray[np.float64]
STEPS = (0.035, 0.105, 0.18, 0.265)
"""Shares of ink from which on a dot belongs to a tone, or to a darker one."""
ROUGH = 0.8
"""Dots by which the outline of a region may be smoothed."""
SPECKS = 6.0
"""Dots of which a region has more."""


def tone_regions(mark: Tint) -> Iterator[tuple[tuple[int, int, int], list[Array]]]:
    """The tones of a picture from the lightest on, each region of at least that tone: its colour on white paper, and its outlines
    (m, 2), sheet mm, those after the first openings."""
    with Image.open(io.BytesIO(mark.png)) as opened:
        dots = np.asarray(opened.convert("RGBA"))
    share, ink = dots[..., 3] / 255, dots[..., :3]
    high, wide = share.shape
    step = np.array([(mark.x1 - mark.x0) / wide, (mark.y1 - mark.y0) / high])
    for k, least in enumerate(STEPS):
        most = STEPS[k + 1] if k + 1 < len(STEPS) else 1.0
        inside = share >= least
        own = inside & (share < most)
        if not own.any():
            continue
        part = float(share[own].mean())
        red, green, blue = (round(255 + (float(c) - 255) * part) for c in ink[own].mean(axis=0))
        for polygon in polygons_of(_region(inside).simplify(ROUGH), SPECKS):
            rings = [np.c_[mark.x0 + r[:, 0] * step[0], mark.y1 - r[:, 1] * step[1]] for r in rings_of(polygon)]
            yield (red, green, blue), rings


def _region(inside: NDArray[np.bool_]) -> shapely.Geometry:
    """Where dots (n, m) are set, as a region: x to the right, y down, a dot 1 × 1."""
    padded = np.pad(inside, ((0, 0), (1, 1))).astype(np.int8)
    change = np.diff(padded, axis=1)
    rows, starts = np.nonzero(change == 1)
    _, ends = np.nonzero(change == -1)
    return shapely.union_all(shapely.box(starts, rows, ends, rows + 1))
