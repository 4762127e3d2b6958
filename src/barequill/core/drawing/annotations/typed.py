"""Signs whose words have a form of their own: they are stated and changed as one types them."""

from __future__ import annotations

from typing import Any, ClassVar, Self, TypeVar

from pydantic import ValidationError

from ...errors import UserError
from ..base import Model
from .hung import AnyHung

M = TypeVar("M", bound=Model)


class AnyTyped(AnyHung):
    """A sign that is typed: what it says follows from one line of text, and gives that back."""

    noun: ClassVar[str] = "such sign"
    form: ClassVar[str] = ""
    """How it is typed, by an example."""

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        """The fields that a text tells; raises UserError where it tells none."""
        raise NotImplementedError(cls.noun)

    @classmethod
    def said(cls, text: str, **fields: Any) -> Self:
        """One with these fields that says what a text tells; raises UserError where it tells none, or one beyond all measure."""
        return valid(cls, {**fields, **cls.read(text)})

    @property
    def typed(self) -> str:
        """As it can be typed; read again it is the same."""
        raise NotImplementedError(self.noun)


def valid(kind: type[M], fields: dict[str, Any]) -> M:
    """A part of the document of these fields; raises UserError where one of them is out of bounds."""
    try:
        return kind.model_validate(fields)
    except ValidationError as error:
        first = error.errors()[0]
        where = ".".join(str(x) for x in first["loc"][-2:])
        raise UserError("That value cannot be used", f"{where}: {first['msg']}.") from error
