"""Threads that are modelled as they are cut: the helical edges of a body, and the faces between them.

Lengths are mm, angles radians.
"""

from __future__ import annotations

from functools import lru_cache

import numpy as np

from ..geometry.recognition import frame_about
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.model import Array, Part
from ..values import value
from .faces import off_axis

TURNS = 1.5
"""Turns that the helical edges of a thread make together, at least."""
SWEEP = 1.2
"""Angle through which an edge goes at least that is asked whether it is a helix."""
NEARLY = 0.02
"""How far an axis may be from another that is the same, as a share of a thread's radius, or for its faces its diameter."""
ROUND, EVEN = 4e-3, 0.03
"""How far an edge may stray from its helix: in radii from its cylinder, in pitches along the axis."""


@value
class Helix:
    """A modelled thread about an axis (a point of it, a unit direction): from ``low`` to ``high`` along it, its ``major`` and
    ``minor`` diameters and its pitch; the faces (rows) that make it; whether it is a hole's, and left handed."""

    faces: tuple[int, ...]
    origin: Array
    axis: Array
    low: float
    high: float
    major: float
    minor: float
    pitch: float
    internal: bool
    left: bool

    def about(self, surface: Surface) -> bool:
        """Whether a surface is about its axis."""
        along = abs(float(surface.axes[2] @ self.axis)) > 0.9999
        return along and off_axis(self.origin, self.axis, surface.origin) < NEARLY * self.major

    def refs(self, part: Part) -> frozenset[str]:
        """The references of all its faces and of the edges that bound them."""
        edges = {e for f in self.faces for e in part.faces[f].boundary}
        return frozenset([*(part.faces[f].ref for f in self.faces), *(part.edges[e].ref for e in edges)])


@value
class _Coil:
    edge: int
    origin: Array
    axis: Array
    radius: float
    pitch: float
    sweep: float


@lru_cache(maxsize=16)
def helices_of(part: Part) -> tuple[Helix, ...]:
    """All modelled threads of a part."""
    groups: list[list[_Coil]] = []
    for row, edge in enumerate(part.edges):
        if edge.curve.kind != "nurbs" or len(edge.points) < 12:
            continue
        coil = _coil(part, row)
        if coil is None:
            continue
        home = next((g for g in groups if _one(part, g[0], coil)), None)
        if home is None:
            groups.append([coil])
        else:
            home.append(coil)
    found = []
    for group in groups:
        if sum(c.sweep for c in group) < 2 * np.pi * TURNS:
            continue
        thread = _thread(part, group)
        if thread is not None:
            found.append(thread)
    return tuple(found)


def helix_at(part: Part, ref: str) -> Helix | None:
    """The modelled thread that a face or edge belongs to."""
    return next((h for h in helices_of(part) if ref in h.refs(part)), None)


def _one(part: Part, a: _Coil, b: _Coil) -> bool:
    """True for helices of one thread: one body, one axis, one pitch."""
    if part.edges[a.edge].body != part.edges[b.edge].body or abs(a.pitch - b.pitch) > 0.03 * abs(a.pitch):
        return False
    return abs(float(a.axis @ b.axis)) > 0.9999 and off_axis(a.origin, a.axis, b.origin) < NEARLY * a.radius


def _coil(part: Part, row: int) -> _Coil | None:
    """An edge as a helix: its axis by what its bends have in common, then to the best fit; None where it is none."""
    points = part.edges[row].points
    step = np.linalg.norm(np.diff(points, axis=0), axis=1)
    way = np.concatenate([[0.0], np.cumsum(step)])
    if way[-1] < 1e-9 * part.size:
        return None
    even = np.linspace(0, way[-1], 33)
    p = np.column_stack([np.interp(even, way, points[:, k]) for k in range(3)])
    # bends of a helix all lie square to its axis
    bends = p[:-8] - 2 * p[4:-4] + p[8:]
    scale = float(np.linalg.norm(bends, axis=1).max())
    if scale < 1e-4 * way[-1]:
        return None
    _, sizes, frame = np.linalg.svd(bends)
    if sizes[1] < 0.02 * sizes[0]:
        return None
    found = _fitted(p, frame[2])
    if found is None:
        return None
    origin, axis, radius, pitch, sweep = found
    if sweep < SWEEP or abs(pitch) < 0.01 * radius or abs(pitch) > 4 * radius:
        return None
    return _Coil(row, origin, axis, radius, pitch, sweep)


def _fitted(p: Array, axis: Array) -> tuple[Array, Array, float, float, float] | None:
    # loaded where there is a candidate only: it takes longer than a small part
    from scipy.optimize import least_squares

    middle = p.mean(axis=0)
    x, y, _ = frame_about(np.array(axis))
    flat = np.column_stack([(p - middle) @ x, (p - middle) @ y])
    a = np.column_stack([2 * flat, np.ones(len(p))])
    (cx, cy, c), *_ = np.linalg.lstsq(a, (flat**2).sum(axis=1), rcond=None)
    radius = float(np.sqrt(max(c + cx**2 + cy**2, 0.0)))
    if radius <= 0:
        return None

    def parts(v: Array) -> tuple[Array, Array, Array, Array]:
        n = axis + v[0] * x + v[1] * y
        n = n / np.linalg.norm(n)
        o = middle + v[2] * x + v[3] * y
        off = p - o
        z = off @ n
        radial = off - np.outer(z, n)
        angle = np.unwrap(np.arctan2(radial @ cross(n, x), radial @ x))
        return n, o, np.column_stack([np.linalg.norm(radial, axis=1), z]), angle

    def strays(v: Array) -> Array:
        _, _, rz, angle = parts(v)
        line = np.polyfit(angle, rz[:, 1], 1)
        found: Array = np.concatenate([rz[:, 0] - rz[:, 0].mean(), rz[:, 1] - np.polyval(line, angle)]) / radius
        return found

    best = least_squares(strays, np.array([0.0, 0.0, cx, cy]), x_scale=[0.1, 0.1, radius, radius], max_nfev=40)
    n, o, rz, angle = parts(best.x)
    slope, begin = np.polyfit(angle, rz[:, 1], 1)
    radius, pitch = float(rz[:, 0].mean()), float(2 * np.pi * slope)
    if np.abs(rz[:, 0] - radius).max() > ROUND * radius:
        return None
    if np.abs(rz[:, 1] - slope * angle - begin).max() > EVEN * abs(pitch):
        return None
    return o, n, radius, pitch, float(np.ptp(angle))


def _exactly(part: Part, body: int, lead: _Coil) -> tuple[Array, Array]:
    """A point of the axis of a thread and its direction: those of a round face about it, or the direction of a plane one square
    to it, where there is one."""
    origin, axis = lead.origin, lead.axis
    own = [f.surface for f in part.faces if f.body == body and f.surface.kind in ("cylinder", "cone", "plane")]
    own = [s for s in own if abs(float(s.axes[2] @ axis)) > 1 - 1e-6]
    for s in own:
        if s.kind != "plane" and off_axis(origin, axis, s.origin) < NEARLY * lead.radius:
            turned = s.axes[2] * np.sign(s.axes[2] @ axis)
            return s.origin + ((origin - s.origin) @ turned) * turned, turned
    return origin, own[0].axes[2] * np.sign(own[0].axes[2] @ axis) if own else axis


def _thread(part: Part, group: list[_Coil]) -> Helix | None:
    lead = max(group, key=lambda c: c.sweep)
    body = part.edges[lead.edge].body
    origin, axis = _exactly(part, body, lead)
    own = {f for c in group for f in part.edges[c.edge].faces}
    points = np.concatenate([part.edges[c.edge].points for c in group]) - origin
    z = points @ axis
    low, high = float(z.min()), float(z.max())
    radii = np.array([c.radius for c in group])
    least, most = float(radii.min()), float(radii.max())
    if most - least < 0.02 * most:
        return None
    slack = 0.02 * (most - least) + 1e-6 * part.size
    lean, weight, faces = 0.0, 0.0, []
    for row, face in enumerate(part.faces):
        nodes = part.mesh.nodes[face.nodes] - origin
        if face.body != body or not len(nodes):
            continue
        along = nodes @ axis
        radial = nodes - np.outer(along, axis)
        r = np.linalg.norm(radial, axis=1)
        # its flanks may begin a little beneath its roots; other faces between roots and crests are its as a whole
        flank = row in own and face.surface.kind not in ("plane", "cylinder", "cone")
        give = 0.25 * (most - least) if flank else slack
        if r.min() < least - give or r.max() > most + give:
            continue
        beyond = slack if face.surface.kind in ("cylinder", "cone") else abs(lead.pitch)
        if along.min() < low - beyond or along.max() > high + beyond:
            # a shank or a hole that the thread runs out on
            continue
        middles = part.mesh.nodes[part.mesh.triangles[face.triangles]].mean(axis=1) - origin
        if np.linalg.norm(middles - np.outer(middles @ axis, axis), axis=1).min() < 0.9 * least:
            # the end of what it is cut on
            continue
        faces.append(row)
        lean += float(np.einsum("ij,ij->i", part.mesh.normals[face.nodes], radial / r[:, None]).sum())
        weight += len(nodes)
    if not faces or not weight:
        return None
    # a right handed thread rises as it turns with the fingers of the right hand
    return Helix(
        faces=tuple(faces),
        origin=origin,
        axis=axis,
        low=low,
        high=high,
        major=2 * most,
        minor=2 * least,
        pitch=abs(lead.pitch),
        internal=lean < 0,
        left=lead.pitch < 0,
    )
