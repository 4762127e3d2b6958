"""Volume, area and centroid of bodies, as the kernel integrates them over the exact faces."""

from __future__ import annotations

from typing import Any

from OCP.BRepAdaptor import BRepAdaptor_Surface
from OCP.BRepGProp import BRepGProp
from OCP.GProp import GProp_GProps
from OCP.TopAbs import TopAbs_ShapeEnum

from ..bounds import clipped
from ..part.model import Array, Body
from .kernel_geometry import _ELEMENTARY, xyz
from .raw import RawBody, Twins, faces_of

MANY = 300
"""Faces from which on weighing takes longer than beginning a process for it."""


def worth_aside(raw: list[RawBody]) -> bool:
    """Whether there is so much to weigh that it is better done beside what else is done with the bodies."""
    count = 0
    for body in raw:
        count += sum(1 for _ in faces_of(body.shape))
        if count >= MANY:
            return True
    return False


def weigh(raw: list[RawBody]) -> tuple[Body, ...]:
    """The bodies with their mass properties (mm, mm², mm³); of equal bodies only the first is integrated."""
    twins = Twins()
    done: list[tuple[float, float, Array]] = []
    found: list[Body] = []
    for row, body in enumerate(raw):
        twin = twins.find(body.shape)
        if twin is None:
            volume, area, centre = _integrated(body.shape)
        else:
            volume, area, centre = done[twin.row]
            centre = twin.turn @ centre + twin.by
        done.append((volume, area, centre))
        x, y, z = centre.tolist()
        solid = body.shape.ShapeType() == TopAbs_ShapeEnum.TopAbs_SOLID
        name = clipped(body.name) or f"Body {row + 1}"
        found.append(
            Body(
                name=name,
                solid=solid,
                volume=volume,
                area=area,
                centroid=(x, y, z),
                material=clipped(body.material),
                density=body.density,
                product=body.product,
                path=body.path,
                colour=body.colour,
            )
        )
    return tuple(found)


def _integrated(shape: Any) -> tuple[float, float, Array]:
    """Volume (0 of surfaces only), area and centroid (3,) of a body."""
    surface, volume = GProp_GProps(), GProp_GProps()
    # over planes, cylinders and their like the kernel's plain integration is exact; free forms need its adaptive one
    plain = all(BRepAdaptor_Surface(f).GetType() in _ELEMENTARY for f in faces_of(shape))
    BRepGProp.SurfaceProperties_s(shape, surface, *(() if plain else (1e-6,)))
    if shape.ShapeType() != TopAbs_ShapeEnum.TopAbs_SOLID:
        return 0.0, float(surface.Mass()), xyz(surface.CentreOfMass())
    BRepGProp.VolumeProperties_s(shape, volume, *(() if plain else (1e-6, False, False)))
    return abs(float(volume.Mass())), float(surface.Mass()), xyz(volume.CentreOfMass())
