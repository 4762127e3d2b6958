"""Strands: every curve in space that may be drawn in a view, with what is known along it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..geometry.curves3 import Curve3
from ..part.model import Part
from .camera import Camera
from .outlines import GRAZING, Outlines, outlines_of
from .table import JOINTS, Table, table_of
from .wires import Array, Ints, Wires, joined

Flags = NDArray[np.bool_]
Plane = NDArray[np.complex128]
"""Points in the view plane: x along the camera's right, y (imaginary) along its up, mm."""
LEVEL = 5e-7
"""How far in part sizes a curve may bend in a view and still count as straight there."""
LineClass = Literal["edge", "outline", "smooth"]
CLASSES: tuple[LineClass, ...] = ("edge", "outline", "smooth")
"""In the order of their precedence."""


@dataclass(frozen=True, eq=False)
class Strands:
    """The n strands of a view, m rows in all.

    ``wires``: their polylines in space. ``flat`` (m,) and ``flat_cubic`` (3, m): the same in the view
    plane. ``away`` (m, 3): where free space lies, used to lift rays off the part's own faces; ``free`` (m,):
    False where the faces at the curve itself hide it. By strand: ``cls`` as a place in CLASSES; ``lift``
    (mm) how far to go away; ``contour``: True where something may end behind it; ``level``: True where it
    is straight in the view; ``uneven``: where it is, but no line in space; ``full``: whole circles and ellipses;
    ``edge`` row of its edge or -1; ``outline`` row of its outline or -1.
    ``breaks``: strand and parameter of places where its state may change (the faces there turn away);
    ``folds``: where a curve seen edge-on turns back, so that pieces on both sides are never one.
    """

    part: Part
    wires: Wires
    flat: Plane
    flat_cubic: Plane
    away: Array
    free: Flags
    cls: Ints
    lift: Array
    contour: Flags
    level: Flags
    uneven: Flags
    full: Flags
    edge: Ints
    outline: Ints
    outlines: Outlines
    breaks: tuple[Ints, Array]
    folds: tuple[Ints, Array]

    def curve(self, strand: int) -> Curve3 | None:
        """The exact curve of a strand; None for a line along its wire."""
        row = int(self.edge[strand])
        return self.part.edges[row].curve if row >= 0 else self.outlines.curves[int(self.outline[strand])]

    def source(self, strand: int) -> str:
        """The lasting reference of the edge, or of the face whose outline it is."""
        row = int(self.edge[strand])
        if row < 0:
            return self.part.faces[int(self.outlines.face[self.outline[strand]])].ref
        if self.cls[strand] == CLASSES.index("outline"):
            return self.part.faces[int(table_of(self.part).curved_face[row])].ref
        return self.part.edges[row].ref

    @cached_property
    def way(self) -> Array:
        """Length of the polyline in the view plane up to each row (m,), going on from strand to strand."""
        step = np.zeros(len(self.flat))
        step[1:] = np.abs(np.diff(self.flat))
        step[self.wires.first] = 0.0
        total: Array = np.cumsum(step)
        return total

    def flat_at(self, row: Ints, share: Array) -> Plane:
        """Points (k,) in the view between rows (k,) and the next ones."""
        a, b, c = self.flat_cubic[:, row]
        found: Plane = self.flat[row] + share * (a + share * (b + share * c))
        return found


def strands_of(part: Part, view: Camera, smooth: bool) -> Strands:
    """All strands of a view of a part; without the smooth edges where they are not wanted."""
    table = table_of(part)
    g = table.normals @ view.toward
    g[np.abs(g) < GRAZING] = 0.0
    edges, cls, away, free, contour, breaks = _edges(part, table, view, g, smooth)
    outlines = outlines_of(part, table, view, g)
    edge_wires, rows = table.wires.taken(edges)
    wires = joined([edge_wires, outlines.wires])
    n, m = len(edges), outlines.wires.count
    # what is seen end-on is a point, and never drawn
    across = view.right + 1j * view.up
    flat = wires.points @ across
    if len(flat):
        wide = np.maximum.reduceat(flat.real, wires.first) - np.minimum.reduceat(flat.real, wires.first)
        high = np.maximum.reduceat(flat.imag, wires.first) - np.minimum.reduceat(flat.imag, wires.first)
        keep = np.nonzero(np.maximum(wide, high) >= 1e-7 * part.size)[0]
    else:
        keep = np.zeros(0, np.int64)
    if len(keep) < wires.count:
        wires, taken = wires.taken(keep)
    else:
        taken = np.arange(len(flat))
    place = np.full(n + m, -1)
    place[keep] = np.arange(len(keep))
    flat, cubic = flat[taken], wires.cubic @ across
    both_away = np.concatenate([away[rows], outlines.outward])[taken]
    both_free = np.concatenate([free[rows], outlines.free])[taken]
    own = np.full(len(table.joint), -1)
    own[edges] = place[:n]
    where = own[breaks[0]]
    turned = wires.left[both_free[wires.left] != both_free[wires.left + 1]]
    turned = turned[keep[wires.owner[turned]] >= n]
    strands = np.concatenate([where[where >= 0], wires.owner[turned]])
    at = np.concatenate([breaks[1][where >= 0], (wires.t[turned] + wires.t[turned + 1]) / 2])
    is_edge = keep < n
    curved = np.array([c is not None and c.kind != "line" for c in outlines.curves], bool)
    bent = np.concatenate([table.bent[edges], curved])[keep]
    turns = np.array([c is not None and c.full_turn for c in outlines.curves], bool)
    full = np.concatenate([table.full[edges], turns])[keep]
    level, folds = _levels(part, wires, flat, bent)
    return Strands(
        part,
        wires,
        flat,
        cubic,
        both_away,
        both_free,
        np.concatenate([cls, np.ones(m, np.int64)])[keep],
        np.concatenate([table.lift[edges], table.face_lift[outlines.face]])[keep],
        np.concatenate([contour, np.ones(m, bool)])[keep],
        level,
        level & bent,
        full,
        np.concatenate([edges, np.full(m, -1)])[keep],
        np.where(is_edge, -1, keep - n),
        outlines,
        (strands, at),
        folds,
    )


def _levels(part: Part, wires: Wires, flat: Plane, bent: Flags) -> tuple[Flags, tuple[Ints, Array]]:
    """Which strands are straight in the view, and where those that turn back do so (strand, parameter)."""
    level = ~bent
    some = np.nonzero(bent)[0]
    if not len(some):
        return level, (np.zeros(0, np.int64), np.zeros(0))
    own, rows = wires.taken(some)
    p = flat[rows]
    p = p - p[own.first][own.owner]
    # the row farthest from the first gives the direction
    order = np.lexsort((np.abs(p), own.owner))
    far = p[order[own.start[1:] - 1]]
    along_it = p * (far.conj() / np.maximum(np.abs(far), 1e-300))[own.owner]
    straight = np.maximum.reduceat(np.abs(along_it.imag), own.first) < LEVEL * part.size
    level[some] = straight
    along = along_it.real
    inner = np.ones(len(along), bool)
    inner[own.first] = inner[own.last] = False
    at = np.nonzero(inner & straight[own.owner])[0]
    before, after = along[at] - along[at - 1], along[at + 1] - along[at]
    turning = np.sign(before) * np.sign(after) <= 0
    turning &= ~((before == 0) & (after == 0))
    at = at[turning]
    # the top of the parabola through three rows
    t0, t1, t2 = own.t[at - 1], own.t[at], own.t[at + 1]
    y0, y1, y2 = along[at - 1], along[at], along[at + 1]
    upper = (t1 - t0) ** 2 * (y1 - y2) - (t1 - t2) ** 2 * (y1 - y0)
    lower = (t1 - t0) * (y1 - y2) - (t1 - t2) * (y1 - y0)
    top = t1 - 0.5 * np.divide(upper, lower, out=np.zeros(len(at)), where=np.abs(lower) > 1e-300)
    top = np.clip(top, t0, t2)
    owner = some[own.owner[at]]
    # a fold right between two rows shows at both
    again = np.zeros(len(at), bool)
    again[1:] = (owner[1:] == owner[:-1]) & (at[1:] == at[:-1] + 1)
    return level, (owner[~again], top[~again])


def _turns(wires: Wires, g: Array, within: Flags) -> tuple[Ints, Array]:
    """Wires and parameters at which ``g`` (m,) changes its sign, on wires ``within`` (n,)."""
    left = wires.left
    at = left[((g[left] >= 0) != (g[left + 1] >= 0)) & within[wires.owner[left]]]
    share = g[at] / (g[at] - g[at + 1])
    return wires.owner[at], wires.t[at] + share * (wires.t[at + 1] - wires.t[at])


def _edges(
    part: Part, table: Table, view: Camera, g: Array, smooth: bool
) -> tuple[Ints, Ints, Array, Flags, Flags, tuple[Ints, Array]]:
    """Edges to be drawn: their rows and classes; by rows of the table ``away`` and ``free``; by edge drawn
    ``contour``; and the places where their state may change."""
    wires, joint = table.wires, table.joint
    sharp, tangent, same, border = (joint == k for k in range(len(JOINTS)))
    count = wires.count
    if not count:
        none = np.zeros(0, np.int64)
        return none, none, np.zeros((0, 3)), np.zeros(0, bool), np.zeros(0, bool), (none, np.zeros(0))
    steepest = np.maximum.reduceat(np.abs(g).max(axis=0), wires.first)
    # along a smooth edge whose faces turn away runs an outline
    hem = ((same & (steepest <= 1e-6)) | (tangent & (steepest == 0.0))) & (table.curved_face >= 0)
    shown = tangent & (steepest > 0.0) & smooth
    n1, n2 = table.normals
    owner = wires.owner
    best, least = np.maximum(g[0], g[1]), np.minimum(g[0], g[1])
    free = np.where(table.convex, best, least) >= 0
    floor = np.where(table.convex & (best > 1e-6), 1e-6, -1e-6)
    away = (g[0] > floor)[:, None] * n1 + (g[1] > floor)[:, None] * n2
    mean = (g[0] + g[1]) / 2
    if border.any():
        rows = border[owner]
        away[rows] = np.where(g[0][rows][:, None] < 0, -n1[rows], n1[rows])
        free[rows] = True
    rows = (hem | tangent)[owner]
    away[rows] = n1[rows] + n2[rows]
    free[rows] = mean[rows] > 0
    free[hem[owner]] = True
    away /= np.maximum(np.linalg.norm(away, axis=1), 1e-300)[:, None]
    contour = hem | border | (sharp & (np.minimum.reduceat(g[0] * g[1], wires.first) <= 0))
    first = _turns(wires, g[0], sharp | border)
    second = _turns(wires, g[1], sharp)
    third = _turns(wires, mean, shown)
    edges = np.nonzero(sharp | border | hem | shown)[0]
    cls = np.where(shown[edges], 2, np.where(hem[edges], 1, 0))
    breaks = np.concatenate([first[0], second[0], third[0]]), np.concatenate([first[1], second[1], third[1]])
    return edges, cls, away, free, contour[edges], breaks
