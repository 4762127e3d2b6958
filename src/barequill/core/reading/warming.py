"""Have all that reads a part ready before the first one comes."""

from __future__ import annotations

from OCP.BRepBuilderAPI import BRepBuilderAPI_NurbsConvert
from OCP.BRepPrimAPI import BRepPrimAPI_MakeCone, BRepPrimAPI_MakeTorus

from ..geometry.compiled import only_load as only_load
from .preparing import prepare
from .raw import RawBody
from .weighing import weigh


def warm() -> None:
    """Prepare a cone, and a ring as a free-form shape: what is loaded at its first use is loaded then."""
    cone = BRepPrimAPI_MakeCone(5.0, 3.0, 10.0).Shape()
    ring = BRepBuilderAPI_NurbsConvert(BRepPrimAPI_MakeTorus(20.0, 3.0).Shape(), True).Shape()
    raw = [RawBody("cone", cone), RawBody("ring", ring)]
    named = {"key": "", "name": "", "number": "", "unit": "millimetre"}
    prepare(raw, lambda: weigh(raw), **named, progress=lambda share, what: None)
