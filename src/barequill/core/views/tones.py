"""Tones of a shaded view on the sheet: the picture as it lies, or its pieces where the view is cropped, broken or turned."""

from __future__ import annotations

import io

import numpy as np
from PIL import Image, ImageDraw

from ..display import Tint
from ..geometry.planar import polygons_of, rings_of
from ..projection.shading import Shading
from .view_transform import Array, ViewTransform


def tints_of(tone: Shading, centre: Array, transform: ViewTransform) -> list[Tint]:
    """The tones of a view, given about ``centre`` (2,), on the sheet."""
    if not tone.png:
        return []
    low, high = np.array(tone.low) - centre, np.array(tone.high) - centre
    if transform.plain and not transform.turn:
        return [Tint(tone.png, *transform.to_sheet(np.array([low, high])).ravel().tolist())]
    with Image.open(io.BytesIO(tone.png)) as opened:
        placed_view = opened.convert("RGBA")
    dots = np.array(placed_view.size) / (high - low)
    found = []
    for cell in transform.cells:
        own = placed_view.copy()
        if cell.region is not None:
            mask = Image.new("L", placed_view.size, 0)
            draw = ImageDraw.Draw(mask)
            for polygon in polygons_of(cell.region):
                for k, ring in enumerate(rings_of(polygon)):
                    p = np.clip((ring - low) * dots, -4, np.array(placed_view.size) + 4)
                    p[:, 1] = placed_view.size[1] - p[:, 1]
                    draw.polygon([tuple(q) for q in p.tolist()], fill=0 if k else 255)
            clear = Image.new("RGBA", placed_view.size, (0, 0, 0, 0))
            own = Image.composite(own, clear, mask)
        box = own.getbbox()
        if box is None:
            continue
        x0, x1 = low[0] + np.array([box[0], box[2]]) / dots[0]
        y0, y1 = high[1] - np.array([box[3], box[1]]) / dots[1]
        own = own.crop(box)
        placed = transform.laid_down(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]), cell.shift)
        if transform.turn:
            own = own.rotate(transform.turn, Image.Resampling.BICUBIC, expand=True)
        data = io.BytesIO()
        own.save(data, "PNG", optimize=True)
        found.append(Tint(data.getvalue(), *placed.min(axis=0).tolist(), *placed.max(axis=0).tolist()))
    return found
