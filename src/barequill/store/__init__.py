"""What is kept: parts, drawings and their steps."""

from .drawings import Standing, Store, untold

__all__ = ["Standing", "Store", "untold"]
