"""Parallel projection of a part: exact curves: what is seen, and what is hidden."""

from .camera import PRINCIPAL, Camera, camera
from .columns import ProjectedCurve
from .engine import cut_faces, project

__all__ = ["PRINCIPAL", "Camera", "ProjectedCurve", "camera", "cut_faces", "project"]
