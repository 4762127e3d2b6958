"""Annotations: measured from the part, laid out as ink."""

from .inference import infer
from .picking import Pick
from .sheet_ink import Inkwell, draw_sheet, solved

__all__ = ["Inkwell", "Pick", "draw_sheet", "infer", "solved"]
