"""Signs whose words have a form of their own: they are stated and changed as one types them."""

from __future__ import annotations

from typing import Any, ClassVar

from .hung import AnyHung


class AnyTyped(AnyHung):
    """A sign that is typed: what it says follows from one line of text, and gives that back."""

    form: ClassVar[str] = ""
    """How it is typed, by an example."""

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        """The fields that a text tells; raises UserError where it tells none."""
        raise NotImplementedError(cls.noun)

    @property
    def typed(self) -> str:
        """As it can be typed; read again it is the same."""
        raise NotImplementedError(self.noun)
