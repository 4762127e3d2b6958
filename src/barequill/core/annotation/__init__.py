"""Annotations: measured from the part, laid out as ink."""

from .inference import Pick, infer
from .sheet_ink import draw_sheet

__all__ = ["Pick", "draw_sheet", "infer"]
