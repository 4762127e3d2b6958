"""What is kept: parts, drawings and their steps."""

from .drawings import PAGE, DrawingSnapshot, OnShelf, Store
from .faults import storage_error

__all__ = ["PAGE", "DrawingSnapshot", "OnShelf", "Store", "storage_error"]
