"""A display list to PDF: true size, vector, lettering embedded."""

from __future__ import annotations

import io
from collections.abc import Sequence
from datetime import date
from functools import lru_cache

import numpy as np
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import FILL_EVEN_ODD, Canvas

from ..display import DisplayList, Hatch, Region, Stroke, Text, Tint
from ..display.lettering import EVERY, FONT_NAME, font_size, pieces, text_width
from ..display.marks import box_of
from ..display.paths import cubics
from ..display.signs import WORDS
from ..geometry.curves2 import Curve2
from .base import Writer


@lru_cache(maxsize=1)
def _register() -> None:
    for face in EVERY:
        pdfmetrics.registerFont(TTFont(face.name, str(face.file)))


def canvas_of(buffer: io.BytesIO, width: float, height: float) -> Canvas:
    """A page of so many mm, with the lettering of sheets."""
    _register()
    return Canvas(buffer, pagesize=(width * mm, height * mm), invariant=True, initialFontName=FONT_NAME)


def write_pdf(sheets: list[DisplayList]) -> bytes:
    """The sheets as pages of one PDF document."""
    _register()
    buffer = io.BytesIO()
    canvas = Canvas(buffer, invariant=True, initialFontName=FONT_NAME)
    if sheets:
        _describe(canvas, sheets[0])
    for k, ink in enumerate(sheets):
        canvas.setPageSize((ink.width * mm, ink.height * mm))
        canvas.setLineJoin(1)
        page = _Page(ink, canvas)
        for element in ink.elements:
            page.write(element.on_sheet())
        _mark(canvas, ink, k + 1)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def _describe(canvas: Canvas, ink: DisplayList) -> None:
    """What a reader tells of the document: title, author, subject and date as in the title block."""
    said = {zone.field: zone.value for zone in ink.fields}
    canvas.setCreator("Bare Quill")
    canvas.setTitle(ink.title)
    canvas.setAuthor(said.get("creator", ""))
    canvas.setSubject(said.get("document_type", ""))
    canvas.setKeywords([x for x in (said.get("number"), said.get("material"), said.get("owner")) if x])
    try:
        day = date.fromisoformat(said.get("date", "")[:10])
    except ValueError:
        return
    # the same sheet gives the same file: its date is that of issue
    canvas.setDateFormatter(lambda *_: f"D:{day:%Y%m%d}000000Z")


def _mark(canvas: Canvas, ink: DisplayList, number: int) -> None:
    """Bookmarks of a page: of the sheet, and under it of its views, from above."""
    canvas.bookmarkPage(f"sheet-{number}", fit="Fit")
    canvas.addOutlineEntry(f"Sheet {number}", f"sheet-{number}", level=0)
    views = [(e, box) for e in ink.elements if e.kind == "view" and (box := box_of(e.on_sheet())) is not None]
    for e, box in sorted(views, key=lambda v: (-round(v[1].y1), v[1].x0)):
        own = f"sheet-{number}-{e.id}"
        canvas.bookmarkHorizontalAbsolute(own, (box.y1 + 10) * mm, (box.x0 - 10) * mm)
        canvas.addOutlineEntry(ink.names.get(e.id, e.words), own, level=1)


class _Page(Writer):
    """A page of the document."""

    def __init__(self, ink: DisplayList, canvas: Canvas) -> None:
        super().__init__(ink)
        self.canvas = canvas

    def stroke(self, mark: Stroke) -> None:
        self._line(mark.curve, self.ink.width_of(mark.pen), self.ink.dashes(mark))

    def _line(self, curve: Curve2, width: float, dashes: Sequence[float] = ()) -> None:
        canvas = self.canvas
        canvas.setLineWidth(width * mm)
        canvas.setDash([d * mm for d in dashes], 0) if dashes else canvas.setDash()
        canvas.setLineCap(0 if dashes else 1)
        path = canvas.beginPath()
        if curve.kind in ("conic", "nurbs"):
            arcs = cubics(curve)
            path.moveTo(*(arcs[0][0] * mm))
            for arc in arcs:
                path.curveTo(*(arc[1:] * mm).ravel())
            if curve.full_turn:
                path.close()
        else:
            path.moveTo(*(curve.poles[0] * mm))
            for p in curve.poles[1:]:
                path.lineTo(*(p * mm))
        canvas.drawPath(path, stroke=1, fill=0)

    def region(self, mark: Region) -> None:
        path = self.canvas.beginPath()
        for ring in mark.rings:
            path.moveTo(*(ring[0] * mm))
            for p in ring[1:]:
                path.lineTo(*(p * mm))
            path.close()
        self.canvas.drawPath(path, stroke=0, fill=1, fillMode=FILL_EVEN_ODD)

    def hatch(self, mark: Hatch) -> None:
        self.canvas.setLineWidth(self.ink.width_of(mark.pen) * mm)
        self.canvas.setDash()
        self.canvas.setLineCap(0)
        self.canvas.lines((mark.segments * mm).reshape(-1, 4).tolist())

    def tint(self, mark: Tint) -> None:
        box = np.array([mark.x0, mark.y0, mark.x1 - mark.x0, mark.y1 - mark.y0]) * mm
        self.canvas.drawImage(ImageReader(io.BytesIO(mark.png)), *box, mask="auto")

    def text(self, mark: Text) -> None:
        canvas = self.canvas
        canvas.saveState()
        canvas.translate(*(x * mm for x in mark.start))
        canvas.rotate(mark.angle)
        if mark.bold:
            canvas.setLineWidth(mark.grown * mm)
            canvas.setLineJoin(1)
        # as it stands from left to right: readers put what is read from right to left in its order by themselves
        size = font_size(mark.height) * mm
        for face, letters, at in pieces(mark.text, mark.font):
            if face is None:
                self._word(letters, at * size, size)
                continue
            canvas.setFont(face.name, size * face.share)
            canvas.drawString(at * size, 0, letters, mode=2 if mark.bold else None)
        canvas.restoreState()
        strokes, fills = mark.signs()
        for curve in strokes:
            self._line(curve, mark.stroke)
        for ring in fills:
            self.region(Region((ring,)))

    def _word(self, sign: str, x: float, size: float) -> None:
        """The word for a sign, without ink, for who searches: as wide as the sign is."""
        word = f" {WORDS[sign]} "
        text = self.canvas.beginText(x, 0)
        text.setFont(FONT_NAME, size)
        text.setTextRenderMode(3)
        text.setHorizScale(100 * text_width(sign, 1.0, "upright") / text_width(word, 1.0, "upright"))
        text.textOut(word)
        text.setTextRenderMode(0)
        text.setHorizScale(100)
        self.canvas.drawText(text)
