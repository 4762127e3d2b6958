"""The flat pattern of a bent sheet: the part as it was before it was bent, each face and edge called as it is on the bent one.

What lies in a flat is moved with it. What lies in a bend is turned back about the bend's axis and moved along by the length of the
neutral line; holes in bends are drawn as they come out, which is as they are to be cut. The middle of each bend is an edge of its own.
"""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
import shapely

from ..errors import UserError
from ..geometry.curves3 import line, polyline
from ..geometry.planar import rings_of, united
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.chosen import body_names, only
from ..part.model import Array, BendLine, Edge, Face, Ints, Mesh, Part
from ..part.transforming import moved_part
from .bent_sheet import NEAR, Bend, BentSheet, Laid, Rigid, Rolled, Rule, bent_sheet_of
from .faces import normal_of, off_axis

Laying = tuple[Surface, bool, Array, Array, Array, Ints]
"""Of a face: its surface, whether its sense is turned, and of its mesh nodes, uv, normals and triangles (from 0)."""
BENT = "-bend"
"""What the middle of a bend is called, after the name of its face."""
SAME = 1e-9
"""Of the part's size: how far a line may stray that is straight."""


def flat_pattern_of(part: Part, body: str, rule: Rule) -> Part:
    """A body of a part (by name; the first that is a bent sheet where that is empty) laid flat: its upper side toward +z at the height of
    its thickness, longer along x than along y.

    Raises
    ------
    UserError
        Where it is no bent sheet, or cannot be laid flat; the message says why.
    """
    names = body_names(part)
    rows = [names.index(body)] if body in names else list(range(len(names)))
    why: UserError | None = None
    for row in rows:
        own = only(part, (names[row],))
        try:
            return _Flattening(own, bent_sheet_of(own, 0, rule)).made()
        except UserError as error:
            why = why or error
    assert why is not None
    raise why


class _Flattening:
    """A body while it is laid flat."""

    def __init__(self, part: Part, sheet: BentSheet) -> None:
        self.part, self.sheet = part, sheet
        self.near = NEAR * part.size
        self.laid = sheet.laid
        self.corner_laid: dict[int, Laid] = {}
        self._settle()

    def _settle(self) -> None:
        """Find out how each edge and corner comes to lie: with a broad face beside it, else with what it ends at."""
        part = self.part
        self.edge_laid: dict[int, Laid] = {}
        for k, e in enumerate(part.edges):
            own = next((self.laid[f] for f in e.faces if f in self.laid), None)
            if own is not None:
                self.edge_laid[k] = own
                for v in e.ends:
                    self.corner_laid.setdefault(v, own)
        for k, e in enumerate(part.edges):
            end = next((self.corner_laid[v] for v in e.ends if v in self.corner_laid), None)
            if end is not None:
                self.edge_laid.setdefault(k, end)
        # what reaches neither side, such as the step of a hole that is sunk, lies with the faces beside it
        left = [k for k in range(len(part.edges)) if k not in self.edge_laid]
        while left:
            for k in left:
                around = (b for f in part.edges[k].faces for b in part.faces[f].boundary if b in self.edge_laid)
                if (near := next(around, None)) is not None:
                    self.edge_laid[k] = self.edge_laid[near]
            still = [k for k in left if k not in self.edge_laid]
            if len(still) == len(left):
                raise UserError("It cannot be laid flat", f"Its edge {part.edges[left[0]].ref} hangs on nothing.")
            left = still

    def _alike(self, one: Laid, two: Laid) -> bool:
        if isinstance(one, Rigid) and isinstance(two, Rigid):
            return bool(np.abs(one.turn - two.turn).max() < 1e-9 and np.abs(one.by - two.by).max() < self.near)
        if isinstance(one, Rolled) and isinstance(two, Rolled):
            return bool(
                abs(one.angle - two.angle) < 1e-6
                and off_axis(one.origin, one.axis, two.origin) < self.near
                and one.axis @ two.axis > 1 - 1e-9
                and one.out @ two.out > 1 - 1e-9
            )
        return False

    def _all_of(self, face: Face) -> list[Laid]:
        """The different ways in which a face lies: as the broad faces beside it do, or what bounds it where none is."""
        found: list[Laid] = []
        beside = [k for k in face.boundary if any(f in self.laid for f in self.part.edges[k].faces)]
        for k in beside or face.boundary:
            own = self.edge_laid[k]
            if not any(self._alike(own, other) for other in found):
                found.append(own)
        return found

    def made(self) -> Part:
        """The part laid flat."""
        part = self.part
        edges = [self._edge(k) for k in range(len(part.edges))]
        corners = np.array(
            [
                (self.corner_laid.get(v) or next(iter(self.sheet.laid.values()))).places(p[None])[0]
                for v, p in enumerate(part.vertices)
            ]
        ).reshape(-1, 3)
        for e, new in zip(part.edges, edges, strict=True):
            for v, p in zip(e.ends, (new.points[0], new.points[-1]), strict=True):
                if v >= 0 and v not in self.corner_laid:
                    corners[v] = p
                elif v >= 0 and float(np.abs(corners[v] - p).max()) > 100 * self.near:
                    raise UserError(
                        "It cannot be laid flat", f"It would be torn open at its edge {e.ref}: leave a gap there first."
                    )
        faces = [self._face(row, edges) for row in range(len(part.faces))]
        flat = self._assembled(edges, faces, corners)
        flat = _with_bend_lines(flat, self.sheet, self.laid)
        return _lying(flat)

    def _edge(self, row: int) -> Edge:
        part, e = self.part, self.part.edges[row]
        own = self.edge_laid[row]
        joint = e.joint
        if joint == "smooth" and len({f for f in e.faces if f in self.laid}) == 2:
            joint = "same"
        if isinstance(own, Rigid):
            normals = np.array([own.ways(n, e.points) for n in e.normals])
            return replace(
                e, curve=e.curve.moved(own.turn, own.by), points=own.places(e.points), normals=normals, joint=joint
            )
        t = np.unique(np.concatenate([e.t, e.curve.parameters(2e-6 * part.size)]))
        there = e.curve.points(t)
        points = own.places(there)
        straight = line(points[0], points[-1])
        off = cross((points - points[0]), straight.x[None]) if straight.x is not None else points
        if straight.t1 > 10 * self.near and float(np.linalg.norm(off, axis=1).max()) < max(SAME * part.size, 1e-9):
            curve, keep = straight, np.array([0, len(t) - 1])
            # what runs along the axis has its normals all along; what ran round the bend has those of its ends
            new_t, new_points = np.array([0.0, straight.t1]), points[keep]
        else:
            curve = polyline(points)
            keep = np.arange(len(t))
            way = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(points, axis=0), axis=1))])
            new_t, new_points = way, points
        sides = []
        for n in e.normals:
            spread = np.stack([np.interp(t[keep], e.t, n[:, k]) for k in range(3)], axis=1)
            spread /= np.maximum(np.linalg.norm(spread, axis=1), 1e-300)[:, None]
            sides.append(own.ways(spread, there[keep]))
        convex = e.convex[np.clip(np.searchsorted(e.t, t[keep]), 0, len(e.convex) - 1)]
        return replace(e, curve=curve, t=new_t, points=new_points, normals=np.array(sides), convex=convex, joint=joint)

    def _face(self, row: int, edges: list[Edge]) -> Laying:
        """Surface, sense, and of its mesh nodes, uv, normals and triangles (from 0) of a face laid flat."""
        part, face = self.part, self.part.faces[row]
        nodes, normals, uv = (a[face.nodes] for a in (part.mesh.nodes, part.mesh.normals, part.mesh.uv))
        triangles = part.mesh.triangles[face.triangles] - face.nodes.start
        own = [self.laid[row]] if row in self.laid else self._all_of(face)
        if len(own) == 1 and isinstance(own[0], Rigid):
            rigid = own[0]
            surface = face.surface.moved(rigid.turn, rigid.by)
            return surface, face.reversed, rigid.places(nodes), uv, rigid.ways(normals, nodes), triangles
        rolls = [o for o in own if isinstance(o, Rolled)]
        if not rolls:
            # it bounds flats alone, which lie differently: none of what is drawn
            return _facets(own[0].places(nodes), own[0].ways(normals, nodes), triangles)
        if row in self.laid:
            places = rolls[0].places(nodes)
            out = np.array([0.0, 0.0, 1.0 if row in self.sheet.upper else -1.0])
            return _plane(places, out, triangles)
        axis = rolls[0].axis
        if face.surface.kind == "plane" and all(abs(float(face.surface.axes[2] @ r.axis)) > 1 - 1e-9 for r in rolls):
            out = rolls[0].start.turn @ normal_of(part, row)
            return self._wall(face, edges, out)
        if face.surface.kind == "plane" and len(own) == 1 and abs(float(face.surface.axes[2] @ axis)) < 1e-9:
            turned = rolls[0].angles(nodes)
            if float(np.ptp(turned)) < 1e-6:
                places = rolls[0].places(nodes)
                out = rolls[0].ways(normals[:1], nodes[:1])[0]
                return _plane(places, out, triangles)
        if len(rolls) == 1:
            return _facets(rolls[0].places(nodes), rolls[0].ways(normals, nodes), triangles)
        # over several bends: each node with the bend that it is in, or is nearest to
        away = []
        for r in rolls:
            angles = r.angles(nodes)
            off = nodes - r.origin
            radius = np.linalg.norm(off - (off @ r.axis)[:, None] * r.axis, axis=1)
            beyond = np.maximum(np.maximum(-angles, angles - r.angle), 0.0)
            far = np.abs(radius - r.radius - self.sheet.thickness / 2) - self.sheet.thickness / 2
            away.append(np.minimum(beyond, 1.0) * np.maximum(radius, r.radius) + np.maximum(far, 0.0))
        nearest = np.argmin(away, axis=0)
        places, ways = np.zeros_like(nodes), np.zeros_like(normals)
        for k, r in enumerate(rolls):
            mine = nearest == k
            places[mine], ways[mine] = r.places(nodes[mine]), r.ways(normals[mine], nodes[mine])
        return _facets(places, ways, triangles)

    def _wall(self, face: Face, edges: list[Edge], out: Array) -> Laying:
        """A flat wall across a bend, which was the end of it: its outline laid flat, with a mesh of its own."""
        out = out / np.linalg.norm(out)
        x = cross(np.array([0.0, 0.0, 1.0]), out)
        x = x / np.linalg.norm(x)
        y = cross(out, x)
        lines = [edges[k].points for k in face.boundary]
        origin = lines[0][0]
        flat = [shapely.LineString(np.round((p - origin) @ np.array([x, y]).T, 9)) for p in lines if len(p) > 1]
        pieces = shapely.get_parts(shapely.polygonize([shapely.unary_union(flat)]))
        inside = _filled(list(pieces))
        if not inside:
            raise UserError("It cannot be laid flat", f"Its face {face.ref} comes to have no outline.")
        corners = [
            rings_of(shapely.orient_polygons(t))[0]
            for polygon in inside
            for t in shapely.constrained_delaunay_triangles(polygon).geoms
        ]
        places, triangles = np.unique(np.concatenate(corners), axis=0, return_inverse=True)
        nodes = origin + places @ np.array([x, y])
        return _plane(nodes, out, triangles.reshape(-1, 3).astype(np.int64))

    def _assembled(self, edges: list[Edge], faces: list[Laying], corners: Array) -> Part:
        part = self.part
        made: list[Face] = []
        node_count = triangle_count = 0
        every: list[list[Any]] = [[], [], [], []]
        for row, (face, (surface, back, nodes, uv, normals, triangles)) in enumerate(
            zip(part.faces, faces, strict=True)
        ):
            corner = nodes[triangles]
            wide = np.linalg.norm(cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]), axis=1) / 2
            area = face.area if isinstance(self.laid.get(row), Rigid) else float(wide.sum())
            made.append(
                replace(
                    face,
                    surface=surface,
                    reversed=back,
                    area=area,
                    centre=corner.mean(axis=1).T @ wide / max(float(wide.sum()), 1e-300) if len(wide) else face.centre,
                    nodes=slice(node_count, node_count + len(nodes)),
                    triangles=slice(triangle_count, triangle_count + len(triangles)),
                )
            )
            for store, own in zip(every, (nodes, uv, normals, (triangles + node_count).astype(np.int64)), strict=True):
                store.append(own)
            node_count += len(nodes)
            triangle_count += len(triangles)
        mesh = Mesh(
            nodes=np.concatenate(every[0]),
            uv=np.concatenate(every[1]),
            normals=np.concatenate(every[2]),
            triangles=np.concatenate(every[3]).astype(np.int64),
            face_of=np.repeat(np.arange(len(made)), [f.triangles.stop - f.triangles.start for f in made]).astype(
                np.int64
            ),
            deflection=part.mesh.deflection,
            strays=np.array(
                [0.0 if f.surface.kind == "plane" else s for f, s in zip(made, part.mesh.strays, strict=True)]
            ),
        )
        top = sum(f.area for k, f in enumerate(made) if k in self.sheet.upper)
        body = replace(part.bodies[0], volume=top * self.sheet.thickness, area=sum(f.area for f in made))
        return replace(
            part, bodies=(body,), faces=tuple(made), edges=tuple(edges), vertices=corners, mesh=mesh, meeting=()
        )


def _plane(nodes: Array, out: Array, triangles: Ints) -> Laying:
    """A flat face through nodes (n, 3), its outward normal ``out``."""
    x = cross(out, np.eye(3)[int(np.argmin(np.abs(out)))])
    x = x / np.linalg.norm(x)
    axes = np.array([x, cross(out, x), out])
    corner = nodes[triangles]
    facing = cross(corner[:, 1] - corner[:, 0], corner[:, 2] - corner[:, 0]) @ out
    triangles = np.where((facing < 0)[:, None], triangles[:, ::-1], triangles)
    uv = (nodes - nodes[0]) @ axes[:2].T
    return Surface("plane", nodes[0], axes), False, nodes, uv, np.repeat(out[None], len(nodes), axis=0), triangles


def _facets(nodes: Array, normals: Array, triangles: Ints) -> Laying:
    """A face that is known by its mesh alone."""
    return Surface("facets", np.zeros(3), np.eye(3)), False, nodes, np.zeros((len(nodes), 2)), normals, triangles


def _filled(pieces: list[shapely.Polygon]) -> list[shapely.Polygon]:
    """Of the regions between lines those that are filled: not those within an odd number of others' openings."""
    holes = [shapely.Polygon(r) for p in pieces for r in p.interiors]
    return [p for p in pieces if not any(h.buffer(1e-9).contains(p) for h in holes)] or pieces


def _with_bend_lines(flat: Part, sheet: BentSheet, laid: dict[int, Laid]) -> Part:
    """The flat pattern with the middle of each bend as an edge on its upper side."""
    edges, corners, refs = list(flat.edges), list(flat.vertices), list(flat.vertex_refs)
    bends: list[BendLine] = []
    up = np.array([0.0, 0.0, 1.0])
    for bend in sheet.bends:
        rows = [k for k in bend.faces if k in sheet.upper]
        for k, (begin, end, row) in enumerate(_middles(flat, bend, rows, laid)):
            ref = f"{flat.faces[row].ref}{BENT}" + (f"-{k + 1}" if k else "")
            bends.append(BendLine(ref, bend.radius, bend.angle, bend.up))
            spots = np.array([begin, end])
            curve = line(begin, end)
            edges.append(
                Edge(
                    ref=ref,
                    body=0,
                    curve=curve,
                    joint="smooth",
                    faces=(row, row),
                    ends=(len(corners), len(corners) + 1),
                    t=np.array([curve.t0, curve.t1]),
                    points=spots,
                    normals=np.tile(up, (2, 2, 1)),
                    convex=np.array([True, True]),
                )
            )
            corners += [begin, end]
            refs += [f"{ref}.0", f"{ref}.1"]
    return replace(
        flat,
        edges=tuple(edges),
        vertices=np.array(corners).reshape(-1, 3),
        vertex_refs=tuple(refs),
        bends=tuple(bends),
    )


def _middles(flat: Part, bend: Bend, rows: list[int], laid: dict[int, Laid]) -> list[tuple[Array, Array, int]]:
    """The pieces of the line in the middle of a bend, from where to where, and the face on which each lies."""
    rolls = [r for k in rows if isinstance(r := laid[k], Rolled)]
    spots = []
    for r in rolls:
        ends = [r.places(r.origin[None], np.array([a]))[0] for a in (0.0, r.angle)]
        spots += ends
    along = rolls[0].start.turn @ rolls[0].axis
    across = cross(along[None], np.array([[0.0, 0.0, 1.0]]))[0]
    offs = np.array(spots) @ across
    middle = (offs.min() + offs.max()) / 2
    found: list[tuple[Array, Array, int]] = []
    for row in rows:
        face = flat.faces[row]
        nodes = flat.mesh.nodes[face.nodes]
        if not nodes.size or not (nodes @ across).min() - 1e-9 < middle < (nodes @ across).max() + 1e-9:
            continue
        height = float(nodes[0, 2])
        corners = flat.mesh.nodes[flat.mesh.triangles[face.triangles]][..., :2]
        shape = united(shapely.polygons(corners), 1e-9)
        base = across[:2] * middle
        reach = 2 * flat.size + float(np.abs(nodes[:, :2]).max())
        cut = shapely.LineString([base - along[:2] * reach, base + along[:2] * reach]).intersection(shape)
        for piece in shapely.get_parts(shapely.line_merge(cut) if cut.geom_type == "MultiLineString" else cut):
            if piece.geom_type == "LineString" and piece.length > 1e-6 * flat.size:
                (x0, y0), *_, (x1, y1) = piece.coords
                found.append((np.array([x0, y0, height]), np.array([x1, y1, height]), row))
        if found:
            # of a face that is in pieces the middle lies on one of them
            break
    return found


def _lying(flat: Part) -> Part:
    """The flat pattern turned so that it is longer along x, its lowest corner at zero."""
    nodes = flat.mesh.nodes
    wide, high = np.ptp(nodes[:, :2], axis=0)
    turn = np.eye(3) if wide >= high - 1e-9 else np.array([[0.0, 1.0, 0.0], [-1.0, 0.0, 0.0], [0.0, 0.0, 1.0]])
    low = (nodes @ turn.T).min(axis=0)
    return moved_part(flat, turn, np.array([-low[0], -low[1], -low[2]]))
