"""Leaders put in order: each at the angle and length where it stands best."""

from __future__ import annotations

import numpy as np
import shapely

from ..drawing.annotations import AnyAnnotation
from .obstacles import CROSS, Obstacles
from .tidy_rows import Table

ANGLES = [45, 30, 60, 135, 150, 120, -45, -30, -60, -135, -150, -120, 15, 75, 105, 165, -15, -75, -105, -165]
"""Degrees at which leaders are tried."""
LENGTHS = [12.0, 18.0, 26.0, 36.0, 50.0]
"""mm at which the ends of leaders are tried."""
FINE = [*ANGLES, *(a for a in range(-175, 180, 10) if abs(a) % 90 > 5)]
FARTHER = [*LENGTHS, 65.0, 80.0]
"""Both where one is looked for closely."""
NOT_LED = 0.0, 0.0
"""Angle and length of what sits on its outline."""


def led(table: Table, own: AnyAnnotation, obstacles: Obstacles, closely: bool = False) -> AnyAnnotation:
    """A leader at the angle and length where it stands best: outside its view, clear of all else, not far; looked for
    ``closely``, also in between and farther out."""
    hull = table.context.view.hull
    inside = shapely.MultiPoint(hull).convex_hull if len(hull) > 2 else shapely.Point(0.0, 0.0)
    now = own.leader
    shapes = table.shapes(own)
    there = obstacles.cost(shapes) + table.over(shapes)
    if there < CROSS and obstacles.crossings(shapes) < 2 * CROSS and not obstacles.crowding(shapes.texts):
        # where it is nothing is in its way
        return own
    best, least = own, np.inf
    lengths, angles = (FARTHER, FINE) if closely else (LENGTHS, ANGLES)
    # what sits on its outline rather slides along that than be led away
    tries = [(new, *NOT_LED) for new in own.slid()]
    tries += [(own.led(a, x), a, x) for a, x in [now, *((float(a), x) for x in lengths for a in angles)]]
    for new, angle, length in tries:
        shapes = table.shapes(new)
        cost = obstacles.cost(shapes) + 0.08 * length
        if cost >= least:
            continue
        cost += obstacles.crossings(shapes) + obstacles.crowding(shapes.texts) + table.over(shapes)
        if (angle, length) != NOT_LED:
            local = [shapely.transform(t, lambda p: p - table.at) for t in shapes.texts]
            cost += 4.0 * sum(inside.intersects(t) for t in local)
            if abs(angle) % 90 < 8:
                cost += 2.0
        if (angle, length) != now:
            cost += 0.5
        if cost < least:
            best, least = new, cost
    return best
