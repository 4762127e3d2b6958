"""Parallel projection of a part: exact curves: what is seen, and what is hidden."""

from .camera import PRINCIPAL, Camera, camera
from .engine import ProjectedCurve, project

__all__ = ["PRINCIPAL", "Camera", "ProjectedCurve", "camera", "project"]
