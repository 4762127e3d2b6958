"""What solving an annotation reads of its drawing, found by watching it read: kept ink holds as long as all that is the same."""

from __future__ import annotations

from collections.abc import Mapping
from functools import lru_cache
from typing import Any, TypeVar

from ..drawing.base import Model

M = TypeVar("M", bound=Model)
Answers = dict[tuple[str, str], Any]
"""By what was asked and of whom the answer: a field of a part of the document, all of it (``*``), or a question of a layout context."""
WHOLE = ("model_copy", "model_dump", "model_dump_json", "copy", "dict", "json")
"""What reads all fields of a part of the document at once."""


def watched(model: M, who: str, asked: Answers) -> M:
    """A part of the document that is like another in all, and notes in ``asked`` which of its fields are read."""
    own: Any = object.__new__(_watching(type(model)))
    state = {
        name: getattr(model, name) for name in ("__pydantic_extra__", "__pydantic_fields_set__", "__pydantic_private__")
    }
    object.__setattr__(own, "__dict__", {**model.__dict__, "~watch": (who, asked, model)})
    for name, value in state.items():
        object.__setattr__(own, name, value)
    return own  # type: ignore[no-any-return]


def told(asked: Answers) -> str:
    """All that was asked with its answers, as text: alike for the same, in whichever order it was asked."""
    return "|".join(f"{who} {what} {_text(asked[who, what])}" for who, what in sorted(asked))


def _text(answer: Any) -> str:
    if isinstance(answer, Model):
        return answer.model_dump_json()
    if isinstance(answer, list | tuple):
        return "[" + ",".join(map(_text, answer)) + "]"
    return repr(answer)


GONE = object()


def still_so(asked: Answers, models: Mapping[str, Any]) -> bool:
    """True where all that was asked has the same answers of these parts of the document, by who they are."""
    for (who, what), before in asked.items():
        # one of another kind may stand under the same id, and have no such thing
        now = models[who] if what == "*" else getattr(models[who], what, GONE)
        if now is not before and now != before:
            return False
    return True


@lru_cache(maxsize=100)
def _watching(kind: type[Model]) -> type[Model]:
    fields = frozenset(kind.model_fields)

    class Watching(kind):  # type: ignore[valid-type, misc]
        def __getattribute__(self, name: str) -> Any:
            if name in fields:
                who, asked, _ = object.__getattribute__(self, "__dict__")["~watch"]
                found = object.__getattribute__(self, "__dict__")[name]
                asked[who, name] = found
                return found
            if name in WHOLE:
                who, asked, model = object.__getattribute__(self, "__dict__")["~watch"]
                asked[who, "*"] = model
                return getattr(model, name)
            return super().__getattribute__(name)

        def __eq__(self, other: object) -> bool:
            who, asked, model = object.__getattribute__(self, "__dict__")["~watch"]
            asked[who, "*"] = model
            return bool(model == other)

        __hash__ = None  # type: ignore[assignment]

    return Watching
