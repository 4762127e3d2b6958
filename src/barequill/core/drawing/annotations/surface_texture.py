"""Surface texture (ISO 21920-1; ISO 1302 by convention)."""

from __future__ import annotations

from typing import ClassVar, Literal

from ...bounds import Affix
from .hung import AnyHung


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

    def led(self, angle: float, offset: float) -> SurfaceTexture:
        return self.model_copy(update={"angle": angle, "offset": offset, "seated": False})
