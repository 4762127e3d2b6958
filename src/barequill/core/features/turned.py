"""Bosses, the steps of turned parts, grooves in them and recesses in bores, and the chamfers of round edges."""

from __future__ import annotations

import numpy as np

from ..part.model import Part
from .feature import Feature, Kind
from .rings import NEAR, Profile, Ring, profiles

WHOLE = 2 * np.pi - 0.8
"""From this angle on, a ring goes all round but for a keyway or flat."""
SHORT = 0.25
"""Of the diameter: how long and how high the chamfer of a round edge is at most."""


def profiles_of(part: Part) -> list[tuple[bool, Profile]]:
    """The profiles of a part that go all round somewhere, with whether they look inward."""
    return [
        (inward, own)
        for inward, own in profiles(part)
        if any(g.turn >= WHOLE for g in own.rings if g.kind == "cylinder")
    ]


def turned_of(part: Part) -> list[Feature]:
    """Bosses, steps, grooves, recesses and the chamfers of round edges."""
    near = NEAR * part.size
    found = []
    for inward, own in profiles_of(part):
        rings = own.rings
        for k, ring in enumerate(rings):
            if ring.kind == "cylinder" and ring.turn >= WHOLE and 0 < k < len(rings) - 1:
                found += _groove(own, k, inward, near)
            if ring.kind == "cone" and not inward and ring.turn >= WHOLE:
                found += _chamfer(part, own, ring, near)
        if not inward:
            found += _outside(part, own, {r for f in found if f.kind == "groove" for r in f.faces}, near)
    return found


def _groove(own: Profile, k: int, inward: bool, near: float) -> list[Feature]:
    """A ring between two that stand out beyond it, narrower than its diameter."""
    ring, before, after = own.rings[k], own.rings[k - 1], own.rings[k + 1]
    wide = ring.high - ring.low
    if not all(_stands_out(g, ring, inward, near) for g in (before, after)) or wide > 2 * ring.at_low:
        return []
    kind: Kind = "recess" if inward else "groove"
    faces = (
        *ring.rows,
        *(f.row for f in own.flats if abs(f.height - ring.low) < near or abs(f.height - ring.high) < near),
    )
    figures = (("diameter", 2 * ring.at_low), ("width", wide))
    return [Feature(kind, faces, own.origin + (ring.low + ring.high) / 2 * own.axis, own.axis, figures)]


def _stands_out(beside: Ring, ring: Ring, inward: bool, near: float) -> bool:
    least = min(beside.at_low, beside.at_high)
    return least < ring.at_low - near if inward else beside.widest > ring.at_low + near


def _chamfer(part: Part, own: Profile, ring: Ring, near: float) -> list[Feature]:
    """The cone between a cylinder and a flat or a narrower one, where it is short."""
    high, rise = ring.high - ring.low, abs(ring.at_high - ring.at_low)
    if min(ring.at_low, ring.at_high) < near or max(high, rise) > SHORT * 2 * ring.widest:
        return []
    edges = {e for r in ring.rows for e in part.faces[r].boundary if part.edges[e].joint == "sharp"}
    if len(edges) < 2 or not all(part.edges[e].convex.all() for e in edges):
        return []
    wide_end = ring.low if ring.at_low > ring.at_high else ring.high
    beside = any(
        g.kind == "cylinder" and abs(g.at_low - ring.widest) < near
        for g in own.rings
        if g is not ring and min(abs(g.low - wide_end), abs(g.high - wide_end)) < near
    )
    if not beside:
        return []
    angle = float(np.degrees(np.arctan2(rise, high)))
    figures = (("length", high), ("angle", angle))
    place = own.origin + (ring.low + ring.high) / 2 * own.axis
    return [Feature("chamfer", ring.rows, place, own.axis, figures, ("round",))]


def _outside(part: Part, own: Profile, grooves: set[int], near: float) -> list[Feature]:
    """A boss where one end stands on something, the steps of what ends freely at both."""
    ends = [own.ends_flat(up, near) for up in (False, True)]
    cylinders = [g for g in own.rings if g.kind == "cylinder" and g.turn >= WHOLE]
    up = ends[1]
    foot = own.rings[0] if up else own.rings[-1]
    if ends[0] == ends[1] or not _stands(part, own, foot, own.low if up else own.high, near):
        return [
            Feature(
                "step",
                g.rows,
                own.origin + (g.low + g.high) / 2 * own.axis,
                own.axis,
                (("diameter", 2 * g.at_low), ("length", g.high - g.low)),
            )
            for g in cylinders
            if not grooves & set(g.rows)
        ]
    levels = [own.low, own.high, *(f.height for f in own.flats)]
    main = max(cylinders, key=lambda g: g.high - g.low)
    way = 1.0 if up else -1.0
    base = own.low if up else own.high
    figures = (("diameter", 2 * main.at_low), ("height", max(levels) - min(levels)))
    return [Feature("boss", own.faces, own.origin + base * own.axis, way * own.axis, figures)]


def _stands(part: Part, own: Profile, foot: Ring, end: float, near: float) -> bool:
    """True where the ring at the ``end`` of a profile meets another face inward or smoothly there: it grows out of it."""
    for edge in dict.fromkeys(e for r in foot.rows for e in part.faces[r].boundary):
        e = part.edges[edge]
        if np.abs((e.points - own.origin) @ own.axis - end).min() > near:
            continue
        if (e.joint == "sharp" and not e.convex.any()) or (e.joint == "smooth" and foot.kind == "torus"):
            return True
    return False
