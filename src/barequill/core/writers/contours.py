"""Contours of a view as a DXF document at true size, for machines that cut along them."""

from __future__ import annotations

import io
from collections.abc import Sequence

import ezdxf
import numpy as np

from ..geometry.contours import Contours, Piece, points_of

FINE = 0.005
"""mm within which curves that are neither straight nor circular are followed."""
CUT, BEND = "CUT", "BEND"


def write_contours(contours: Contours) -> bytes:
    """Contours as closed polylines of lines and arcs, and circles, in mm at 1:1 on the layer ``CUT``. The layer ``BEND`` has the
    lines along which is bent."""
    document = ezdxf.new("R2010", units=4)
    document.layers.add(CUT, color=7)
    document.layers.add(BEND, color=3)
    space = document.modelspace()
    attribs = {"layer": CUT}
    for loop in contours.loops:
        only = loop[0].curve
        if len(loop) == 1 and only.is_circular and only.full_turn:
            assert only.a is not None
            space.add_circle(tuple(only.poles[0]), float(np.linalg.norm(only.a)), dxfattribs=attribs)
        else:
            space.add_lwpolyline(_corners(loop), format="xyb", close=True, dxfattribs=attribs)
    for bend in contours.bends:
        space.add_line(tuple(bend.poles[0]), tuple(bend.poles[-1]), dxfattribs={"layer": BEND})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")


def _corners(loop: Sequence[Piece]) -> list[tuple[float, float, float]]:
    """The corners of a closed polyline: each with the bulge of the arc to the next."""
    found: list[tuple[float, float, float]] = []
    for piece in loop:
        curve = piece.curve
        bulge = 0.0
        if curve.is_circular and not curve.full_turn:
            assert curve.a is not None and curve.b is not None
            turn = (curve.t1 - curve.t0) * float(np.sign(curve.a[0] * curve.b[1] - curve.a[1] * curve.b[0]))
            # an arc of more than half a turn goes as two
            halves = 2 if abs(turn) > np.pi else 1
            ts = np.linspace(curve.t0, curve.t1, halves + 1)
            points = curve.evaluate(ts[::-1] if piece.back else ts)[:-1]
            bulge = float(np.tan(turn / halves / 4)) * (-1 if piece.back else 1)
        else:
            points = points_of([piece], FINE)
        found += [(float(x), float(y), bulge) for x, y in points]
    return found
