"""Reading part files through the kernel: the only room that imports it."""

from .reading import content_key, read_part

__all__ = ["content_key", "read_part"]
