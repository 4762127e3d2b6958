"""Surface texture (ISO 21920-1; ISO 1302 by convention)."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Affix
from .hung import AnyHung

SHARES = (0.5, 0.35, 0.65, 0.2, 0.8, 0.08, 0.92)
"""Of an outline, where a sign that sits on it is tried."""


class SurfaceTexture(AnyHung):
    """A texture sign on a surface: made by ``any`` process, with material ``removed``, or ``not removed``. ``upper`` and ``lower``
    limits with their parameters (``Ra 1.6``), the ``process``, the direction of ``lay`` and the ``allowance`` for machining (mm).
    ``seated``: on the outline itself; by a leader where it could not be read there, or where it is not."""

    noun: ClassVar[str] = "texture"

    kind: Literal["surface_texture"] = "surface_texture"
    made: Literal["any", "removed", "not removed"] = "removed"
    upper: Affix = "Ra 3.2"
    lower: Affix = ""
    process: Affix = ""
    lay: Literal["", "=", "⊥", "X", "M", "C", "R", "P"] = ""
    allowance: Affix = ""
    all_round: bool = False
    seated: bool = True

    placed_by: ClassVar[tuple[str, ...]] = (*AnyHung.placed_by, "seated")

    def slid(self) -> tuple[SurfaceTexture, ...]:
        """The same farther along the outline on which it sits."""
        if not self.seated or self.foot is None or self.foot.dot:
            return ()
        x, y = self.foot.spot
        places = [(s, y) if x != 0.5 else (x, s) if y != 0.5 else (s, s) for s in SHARES]
        return tuple(self.model_copy(update={"foot": self.foot.model_copy(update={"spot": p})}) for p in places)

    def place_as_json(self) -> dict[str, object]:
        return super().place_as_json() | self.model_dump(mode="json", include={"foot"})

    def led(self, angle: float, offset: float) -> SurfaceTexture:
        return self.model_copy(update={"angle": angle, "offset": offset, "seated": False})
