"""Writers: the ink of a sheet to open formats."""

from .dxf import write_dxf
from .pdf import write_pdf
from .png import write_png
from .svg import write_svg

__all__ = ["write_dxf", "write_pdf", "write_png", "write_svg"]
