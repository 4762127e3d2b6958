"""What is kept: parts, drawings and their steps."""

from .drawings import Standing, Store

__all__ = ["Standing", "Store"]
