"""Parallel projection of a part: exact curves, visible and hidden."""

from .camera import PRINCIPAL, Camera, camera
from .engine import ProjectedCurve, project

__all__ = ["PRINCIPAL", "Camera", "ProjectedCurve", "camera", "project"]
