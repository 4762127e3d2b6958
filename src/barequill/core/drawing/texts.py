"""A drawing as JSON text, put together of texts of its parts that are kept while these live: an act makes few of them anew."""

from __future__ import annotations

import threading
import weakref
from functools import partial
from typing import Any

from pydantic_core import to_json

from .base import Model
from .document import Drawing

_texts: dict[int, tuple[weakref.ref[Any], str]] = {}
_lock = threading.Lock()


def json_text(drawing: Drawing) -> str:
    """What ``model_dump_json`` gives of a drawing."""
    return _object(
        drawing, "sheets", [_object(s, "annotations", s.annotations, "views", s.views) for s in drawing.sheets]
    )


def _object(value: Model, *lists: Any) -> str:
    """A value as a JSON object, some of its lists given as texts or as values whose texts are kept."""
    given = dict(zip(lists[::2], lists[1::2], strict=True))
    rest = {name: to_json(getattr(value, name)).decode() for name in type(value).model_fields if name not in given}
    inner = {name: ",".join(x if isinstance(x, str) else _text(x) for x in found) for name, found in given.items()}
    fields = (f'"{name}":{rest[name] if name in rest else f"[{inner[name]}]"}' for name in type(value).model_fields)
    return "{" + ",".join(fields) + "}"


def _text(value: Model) -> str:
    """The JSON text of a value that never changes."""
    key = id(value)
    found = _texts.get(key)
    if found is not None and found[0]() is value:
        return found[1]
    text = value.model_dump_json()
    with _lock:
        _texts[key] = weakref.ref(value, partial(_drop, key)), text
    return text


def _drop(key: int, gone: Any) -> None:
    found = _texts.get(key)
    if found is not None and found[0] is gone:
        _texts.pop(key, None)
