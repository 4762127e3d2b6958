"""What is kept: parts, drawings and their steps."""

from .drawings import PAGE, OnShelf, Standing, Store
from .faults import untold

__all__ = ["PAGE", "OnShelf", "Standing", "Store", "untold"]
