"""A display list to PNG, by way of the PDF, so that all formats show the same."""

from __future__ import annotations

import io

import pypdfium2

from ..display import DisplayList
from .pdf import write_pdf


def write_png(ink: DisplayList, dots_per_inch: float = 150.0) -> bytes:
    """The sheet as a picture on white."""
    document = pypdfium2.PdfDocument(write_pdf([ink]))
    try:
        image = document[0].render(scale=dots_per_inch / 72).to_pil()
    finally:
        document.close()
    buffer = io.BytesIO()
    image.save(buffer, "PNG", dpi=(dots_per_inch, dots_per_inch))
    return buffer.getvalue()
