"""Strands: every curve in space that may be drawn in a view, with what is known along it."""

from __future__ import annotations

from functools import cached_property
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

from ..cutting.clipping import clipped, stretches
from ..cutting.limits import HAIR, Cut
from ..cutting.regions import Laid, laid_open
from ..cutting.slicing import figures_of
from ..geometry.curves3 import Curve3
from ..geometry.wires import Array, Ints, Wires
from ..part.chosen import named
from ..part.model import Part
from ..values import value
from .camera import Camera
from .edges import edges_in_view
from .flattening import BREAK, END, FOLD, laid_flat, taken
from .outlines import Outlines, outlines_of
from .piercing import pierced
from .table import JOINTS, RULED, Table, table_of

Flags = NDArray[np.bool_]
LineClass = Literal["cut", "edge", "outline", "smooth", "limit", "adjacent"]
"""``cut``: the boundary of a cut face; ``limit``: where a local cut ends, which is no line of the part."""
CLASSES: tuple[LineClass, ...] = ("cut", "edge", "outline", "smooth")
"""Lines of the part, in the order of their precedence."""
POINT = 1e-7
"""Extent in part sizes below which a line shrinks to a point."""
LEVEL = 5e-7
"""How far in part sizes a curve may bend in a view and still count as straight there."""


@value
class Strands:
    """The n strands of a view, m rows in all: those of edges first, then outlines, then boundaries of cut faces; where a
    cut takes something away, what is left of them.

    ``wires``: their polylines in space. ``flat`` (m, 4, 2): the cubic in the view plane from each row to the
    next; ``way`` (m,): the length of the polyline there. ``away`` (m, 3): where free space lies, used to lift
    rays off the part's own faces; ``free`` (m,): False where the faces at the curve itself hide it. By strand:
    ``cls`` as a place in CLASSES; ``lift`` (mm) how far to go away; ``contour``: True where something may end
    behind it; ``bent``: no line in space; ``level``: straight in the view; ``whole``: the row it had before the cut, among
    the edges (``edge``: their rows in the part), the outlines, and what was laid open.
    ``musts``: strand, parameter and rank of the places where it is parted in any case: its ends, where it
    folds back (seen edge-on), where its faces turn away.
    """

    part: Part
    table: Table
    wires: Wires
    flat: Array
    way: Array
    away: Array
    free: Flags
    cls: Ints
    lift: Array
    contour: Flags
    bent: Flags
    level: Flags
    whole: Ints
    edge: Ints
    outlines: Outlines
    laid: Laid | None
    folds: tuple[Ints, Array]
    musts: tuple[Ints, Array, Ints]

    def curve(self, strand: int) -> Curve3 | None:
        """The exact curve of a strand; None for a line along its wire."""
        row = int(self.whole[strand])
        n, m = len(self.edge), len(self.edge) + self.outlines.wires.count
        if row < n:
            return self.part.edges[int(self.edge[row])].curve
        if row < m:
            return self.outlines.curves[row - n]
        assert self.laid is not None
        return self.laid.curves[row - m]

    @cached_property
    def meshed(self) -> Flags:
        """Which strands are drawn from the mesh."""
        laid = np.zeros(0, bool) if self.laid is None else self.laid.meshed
        return np.concatenate([np.zeros(len(self.edge), bool), self.outlines.meshed, laid])[self.whole]

    @cached_property
    def sources(self) -> list[str]:
        """The lasting reference of each strand's edge, or of the face whose outline it is or that is cut along it."""
        table = self.table
        names = [table.edge_refs[e] for e in self.edge.tolist()]
        for k in self._hemmed.tolist():
            names[k] = table.face_refs[int(table.curved_face[self.edge[k]])]
        names += [table.face_refs[f] for f in self.outlines.face.tolist()]
        if self.laid is not None:
            names += [table.face_refs[f] for f in self.laid.face.tolist()]
        return [names[k] for k in self.whole.tolist()]

    @cached_property
    def _hemmed(self) -> Ints:
        """Edges that are drawn as outlines, by place in ``edge``."""
        found = (self.whole < len(self.edge)) & (self.cls == CLASSES.index("outline"))
        return np.unique(self.whole[found])


def _hems(part: Part, table: Table, view: Camera, cls: Ints, free: Flags) -> tuple[Ints, Array]:
    """Edges within one surface that run along its outline, such as seams: ``free`` is set False where the face bends
    toward the viewer and so hides its own outline. Edges (k,) and parameters (k,) where that changes."""
    edges, at = [], []
    for e in np.nonzero((cls == CLASSES.index("outline")) & (table.joint == JOINTS.index("same")))[0].tolist():
        face = part.faces[int(table.curved_face[e])]
        if table.sheet[e] or not face.surface.elementary:
            continue
        edge, surface = part.edges[e], face.surface
        rows = slice(table.wires.start[e], table.wires.start[e + 1])
        if surface.kind in RULED:
            free[rows] = table.sense[int(table.curved_face[e])] > 0
            continue
        step = 1e-3 * (surface.minor_radius or surface.radius or part.size) * view.toward
        near, far = (surface.normals_at(edge.points + s * step) @ view.toward for s in (1.0, -1.0))
        away = face.sense * (near - far) > -1e-9
        free[rows] = away
        turned = np.nonzero(away[1:] != away[:-1])[0]
        edges += [e] * len(turned)
        at += ((edge.t[turned] + edge.t[turned + 1]) / 2).tolist()
    return np.array(edges, np.int64), np.array(at)


def strands_of(part: Part, view: Camera, smooth: bool, cut: Cut) -> Strands:
    """All strands of a view of a part; without the smooth edges where they are not wanted."""
    table = table_of(part)
    w = table.wires
    g, cls, contour, away, free, break_edge, break_t = edges_in_view(
        start=w.start,
        t=w.t,
        points=w.points,
        normals=table.normals,
        convex=table.convex,
        joint=table.joint,
        sheet=table.sheet,
        curved=table.curved_face,
        toward=view.toward,
        right=view.right,
        up=view.up,
        smooth=smooth,
        tiny=POINT * part.size,
    )
    hem_edge, hem_t = _hems(part, table, view, cls, free)
    edges = np.nonzero(cls >= 0)[0]
    outlines = outlines_of(part, table, view, g)
    start, t, points, cubic, away, free = taken(
        start=w.start, t=w.t, points=w.points, cubic=w.cubic, away=away, free=free, wanted=edges
    )
    cls, contour, lift, bent = cls[edges], contour[edges], table.lift[edges], table.bent[edges]
    own = np.full(w.count, -1)
    own[edges] = np.arange(len(edges))
    inside = own[table.pierced[0]]
    breaks = (
        np.concatenate([own[break_edge], own[hem_edge], inside[inside >= 0]]),
        np.concatenate([break_t, hem_t, table.pierced[1][inside >= 0]]),
    )
    m = outlines.wires.count
    if m:
        o = outlines.wires
        turned = np.nonzero(outlines.free[1:] != outlines.free[:-1])[0]
        turned = turned[o.owner[turned] == o.owner[turned + 1]]
        through = pierced(
            part, o, np.array([part.faces[f].body for f in outlines.face.tolist()], np.int64), touching=False
        )
        breaks = (
            np.concatenate([breaks[0], o.owner[turned] + len(edges), through[0] + len(edges)]),
            np.concatenate([breaks[1], (o.t[turned] + o.t[turned + 1]) / 2, through[1]]),
        )
        start = np.concatenate([start, o.start[1:] + start[-1]])
        t, points = np.concatenate([t, o.t]), np.concatenate([points, o.points])
        cubic = np.concatenate([cubic, o.cubic], axis=1)
        away, free = np.concatenate([away, outlines.outward]), np.concatenate([free, outlines.free])
        cls, contour = (
            np.concatenate([cls, np.full(m, CLASSES.index("outline"))]),
            np.concatenate([contour, np.ones(m, bool)]),
        )
        lift = np.concatenate([lift, table.face_lift[outlines.face]])
        bent = np.concatenate([bent, [c is not None and c.kind != "line" for c in outlines.curves]]).astype(bool)
    whole, laid = np.arange(len(bent)), None
    if cut:
        rows = (start, t, points, cubic, away, free), (cls, contour, lift, bent)
        rows, whole, laid, breaks = _cut_open(part, table, view, cut, edges, outlines, *rows, breaks)
        (start, t, points, cubic, away, free), (cls, contour, lift, bent) = rows
    flat, way, level, fold_strand, fold_t = laid_flat(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        bent=bent,
        right=view.right,
        up=view.up,
        flatness=LEVEL * part.size,
    )
    every = np.arange(len(bent))
    musts = (
        np.concatenate([every, every, fold_strand, breaks[0]]),
        np.concatenate([t[start[:-1]], t[start[1:] - 1], fold_t, breaks[1]]),
        np.repeat([END, FOLD, BREAK], [2 * len(every), len(fold_t), len(breaks[0])]),
    )
    return Strands(
        part=part,
        table=table,
        wires=Wires(start, t, points, cubic),
        flat=flat,
        way=way,
        away=away,
        free=free,
        cls=cls,
        lift=lift,
        contour=contour,
        bent=bent,
        level=level,
        whole=whole,
        edge=edges,
        outlines=outlines,
        laid=laid,
        folds=(fold_strand, fold_t),
        musts=musts,
    )


def _cut_open(
    part: Part,
    table: Table,
    view: Camera,
    cut: Cut,
    edges: Ints,
    outlines: Outlines,
    by_row: tuple[Any, ...],
    by_strand: tuple[Any, ...],
    breaks: tuple[Ints, Array],
) -> tuple[tuple[Any, Any], Ints, Laid, tuple[Ints, Array]]:
    """The strands without what a cut takes away, and with the boundaries of the faces that it lays open.

    ``by_row``: start, t, points, cubic, away, free; ``by_strand``: cls, contour, lift, bent. Both again, the strand that
    each was before, what is laid open, and the breaks.
    """
    laid = laid_open(part, cut, table.wires)
    known = figures_of(part)
    body = np.concatenate([known.edge_body[edges], known.face_body[outlines.face]])
    safe = np.concatenate([named(part, cut.whole)[body], np.zeros(len(laid.body), bool)])
    start, t, points, cubic, away, free = by_row
    cls, contour, lift, bent = by_strand
    n = len(cls)
    w = laid.wires
    if w.count:
        state = laid.in_view(view, POINT * part.size)
        start = np.concatenate([start, w.start[1:] + start[-1]])
        t, points = np.concatenate([t, w.t]), np.concatenate([points, w.points])
        cubic = np.concatenate([cubic, w.cubic], axis=1)
        away, free = np.concatenate([away, state.away]), np.concatenate([free, state.free])
        cls = np.concatenate([cls, np.full(w.count, CLASSES.index("cut"))])
        contour, bent = np.concatenate([contour, state.contour]), np.concatenate([bent, laid.bent])
        lift = np.concatenate([lift, table.face_lift[laid.face]])
        breaks = np.concatenate([breaks[0], state.breaks[0] + n]), np.concatenate([breaks[1], state.breaks[1]])
    own = np.concatenate([np.full(n, -1), laid.wall])
    hair = HAIR * part.size
    wire, low, high, broken, at = clipped(
        start=start,
        t=t,
        points=points,
        cubic=cubic,
        own=own,
        safe=safe,
        normals=cut.normals,
        offsets=cut.offsets,
        first=cut.first,
        group=cut.group,
        hair=hair,
        short=POINT * part.size,
    )
    keep = wire >= n if cut.bare else np.ones(len(wire), bool)
    if w.count:
        keep &= (wire < n) | state.drawn[np.maximum(wire - n, 0)]
    wire, low, high = wire[keep], low[keep], high[keep]
    by_row = stretches(
        start=start, t=t, points=points, cubic=cubic, away=away, free=free, wire=wire, low=low, high=high
    )
    # breaks go to the stretch that they lie in
    broken, at = np.concatenate([breaks[0], broken]), np.concatenate([breaks[1], at])
    new: list[Ints] = [np.zeros(0, np.int64)]
    new_t: list[Array] = [np.zeros(0)]
    first = np.searchsorted(wire, broken)
    for step in range(int(np.bincount(wire).max(initial=0))):
        row = first + step
        fits = row < len(wire)
        fits[fits] = wire[row[fits]] == broken[fits]
        fits[fits] &= (at[fits] > low[row[fits]]) & (at[fits] < high[row[fits]])
        new.append(row[fits])
        new_t.append(at[fits])
    rows = by_row, (cls[wire], contour[wire], lift[wire], bent[wire])
    return rows, wire, laid, (np.concatenate(new), np.concatenate(new_t))
