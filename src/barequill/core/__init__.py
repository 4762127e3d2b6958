"""The job itself: parts, projection, drawings and their ink. Knows no interface, database or server."""

from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .part import Part
    from .projection import ProjectedCurve, cut_faces, project
    from .reading import read_part

__all__ = ["Part", "ProjectedCurve", "cut_faces", "project", "read_part"]


def __getattr__(name: str) -> Any:
    # loaded where it is first asked for: the command line answers simple questions without all of it
    if name == "read_part":
        from . import reading

        return reading.read_part
    if name == "Part":
        from . import part

        return getattr(part, name)
    if name in ("ProjectedCurve", "cut_faces", "project"):
        from . import projection

        return getattr(projection, name)
    raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
