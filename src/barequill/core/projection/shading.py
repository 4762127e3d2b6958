"""A view as flat tones of ink, for pictorial views: what a wash would be under a line drawing."""

from __future__ import annotations

import io
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PIL import Image

from ..cutting.limits import NO_CUT, Cut
from ..part.model import Part
from .camera import Camera, camera
from .rays import first_seen, in_front, ray_structure
from .table import table_of

INK = (23, 35, 44)
TONES = np.array([0.0, 0.07, 0.14, 0.22, 0.31])
"""Share of ink of each tone, from what faces the light to what is turned away from it."""
LIGHT = np.array([-0.45, 0.65, 0.61])
"""Toward the light: right, up and toward the viewer; from the upper left, as on drawings."""
DOTS = 520
SPREAD = 2


@dataclass(frozen=True)
class Shading:
    """A picture of a view as PNG, and its box in model mm along right and up of the camera; ``bodies``: a PNG of the same size that tells
    the body (row, from 1) seen in each dot."""

    png: bytes
    low: tuple[float, float]
    high: tuple[float, float]
    bodies: bytes = b""


NO_TONES = Shading(b"", (0.0, 0.0), (0.0, 0.0))
"""Of a view that is not there yet."""


def shade(
    part: Part,
    view: Camera,
    cut: Cut = NO_CUT,
    progress: Callable[[float, str], None] = lambda share, what: None,
) -> Shading:
    """Shade a part as a camera sees it, also on a plane that is not square to the sight. What is no part is left clear, and so are the
    faces that a cut lays open, since they are hatched."""
    mesh, square = part.mesh, camera(view.toward, view.up)
    slanting = np.array([[way @ square.right, way @ square.up] for way in (view.right, view.up)])
    if not len(mesh.nodes):
        return NO_TONES
    flat = view.flat(mesh.nodes)
    low, high = flat.min(axis=0), flat.max(axis=0)
    step = float((high - low).max()) / (DOTS * SPREAD)
    columns, rows = (max(1, int(np.ceil(x / step / SPREAD))) * SPREAD for x in high - low)
    rays = ray_structure(part)
    tone = np.full((rows, columns), -1, np.int8)
    body_of = np.array([f.body for f in part.faces], np.int64)
    bodies = np.zeros((rows, columns), np.uint16)
    x = low[0] + (np.arange(columns) + 0.5) * step
    for row in range(0, rows, 200):
        progress(row / rows, "shading")
        y = high[1] - (np.arange(row, min(row + 200, rows)) + 0.5) * step
        spots = np.stack(np.meshgrid(x, y), axis=-1).reshape(-1, 2)
        origins = in_front(part, square, spots @ np.linalg.inv(slanting).T)
        if cut:
            triangle, weights = first_seen(part, cut, table_of(part).wires, origins, -view.toward)
        else:
            triangle, _, weights = rays.hits(origins, -view.toward)
        at = np.nonzero(triangle >= 0)[0]
        corners = mesh.normals[mesh.triangles[triangle[at]]]
        n = np.einsum("ij,ijk->ik", weights[at], corners)
        n /= np.maximum(np.linalg.norm(n, axis=1), 1e-300)[:, None]
        n *= np.where(n @ view.toward < 0, -1.0, 1.0)[:, None]
        lit = n @ (LIGHT @ np.array([square.right, square.up, square.toward]) / np.linalg.norm(LIGHT))
        own = np.full(len(spots), -1, np.int8)
        own[at] = np.clip(((1 - lit) * 0.62 * len(TONES)).astype(int), 0, len(TONES) - 1)
        tone[row : row + 200] = own.reshape(-1, columns)
        seen = np.zeros(len(spots), np.uint16)
        seen[at] = body_of[mesh.face_of[triangle[at]]] + 1
        bodies[row : row + 200] = seen.reshape(-1, columns)
    share = np.where(tone >= 0, TONES[np.maximum(tone, 0)], 0.0)
    share = share.reshape(rows // SPREAD, SPREAD, columns // SPREAD, SPREAD).mean(axis=(1, 3))
    dots: NDArray[np.uint8] = np.empty((*share.shape, 4), np.uint8)
    dots[..., :3] = INK
    dots[..., 3] = np.round(share * 255)
    data = io.BytesIO()
    Image.fromarray(dots, "RGBA").save(data, "PNG", optimize=True)
    bottom = high[1] - rows * step
    right = low[0] + columns * step
    # of the dots that are one, the body of any that shows one
    owners = bodies.reshape(rows // SPREAD, SPREAD, columns // SPREAD, SPREAD).max(axis=(1, 3))
    told = io.BytesIO()
    Image.fromarray(owners).save(told, "PNG", optimize=True)
    return Shading(data.getvalue(), (float(low[0]), float(bottom)), (float(right), float(high[1])), told.getvalue())
