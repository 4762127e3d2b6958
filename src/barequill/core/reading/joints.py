"""Edges of a part: their polylines, the normals of the faces beside them, and how these meet."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from OCP.BRep import BRep_Tool

from ..geometry.curves3 import Curve3
from ..geometry.surfaces import Surface
from ..geometry.vectors import cross
from ..part.figures import edge_figures
from ..part.model import Array, Face, Joint

CHORD = 2e-5
"""How far the fine polyline of an edge may stray from it, in part sizes."""
SMOOTH = 0.01
"""Largest angle (rad) between normals across an edge that still counts as tangent."""
BEND = 0.05
"""Largest difference of curvatures across a tangent edge, in shares of the greater, that is not to be seen."""


class Joints:
    """What is known of the faces of a part so far, and from it how they meet along their edges."""

    size: float
    raw: list[tuple[Surface, bool]]
    figures: list[Array | None]
    faces: list[Face]
    nodes: list[Array]
    normals: list[Array]

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
            bent=curve.kind == "conic",
            t0=curve.t0,
            t1=curve.t1,
            origin=curve.origin,
            x=curve.x,
            y=curve.y if curve.y is not None else curve.x,
            rows=self._rows(curve, faces),
            one=one,
            two=two,
            sense=sense,
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
