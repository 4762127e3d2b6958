"""A stretch of an outline that is treated (hardened, coated): a wide chain line along it (ISO 128-2, 04.2; ISO 15787)."""

from __future__ import annotations

from typing import Any, ClassVar, Literal

from ...bounds import Text, plain
from ...errors import UserError
from .hung import Share
from .typed import AnyTyped


class TreatedStretch(AnyTyped):
    """From its ``foot`` to another spot (``to``) of the same edge a wide chain line stands off the outline, with a ``text`` on a leader."""

    noun: ClassVar[str] = "treated stretch"
    form: ClassVar[str] = "hardened 58+4 HRC"

    kind: Literal["treated_stretch"] = "treated_stretch"
    text: Text
    to: tuple[Share, Share] = (1.0, 1.0)

    @classmethod
    def read(cls, text: str) -> dict[str, Any]:
        words = " ".join(str(plain(text)).split())
        if not words:
            raise UserError("Nothing is said of the stretch", "Write what is done there: hardened 58+4 HRC.")
        return {"text": words}

    @property
    def typed(self) -> str:
        return self.text
