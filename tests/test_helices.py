"""Threads that are modelled as they are cut: recognised, and shown as the convention has them."""

from __future__ import annotations

import math
from functools import partial
from typing import Any

import numpy as np
import pytest
import shapely

from barequill.core.acts import ActContext as Tools
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.declare_thread import DeclareThread
from barequill.core.display import Hatch, Stroke
from barequill.core.errors import UserError
from barequill.core.features.helices import helices_of
from barequill.core.features.listing import features_of
from barequill.core.reading import shapes
from tools.common import at_length
from tools.made_parts import bodies
from tools.plates import of
from tools.sheets import done, id_of
from tools.truth import bodies_of


def ridge(radius: float, pitch: float, turns: float, foot: float, height: float, left: bool = False) -> Any:
    """A ridge of thread about the z axis; the kernel's own sweep along its own helix."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeEdge, BRepBuilderAPI_MakeWire
    from OCP.BRepLib import BRepLib
    from OCP.BRepOffsetAPI import BRepOffsetAPI_MakePipeShell
    from OCP.Geom import Geom_CylindricalSurface
    from OCP.Geom2d import Geom2d_Line
    from OCP.gp import gp_Ax3, gp_Dir, gp_Dir2d, gp_Pnt, gp_Pnt2d

    drum = Geom_CylindricalSurface(gp_Ax3(gp_Pnt(0, 0, foot), gp_Dir(0, 0, 1)), radius)
    line = Geom2d_Line(gp_Pnt2d(0, 0), gp_Dir2d(-2 * math.pi if left else 2 * math.pi, pitch))
    edge = BRepBuilderAPI_MakeEdge(line, drum, 0.0, turns * math.hypot(2 * math.pi, pitch)).Edge()
    BRepLib.BuildCurves3d_s(edge)
    profile = [(-0.05, -0.48), (height, -0.08), (height, 0.08), (-0.05, 0.48)]
    corners = [gp_Pnt(radius + x, 0, foot + z * pitch) for x, z in profile]
    wire = BRepBuilderAPI_MakeWire()
    for p, q in zip(corners, corners[1:] + corners[:1], strict=True):
        wire.Add(BRepBuilderAPI_MakeEdge(p, q).Edge())
    pipe = BRepOffsetAPI_MakePipeShell(BRepBuilderAPI_MakeWire(edge).Wire())
    pipe.SetMode(gp_Dir(0, 0, 1))
    pipe.Add(wire.Wire())
    pipe.Build()
    pipe.MakeSolid()
    return pipe.Shape()


def bolt(left: bool = False) -> Any:
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Fuse

    core = shapes.fuse(shapes.cylinder((0, 0, 0), (0, 0, 1), 5, 30), shapes.cylinder((0, 0, -6), (0, 0, 1), 9, 6))
    return BRepAlgoAPI_Fuse(core, ridge(5, 1.75, 13, 5, 1.0, left)).Shape()


def nut(foot: float = 1.0, turns: float = 11) -> Any:
    from OCP.BRepAlgoAPI import BRepAlgoAPI_Cut

    block = shapes.cut(shapes.box((-10, -10, 0), (20, 20, 16)), shapes.cylinder((0, 0, -1), (0, 0, 1), 4.2, 20))
    return BRepAlgoAPI_Cut(block, ridge(4.2, 1.25, turns, foot, 0.6)).Shape()


def test_a_modelled_thread_is_known_by_its_pitch_diameters_and_hand() -> None:
    for shape, major, minor, pitch, internal, left in (
        (bolt, 12.0, 10.0, 1.75, False, False),
        (partial(bolt, True), 12.0, 10.0, 1.75, False, True),
        (nut, 9.6, 8.4, 1.25, True, False),
        (partial(nut, -1.7, 16), 9.6, 8.4, 1.25, True, False),
    )[:: at_length(3, 1)]:
        (found,) = helices_of(bodies(shape()))
        assert (found.major, found.minor, found.pitch) == pytest.approx((major, minor, pitch), abs=2e-3)
        assert (found.internal, found.left) == (internal, left)
        assert abs(found.axis[2]) == pytest.approx(1.0, abs=1e-6)
        assert np.linalg.norm(found.origin[:2]) < 1e-3
    assert not helices_of(bodies(shapes.cylinder((0, 0, 0), (0, 0, 1), 5, 30)))


def test_a_modelled_thread_is_shown_by_lines_where_that_is_wanted() -> None:
    p = of(bolt(left=True), views=("front", "top"))
    (helix,) = helices_of(p.part)
    front = id_of(p.drawing, "front")
    assert any(f.kind == "thread" and "left handed" in f.more for f in features_of(p.part))
    act = DeclareThread(view=front, ref=p.part.faces[helix.faces[0]].ref)
    with pytest.raises(UserError, match="does not fit"):
        done(p.projections, p.drawing, act.model_copy(update={"size": "M8"}))
    drawing = done(p.projections, p.drawing, act)
    (thread,) = drawing.threads
    assert (thread.size, thread.hand) == ("M12×1.75", "left")
    before, after = ({e.id: e for e in p.ink(d).elements} for d in (p.drawing, drawing))
    drawn = [m.source for m in before[front].marks if isinstance(m, Stroke)]
    left = [m.source for m in after[front].marks if isinstance(m, Stroke)]
    own = helix.refs(p.part)
    assert sum(s in own for s in drawn) > 30 and not any(s in own for s in left)
    levels = sorted(
        abs(float(m.curve.poles[0, 0]))
        for m in after[f"{front}-thread-0"].marks
        if isinstance(m, Stroke) and np.ptp(m.curve.poles[:, 0]) < 1e-9
    )
    assert levels == pytest.approx([5.0528] * 2 + [6.0] * 2, abs=1e-3), "M12: minor diameter 10.106"
    assert done(p.projections, drawing, act.model_copy(update={"size": "none"})).threads == []


@pytest.mark.parametrize(
    ("shape", "area", "levels"),
    [
        # hatched up to its crests, as if it had no grooves; its roots by narrow lines
        (nut(-1.7, 16), (20 - 8.4) * 16, [4.2] * 2 + [5.0] * 2),
        # from end to end of its ridge 12 wide, beyond it the core, 10 wide, and the head, 18 by 6
        (bolt(), 12 * 24.36 + 10 * (30 - 24.36) + 18 * 6, [5.0528] * 2 + [6.0] * 2),
    ],
)
def test_a_section_through_a_modelled_thread_shows_it_by_lines(shape: Any, area: float, levels: list[float]) -> None:
    p = of(*bodies_of(shape), views=("front", "top"))
    (helix,) = helices_of(p.part)
    top = id_of(p.drawing, "top")
    x, y = next(v.place for v in p.drawing.front_sheet.views if v.id == top)
    cut = CutView(view=top, points=[CutPoint(x=0, y=0, at="box")], to=(x, y + 80))
    drawing = done(p.projections, p.drawing, cut)
    size = "M10×1.25" if helix.internal else "M12"
    drawing = done(p.projections, drawing, DeclareThread(view=top, ref=p.part.faces[helix.faces[0]].ref, size=size))
    ink = {e.id: e for e in p.ink(drawing).elements}
    section = next(v.id for v in drawing.front_sheet.views if v.kind == "section")
    hatched = [m for m in ink[f"{section}-hatch"].marks if isinstance(m, Hatch)]
    assert sum(shapely.Polygon(m.rings[0]).area for m in hatched) == pytest.approx(area, rel=1e-2)
    upright = [
        abs(float(m.curve.poles[0, 0]))
        for m in ink[f"{section}-thread-0"].marks
        if isinstance(m, Stroke) and np.ptp(m.curve.poles[:, 0]) < 1e-9
    ]
    assert sorted(upright) == pytest.approx(levels, abs=2e-3)
    # and so it is shown while another is being pulled out
    seen = cut.preview(drawing, Tools(p.projections))
    made = p.ink(done(p.projections, drawing, cut)).elements
    kinds = "hatch", "view", "thread"
    shown, told = (
        {e.id: len(e.marks) for e in some if e.kind in kinds and e.group == seen.elements[1].group}
        for some in (seen.elements, made)
    )
    assert len(shown) == 3 and shown == told
