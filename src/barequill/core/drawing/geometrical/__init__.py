"""Geometrical tolerances as values: what a tolerance frame says, in signs, in JSON and in words, and what it may not say."""

from .language import frame_of, text_of
from .model import DatumCell, Frame, FrameRow, PlaneIndicator
from .rules import check, remarks
from .words import explained, sentence

__all__ = [
    "DatumCell",
    "Frame",
    "FrameRow",
    "PlaneIndicator",
    "check",
    "explained",
    "frame_of",
    "remarks",
    "sentence",
    "text_of",
]
