"""Ink to PDF: true size, vector, lettering embedded."""

from __future__ import annotations

import io
from functools import lru_cache

import numpy as np
from reportlab.lib.units import mm
from reportlab.lib.utils import ImageReader
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas

from ..ink import Fill, Ink, Stroke, Text, Tint
from ..ink.lettering import FONT_FILE, FONT_NAME, font_size
from ..ink.paths import cubics


@lru_cache(maxsize=1)
def _register() -> None:
    pdfmetrics.registerFont(TTFont(FONT_NAME, str(FONT_FILE)))


def write_pdf(sheets: list[Ink]) -> bytes:
    """The sheets as pages of one PDF document."""
    _register()
    buffer = io.BytesIO()
    canvas = Canvas(buffer, invariant=True, initialFontName=FONT_NAME)
    if sheets:
        canvas.setTitle(sheets[0].title)
    canvas.setCreator("Bare Quill")
    for ink in sheets:
        canvas.setPageSize((ink.width * mm, ink.height * mm))
        canvas.setLineCap(1)
        canvas.setLineJoin(1)
        for mark in ink.marks:
            if isinstance(mark, Stroke):
                _stroke(canvas, ink, mark)
            elif isinstance(mark, Fill):
                path = canvas.beginPath()
                path.moveTo(*(mark.points[0] * mm))
                for p in mark.points[1:]:
                    path.lineTo(*(p * mm))
                path.close()
                canvas.drawPath(path, stroke=0, fill=1)
            elif isinstance(mark, Tint):
                box = np.array([mark.x0, mark.y0, mark.x1 - mark.x0, mark.y1 - mark.y0]) * mm
                canvas.drawImage(ImageReader(io.BytesIO(mark.png)), *box, mask="auto")
            else:
                _text(canvas, mark)
        canvas.showPage()
    canvas.save()
    return buffer.getvalue()


def _stroke(canvas: Canvas, ink: Ink, mark: Stroke) -> None:
    canvas.setLineWidth(ink.width_of(mark.pen) * mm)
    dashes = ink.dashes(mark)
    canvas.setDash([d * mm for d in dashes], 0) if dashes else canvas.setDash()
    canvas.setLineCap(0 if dashes else 1)
    path = canvas.beginPath()
    curve = mark.curve
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


def _text(canvas: Canvas, mark: Text) -> None:
    canvas.saveState()
    canvas.translate(mark.x * mm, mark.y * mm)
    canvas.rotate(mark.angle)
    canvas.setFont(FONT_NAME, font_size(mark.height) * mm)
    draw = {"start": canvas.drawString, "middle": canvas.drawCentredString, "end": canvas.drawRightString}[mark.anchor]
    draw(0, 0, mark.text)
    canvas.restoreState()
