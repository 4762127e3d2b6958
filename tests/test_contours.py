"""Contours of views at true size: closed lines, arcs and circles, by hand figures."""

from __future__ import annotations

import io
import math

import ezdxf
import numpy as np
import pytest
import shapely
from ezdxf.path import make_path

from barequill.core.errors import UserError
from barequill.core.reading import shapes
from barequill.core.views.contours import contours_of
from barequill.core.writers.contours import write_contours
from tools.plates import Plate, of
from tools.plates import plate as plate
from tools.sheets import DrawnPart


def cut_out(p: DrawnPart, look: str) -> list:
    """The entities on the layer along which is cut, of a document that has nothing else and is sound."""
    found = contours_of(p.placed_view(look).projected)
    assert found.exact
    document = ezdxf.read(io.StringIO(write_contours(found).decode()))
    assert not document.audit().errors and {"CUT", "BEND"} <= {layer.dxf.name for layer in document.layers}
    entities = list(document.modelspace())
    assert all(e.dxf.layer == "CUT" and (e.dxftype() == "CIRCLE" or e.closed) for e in entities)
    return entities


def areas(entities: list) -> list[float]:
    """The area within each, mm², the largest first."""
    lines = [e for e in entities if e.dxftype() == "LWPOLYLINE"]
    rings = [shapely.Polygon([(v.x, v.y) for v in make_path(e).flattening(1e-4)]).area for e in lines]
    return sorted([*rings, *(math.pi * e.dxf.radius**2 for e in entities if e.dxftype() == "CIRCLE")], reverse=True)


def test_a_plate_is_cut_out_along_its_rim_and_its_holes(plate: Plate) -> None:
    p = plate
    found = cut_out(p, "top")
    rim = p.long * p.wide - (1 - math.pi / 4) * p.corner**2 - p.chamfer**2 / 2
    assert areas(found) == pytest.approx([rim, math.pi * p.hole**2, math.pi * p.other**2], rel=1e-6)
    circles = {round(e.dxf.radius, 6) for e in found if e.dxftype() == "CIRCLE"}
    assert circles == {round(p.hole, 6), round(p.other, 6)}
    # the rim is its own lines and one arc: the bulge of a quarter turn is tan 22.5°
    (line,) = [e for e in found if e.dxftype() == "LWPOLYLINE"]
    bulges = [abs(b) for *_, b in line.get_points("xyb") if abs(b) > 1e-9]
    assert bulges == pytest.approx([math.tan(math.pi / 8)], abs=1e-6)
    # the view is drawn at another scale than it is cut out at
    assert np.ptp([x for x, *_ in line.get_points("xyb")]) == pytest.approx(p.long, abs=1e-6)


def test_what_stands_on_another_bounds_it_where_it_stands_out() -> None:
    """A block of 60 × 20 with a post of 20 × 30 in its middle and a bore of 10 across: 12 corners less 4, and a round opening."""
    block = shapes.fuse(shapes.box((0, 0, 0), (60, 10, 20)), shapes.box((20, 0, 20), (20, 10, 30)))
    p = of(shapes.cut(block, shapes.cylinder((30, -1, 35), (0, 1, 0), 5, 12)), views=("front", "top"))
    found = cut_out(p, "front")
    assert areas(found) == pytest.approx([60 * 20 + 20 * 30, math.pi * 25], rel=1e-6)
    (line,) = [e for e in found if e.dxftype() == "LWPOLYLINE"]
    corners = {(round(x + 30, 4), round(y + 25, 4)) for x, y, *_ in line.get_points("xyb")}
    assert {(20, 20), (20, 50), (40, 50), (40, 20), (0, 0), (60, 20)} <= corners


@pytest.mark.parametrize(
    "stem", ["round-gear-cover", "spindle-pedestal", "catch-box", "angled-keeper", "long-pinion-spindle"]
)
def test_every_square_view_of_the_demo_parts_has_closed_contours_of_the_area_of_its_shadow(stem: str) -> None:
    p = DrawnPart(stem, views=["front", "top", "left"], size="A2")
    for look in ("front", "top", "left"):
        projected = p.placed_view(look).projected
        mesh = projected.part.mesh
        # by a second method: all triangles of the mesh together, which lies within round outlines by up to a hundredth
        flat = (projected.view.flat(mesh.nodes) - projected.centre)[mesh.triangles]
        shadow = shapely.union_all(
            shapely.polygons(flat[np.abs(np.linalg.det(flat[:, 1:] - flat[:, :1])) > 1e-9]), grid_size=1e-6
        )
        rings = [shapely.Polygon([(v.x, v.y) for v in make_path(e).flattening(1e-3)]) for e in cut_out(p, look)]
        apart = shapely.Polygon()
        for ring in rings:
            apart = apart.symmetric_difference(ring)
        assert apart.symmetric_difference(shadow).area < 1e-2 * shadow.area


def test_what_has_no_contour_is_refused(plate: Plate) -> None:
    p = DrawnPart("pawl", views=["front", "iso"])
    with pytest.raises(UserError, match="nothing at true size"):
        contours_of(p.placed_view("corner").projected)
