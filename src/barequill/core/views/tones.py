"""Tones of a shaded view on the sheet: the picture as it lies, or its pieces where the view is cropped, broken or turned."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

import numpy as np
from PIL import Image, ImageDraw

from ..display import Tint
from ..drawing.views import View
from ..geometry.planar import polygons_of, rings_of
from ..part.chosen import body_names
from ..part.model import Part
from ..projection.shading import Shading
from .view_transform import Array, ViewTransform

OWN = ("#8fa8b8", "#b8a07c", "#8fae8b", "#b08f9f", "#a3a0c4", "#c0ac62", "#82b0ae", "#b99584")
"""Colours of bodies that have none, one after another."""
DEPTH = 1.5
"""By how much more of the ink of a tone darkens a colour than it does paper."""


def colours_of(view: View, part: Part) -> list[str]:
    """The colour of each body that a view shows: chosen, from its file, or one after another."""
    chosen = {c.body: c.colour for c in view.colours}
    alike: dict[str, str] = {}
    found = []
    for name, body in zip(body_names(part), part.bodies, strict=True):
        # bodies of one name are alike
        own = alike.setdefault(body.name, OWN[len(alike) % len(OWN)])
        found.append(chosen.get(name) or body.colour or own)
    return found


def tints_of(
    tone: Shading, centre: Array, transform: ViewTransform, colours: Sequence[str] | None = None
) -> list[Tint]:
    """The tones of a view, given about ``centre`` (2,), on the sheet; with ``colours`` of its bodies (by row) in those too."""
    if not tone.png:
        return []
    low, high = np.array(tone.low) - centre, np.array(tone.high) - centre
    coloured = _in_colours(tone, colours) if colours is not None and tone.bodies else None
    if transform.plain and not transform.turn:
        corners = transform.to_sheet(np.array([low, high])).ravel().tolist()
        x0, y0, x1, y1 = corners
        return [Tint(tone.png, x0, y0, x1, y1, coloured=b"" if coloured is None else _png(coloured))]
    with Image.open(io.BytesIO(tone.png)) as opened:
        pictures = [opened.convert("RGBA"), *([coloured] if coloured is not None else [])]
    size = pictures[0].size
    dots = np.array(size) / (high - low)
    found = []
    for cell in transform.cells:
        pieces = [p.copy() for p in pictures]
        if cell.region is not None:
            mask = Image.new("L", size, 0)
            draw = ImageDraw.Draw(mask)
            for polygon in polygons_of(cell.region):
                for k, ring in enumerate(rings_of(polygon)):
                    p = np.clip((ring - low) * dots, -4, np.array(size) + 4)
                    p[:, 1] = size[1] - p[:, 1]
                    draw.polygon([tuple(q) for q in p.tolist()], fill=0 if k else 255)
            clear = Image.new("RGBA", size, (0, 0, 0, 0))
            pieces = [Image.composite(p, clear, mask) for p in pieces]
        box = pieces[-1].getbbox()
        if box is None:
            continue
        x0, x1 = low[0] + np.array([box[0], box[2]]) / dots[0]
        y0, y1 = high[1] - np.array([box[3], box[1]]) / dots[1]
        placed = transform.laid_down(np.array([[x0, y0], [x1, y0], [x1, y1], [x0, y1]]), cell.shift)
        data = []
        for piece in pieces:
            own = piece.crop(box)
            if transform.turn:
                own = own.rotate(transform.turn, Image.Resampling.BICUBIC, expand=True)
            data.append(_png(own))
        (x0, y0), (x1, y1) = placed.min(axis=0).tolist(), placed.max(axis=0).tolist()
        found.append(Tint(data[0], x0, y0, x1, y1, coloured=data[1] if len(data) > 1 else b""))
    return found


def _png(picture: Any) -> bytes:
    data = io.BytesIO()
    picture.save(data, "PNG", optimize=True)
    return data.getvalue()


def _in_colours(tone: Shading, colours: Sequence[str]) -> Any:
    """The picture with each body in its colour, darker where its tone is."""
    with Image.open(io.BytesIO(tone.png)) as opened:
        share = np.asarray(opened.convert("RGBA"))[..., 3] / 255
    with Image.open(io.BytesIO(tone.bodies)) as opened:
        bodies = np.asarray(opened)
    table = np.array([[0, 0, 0], *([int(c[k : k + 2], 16) for k in (1, 3, 5)] for c in colours)], float)
    there = (bodies > 0) & (bodies < len(table))
    dots = np.zeros((*bodies.shape, 4), np.uint8)
    dark = np.clip(1 - DEPTH * share, 0, 1)[..., None]
    dots[..., :3] = np.round(table[np.where(there, bodies, 0)] * dark)
    dots[..., 3] = np.where(there, 255, 0)
    return Image.fromarray(dots, "RGBA")
