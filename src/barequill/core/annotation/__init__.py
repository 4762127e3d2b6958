"""Annotations: measured from the part, laid out as ink."""

from .inference import infer
from .picking import Pick
from .sheet_ink import Inkwell, solved
from .sheet_stages import draw_sheet

__all__ = ["Inkwell", "Pick", "draw_sheet", "infer", "solved"]
