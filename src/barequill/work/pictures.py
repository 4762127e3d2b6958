"""Pictures read from SVG, PNG and JPEG: their dark areas and lines, in the one colour of drawings; nothing else of a file is kept."""

from __future__ import annotations

import io
import re
import warnings
from typing import Any
from xml.etree import ElementTree

import contourpy
import numpy as np
import shapely
import svgelements
from defusedxml import DefusedXmlException
from defusedxml.ElementTree import fromstring
from PIL import Image, UnidentifiedImageError

from ..core.drawing.pictures import LARGEST, MOST_LETTERS, MOST_PATHS, Picture, PicturePath
from ..core.errors import UserError

ELEMENTS, DEEP = 4000, 40
"""How many elements a drawing in SVG may have, and how deep they may stand within each other."""
PIXELS, SIDE = 40_000_000, 500
"""Pixels that a picture may have, and to how many its longer side is made smaller."""
DARK = 0.8
"""Brightness below which something is drawn; what is brighter lies over it as paper does."""
FINE = 0.4
"""Units of the picture by which an outline may be off where it is laid out in straight stretches."""
KEPT = {
    "svg", "g", "path", "rect", "circle", "ellipse", "line", "polyline", "polygon", "style", "title", "desc", "defs", "a",
    "symbol", "metadata", "switch",
}  # fmt: skip


def picture_of(name: str, data: bytes) -> Picture:
    """The picture in a file.

    Raises
    ------
    UserError
        Where it is none, is too large, or has nothing dark; the message says which.
    """
    head = data[:2000].lstrip(b"\xef\xbb\xbf \t\r\n")
    area = _of_svg(name, data) if head.startswith((b"<", b"\xff\xfe", b"\xfe\xff")) else _of_pixels(name, data)
    if area.is_empty:
        raise UserError(f"{name} shows nothing", "Its areas and lines are all white, or it has none.")
    x0, y0, x1, y1 = area.bounds
    k = LARGEST / max(x1 - x0, y1 - y0, 1e-9)
    area = shapely.transform(area, lambda p: (p - (x0, y0)) * k)
    for off in (FINE, 2 * FINE, 5 * FINE, 12 * FINE):
        thinned = area.simplify(off)
        shapes = [s for s in shapely.get_parts(thinned) if s.geom_type == "Polygon" and s.area > 4 * FINE * FINE]
        paths = ["".join(map(_outline, (s.exterior, *s.interiors))) for s in shapes]
        if shapes and len(paths) <= MOST_PATHS and sum(map(len, paths)) <= MOST_LETTERS:
            width, height = (round(k * side, 3) for side in (x1 - x0, y1 - y0))
            return Picture(
                width=max(width, 0.001), height=max(height, 0.001), paths=[PicturePath(outlines=p) for p in paths]
            )
    raise UserError(f"{name} is too finely drawn", "Take one with fewer areas, such as a plain outline of it.")


def _outline(ring: Any) -> str:
    corners = np.asarray(ring.coords)[:-1]
    return "M" + "L".join(f"{x:.2f} {y:.2f}" for x, y in corners) + "Z"


def _of_pixels(name: str, data: bytes) -> Any:
    """The dark area of a picture of pixels, y upward."""
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            picture = Image.open(io.BytesIO(data), formats=("PNG", "JPEG"))
            if picture.width * picture.height > PIXELS:
                raise UserError(
                    f"{name} is too large",
                    f"It has {picture.width} × {picture.height} pixels; take at most 40 million.",
                )
            picture.thumbnail((SIDE, SIDE))
            rgba = picture.convert("RGBA")
    except UserError:
        raise
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError, EOFError, Image.DecompressionBombError) as error:
        raise UserError(f"{name} is no picture that can be read", "Take an SVG, a PNG or a JPEG file.") from error
    paper = Image.new("RGBA", rgba.size, "white")
    paper.alpha_composite(rgba)
    grey = np.asarray(paper.convert("L"), float) / 255
    # paper all round, so that outlines close
    grey = np.pad(np.flipud(grey), 1, constant_values=1.0)
    made = contourpy.contour_generator(z=grey, fill_type="OuterOffset").filled(-1.0, 0.5)
    outlines = list(zip(*made, strict=True))
    if len(outlines) > 4 * MOST_PATHS:
        raise UserError(
            f"{name} is too finely drawn", "Photographs cannot be taken; take a drawing in black and white."
        )
    shapes = []
    for points, offsets in outlines:
        rings = [points[a:b] for a, b in zip(offsets, offsets[1:], strict=False) if b - a > 3]
        if rings:
            shapes.append(shapely.Polygon(rings[0], rings[1:]))
    return shapely.union_all([shapely.make_valid(s) for s in shapes])


def _of_svg(name: str, data: bytes) -> Any:
    """The dark area of a drawing in SVG, y upward: shapes lie over each other in their order, light ones as paper."""
    try:
        root = fromstring(data, forbid_dtd=True)
    except DefusedXmlException as error:
        raise UserError(
            f"{name} cannot be taken", "It declares entities or a document type; save it as plain SVG."
        ) from error
    except (ElementTree.ParseError, ValueError, LookupError, RecursionError) as error:
        raise UserError(f"{name} is no SVG that can be read", f"{str(error)[:120] or 'It is damaged'}.") from error
    if not str(root.tag).endswith("svg"):
        raise UserError(f"{name} is no SVG", f"It begins with {str(root.tag).rsplit('}', 1)[-1][:40]}.")
    texts = _cleaned(name, root)
    area = shapely.Polygon()
    try:
        source = io.BytesIO(ElementTree.tostring(root))
        drawn = svgelements.SVG.parse(source, reify=True, ppi=96)
        shapes = [e for e in drawn.elements() if isinstance(e, svgelements.Shape)]
        for shape in shapes:
            area = _painted(area, shape)
    except UserError:
        raise
    except Exception as error:  # what a foreign reader stumbles over is the file's fault, whatever it raises
        raise UserError(f"{name} cannot be read", f"{type(error).__name__}: {str(error)[:120]}") from error
    if area.is_empty and texts:
        raise UserError(f"{name} has only texts", "Turn them into outlines in the program that made it.")
    return shapely.transform(area, lambda p: p * (1, -1))


def _cleaned(name: str, root: Any) -> int:
    """Take out what is not drawn by shapes or leads elsewhere. How many texts that were."""
    texts, count, rows = 0, 0, [(root, 0)]
    while rows:
        own, depth = rows.pop()
        count += 1
        if count > ELEMENTS or depth > DEEP:
            raise UserError(
                f"{name} is too large a drawing", f"It may have {ELEMENTS} elements, {DEEP} deep within each other."
            )
        for key in [k for k in own.attrib if "href" in k.lower() or k.lower().startswith("on")]:
            del own.attrib[key]
        for child in list(own):
            kind = str(child.tag).rsplit("}", 1)[-1] if isinstance(child.tag, str) else ""
            texts += kind == "text"
            if kind not in KEPT:
                own.remove(child)
            else:
                if kind == "style":
                    child.text = re.sub(r"@import[^;]*;|url\([^)]*\)", "", child.text or "")[:100_000]
                rows.append((child, depth + 1))
    return texts


def _painted(area: Any, shape: Any) -> Any:
    """What is dark when a shape has been laid over it."""
    path = svgelements.Path(shape)
    if len(path) > 20_000:
        raise UserError("A path is too long", "It has more than 20,000 stretches.")
    rings = [r for r in (_laid_out(sub) for sub in path.as_subpaths()) if len(r) > 1]
    if not rings:
        return area
    fill, stroke = (
        _tone(shape.fill, shape.values.get("fill-opacity")),
        _tone(shape.stroke, shape.values.get("stroke-opacity")),
    )
    if fill is not None:
        inside = shapely.Polygon()
        for ring in rings:
            if len(ring) > 2:
                inside = inside.symmetric_difference(shapely.make_valid(shapely.Polygon(ring)))
        area = area.union(inside) if fill < DARK else area.difference(inside)
    width = float(shape.stroke_width or 0.0) if stroke is not None else 0.0
    if stroke is not None and width > 0:
        lines = shapely.union_all([shapely.LineString(r).buffer(width / 2, cap_style="flat") for r in rings])
        area = area.union(lines) if stroke < DARK else area.difference(lines)
    return area


def _tone(colour: Any, opacity: Any) -> float | None:
    """How bright a colour is, 0 to 1; None where nothing is painted."""
    if colour is None or colour.value is None or (colour.alpha or 0) < 20:
        return None
    try:
        if opacity is not None and float(opacity) < 0.08:
            return None
    except ValueError:
        pass
    return float(0.299 * colour.red + 0.587 * colour.green + 0.114 * colour.blue) / 255


def _laid_out(path: Any) -> Any:
    """A stretch of a path in straight lines."""
    points: list[tuple[float, float]] = []
    for segment in path:
        if isinstance(segment, svgelements.Move) or segment.end is None:
            continue
        straight = isinstance(segment, svgelements.Line | svgelements.Close)
        many = 1 if straight else 16
        for k in range(0 if not points else 1, many + 1):
            p = segment.point(k / many)
            if p is not None and np.isfinite((p.x, p.y)).all():
                points.append((float(p.x), float(p.y)))
    return np.array(points) if points else np.zeros((0, 2))
