"""What is kept: parts, drawings and their steps."""

from .drawings import Standing, Store
from .faults import untold

__all__ = ["Standing", "Store", "untold"]
