"""A display list to DXF (R2010): real curves, layers by line kind, dimensions as DIMENSION entities, mm at sheet scale."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from typing import Any

import ezdxf
import numpy as np
from ezdxf.colors import RGB
from ezdxf.document import Drawing as DxfDocument
from ezdxf.enums import TextEntityAlignment
from ezdxf.layouts import BaseLayout

from ..display import DimensionRecord, DisplayList, Hatch, Mark, Region, Stroke, Text, Tint
from ..display.hatching import PATTERNS
from ..display.lettering import EVERY, FACES, FONT_NAME, SLOPED, pieces
from ..display.signs import has_signs, sign_of
from ..geometry.curves2 import Curve2
from ..standards.lines import PENS
from .base import Writer
from .tones import tone_regions

_ALIGN = {"start": TextEntityAlignment.LEFT, "middle": TextEntityAlignment.CENTER, "end": TextEntityAlignment.RIGHT}
_WEIGHTS = [0, 5, 9, 13, 15, 18, 20, 25, 30, 35, 40, 50, 53, 60, 70, 80, 90, 100, 106, 120, 140, 158, 200, 211]


TONES = "TONES"
HEADINGS = "LETTERING_BOLD"
STYLES = {"DejaVuSans": "LETTERING_WIDE", "DroidSansFallback": "LETTERING_CHINESE", SLOPED.name: "LETTERING_SLOPED"}
"""Text styles for what the lettering itself lacks, by font."""


def as_text(text: str) -> str:
    """A text as a TEXT entity holds it: what would be taken for a control code stands for itself."""
    text = re.sub(r"\\(?=[Uu]\+[0-9A-Fa-f]{4})", lambda m: "\\U+005C", text)
    return re.sub("%(?=%)|(?<=%)%", "%%%", text).replace("^", "^ ")


def as_multiline(text: str) -> str:
    """A text as the override of a DIMENSION holds it, which reads braces, backslashes and ``<>`` too."""
    text = re.sub(r"([\\{}])", r"\\\1", text).replace("^", "^ ")
    return text.replace("<>", "< >").replace("[]", "[ ]")


APART = 50.0
"""mm between sheets that lie beside each other."""


def write_dxf(ink: DisplayList, *more: DisplayList) -> bytes:
    """A sheet as a DXF document; with ``more`` sheets they lie beside each other, and each is a layout of its own that looks at
    its place at true size. Line widths go by layer, and are those of the first."""
    document = ezdxf.new("R2010", units=4)
    document.header["$LTSCALE"] = 1.0
    document.header["$EXTMIN"] = (0, 0, 0)
    wide = sum(i.width + APART for i in (ink, *more)) - APART
    document.header["$EXTMAX"] = (wide, max(i.height for i in (ink, *more)), 0)
    document.styles.add("LETTERING", font=f"{FONT_NAME}.ttf")
    document.styles.add(HEADINGS, font=f"{FONT_NAME}.ttf").set_extended_font_data(FONT_NAME, bold=True)
    for face in EVERY[1:]:
        document.styles.add(STYLES[face.name], font=face.file.name)
    _layers(document, ink)
    style = document.dimstyles.get("Standard")
    style.dxf.dimtxsty = "LETTERING"
    style.dxf.dimtxt = ink.lines.lettering
    style.dxf.dimasz = ink.lines.lettering
    left = 0.0
    for number, own in enumerate((ink, *more), 1):
        _sheet(document, own, left)
        if more:
            _layout(document, own, left, f"Sheet {number}")
        left += own.width + APART
    if more:
        document.layouts.delete("Layout1")
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")


def _sheet(document: DxfDocument, ink: DisplayList, left: float) -> None:
    """The elements of a sheet whose lower left corner lies so far (mm) to the right of the document's zero."""
    for each in ink.elements:
        element = each.placed((each.at[0] + left, each.at[1])) if left else each
        if element.record is not None:
            _dimension(document, ink, element.record.moved(element.at), element.on_sheet())
        else:
            layer = "FRAME_NARROW" if element.kind == "sheet" else "TEXT"
            _Space(ink, document.modelspace(), layer).write(element.on_sheet())


def _layout(document: DxfDocument, ink: DisplayList, left: float, name: str) -> None:
    """A layout of paper as large as a sheet, with a window onto it at true size."""
    layout = document.layouts.new(name)
    layout.page_setup(size=(ink.width, ink.height), margins=(0, 0, 0, 0), units="mm")
    middle = ink.width / 2, ink.height / 2
    layout.add_viewport(
        center=middle,
        size=(ink.width, ink.height),
        view_center_point=(left + middle[0], middle[1]),
        view_height=ink.height,
    )


def _layers(document: DxfDocument, ink: DisplayList) -> None:
    narrow = ink.lines.narrow
    for pen in PENS.values():
        name = "CONTINUOUS"
        if pen.pattern:
            name = f"ISO_{pen.layer}"
            # lengths in mm: dashes above zero, gaps below, after the total
            steps = [p * narrow * (1 if k % 2 == 0 else -1) for k, p in enumerate(pen.pattern)]
            document.linetypes.add(
                name, pattern=[sum(abs(s) for s in steps), *steps], description=f"ISO 128-2 {pen.number}"
            )
        weight = min(_WEIGHTS, key=lambda w: abs(w - ink.width_of(pen.name) * 100))
        document.layers.add(pen.layer, linetype=name, lineweight=weight)
    document.layers.add(TONES)


class _Space(Writer):
    """A space of the document, or a block of it; lettering goes to a layer of its own."""

    def __init__(self, ink: DisplayList, space: BaseLayout, text_layer: str) -> None:
        super().__init__(ink)
        self.space = space
        self.text_layer = text_layer

    def stroke(self, mark: Stroke) -> None:
        _curve(self.space, mark.curve, {"layer": PENS[mark.pen].layer})

    def region(self, mark: Region) -> None:
        points = [tuple(p) for p in mark.rings[0]]
        if len(mark.rings) == 1 and len(points) == 3:
            self.space.add_solid(points, dxfattribs={"layer": "DIMENSION"})
            return
        hatch = self.space.add_hatch(color=256, dxfattribs={"layer": "DIMENSION"})
        for k, ring in enumerate(mark.rings):
            hatch.paths.add_polyline_path([tuple(p) for p in ring], flags=1 if k == 0 else 16)

    def hatch(self, mark: Hatch) -> None:
        """A HATCH entity with its outlines and the lines of its pattern."""
        entity = self.space.add_hatch(color=256, dxfattribs={"layer": PENS[mark.pen].layer})
        lines = []
        for strand in PATTERNS[mark.pattern]:
            angle = mark.angle + strand.turn
            across = np.array([-np.sin(np.radians(angle)), np.cos(np.radians(angle))])
            base, step = across * strand.aside * mark.spacing, across * strand.apart * mark.spacing
            dashes = [d * mark.spacing * (1 if k % 2 == 0 else -1) for k, d in enumerate(strand.dashes)]
            lines.append([angle, tuple(base), tuple(step), dashes])
        entity.set_pattern_fill(f"BQ_{mark.pattern.upper()}", color=256, angle=0, scale=1, definition=lines)
        for k, ring in enumerate(mark.rings):
            entity.paths.add_polyline_path([tuple(p) for p in ring], flags=1 if k == 0 else 16)

    def tint(self, mark: Tint) -> None:
        """Solid hatches, one over another: the format keeps pictures in files of their own."""
        for grey, rings in tone_regions(mark):
            hatch = self.space.add_hatch(dxfattribs={"layer": TONES})
            hatch.set_solid_fill(color=7, rgb=RGB(*grey))
            for k, ring in enumerate(rings):
                hatch.paths.add_polyline_path([tuple(p) for p in ring], flags=1 if k == 0 else 16)

    def text(self, mark: Text) -> None:
        """A TEXT entity; where it has signs, one for each run of letters, and a block of strokes for each sign, so that it
        hangs on no font."""
        if not has_signs(mark.text):
            others = [
                face.name for face, _, _ in pieces(mark.text, mark.font) if face is not FACES[0] and face is not None
            ]
            self._letters(mark.text, mark, (mark.x, mark.y), STYLES[others[0]] if others else "LETTERING", mark.anchor)
            return
        for font, letters, at in mark.runs():
            if font:
                self._letters(letters, mark, tuple(at), STYLES.get(font, "LETTERING"), "start")
            else:
                place = {"xscale": mark.height, "yscale": mark.height, "rotation": mark.angle, "layer": self.text_layer}
                self.space.add_blockref(self._block_of(letters), tuple(at), dxfattribs=place)

    def _letters(self, text: str, mark: Text, at: tuple[float, ...], style: str, anchor: str) -> None:
        own = {"layer": self.text_layer, "style": HEADINGS if mark.bold and style == "LETTERING" else style}
        entity = self.space.add_text(as_text(text), height=mark.height, rotation=mark.angle, dxfattribs=own)
        entity.set_placement(at, align=_ALIGN[anchor])

    def _block_of(self, sign: str) -> str:
        """The name of the block that holds a sign, for letters 1 mm high."""
        assert self.space.doc is not None
        blocks, name = self.space.doc.blocks, f"SIGN_{ord(sign):04X}"
        if name not in blocks:
            own, shape = blocks.new(name), sign_of(sign)
            assert shape is not None
            own.block.dxf.description = shape.word  # type: ignore[union-attr]
            for curve in shape.strokes:
                _curve(own, curve, {"layer": "0"})
            for ring in shape.fills:
                own.add_solid([tuple(p) for p in ring], dxfattribs={"layer": "0"})
        return name


def _curve(space: BaseLayout, curve: Curve2, attribs: dict[str, Any]) -> None:
    if curve.kind == "line":
        space.add_line(tuple(curve.poles[0]), tuple(curve.poles[-1]), dxfattribs=attribs)
    elif curve.kind == "polyline":
        space.add_lwpolyline([tuple(p) for p in curve.poles], dxfattribs=attribs)
    elif curve.kind == "nurbs":
        assert curve.knots is not None
        spline = space.add_spline(degree=curve.degree, dxfattribs=attribs)
        spline.control_points = [(x, y, 0) for x, y in curve.poles]
        spline.knots = curve.knots.tolist()
        if curve.weights is not None:
            spline.weights = curve.weights.tolist()
    else:
        assert curve.a is not None and curve.b is not None
        centre = tuple(curve.poles[0])
        if curve.is_circular:
            radius, turn = float(np.linalg.norm(curve.a)), np.degrees(np.arctan2(curve.a[1], curve.a[0]))
            if curve.full_turn:
                space.add_circle(centre, radius, dxfattribs=attribs)
            else:
                space.add_arc(
                    centre, radius, np.degrees(curve.t0) + turn, np.degrees(curve.t1) + turn, dxfattribs=attribs
                )
        else:
            ratio = float(np.linalg.norm(curve.b) / np.linalg.norm(curve.a))
            start, end = (0.0, 2 * np.pi) if curve.full_turn else (curve.t0, curve.t1)
            space.add_ellipse(centre, tuple(curve.a), min(ratio, 1.0), start, end, dxfattribs=attribs)


_TYPES = {"linear": 0, "angular": 5, "diameter": 3, "radius": 4}


def _dimension(document: DxfDocument, ink: DisplayList, record: DimensionRecord, marks: Sequence[Mark]) -> None:
    """A DIMENSION entity with its picture in its own block, exactly as on the sheet."""
    block = document.blocks.new_anonymous_block(type_char="D")
    _Space(ink, block, "DIMENSION").write(marks)
    points = {k: (v[0], v[1], 0.0) for k, v in record.points.items()}
    attribs: dict[str, Any] = {
        "layer": "DIMENSION",
        "geometry": block.name,
        "dimtype": _TYPES[record.form] | 32 | 128,
        "text": as_multiline(record.text),
        "text_midpoint": points["text"],
        "defpoint": points["line"],
    }
    if record.form == "linear":
        attribs |= {"defpoint2": points["first"], "defpoint3": points["second"], "angle": record.angle}
    elif record.form == "angular":
        attribs |= {"defpoint2": points["first"], "defpoint3": points["second"], "defpoint4": points["apex"]}
    else:
        attribs["defpoint4"] = points["second"]
    entity = document.modelspace().new_entity("DIMENSION", attribs)
    override = entity.override()
    override.update({"dimlfac": record.factor, "dimtxt": next((m.height for m in marks if isinstance(m, Text)), 3.5)})
    if record.upper is not None and record.lower is not None:
        # the lower one is stored with its sign turned
        fields = {"dimlim": 1, "dimtol": 0} if record.limits else {"dimtol": 1, "dimlim": 0}
        override.update({**fields, "dimtp": record.upper, "dimtm": -record.lower})
    override.commit()
