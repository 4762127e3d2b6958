"""A drawing as JSON text, put together of texts of its parts that are kept while these live: an act makes few of them anew."""

from __future__ import annotations

import threading
import weakref
from collections.abc import Callable
from functools import partial
from typing import Any

from pydantic_core import to_json

from .base import Model
from .document import Drawing

_texts: dict[int, tuple[weakref.ref[Any], str]] = {}
_lock = threading.Lock()


def json_text(drawing: Drawing) -> str:
    """What ``model_dump_json`` gives of a drawing."""
    return _object(drawing, "sheets", [_kept(s, _of_sheet) for s in drawing.sheets])


def _of_sheet(sheet: Model) -> str:
    return _object(sheet, "annotations", sheet.annotations, "views", sheet.views)  # type: ignore[attr-defined]


def _object(value: Model, *lists: Any) -> str:
    """A value as a JSON object, some of its lists given as texts or as values whose texts are kept."""
    given = dict(zip(lists[::2], lists[1::2], strict=True))
    rest = {name: to_json(getattr(value, name)).decode() for name in type(value).model_fields if name not in given}
    inner = {name: ",".join(x if isinstance(x, str) else _text(x) for x in found) for name, found in given.items()}
    fields = (f'"{name}":{rest[name] if name in rest else f"[{inner[name]}]"}' for name in type(value).model_fields)
    return "{" + ",".join(fields) + "}"


def _text(value: Model) -> str:
    found = _texts.get(id(value))
    return found[1] if found is not None and found[0]() is value else _kept(value, Model.model_dump_json)


def _kept(value: Model, make: Callable[[Model], str]) -> str:
    """The JSON text of a value that never changes, made once."""
    key = id(value)
    found = _texts.get(key)
    if found is not None and found[0]() is value:
        return found[1]
    text = make(value)
    with _lock:
        _texts[key] = weakref.ref(value, partial(_drop, key)), text
    return text


def _drop(key: int, gone: Any) -> None:
    found = _texts.get(key)
    if found is not None and found[0] is gone:
        _texts.pop(key, None)
