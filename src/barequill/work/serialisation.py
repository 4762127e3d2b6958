"""Parts, curves and shadings as bytes: JSON and plain arrays with a checksum. Loading runs nothing that is in them.

The form: a magic line, the SHA-256 of all that follows it, the length of the JSON, the JSON, then the arrays one after
the other, each from a place divisible by 8. In the JSON a value of one of our classes is ``{"k": its name, "v": its
fields in order}``, an array ``{"a": [place, kind of its figures, extents]}``, a slice ``{"s": [start, stop]}``; a list
stands for a tuple.
"""

from __future__ import annotations

import hashlib
import json
import math
import os
from dataclasses import fields
from functools import lru_cache
from importlib import import_module
from pathlib import Path
from typing import Any

import numpy as np

MAGIC = b"bare quill cache 1\n"
MODULES = {
    "Part": "part.model",
    "Body": "part.model",
    "BendLine": "part.model",
    "Face": "part.model",
    "Edge": "part.model",
    "Mesh": "part.model",
    "Product": "part.products",
    "NamedSize": "part.named_sizes",
    "NamedThread": "part.named_sizes",
    "Surface": "geometry.surfaces",
    "Curve3": "geometry.curves3",
    "Curve2": "geometry.curves2",
    "Columns": "projection.columns",
    "Shading": "projection.shading",
}
"""The classes of which values are kept, each loaded where one is met: nothing else is ever made of bytes."""
FIGURES = {"<f8", "<i8", "|b1", "|u1"}


@lru_cache
def _kind(name: str) -> tuple[Any, list[str]]:
    """A class by its name, and its fields."""
    if name not in MODULES:
        raise Damaged(f"unknown {name}")
    kind = getattr(import_module(f"barequill.core.{MODULES[name]}"), name)
    return kind, [f.name for f in fields(kind)]


class Damaged(ValueError):
    """Bytes that are not what was once written."""


def packed(value: Any) -> bytes:
    """A value of our classes, or a tuple of such, as bytes."""
    blocks: list[bytes] = []
    place = 0

    def plain(x: Any) -> Any:
        nonlocal place
        if x is None or isinstance(x, bool | int | float | str):
            return x
        if isinstance(x, np.ndarray):
            data = np.ascontiguousarray(x)
            found = {"a": [place, data.dtype.str, *data.shape]}
            own = data.tobytes()
            blocks.append(own + bytes(-len(own) % 8))
            place += len(blocks[-1])
            return found
        if isinstance(x, bytes):
            return plain(np.frombuffer(x, np.uint8)) | {"b": 1}
        if isinstance(x, tuple | list):
            return [plain(y) for y in x]
        if isinstance(x, slice):
            return {"s": [x.start, x.stop]}
        if isinstance(x, np.generic):
            return x.item()
        kind, names = _kind(type(x).__name__)
        assert type(x) is kind, f"a {type(x).__name__} is not to be kept"
        return {"k": kind.__name__, "v": [plain(getattr(x, name)) for name in names]}

    text = json.dumps(plain(value), separators=(",", ":")).encode()
    text += b" " * (-len(text) % 8)
    body = len(text).to_bytes(8, "little") + text + b"".join(blocks)
    return MAGIC + hashlib.sha256(body).digest() + body


def unpacked(data: bytes) -> Any:
    """The value that :func:`packed` made these bytes of.

    Raises
    ------
    Damaged
        Where a byte of them is another, or some are missing.
    """
    head = len(MAGIC) + 32
    body = memoryview(data)[head:]
    if not data.startswith(MAGIC) or hashlib.sha256(body).digest() != data[len(MAGIC) : head]:
        raise Damaged("not as it was written")
    length = int.from_bytes(body[:8], "little")
    blocks = body[8 + length :]

    def made(x: dict[str, Any]) -> Any:
        if "k" in x:
            return _kind(x["k"])[0](*(_tupled(y) for y in x["v"]))
        if "a" in x:
            place, kind, *extents = x["a"]
            if kind not in FIGURES:
                raise Damaged(f"unknown figures {kind}")
            own = np.frombuffer(blocks, kind, math.prod(extents), place).reshape(extents)
            return own.tobytes() if "b" in x else own.copy()
        return slice(*x["s"])

    return _tupled(json.loads(bytes(body[8 : 8 + length]), object_hook=made))


def _tupled(x: Any) -> Any:
    return tuple(_tupled(y) for y in x) if isinstance(x, list) else x


def write_whole(path: str | Path, data: bytes, durable: bool = True) -> None:
    """Write a file so that it is there whole, or not at all; on the disk where it is ``durable``: what can be made again
    and has a checksum need not outlive a loss of power."""
    partial = Path(f"{path}.{os.getpid()}.part")
    try:
        with partial.open("wb") as file:
            file.write(data)
            if durable:
                file.flush()
                os.fsync(file.fileno())
        os.replace(partial, path)
    except BaseException:
        partial.unlink(missing_ok=True)
        raise
