"""Shapes of the kernel taken apart into bodies."""

from __future__ import annotations

from typing import Any

from .mending import mended


def split_bodies(shape: Any, name: str) -> list[tuple[str, Any]]:
    """Solids of a shape, then its loose shells and faces as one body of surfaces, each with a name."""
    from OCP.BRep import BRep_Builder
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS_Compound

    found: list[tuple[str, Any]] = []
    explorer = TopExp_Explorer(shape, Kind.TopAbs_SOLID)
    while explorer.More():
        found.append((f"{name} {len(found) + 1}" if name and found else name, mended(explorer.Current())))
        explorer.Next()
    loose = TopoDS_Compound()
    builder = BRep_Builder()
    builder.MakeCompound(loose)
    explorer = TopExp_Explorer(shape, Kind.TopAbs_FACE, Kind.TopAbs_SOLID)
    count = 0
    while explorer.More():
        builder.Add(loose, explorer.Current())
        count += 1
        explorer.Next()
    if count:
        found.append((f"{name} surfaces" if name and found else name, loose))
    return found
