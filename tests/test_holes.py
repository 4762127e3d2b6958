"""Holes, slots and threads as they are recognised, noted and shown."""

from __future__ import annotations

import math

import numpy as np
import pytest

from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.declare_thread import ChangeThread, DeclareThread
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.state_keyway import StateKeyway
from barequill.core.acts.state_slot import StateSlot
from barequill.core.acts.state_tolerance import StateTolerance
from barequill.core.display import Stroke
from barequill.core.errors import UserError
from barequill.core.features.holes import hole_at, holes_of, like
from barequill.core.features.keyways import keyway_at
from barequill.core.features.slots import slots_of
from barequill.core.reading import shapes
from barequill.core.standards.threads import SIZES, named, proposed
from tools.made_parts import bodies
from tools.plates import Plate
from tools.sheets import DrawnPart, done, drawing_of, id_of, projections_of


def drilled() -> Plate:
    """A block with a counterbored, a countersunk, a blind and a tapped hole, each as it is made."""
    block = shapes.box((0, 0, 0), (120, 60, 30))
    tools = [
        shapes.cylinder((15, 15, -1), (0, 0, 1), 4.5, 40),
        shapes.cylinder((15, 15, 22), (0, 0, 1), 7.5, 9),
        shapes.cylinder((40, 15, -1), (0, 0, 1), 3.0, 40),
        shapes.cone((40, 15, 27), (0, 0, 1), 3.0, 6.0, 3.0),
        shapes.cylinder((65, 15, 10), (0, 0, 1), 5.0, 21),
        shapes.cone(
            (65, 15, 10 - 5 / math.tan(math.radians(59))), (0, 0, 1), 1e-7, 5.0, 5 / math.tan(math.radians(59))
        ),
        *(shapes.cylinder((x, 45, 8), (0, 0, 1), 3.4, 23) for x in (20, 40, 60, 80)),
        shapes.cylinder((100, -1, 15), (0, 1, 0), 6.0, 62),
    ]
    p = Plate.__new__(Plate)
    p.part = bodies(shapes.cut(block, *tools))
    p.projections = projections_of(p.part)
    p.drawing = drawing_of(p.projections, p.part, size="A2", centres=False, views=["front", "top"], scale=1.0)
    return p


def test_holes_are_recognised_as_they_were_made() -> None:
    p = drilled()
    found = {tuple(np.round(h.mouth[:2], 3)): h for h in holes_of(p.part)}
    assert len(holes_of(p.part)) == 8
    bored = found[(15.0, 15.0)]
    assert bored.through and (bored.bore.diameter, bored.counterbore.diameter) == (9.0, 15.0)
    assert bored.counterbore.end == pytest.approx(8.0)
    sunk = found[(40.0, 15.0)]
    assert (sunk.countersink.diameter, sunk.countersink.angle) == pytest.approx((12.0, 90.0))
    blind = found[(65.0, 15.0)]
    assert not blind.through and blind.depth == pytest.approx(20.0)
    assert blind.point.angle == pytest.approx(118.0, abs=1e-3)
    tapped = found[(20.0, 45.0)]
    assert len(like(p.part, tapped)) == 4 and tapped.depth == pytest.approx(22.0)
    cross = next(h for h in holes_of(p.part) if abs(h.out[1]) > 0.9)
    assert cross.through and cross.bore.diameter == 12.0


def noted(p: Plate, x: float, y: float, drawing=None) -> tuple[str, object]:
    top = id_of(p.drawing, "top")
    hole = next(h for h in holes_of(p.part) if math.dist(h.mouth[:2], (x, y)) < 1e-6)
    spot = p.placed_view("top").transform.to_sheet(p.placed_view("top").projected.flat(hole.mouth[None]))[0]
    act = StateHole(view=top, ref=p.part.faces[hole.faces[0]].ref, pointer=(spot[0] + 20, spot[1] + 18))
    after = done(p.projections, drawing or p.drawing, act)
    return next(e.words for e in p.ink(after).elements if e.kind == "hole_note"), after


def test_one_gesture_gives_the_whole_note_of_a_hole() -> None:
    p = drilled()
    assert noted(p, 15, 15)[0] == "Ø9 ⌴ Ø15 ↧ 8"
    assert noted(p, 40, 15)[0] == "Ø6 ⌵ Ø12 × 90°"
    assert noted(p, 65, 15)[0] == "Ø10 ↧ 20"
    words, after = noted(p, 20, 45)
    assert words == "4× Ø6.8 ↧ 22"
    note = after.front_sheet.annotations[-1]
    classed = done(p.projections, after, StateTolerance(ids=[note.id], text="H12"))
    assert next(e.words for e in p.ink(classed).elements if e.kind == "hole_note") == "4× Ø6.8 H12 ↧ 22"
    asme = drawing_of(p.projections, p.part, standard="ASME", views=["top"], centres=False)
    with pytest.raises(UserError, match="no hole"):
        edge = next(e.ref for e in p.part.edges if e.curve.kind == "line" and abs(e.curve.length() - 120) < 1e-6)
        done(p.projections, asme, StateHole(view=id_of(asme, "top"), ref=edge, pointer=(0, 0)))


def test_a_slot_is_recognised_and_sized_in_one_act() -> None:
    """The keeper's slot is 25 long between its ends and 14 wide, the spindle's keyway 50 and 12."""
    for stem, look, length, radius in (("angled-keeper", "top", 25.0, 7.0), ("long-pinion-spindle", "top", 50.0, 6.0)):
        acting = DrawnPart(stem, views=["front", "top"])
        (slot,) = slots_of(acting.part)
        assert (slot.length, slot.radius) == pytest.approx((length, radius))
        act = StateSlot(view=id_of(acting.drawing, look), ref=acting.part.faces[slot.sides[0]].ref)
        after = done(acting.projections, acting.drawing, act)
        words = [e.words for e in acting.ink(after).elements if e.kind == "dimension"]
        assert words == [f"{length:g}", f"2× R{radius:g}"]
        with pytest.raises(UserError, match="not seen along"):
            done(acting.projections, acting.drawing, act.model_copy(update={"view": id_of(acting.drawing, "front")}))


def test_the_sizes_of_a_keyway_are_stated_in_one_act_each_where_it_is_seen_best() -> None:
    """The spindle's is 12 wide, cut to 14 from the axis of Ø40 (d − t = 34), from 74 to 136, 14 from the shoulder at 60. A hub's is 10
    wide and 19.3 from the axis of Ø32 (d + t = 35.3), and runs out at both ends. Deviations of ISO 773."""
    acting = DrawnPart("long-pinion-spindle", views=["front", "top"], size="A1", scale=1.0)
    (slot,) = slots_of(acting.part)
    act = StateKeyway(view=id_of(acting.drawing, "front"), ref=acting.part.faces[slot.ends[0]].ref)

    def said(p, after) -> list[tuple[str, str]]:
        looks = {v.id: v.look if v.kind != "section" else "section" for v in after.front_sheet.views}
        return [(e.words, looks[e.group]) for e in p.ink(after).elements if e.kind == "dimension"]

    after = done(acting.projections, acting.drawing, act)
    assert said(acting, after) == [("12 N9", "top"), ("34 0/–0.2", "front"), ("62", "top"), ("14", "top")]
    with pytest.raises(UserError, match="there already"):
        done(acting.projections, after, act)
    # a section across it shows width and depth better
    x, y = acting.placed_view("front").on_sheet(np.array([[100.0, 0, 0]]))[0]
    points = [CutPoint(x=x, y=y - 40), CutPoint(x=x, y=y + 40)]
    cut = done(acting.projections, acting.drawing, CutView(view=act.view, points=points, to=(x + 90, y)))
    after = done(acting.projections, cut, act.model_copy(update={"seat": "tight"}))
    assert said(acting, after)[:2] == [("12 P9", "section"), ("34 0/–0.2", "section")]
    ring = [shapes.cylinder((0, 0, z), (0, 0, 1), r, h) for z, r, h in ((0, 40, 30), (-1, 16, 32))]
    hub = DrawnPart(bodies(shapes.cut(*ring, shapes.box((-5, 0, -1), (10, 19.3, 32)))), views=["front", "top"])
    bottom = next(f.ref for f in hub.part.faces if (k := keyway_at(hub.part, f.ref)) and hub.part.faces[k.bottom] is f)
    act = StateKeyway(view=id_of(hub.drawing, "front"), ref=bottom)
    assert said(hub, done(hub.projections, hub.drawing, act)) == [("10 JS9", "top"), ("35.3 +0.2/0", "top")]
    with pytest.raises(UserError, match="no keyway"):
        done(hub.projections, hub.drawing, act.model_copy(update={"ref": hub.part.faces[0].ref}))


def threads_in(ink, view: str) -> list[Stroke]:
    return [m for e in ink.elements if e.id.startswith(f"{view}-thread-") for m in e.marks if isinstance(m, Stroke)]


@pytest.mark.parametrize(
    ("text", "name", "minor", "root"),
    [
        # minor diameters of internal and external threads by the tables of the standards, mm
        ("M16", "M16×2", 13.835, 13.546),
        ("m10x0.75", "M10×0.75", 9.188, 9.080),
        ("1/4-32", "1/4-32 UNEF", 5.491, 5.376),
        ("1-1/4-7 UNC", "1-1/4-7 UNC", 27.823, 27.299),
        ("G 1/2 A", "G1/2", 18.631, 18.631),
        ("G1-1/4", "G1-1/4", 38.952, 38.952),
        ("Rp 3/4", "Rp3/4", 24.117, 24.117),
        ("R1/8", "R1/8", 8.566, 8.566),
        ("Tr20x4", "Tr20×4", 16.0, 15.5),
        ("Tr 36 × 6", "Tr36×6", 30.0, 29.0),
    ],
)
def test_threads_by_their_names_and_tables(text, name, minor, root) -> None:
    found = named(text)
    assert found is not None and found.name == name
    assert found.inner == pytest.approx(minor, abs=0.002) and found.root == pytest.approx(root, abs=0.02)


def test_npt_is_named_as_people_do_and_nonsense_is_nothing() -> None:
    # ASME B1.20.1: 1/2-14 NPT on a pipe of 0.840 in
    for text in ("1/2 NPT", "NPT 1/2", "1/2-14 NPT"):
        found = named(text)
        assert found is not None and found.name == "1/2-14 NPT" and found.diameter == pytest.approx(21.336)
    assert all(named(t) is None for t in ("M7.7", "G7", "Tr20×9", "R", "", "1/2-15 NPT", "⌀8"))


def test_a_thread_fits_its_hole_or_says_what_would() -> None:
    p = drilled()
    top = id_of(p.drawing, "top")
    hole = next(h for h in holes_of(p.part) if math.dist(h.mouth[:2], (20, 45)) < 1e-6)
    act = DeclareThread(view=top, ref=p.part.faces[hole.faces[0]].ref)
    with pytest.raises(UserError, match=r"(?s)M10×1.5 does not fit Ø6.8.*Ø8.5, its core hole.*M8×1.25"):
        done(p.projections, p.drawing, act.model_copy(update={"size": "M10"}))
    after = done(p.projections, p.drawing, act.model_copy(update={"length": 16.0}))
    ref = after.threads[0].ref
    changed = done(
        p.projections, after, ChangeThread(view=top, ref=ref, hand="left", tolerance="5H", length=12.0, runout=3.0)
    )
    assert {(t.hand, t.tolerance, t.length, t.runout, t.size) for t in changed.threads} == {
        ("left", "5H", 12.0, 3.0, "M8×1.25")
    }
    assert noted(p, 20, 45, changed)[0] == "4× M8×1.25 – 5H LH ↧ 12 / Ø6.8 ↧ 22"
    one = done(p.projections, changed, ChangeThread(view=top, ref=ref, size="none", alike=False))
    assert len(one.threads) == 3 and ref not in {t.ref for t in one.threads}


def test_a_thread_is_declared_and_shown_as_the_standard_asks() -> None:
    p = drilled()
    top = id_of(p.drawing, "top")
    hole = next(h for h in holes_of(p.part) if math.dist(h.mouth[:2], (20, 45)) < 1e-6)
    assert proposed(6.8, True)[0].name == "M8×1.25"
    ref = p.part.faces[hole.faces[0]].ref
    after = done(p.projections, p.drawing, DeclareThread(view=top, ref=ref, length=16.0))
    assert len(after.threads) == 4 and {t.size for t in after.threads} == {"M8×1.25"}
    assert noted(p, 20, 45, after)[0] == "4× M8×1.25 – 6H ↧ 16 / Ø6.8 ↧ 22"
    ink = p.ink(after)
    ends = [m.curve for m in threads_in(ink, top)]
    # end on three quarters of a circle of the nominal diameter, open in the upper right
    assert len(ends) == 4
    for c in ends:
        assert c.length() == pytest.approx(0.75 * math.pi * 8.0, rel=1e-9)
        assert not [q for q in c.points(1e-3) - c.poles[0] if q[0] > 1.5 and q[1] > 1.5]
    # from the side, hidden: two dashed lines 8 apart and the end of the thread, for each
    side = threads_in(ink, id_of(after, "front"))
    assert {m.pen for m in side} == {"hidden"} and len(side) == 12
    assert sorted({round(m.curve.length(), 3) for m in side}) == [8.0, 16.0]
    gone = done(p.projections, after, DeclareThread(view=top, ref=ref, size="none"))
    assert gone.threads == []
    with pytest.raises(UserError, match="does not fit"):
        done(p.projections, p.drawing, DeclareThread(view=top, ref=ref, size="M20"))
    # ISO 724: M8 has a minor diameter of 6.647
    assert SIZES["M8×1.25"].inner == pytest.approx(6.647, abs=5e-4)
    assert hole_at(p.part, ref) is hole
