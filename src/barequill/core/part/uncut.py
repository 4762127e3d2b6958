"""Bodies that are not cut lengthwise: shafts, pins, fasteners, balls, by their shape and name."""

from __future__ import annotations

import re
from collections.abc import Collection

import numpy as np
from numpy.typing import NDArray

from .chosen import body_names
from .model import Part

Array = NDArray[np.float64]
WORDS = re.compile(
    r"\b(shaft|spindle|axle|pin|bolt|screw|stud|nut|washer|rivet|key|dowel|ball|roller|cotter|split pin|arbor|mandrel)s?\b",
    re.IGNORECASE,
)
SLENDER = 1.5
"""Length in diameters from which a solid round body counts as a shaft or pin."""


def left_whole(part: Part, normal: Array, shown: Collection[str] | None = None) -> list[str]:
    """Names of the bodies that a cut square to ``normal`` leaves whole, of an assembly; never all of them."""
    names = body_names(part)
    seen = [k for k, name in enumerate(names) if shown is None or name in shown]
    if len(seen) < 2:
        return []
    found = [k for k in seen if _stays_whole(part, k, names[k], normal)]
    return [names[k] for k in found] if len(found) < len(seen) else []


def _stays_whole(part: Part, body: int, name: str, normal: Array) -> bool:
    faces = [f for f in part.faces if f.body == body]
    if faces and all(f.surface.kind == "sphere" for f in faces):
        return True
    by_name = WORDS.search(name.replace("_", " ").replace("-", " ")) is not None
    rounds = [f for f in faces if f.surface.kind == "cylinder"]
    if not rounds:
        return by_name
    largest = max(rounds, key=lambda f: f.area)
    axis = largest.surface.axes[2]
    if abs(float(axis @ normal)) > 0.2:
        # cut across it is hatched like all others
        return False
    if by_name:
        return True
    # solid and round all over: every face turns about one axis, none of them is a bore
    for f in faces:
        s = f.surface
        if s.kind == "plane" and abs(abs(float(s.axes[2] @ axis)) - 1) > 1e-6:
            return False
        if s.kind in ("cylinder", "cone", "torus"):
            off = s.origin - largest.surface.origin
            if np.linalg.norm(off - float(off @ axis) * axis) > 1e-4 * part.size or f.sense * s.hand < 0:
                return False
        elif s.kind not in ("plane", "sphere"):
            return False
    along = np.concatenate([part.mesh.nodes[f.nodes] for f in faces]) @ axis
    return float(np.ptp(along)) >= SLENDER * 2 * max(f.surface.radius for f in rounds)
