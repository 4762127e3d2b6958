"""Where signs and notes hang: on an outline, in a face, in line with a dimension line, or under what is written of a size.

All places are sheet mm from the zero of the view.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from ...display import Sketch
from ...drawing.annotations import AnyAnnotation
from ...drawing.annotations.hung import AnyHung, Foot
from ...errors import Unmeasurable
from ...geometry import curves2
from ...measuring.anchor_geometry import cylinder_reach, outline_normal, resolve_present
from ...measuring.context import LayoutContext
from ...measuring.style import Style
from ...part.model import BendLine
from ...standards.geometrical import Feature
from ...values import value
from ...views.placed_view import PlacedView
from ...views.projected_scene import ProjectedScene
from .loose import Loose
from .solving import Array, Under, draw_arrow, draw_line

EDGE_ON = 0.5
"""Cosine of the angle to the sight up to which a face tells which way is out of the material."""
STUB = 2.0
"""In arrows: the piece of a leader that stands square to the surface, at least."""
LEVEL = 0.15
"""Sine of the angle up to which a leader runs level by itself."""


@value
class Hold:
    """Where something hangs: the ``tip`` that a leader touches, the unit way ``out`` of the material where that is known, and
    what it is about, as a ``feature`` and in words. ``dot`` inside a face."""

    tip: Array
    out: Array | None
    feature: Feature
    words: str
    stands_on: tuple[str, ...]
    dot: bool = False


def flat_of(projected: ProjectedScene, ref: str) -> Array:
    """Points (n, 2), view mm, of an edge or a face as a view shows it.

    Raises
    ------
    Unmeasurable
        Where the part holds it no more, or the view's cut takes it away.
    """
    kind, row = resolve_present(projected, ref)
    part = projected.part
    if kind == "vertex":
        return np.asarray(projected.flat(part.vertices[row][None]))
    if kind == "edge":
        return np.asarray(projected.flat(part.edges[row].points))
    return np.asarray(projected.flat(part.mesh.nodes[part.faces[row].nodes]))


def spot_of(placed_view: PlacedView, ref: str, place: Array) -> tuple[float, float]:
    """A place (sheet mm from the view's zero) in shares of the box that an entity takes up in the view."""
    flat = flat_of(placed_view.projected, ref)
    low, size = flat.min(axis=0), np.ptp(flat, axis=0)
    own = placed_view.transform.from_sheet(place[None])[0]
    near = 1e-6 * placed_view.projected.whole.size
    shares = [0.5 if s < near else float(np.clip((x - a) / s, -4, 5)) for x, a, s in zip(own, low, size, strict=True)]
    return round(shares[0], 8), round(shares[1], 8)


def face_at(placed_view: PlacedView, place: Array) -> str:
    """The reference of the face that is seen at a place of a view (sheet mm from its zero); raises Unmeasurable where there is none."""
    projected, mesh = placed_view.projected, placed_view.projected.part.mesh
    own = placed_view.transform.from_sheet(place[None])[0]
    flat = projected.flat(mesh.nodes)
    a, b, c = (flat[mesh.triangles[:, k]] for k in range(3))
    signs = np.array([_turn(q - p, own - p) for p, q in ((a, b), (b, c), (c, a))])
    rows = np.nonzero((signs >= 0).all(axis=0) | (signs <= 0).all(axis=0))[0]
    corners = mesh.nodes[mesh.triangles[rows]]
    areas = np.abs(_turn(b[rows] - a[rows], c[rows] - a[rows]))
    if len(rows):
        shares = np.abs(signs[:, rows][[1, 2, 0]].T) / np.maximum(areas, 1e-12)[:, None]
        spots = np.einsum("ij,ijk->ik", shares, corners)
        kept = areas > 1e-9
        if projected.scene.is_cut:
            kept &= ~np.logical_and.reduce([cut.takes(spots, 0.0) for cut in projected.scene.cuts])
        depth = np.where(kept, spots @ projected.view.toward, -np.inf)
        if kept.any():
            return str(projected.part.faces[mesh.face_of[rows[int(np.argmax(depth))]]].ref)
    raise Unmeasurable("No face there", "Point at an outline, or inside a face.")


def _turn(u: Array, v: Array) -> Array:
    return np.asarray(u[..., 0] * v[..., 1] - u[..., 1] * v[..., 0])


def hold_of(placed_view: PlacedView, foot: Foot) -> Hold:
    """Where a foot stands in a view; raises Unmeasurable where it is lost."""
    projected = placed_view.projected
    flat = flat_of(projected, foot.ref)
    low, size = flat.min(axis=0), np.ptp(flat, axis=0)
    own = low + np.array(foot.spot) * size
    kind, row = projected.part.find(foot.ref) or ("", 0)
    if kind == "vertex":
        return Hold(placed_view.transform.to_sheet(flat)[0], None, "surface", "corner", (foot.ref,))
    if kind == "edge":
        at, nearest, k = _nearest(flat, own)
        out = _out_of_edge(projected, row, k, flat[min(k + 1, len(flat) - 1)] - flat[k])
        return _held(placed_view, at if nearest else own, out, _words_of_edge(projected, row, k), foot)
    face = projected.part.faces[row]
    if foot.dot:
        return _held(placed_view, own, None, _words_of_face(projected, row), foot)
    if (
        face.surface.kind in ("cylinder", "cone")
        and abs(float(face.surface.axes[2] @ projected.view.toward)) < 1 - 1e-9
    ):
        ends, radii = cylinder_reach(projected, row)
        best: tuple[float, Array, Array] | None = None
        for side in (1, -1):
            normal = outline_normal(projected, face.surface.axes[2], side)
            line = projected.flat(ends + radii[:, None] * normal)
            at, _, _ = _nearest(line, own)
            away = float(np.linalg.norm(at - own))
            if best is None or away < best[0]:
                best = away, at, projected.view.flat(normal[None])[0] * face.sense
        assert best is not None
        return _held(placed_view, best[1], best[2], _words_of_face(projected, row), foot)
    return _held(placed_view, own, _out_of_face(projected, row, own, flat), _words_of_face(projected, row), foot)


def _held(placed_view: PlacedView, at: Array, out: Array | None, words: str, foot: Foot) -> Hold:
    transform = placed_view.transform
    if out is not None:
        out = transform.direction(out)
        length = float(np.linalg.norm(out))
        out = out / length if length > 1e-9 else None
    return Hold(transform.to_sheet(at[None])[0], out, "surface", words, (foot.ref,), foot.dot)


def _nearest(flat: Array, own: Array) -> tuple[Array, bool, int]:
    """The nearest point of a polyline, whether it has any length, and the row of its piece."""
    d = np.diff(flat, axis=0)
    lengths = np.einsum("ij,ij->i", d, d)
    if not len(d) or lengths.max() < 1e-18:
        return flat[0], False, 0
    t = np.clip(np.einsum("ij,ij->i", own - flat[:-1], d) / np.maximum(lengths, 1e-18), 0, 1)
    spots = flat[:-1] + t[:, None] * d
    k = int(np.argmin(np.linalg.norm(spots - own, axis=1)))
    return spots[k], True, k


def _out_of_edge(projected: ProjectedScene, row: int, k: int, tangent: Array) -> Array | None:
    """The way out of the material beside an edge, as far as a face there is seen edge-on, square to the edge."""
    edge = projected.part.edges[row]
    normals = edge.normals[:, min(k, edge.normals.shape[1] - 1)]
    toward = np.abs(normals @ projected.view.toward)
    length = float(np.linalg.norm(tangent))
    best = int(np.argmin(toward))
    if toward[best] > EDGE_ON or length < 1e-12:
        return None
    across = np.array([-tangent[1], tangent[0]]) / length
    out = float(projected.view.flat(normals[best][None])[0] @ across)
    return across if out > 0 else -across


def _out_of_face(projected: ProjectedScene, row: int, own: Array, flat: Array) -> Array | None:
    """The way out of the material at the outline of a face."""
    mesh, face = projected.part.mesh, projected.part.faces[row]
    normals = mesh.normals[face.nodes]
    edge_on = np.abs(normals @ projected.view.toward) < EDGE_ON
    if not edge_on.any():
        return None
    k = int(np.argmin(np.where(edge_on, np.linalg.norm(flat - own, axis=1), np.inf)))
    return np.asarray(projected.view.flat(normals[k][None])[0])


def _words_of_edge(projected: ProjectedScene, row: int, k: int) -> str:
    edge = projected.part.edges[row]
    normals = edge.normals[:, min(k, edge.normals.shape[1] - 1)]
    best = int(np.argmin(np.abs(normals @ projected.view.toward)))
    return _words_of_face(projected, edge.faces[min(best, len(edge.faces) - 1)]) if edge.faces else "edge"


def _words_of_face(projected: ProjectedScene, row: int) -> str:
    s = projected.part.faces[row].surface
    named = {"plane": "flat face", "cone": "cone", "sphere": "sphere", "torus": "round"}
    if s.kind == "cylinder":
        return f"round face Ø{2 * s.radius:.6g}"
    return named.get(s.kind, "face")


def carried(context: LayoutContext, own: AnyHung) -> tuple[Under, Feature, str, tuple[str, ...]]:
    """Where there is room for a sign under what it hangs on, what that is about, in words, and its references.

    Raises
    ------
    Unmeasurable
        Where it hangs on nothing that carries signs, or that is loose.
    """
    from .. import solve

    carrier = context.carrier(own)
    if carrier is None:
        raise Unmeasurable("Nothing to hang on", "Lead it to geometry, or hang it on a size.")
    solved = solve(carrier, context)
    under = solved.under()
    if under is not None and not under.ends and not own.stacks:
        # under the last frame of those that are stacked there
        last = context.stacked(own)
        under = solve(last, context).under() if last is not None else under
    if solved.loose or under is None:
        raise Unmeasurable("Lost with its size", "What it hangs on is loose; re-seat that, or remove this.")
    feature, words = about(context, carrier)
    return under, feature, words, solved.stands_on


def lost(context: LayoutContext, sign: AnyHung, words: str, error: Unmeasurable) -> Callable[[AnyHung], Loose]:
    """What says beside the view that a sign has lost what it hung on, wherever it is put."""
    box = context.view.box
    refs = (sign.foot.ref,) if sign.foot else ()
    loose = Loose(f"? {words}: {error.title}", refs, np.array([box.x0, box.y1 + 3]), context.style.lettering)
    return lambda _: loose


def about(context: LayoutContext, carrier: AnyAnnotation) -> tuple[Feature, str]:
    """What a size, note or sign is about, and that in words."""
    from .. import solve

    if isinstance(carrier, AnyHung):
        if carrier.foot is not None:
            try:
                hold = hold_of(context.view, carrier.foot)
            except Unmeasurable:
                return "surface", "surface"
            return ("axis" if getattr(carrier, "derived", False) else hold.feature), hold.words
        above = context.carrier(carrier)
        return about(context, above) if above is not None else ("surface", "surface")
    feature = carrier.feature or "surface"
    return feature, f"{feature} of {solve(carrier, context).words}"


def leader_path(hold: Hold, to: Array, style: Style, square: bool) -> Array:
    """Corners (n, 2) of a leader from its tip to a place: with a piece that stands ``square`` to the surface where that is
    asked for and known, and level from there where it can be."""
    tip, out = hold.tip, hold.out
    if not square or out is None:
        return np.array([tip, to])
    v = to - tip
    if float(v @ out) < 0:
        out = -out
    stub = STUB * style.arrow
    if abs(out[1]) > LEVEL:
        far = v[1] / out[1]
        if far >= stub:
            return np.array([tip, tip + far * out, to])
    elif abs(v[1] - out[1] * v[0] / max(abs(float(out[0])), 1e-9)) < 0.3:
        return np.array([tip, to])
    return np.array([tip, tip + stub * out, to])


def draw_leader(sketch: Sketch, style: Style, path: Array, dot: bool) -> None:
    """A leader along its corners from its tip on, with its arrow, or its dot inside a face."""
    way = path[0] - path[1]
    length = float(np.linalg.norm(way))
    if length < 1e-6:
        return
    if dot:
        turn = np.linspace(0, 2 * np.pi, 24, endpoint=False)
        sketch.fill(path[0] + 0.5 * np.c_[np.cos(turn), np.sin(turn)])
    else:
        draw_arrow(sketch, style, path[0], way / length)
    for p, q in zip(path, path[1:], strict=False):
        draw_line(sketch, p, q)


def rectangle(low: Array, u: Array, width: float, height: float) -> curves2.Curve2:
    """The outline of a box from its lower left corner on, along a unit way."""
    n = np.array([-u[1], u[0]])
    return curves2.polyline(np.array([low, low + width * u, low + width * u + height * n, low + height * n, low]))


@value
class BendShown:
    """A bend line as a view shows it: its points (n, 2) in view mm, and the axis along which it runs, 0 where it is level."""

    bend: BendLine
    line: Array
    axis: int


def bends_shown(projected: ProjectedScene) -> list[BendShown]:
    """The bend lines of a flat pattern in the order in which they are numbered: upright ones from the left, then level ones from below."""
    found = []
    for bend in projected.whole.bends:
        line = flat_of(projected, bend.ref)
        across = np.ptp(line, axis=0)
        found.append(BendShown(bend, line, 0 if across[0] > across[1] else 1))

    def order(shown: BendShown) -> tuple[int, float, float]:
        middle = shown.line.mean(axis=0)
        return -shown.axis, round(float(middle[1 - shown.axis]), 6), round(float(middle[shown.axis]), 6)

    return sorted(found, key=order)
