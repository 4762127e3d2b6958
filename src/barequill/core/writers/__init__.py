"""Writers: the ink of a sheet to open formats; each is loaded when it is first asked for."""

from __future__ import annotations

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .dxf import write_dxf
    from .pdf import write_pdf
    from .png import write_png
    from .svg import write_svg

__all__ = ["write_dxf", "write_pdf", "write_png", "write_svg"]


def __getattr__(name: str) -> Any:
    if name not in __all__:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f".{name.removeprefix('write_')}", __name__), name)
