"""Parallel projection of a part: exact curves: what is seen, and what is hidden."""

from .camera import PRINCIPAL, Camera, camera
from .engine import ProjectedCurve, cut_faces, project

__all__ = ["PRINCIPAL", "Camera", "ProjectedCurve", "camera", "cut_faces", "project"]
