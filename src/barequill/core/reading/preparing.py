"""From the kernel's shapes to a Part: one pass, done once for each part file."""

from __future__ import annotations

import logging
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool
from OCP.TopAbs import TopAbs_ShapeEnum

from ..bounds import clipped
from ..errors import BadPartFile
from ..geometry.curves3 import Curve3, polyline
from ..geometry.recognition import conic_parameters, recognise_curve
from ..geometry.surfaces import Surface
from ..part.box import box_of
from ..part.figures import area_of, packed, strays_of
from ..part.identity import names_of
from ..part.model import Array, Body, Edge, Face, Mesh, Part
from ..part.moving import Shift
from ..values import value
from .borders import run_on
from .describing import as_facets, described
from .extent import rough_box
from .facing import inward, unlike
from .joints import Joints
from .kernel_geometry import curve_of
from .meshing import edge_nodes, mesh_faces, read_meshes
from .raw import RawBody, Twin, Twins
from .remeshing import remeshed
from .topology import Topology, topology_of

log = logging.getLogger(__name__)
SOLID = TopAbs_ShapeEnum.TopAbs_SOLID
STEP = 100
"""Faces or edges of a body after which it is told how far it is."""


def prepare(
    raw: list[RawBody],
    weighed: Callable[[], tuple[Body, ...]],
    *,
    key: str,
    name: str,
    number: str,
    unit: str,
    progress: Callable[[float, str], None],
) -> Part:
    """Turn raw bodies, and what they weigh, which is asked for last, into a Part: exact geometry, joints, references, mesh."""
    low, high = rough_box([body.shape for body in raw])
    size = float(np.linalg.norm(high - low))
    if not size > 0:
        raise BadPartFile(f"{name} has no extent", "All of its geometry lies in one point. Check the export.")
    build = _Build(size)
    progress(0.4, "meshing")
    build.mesh(raw)
    for i, body in enumerate(raw):
        what = f"preparing {body.name or 'body'} ({i + 1} of {len(raw)})"
        build.add(i, partial(_within, progress, what, 0.5 + 0.42 * i / len(raw), 0.42 / len(raw)))
    progress(0.93, "weighing")
    bodies, remarks = weighed(), []
    progress(0.97, "finishing")
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


def _within(progress: Callable[[float, str], None], what: str, begin: float, reach: float, share: float) -> None:
    """Tell how far a stretch of the whole is done."""
    progress(begin + reach * share, what)


@dataclass(frozen=True)
class _Rows:
    """The rows of one body in the lists of a part."""

    faces: range
    edges: range
    vertices: range


@value
class _Meshed:
    """A body, the kernel's mesh of its faces, which of these are still to be meshed here, and whether it is a solid."""

    topology: Topology
    meshes: list[tuple[Array, Array, NDArray[np.int64]]]
    spared: set[int]
    closed: bool


class _Build(Joints):
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
        self.unmeshed = 0
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
            nodes=nodes,
            uv=np.concatenate([np.zeros((0, 2)), *self.uv]),
            normals=normals,
            triangles=triangles,
            face_of=face_of,
            deflection=self.deflection,
            strays=strays,
        )
        if not len(mesh.triangles):
            raise BadPartFile(
                "The part cannot be meshed",
                "None of its faces could be triangulated. Heal it in the modeller and export it again.",
            )
        vertices = np.array(self.vertices).reshape(-1, 3)
        low, high = box_of(self.faces, self.edges, vertices, mesh)
        vertex_refs = self._name(vertices)
        self.edges = run_on(self.edges, self.size)
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
        drawn = "drawn from the mesh, not exactly: Bare Quill could not describe"
        found = []
        for count, what, fate in (
            (len(self.faceted), "face", drawn),
            (self.chained, "edge", drawn),
            (
                self.unmeshed,
                "face",
                "left out of what hides and of what is cut: neither the kernel nor Bare Quill could mesh",
            ),
        ):
            if count:
                some = f"{count} {what} is" if count == 1 else f"{count} {what}s are"
                found.append(f"{some} {fate} {'it' if count == 1 else 'them'}.")
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

    def add(self, body: int, told: Callable[[float], None]) -> None:
        """Take in a body, and tell how far it is (0 to 1); one that repeats an earlier one is moved from there."""
        told(0.0)
        first = len(self.faces), len(self.edges), len(self.vertices)
        known = self._bodies[body]
        if isinstance(known, Twin):
            self._repeat(body, known)
        else:
            self._work_out(body, known, told)
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

    def _work_out(self, body: int, known: _Meshed, told: Callable[[float], None]) -> None:
        topology, spared = known.topology, known.spared
        faces, edges = topology.faces, topology.edges
        count = len(faces) + len(edges)
        first_face, first_vertex = len(self.faces), len(self.vertices)
        touching: list[list[int]] = [[] for _ in faces]
        for i, owners in enumerate(topology.beside):
            for f in owners:
                touching[f].append(i)
        for row, (face, mesh) in enumerate(zip(faces, known.meshes, strict=True)):
            if row % STEP == STEP - 1:
                told(row / count)
            chains = None
            if row in spared:
                chains = [
                    self._chain(edges[i], [faces[f] for f in topology.beside[i] if f not in spared])
                    for i in touching[row]
                ]
            elif not len(mesh[2]):
                beside = [(edges[i], [faces[f] for f in topology.beside[i]]) for i in touching[row]]
                anew = remeshed(face, beside, self.size, self.deflection)
                self.unmeshed += anew is None
                mesh = anew or mesh
            self._add_face(body, face, mesh, chains)
        looking = self._looking_in(first_face) if known.closed else unlike(topology.beside, len(faces))
        turned = self._turn({first_face + k for k in looking})
        self.vertices += topology.vertices
        boundary: list[list[int]] = [[] for _ in faces]
        for k, (edge, owners, ends) in enumerate(zip(edges, topology.beside, topology.ends, strict=True)):
            if k % STEP == STEP - 1:
                told((len(faces) + k) / count)
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

    def _looking_in(self, first: int) -> list[int]:
        """The faces from row ``first`` on that look into the closed body that they bound, by their rows from there."""
        own = range(first, len(self.faces))
        start = self.faces[first].nodes.start if own else 0
        triangles = np.concatenate([np.zeros((0, 3), np.int64), *(self.triangles[f] for f in own)]) - start
        face_of = np.concatenate([np.zeros(0, np.int64), *(self.face_of[f] for f in own)]) - first
        nodes = np.concatenate([np.zeros((0, 3)), *(self.nodes[f] for f in own)])
        return [int(k) for k in np.nonzero(inward(nodes, triangles, face_of, len(own)))[0]]

    def _turn(self, turned: set[int]) -> set[int]:
        """Turn round some faces; their rows."""
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

    def _add_face(
        self, body: int, face: Any, mesh: tuple[Array, Array, NDArray[np.int64]], chains: list[Array] | None
    ) -> None:
        try:
            (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray = described(
                face, mesh, chains, self.size, self.deflection
            )
        except Exception:
            log.exception("face %d of body %d cannot be described: it is taken from its mesh", len(self.faces), body)
            (surface, reverse), raw, figures, (nodes, uv, normals, triangles), stray = as_facets(
                face, self.size, self.deflection
            )
            self.faceted.append(len(self.faces))
        n, m = len(nodes), len(triangles)
        self.raw.append(raw)
        self.figures.append(figures)
        area, centre = area_of(np.ascontiguousarray(nodes), np.ascontiguousarray(triangles))
        row = len(self.faces)
        self.faces.append(
            Face(
                ref="",
                body=body,
                surface=surface,
                reversed=reverse,
                area=area,
                centre=centre,
                nodes=slice(self._node_count, self._node_count + n),
                triangles=slice(self._triangle_count, self._triangle_count + m),
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
        add = partial(
            self._add_curve, body=body, edge=edge, kernel_faces=kernel_faces, faces=faces, ends=ends, sense=sense
        )
        try:
            curve = curve_of(edge)
            if not np.isfinite(curve.points(np.linspace(curve.t0, curve.t1, 5))).all():
                raise ArithmeticError("the curve has places without a point")
            add(curve=curve)
        except Exception:
            log.exception("edge %d of body %d cannot be described: it is taken from its mesh", len(self.edges), body)
            nodes = edge_nodes(edge, kernel_faces)
            if nodes is None or len(nodes) < 2:
                return
            self.chained += 1
            add(curve=polyline(nodes))

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
        self.edges.append(
            Edge(
                ref="",
                body=body,
                curve=curve,
                joint=joint,
                faces=tuple(faces),
                ends=(ends[0], ends[1]),
                t=t,
                points=points,
                normals=normals,
                convex=convex,
            )
        )
