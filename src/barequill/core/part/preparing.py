"""From the kernel's shapes to a Part: one pass, done once for each part file."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.Bnd import Bnd_Box
from OCP.BRep import BRep_Tool
from OCP.BRepBndLib import BRepBndLib
from OCP.TopAbs import TopAbs_Orientation, TopAbs_ShapeEnum

from ..bounds import clipped
from ..errors import BadPartFile
from ..geometry.curves3 import Curve3, polyline
from ..geometry.evaluation import packed_surface
from ..geometry.recognition import conic_parameters, recognise_curve, recognise_surface
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from .box import box_of
from .facing import against_winding, inward
from .figures import area_of, edge_figures, normals_on, packed, strays_of
from .identity import names_of
from .kernel_geometry import curve_of, surface_of, xyz
from .meshing import edge_nodes, mesh_faces, mesh_shape, read_meshes, triangulated
from .model import Array, Body, Edge, Face, Joint, Mesh, Part
from .moving import Shift
from .raw import RawBody, Twin, Twins
from .refining import refined
from .topology import Topology, topology_of

log = logging.getLogger(__name__)
SOLID = TopAbs_ShapeEnum.TopAbs_SOLID
CHORD = 2e-5
"""How far the fine polyline of an edge may stray from it, in part sizes."""
SMOOTH = 0.01
"""Largest angle (rad) between normals across an edge that still counts as tangent."""


BEND = 0.05
"""Largest difference of curvatures across a tangent edge, in shares of the greater, that is not to be seen."""


def prepare(
    raw: list[RawBody],
    bodies: tuple[Body, ...],
    *,
    key: str,
    name: str,
    number: str,
    unit: str,
    progress: Callable[[float, str], None],
) -> Part:
    """Turn raw bodies, and what they weigh, into a Part: exact geometry, joints, references, mesh."""
    low, high = _rough_box(raw)
    size = float(np.linalg.norm(high - low))
    if not size > 0:
        raise BadPartFile(f"{name} has no extent", "All of its geometry lies in one point. Check the export.")
    build = _Build(size)
    progress(0.4, "meshing")
    build.mesh(raw)
    for i, body in enumerate(raw):
        progress(0.5 + 0.45 * i / len(raw), f"preparing {body.name or 'body'} ({i + 1} of {len(raw)})")
        build.add(i)
    progress(0.97, "finishing")
    remarks = []
    if all(not b.solid for b in bodies):
        remarks.append("The file holds surfaces only, no solid: no volume or mass can be given.")
    elif any(not b.solid for b in bodies):
        remarks.append("Beside its solids the file holds loose surfaces.")
    remarks += build.shortfalls()
    return build.part(
        key=key,
        name=clipped(name),
        number=clipped(number),
        unit={"MM": "millimetre", "CM": "centimetre", "M": "metre"}.get(unit.upper(), unit.lower()),
        bodies=bodies,
        remarks=tuple(remarks),
    )


def _rough_box(raw: list[RawBody]) -> tuple[Array, Array]:
    """A box that holds all bodies, and may be larger than they are."""
    box = Bnd_Box()
    for body in raw:
        BRepBndLib.Add_s(body.shape, box, False)
    if box.IsVoid():
        raise BadPartFile("The part has no extent", "There is no geometry in it. Check the export.")
    box.SetGap(0.0)
    return xyz(box.CornerMin()), xyz(box.CornerMax())


@dataclass(frozen=True)
class _Rows:
    """The rows of one body in the lists of a part."""

    faces: range
    edges: range
    vertices: range


@dataclass(frozen=True, eq=False)
class _Meshed:
    """A body, the kernel's mesh of its faces, which of these are still to be meshed here, and whether it is a solid."""

    topology: Topology
    meshes: list[tuple[Array, Array, NDArray[np.int64]]]
    spared: set[int]
    closed: bool


_Described = tuple[
    tuple[Surface, bool], tuple[Surface, bool], Array | None, tuple[Array, Array, Array, NDArray[np.int64]], float
]
"""A face's surface and whether it is reversed, both as the kernel has them, its figures where it is elementary, mesh
(nodes, parameters, normals, triangles) and how far that strays from it."""


class _Build:
    """Collects the rows of a part, body by body."""

    def __init__(self, size: float) -> None:
        self.size = size
        self.deflection = 5e-4 * size
        self.raw: list[tuple[Surface, bool]] = []
        self.figures: list[Array | None] = []
        self.faces: list[Face] = []
        self.edges: list[Edge] = []
        self.vertices: list[Array] = []
        self.middles: list[Array] = []
        self.nodes: list[Array] = []
        self.uv: list[Array] = []
        self.normals: list[Array] = []
        self.triangles: list[NDArray[np.int64]] = []
        self.face_of: list[NDArray[np.int64]] = []
        self.strays: list[float] = []
        self.faceted: list[int] = []
        self.chained = 0
        self._node_count = 0
        self._triangle_count = 0
        self._bodies: list[Twin | _Meshed] = []
        self.done: list[_Rows] = []

    def part(self, *, bodies: tuple[Body, ...], **named: Any) -> Part:
        nodes = np.concatenate([np.zeros((0, 3)), *self.nodes])
        normals = np.concatenate([np.zeros((0, 3)), *self.normals])
        triangles = np.concatenate([np.zeros((0, 3), np.int64), *self.triangles])
        face_of = np.concatenate([np.zeros(0, np.int64), *self.face_of])
        strays = np.maximum(strays_of(nodes, normals, triangles, face_of, len(self.faces)), self.strays)
        mesh = Mesh(
            nodes, np.concatenate([np.zeros((0, 2)), *self.uv]), normals, triangles, face_of, self.deflection, strays
        )
        if not len(mesh.triangles):
            raise BadPartFile(
                "The part cannot be meshed",
                "None of its faces could be triangulated. Heal it in the modeller and export it again.",
            )
        vertices = np.array(self.vertices).reshape(-1, 3)
        low, high = box_of(self.faces, self.edges, vertices, mesh)
        vertex_refs = self._name(vertices)
        return Part(
            bodies=bodies,
            faces=tuple(self.faces),
            edges=tuple(self.edges),
            vertices=vertices,
            vertex_refs=tuple(vertex_refs),
            mesh=mesh,
            low=low,
            high=high,
            **named,
        )

    def shortfalls(self) -> list[str]:
        """What could not be taken over exactly, in words."""
        found = []
        for count, what in ((len(self.faceted), "face"), (self.chained, "edge")):
            if count:
                some = f"{count} {what} is" if count == 1 else f"{count} {what}s are"
                found.append(
                    f"{some} drawn from the mesh, not exactly: Bare Quill could not describe {'it' if count == 1 else 'them'}."
                )
        return found

    def mesh(self, raw: list[RawBody]) -> None:
        """Have all bodies meshed at once, but for those that repeat an earlier one."""
        twins = Twins()
        found = [twins.find(body.shape) or topology_of(body.shape) for body in raw]
        new = [t for t in found if isinstance(t, Topology)]
        faces = [face for t in new for face in t.faces]
        spared = mesh_faces(faces, [count for t in new for count in t.counts], self.deflection)
        meshes = read_meshes(faces)
        first = 0
        for body, item in zip(raw, found, strict=True):
            if isinstance(item, Twin):
                self._bodies.append(item)
                continue
            last = first + len(item.faces)
            own = {row - first for row in spared if first <= row < last}
            self._bodies.append(_Meshed(item, meshes[first:last], own, body.shape.ShapeType() == SOLID))
            first = last

    def add(self, body: int) -> None:
        """Take in a body; one that repeats an earlier one is moved from there."""
        first = len(self.faces), len(self.edges), len(self.vertices)
        known = self._bodies[body]
        if isinstance(known, Twin):
            self._repeat(body, known)
        else:
            self._work_out(body, known)
        last = len(self.faces), len(self.edges), len(self.vertices)
        self.done.append(_Rows(*(range(a, b) for a, b in zip(first, last, strict=True))))

    def _repeat(self, body: int, twin: Twin) -> None:
        known, turn, by = self.done[twin.row], twin.turn, twin.by
        faces, edges = [self.faces[row] for row in known.faces], [self.edges[row] for row in known.edges]
        on = Shift(
            len(self.faces) - known.faces.start,
            len(self.edges) - known.edges.start,
            len(self.vertices) - known.vertices.start,
            self._node_count - faces[0].nodes.start if faces else 0,
            self._triangle_count - faces[0].triangles.start if faces else 0,
        )
        self.faces += [on.face(face, body, turn, by) for face in faces]
        self.edges += [on.edge(edge, body, turn, by) for edge in edges]
        self.vertices += [turn @ self.vertices[row] + by for row in known.vertices]
        for row in known.faces:
            self.nodes.append(self.nodes[row] @ turn.T + by)
            self.uv.append(self.uv[row])
            self.normals.append(self.normals[row] @ turn.T)
            self.triangles.append(self.triangles[row] + on.nodes)
            self.face_of.append(self.face_of[row] + on.faces)
            self.strays.append(self.strays[row])
            # these two serve only while a body is worked out
            self.raw.append(self.raw[row])
            self.figures.append(self.figures[row])
            self._node_count += len(self.nodes[row])
            self._triangle_count += len(self.triangles[row])
        for row in known.edges:
            self.middles.append(turn @ self.middles[row] + by)

    def _name(self, vertices: Array) -> list[str]:
        """Give all entities their lasting references; those of the vertices."""
        face_refs, edge_refs, vertex_refs = names_of(self.faces, self.edges, self.middles, vertices)
        for entity, ref in zip([*self.faces, *self.edges], [*face_refs, *edge_refs], strict=True):
            object.__setattr__(entity, "ref", ref)
        return vertex_refs

    def _work_out(self, body: int, known: _Meshed) -> None:
        topology, spared = known.topology, known.spared
        faces, edges = topology.faces, topology.edges
        first_face, first_vertex = len(self.faces), len(self.vertices)
        touching: list[list[int]] = [[] for _ in faces]
        for i, owners in enumerate(topology.beside):
            for f in owners:
                touching[f].append(i)
        for row, (face, mesh) in enumerate(zip(faces, known.meshes, strict=True)):
            chains = None
            if row in spared:
                chains = [
                    self._chain(edges[i], [faces[f] for f in topology.beside[i] if f not in spared])
                    for i in touching[row]
                ]
            self._add_face(body, face, mesh, chains)
        turned = self._turn_outward(first_face) if known.closed else set()
        self.vertices += topology.vertices
        boundary: list[list[int]] = [[] for _ in faces]
        for edge, owners, ends in zip(edges, topology.beside, topology.ends, strict=True):
            if not owners or BRep_Tool.Degenerated_s(edge):
                continue
            row = len(self.edges)
            rows = tuple(first_vertex + v if v >= 0 else -1 for v in ends)
            first, sense = next(iter(owners.items()))
            if first_face + first in turned:
                sense = -sense
            self._add_edge(body, edge, [faces[f] for f in owners], [first_face + f for f in owners], rows, sense)
            if len(self.edges) > row:
                for f in owners:
                    boundary[f].append(row)
        for f, around in enumerate(boundary):
            object.__setattr__(self.faces[first_face + f], "boundary", tuple(around))

    def _turn_outward(self, first: int) -> set[int]:
        """Turn round the faces from row ``first`` on that look into the closed body that they bound; their rows."""
        own = range(first, len(self.faces))
        start = self.faces[first].nodes.start if own else 0
        triangles = np.concatenate([np.zeros((0, 3), np.int64), *(self.triangles[f] for f in own)]) - start
        face_of = np.concatenate([np.zeros(0, np.int64), *(self.face_of[f] for f in own)]) - first
        nodes = np.concatenate([np.zeros((0, 3)), *(self.nodes[f] for f in own)])
        turned = {first + int(k) for k in np.nonzero(inward(nodes, triangles, face_of, len(own)))[0]}
        for f in turned:
            face = self.faces[f]
            object.__setattr__(face, "reversed", not face.reversed)
            surface, reverse = self.raw[f]
            self.raw[f] = surface, not reverse
            self.figures[f] = packed(face.surface, face.sense) if face.surface.elementary else None
            self.normals[f] = -self.normals[f]
            self.triangles[f] = np.ascontiguousarray(self.triangles[f][:, ::-1])
        return turned

    def _chain(self, edge: Any, meshed: list[Any]) -> Array:
        """Points along an edge, those of the mesh beside it where there is one."""
        nodes = edge_nodes(edge, meshed)
        if nodes is None:
            curve = curve_of(edge)
            nodes = curve.points(curve.parameters(self.deflection))
        return nodes

    def _described(
        self, face: Any, mesh: tuple[Array, Array, NDArray[np.int64]], chains: list[Array] | None
    ) -> _Described:
        """A face by its exact surface."""
        surface = surface_of(face)
        reverse = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        stray = 0.0
        own = triangulated(chains, surface.axes, 1e-7 * self.size) if chains is not None else None
        if own is not None:
            nodes, triangles = own
            uv = np.zeros((len(nodes), 2))
        else:
            if chains is not None:
                mesh_shape(face, self.deflection)
                (mesh,) = read_meshes([face])
            nodes, uv, triangles = mesh
            if not surface.elementary and len(nodes):
                shape = packed_surface(surface)
                nodes, uv, triangles, stray = refined(*shape, nodes, uv, triangles, self.deflection)
        n = len(nodes)
        if reverse:
            triangles = np.ascontiguousarray(triangles[:, ::-1])
        figures = packed(surface, -1.0 if reverse else 1.0) if surface.elementary else None
        if not n:
            normals = np.zeros((0, 3))
        elif figures is not None and surface.kind != "cone" and not surface.spindle:
            normals = np.empty((n, 3))
            normals_on(figures, nodes, normals)
        else:
            normals = surface.normals(uv) * (-1.0 if reverse else 1.0)
        if n and against_winding(nodes, normals, triangles):
            # the kernel's own mesh knows better which side its parameters turn to the outside
            reverse, normals = not reverse, -normals
            figures = packed(surface, -1.0 if reverse else 1.0) if surface.elementary else None
        raw = surface, reverse
        if surface.elementary:
            known: Surface | None = surface.on_near_side(uv)
        else:
            known = recognise_surface(surface, uv, 1e-6 * self.size) if n else None
        if known is not None and known is not surface:
            surface = known
            reverse = bool((surface.normals_at(nodes) * normals).sum() < 0)
            figures = packed(surface, -1.0 if reverse else 1.0)
        if not (np.isfinite(nodes).all() and np.isfinite(normals).all()):
            raise ArithmeticError("the surface has places without a point or a normal")
        return (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray

    def _as_facets(self, face: Any) -> _Described:
        """A face by nothing but the kernel's mesh."""
        ((nodes, uv, triangles),) = read_meshes([face])
        reverse = face.Orientation() == TopAbs_Orientation.TopAbs_REVERSED
        if reverse:
            triangles = np.ascontiguousarray(triangles[:, ::-1])
        a, b, c = (nodes[triangles[:, k]] for k in range(3))
        # nodes that a seam holds twice have one normal
        _, same = np.unique(np.round(nodes / (1e-9 * self.size)), axis=0, return_inverse=True)
        sums = np.zeros_like(nodes)
        for k in range(3):
            np.add.at(sums, same.reshape(-1)[triangles[:, k]], cross(b - a, c - a))
        normals = sums[same.reshape(-1)]
        normals /= np.maximum(np.linalg.norm(normals, axis=1), 1e-300)[:, None]
        surface = Surface("facets", np.zeros(3), np.eye(3))
        return (surface, reverse), (surface, reverse), None, (nodes, uv, normals, triangles), self.deflection

    def _add_face(
        self, body: int, face: Any, mesh: tuple[Array, Array, NDArray[np.int64]], chains: list[Array] | None
    ) -> None:
        try:
            (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray = self._described(
                face, mesh, chains
            )
        except Exception:
            log.exception("face %d of body %d cannot be described: it is taken from its mesh", len(self.faces), body)
            (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray = self._as_facets(face)
            self.faceted.append(len(self.faces))
        n, m = len(nodes), len(triangles)
        self.raw.append(raw)
        self.figures.append(figures)
        area, centre = area_of(np.ascontiguousarray(nodes), np.ascontiguousarray(triangles))
        row = len(self.faces)
        self.faces.append(
            Face(
                "",
                body,
                surface,
                reverse,
                area,
                centre,
                slice(self._node_count, self._node_count + n),
                slice(self._triangle_count, self._triangle_count + m),
            )
        )
        self.nodes.append(nodes)
        self.uv.append(uv)
        self.normals.append(normals)
        self.triangles.append(triangles + self._node_count)
        self.face_of.append(np.full(m, row))
        self.strays.append(stray)
        self._node_count += n
        self._triangle_count += m

    def _add_edge(
        self, body: int, edge: Any, kernel_faces: list[Any], faces: list[int], ends: tuple[int, ...], sense: float
    ) -> None:
        try:
            curve = curve_of(edge)
            if not np.isfinite(curve.points(np.linspace(curve.t0, curve.t1, 5))).all():
                raise ArithmeticError("the curve has places without a point")
            self._add_curve(body, edge, curve, kernel_faces, faces, ends, sense)
        except Exception:
            log.exception("edge %d of body %d cannot be described: it is taken from its mesh", len(self.edges), body)
            nodes = edge_nodes(edge, kernel_faces)
            if nodes is None or len(nodes) < 2:
                return
            self.chained += 1
            self._add_curve(body, edge, polyline(nodes), kernel_faces, faces, ends, sense)

    def _add_curve(
        self,
        body: int,
        edge: Any,
        curve: Curve3,
        kernel_faces: list[Any],
        faces: list[int],
        ends: tuple[int, ...],
        sense: float,
    ) -> None:
        known = recognise_curve(curve, 1e-6 * self.size)
        plain = self._plain_edge(known or curve, faces, sense)
        if plain is not None:
            curve = known or curve
            t, points, normals, convex, joint = plain
        else:
            t, points, normals, convex, joint = self._any_edge(edge, curve, kernel_faces, faces, sense)
            if known is not None:
                curve, t = known, conic_parameters(known, points)
                t[0], t[-1] = known.t0, known.t1
                if known.kind == "line" and len(faces) and joint != "smooth":
                    keep = np.linspace(0, len(t) - 1, min(len(t), 17)).astype(int)
                    t, points, normals, convex = t[keep], points[keep], normals[:, keep], convex[keep]
        self.middles.append(curve.point((curve.t0 + curve.t1) / 2))
        self.edges.append(Edge("", body, curve, joint, tuple(faces), (ends[0], ends[1]), t, points, normals, convex))

    def _rows(self, curve: Curve3, faces: list[int]) -> int:
        """Even steps for an edge that is a line or conic."""
        if curve.kind == "line":
            kinds = [self.faces[f].surface.kind for f in faces]
            return 1 if all(k in ("plane", "cylinder", "cone") for k in kinds) else 16
        return curve.steps(CHORD * self.size)

    def _plain_edge(
        self, curve: Curve3, faces: list[int], sense: float
    ) -> tuple[Array, Array, Array, NDArray[np.bool_], Joint] | None:
        """Parameters, points, normals, convexity and joint of a line or conic between two elementary faces."""
        if curve.kind == "nurbs" or len(faces) != 2:
            return None
        one, two = (self.figures[f] for f in faces)
        if one is None or two is None:
            return None
        t, points, normals, convex, turn, alike = edge_figures(
            curve.kind == "conic",
            curve.t0,
            curve.t1,
            curve.origin,
            curve.x,
            curve.y if curve.y is not None else curve.x,
            self._rows(curve, faces),
            one,
            two,
            sense,
        )
        if any(self._touches_apex(self.faces[f].surface, points[[0, -1]]) for f in faces):
            return None
        if turn < SMOOTH and alike:
            joint = self._tangent_joint(faces, curve, t, points, normals, sense)
        else:
            joint = "sharp"
        return t, points, normals, convex, joint

    def _any_edge(
        self, edge: Any, curve: Curve3, kernel_faces: list[Any], faces: list[int], sense: float
    ) -> tuple[Array, Array, Array, NDArray[np.bool_], Joint]:
        """The same of any edge."""
        if curve.kind == "nurbs":
            t = curve.parameters(CHORD * self.size)
        else:
            t = np.linspace(curve.t0, curve.t1, self._rows(curve, faces) + 1)
        points = curve.points(t)
        if len(faces) == 1 and BRep_Tool.IsClosed_s(edge, kernel_faces[0]):
            normals = np.zeros((2, len(t), 3))
            normals[:] = self._normals(edge, kernel_faces[0], faces[0], curve, t, points)
            return t, points, normals, np.ones(len(t), bool), "same"
        found = [self._normals(edge, k, f, curve, t, points) for k, f in zip(kernel_faces, faces, strict=True)]
        normals = np.array([found[0], found[1] if len(found) > 1 else found[0]])
        joint, convex = self._joint(faces, curve, t, points, normals, sense)
        return t, points, normals, convex, joint

    def _joint(
        self, faces: list[int], curve: Curve3, t: Array, points: Array, normals: Array, sense: float
    ) -> tuple[Joint, NDArray[np.bool_]]:
        if len(faces) == 1:
            return "border", np.ones(len(t), bool)
        inward = self._inward(curve, t, normals, sense)
        convex = np.einsum("ij,ij->i", inward, normals[1]) <= 0
        turn = np.linalg.norm(cross(normals[0], normals[1]), axis=1)
        alike = np.einsum("ij,ij->i", normals[0], normals[1]) > 0
        if not (np.all(turn < SMOOTH) and np.all(alike)):
            return "sharp", convex
        return self._tangent_joint(faces, curve, t, points, normals, sense), convex

    def _inward(self, curve: Curve3, t: Array, normals: Array, sense: float) -> Array:
        """Directions (m, 3) from an edge into the first of its faces."""
        tangent = curve.derivatives(t)[1]
        tangent = tangent / np.maximum(np.linalg.norm(tangent, axis=1), 1e-300)[:, None]
        return cross(normals[0], tangent) * sense

    def _tangent_joint(
        self, faces: list[int], curve: Curve3, t: Array, points: Array, normals: Array, sense: float
    ) -> Joint:
        """The joint of two faces that are tangent all along an edge."""
        a, b = (self.faces[f].surface for f in faces[:2])
        if a.same_as(b, self.size):
            return "same"
        inward = self._inward(curve, t, normals, sense)
        return "same" if self._bend_alike(faces, points, inward, normals) else "smooth"

    def _bend_alike(self, faces: list[int], points: Array, inward: Array, normals: Array) -> bool:
        """True where two faces bend alike across their common edge: then nothing is to be seen there."""
        some = np.unique(np.linspace(0, len(points) - 1, 7).astype(int)[1:-1])
        step = 1e-4 * self.size
        bends = []
        for f, side in zip(faces[:2], (1.0, -1.0), strict=True):
            face = self.faces[f]
            nodes = self.nodes[f]
            across = side * inward[some]
            if face.surface.elementary:
                there = face.sense * face.surface.normals_at(points[some] + step * across)
                bends.append(((there - normals[0][some]) * across).sum(axis=1) / step)
                continue
            # of a free-form face the bend is read off its mesh: the nearest node on that side
            if not len(nodes):
                return False
            gap = nodes[None] - points[some][:, None]
            far = np.linalg.norm(gap, axis=2)
            along = (gap * across[:, None]).sum(axis=2)
            score = np.where((along > 0.7 * far) & (far > 1e-5 * self.size), far, np.inf)
            best = score.argmin(axis=1)
            if not np.isfinite(score[np.arange(len(some)), best]).all():
                return False
            n = self.normals[f][best] - normals[0][some]
            bends.append((n * across).sum(axis=1) / along[np.arange(len(some)), best])
        one, two = bends
        scale = np.maximum(np.maximum(np.abs(one), np.abs(two)), 0.5 / self.size)
        return bool((np.abs(one - two) < BEND * scale).all())

    def _normals(self, edge: Any, kernel_face: Any, face: int, curve: Curve3, t: Array, points: Array) -> Array:
        """Outward normals of a face along one of its edges."""
        surface: Surface = self.faces[face].surface
        if surface.kind == "facets":
            from scipy.spatial import cKDTree

            nodes, normals = self.nodes[face], self.normals[face]
            if not len(nodes):
                return np.repeat(np.array([[0.0, 0.0, 1.0]]), len(points), axis=0)
            return normals[cKDTree(nodes).query(points)[1]]
        if surface.elementary and not self._touches_apex(surface, points):
            return self.faces[face].sense * surface.normals_at(points)
        pcurve = BRep_Tool.CurveOnSurface_s(edge, kernel_face, 0.0, 0.0)
        first, last = BRep_Tool.Range_s(edge)
        share = (t - curve.t0) / max(curve.t1 - curve.t0, 1e-300)
        at = first + share * (last - first)
        if pcurve is None:
            return self.faces[face].sense * surface.normals_at(points)
        uv = np.empty((len(t), 2))
        for k, x in enumerate(at):
            p = pcurve.Value(float(x))
            uv[k] = p.X(), p.Y()
        raw, reverse = self.raw[face]
        return raw.normals(uv) * (-1.0 if reverse else 1.0)

    def _touches_apex(self, surface: Surface, points: Array) -> bool:
        """True where one of the points (m, 3) is an apex, at which normals do not follow from the place."""
        if surface.kind == "cone":
            apex = surface.origin - surface.axes[2] * surface.radius / np.tan(surface.half_angle)
            return bool((np.linalg.norm(points - apex, axis=1) < 1e-6 * self.size).any())
        if surface.spindle:
            from_axis = np.linalg.norm(cross(points - surface.origin, surface.axes[2]), axis=1)
            return bool((from_axis < 1e-6 * self.size).any())
        return False
