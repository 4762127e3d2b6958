"""The job itself: parts, projection, drawings and their ink. Knows no interface, database or server."""

from .part import Part, read_part
from .projection import ProjectedCurve, project

__all__ = ["Part", "ProjectedCurve", "project", "read_part"]
