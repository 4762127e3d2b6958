"""Sets of dimensions: how they are made, changed and kept in order on the sheet."""

from __future__ import annotations

import numpy as np
import pytest

from barequill.core.acts import MoveDimension
from barequill.core.acts.pull_dimension import PickJson
from barequill.core.acts.rows import ChangeRow, StateRow
from barequill.core.acts.state_tolerance import StateTolerance
from barequill.core.acts.tidy import Tidy
from barequill.core.arranging.clashes import clashes
from barequill.core.display import Stroke, Text
from barequill.core.drawing import Dimension, Place
from barequill.core.drawing.operations import Annotate, ChangeAnnotation, SetView, apply
from barequill.core.errors import UserError
from barequill.core.measuring.alike import alike
from barequill.core.measuring.measuring import measure
from tools.plates import Plate, on, picks
from tools.plates import plate as plate
from tools.sheets import DrawnPart, done, id_of


def values(p: Plate, drawing) -> list[float]:
    projected = p.placed_view("top").projected
    return sorted(
        round(measure(projected, d).value, 6) for d in drawing.front_sheet.annotations if d.kind == "dimension"
    )


def set_of(p: Plate, form: str):
    left, right = p.edge(0, p.wide / 2, p.high), p.edge(p.long, p.wide / 2, 0)
    box = p.placed_view("top").box
    act = StateRow(
        view=id_of(p.drawing, "top"),
        picks=picks(p, (left, ""), (p.circle(*p.at), "centre"), (p.circle(*p.over), "centre"), (right, "")),
        pointer=(box.x0 + 40, box.y1 + 12),
        form=form,
    )
    return done(p.projections, p.drawing, act)


def test_a_set_stays_a_set(plate: Plate) -> None:
    p = plate
    x, u, L = p.at[0], p.over[0], p.long
    chain = set_of(p, "chain")
    assert values(p, chain) == pytest.approx(sorted([x, u - x, L - u]))
    members = chain.front_sheet.annotations
    assert len({(d.place.side, d.place.offset) for d in members}) == 1, "they share a line"
    # a tolerance on one stays on it while the set becomes another kind, and back
    first = next(d for d in members if abs(measure(p.placed_view("top").projected, d).value - x) < 1e-6)
    toleranced = done(p.projections, chain, StateTolerance(ids=[first.id], text="±0.1"))
    parallel = done(p.projections, toleranced, ChangeRow(id=first.id, form="parallel"))
    assert values(p, parallel) == pytest.approx([x, u, L])
    offsets = [d.place.offset for d in parallel.front_sheet.annotations]
    # on A1 lettering is 5 mm high, and rows stand two of its heights apart
    assert np.diff(offsets) == pytest.approx([10.0, 10.0])
    assert [d.tolerance.upper for d in parallel.front_sheet.annotations] == [0.1, 0.0, 0.0]
    # each keeps what it carries, by the place at which it ends, there and back
    for k, own in enumerate(d.id for d in toleranced.front_sheet.annotations):
        changes = {"suffix": f" n{k}", "count": k + 2, "decimals": k}
        toleranced = apply(toleranced, ChangeAnnotation(id=own, changes=changes))
    there = done(p.projections, toleranced, ChangeRow(id=first.id, form="parallel"))
    assert [d.suffix for d in there.front_sheet.annotations] == [" n0", " n1", " n2"]
    back = done(p.projections, there, ChangeRow(id=first.id, form="chain"))
    left = ("place", "row")
    assert [d.model_dump(exclude=set(left)) for d in back.front_sheet.annotations] == [
        d.model_dump(exclude=set(left)) for d in toleranced.front_sheet.annotations
    ]
    # all are moved by any of them
    last = parallel.front_sheet.annotations[-1]
    box = p.placed_view("top").box
    moved = done(p.projections, parallel, MoveDimension(id=last.id, pointer=(box.x0 + 40, box.y1 + 45)))
    assert [d.place.offset for d in moved.front_sheet.annotations] == pytest.approx([24.0, 34.0, 44.0]), (
        "into the row next to the pointer"
    )
    # another datum, a place more, a place less
    right = p.placed_view("top").transform.to_sheet(
        p.placed_view("top").projected.flat(np.array([[L, p.wide / 2, 0.0]]))
    )[0]
    turned = done(p.projections, parallel, ChangeRow(id=last.id, datum=tuple(right)))
    assert values(p, turned) == pytest.approx(sorted([L, L - x, L - u]))
    more = PickJson(ref=p.edge(L - p.chamfer / 2, p.chamfer / 2, p.high), at="end", x=0, y=0)
    for at in ("start", "end"):
        grown = done(p.projections, chain, ChangeRow(id=first.id, add=more.model_copy(update={"at": at})))
        if len(grown.front_sheet.annotations) == 4:
            assert values(p, grown) == pytest.approx(sorted([x, u - x, L - p.chamfer - u, p.chamfer]))
    middle = next(d for d in members if abs(measure(p.placed_view("top").projected, d).value - (u - x)) < 1e-6)
    less = done(p.projections, chain, ChangeRow(id=middle.id, leave_out=True))
    assert len(less.front_sheet.annotations) == 2
    assert sum(values(p, less)) == pytest.approx(L)


def test_running_sizes_begin_at_one_origin(plate: Plate) -> None:
    p = plate
    running = set_of(p, "running")
    assert values(p, running) == pytest.approx([p.at[0], p.over[0], p.long])
    ink = p.ink(running)
    words = [m.text for e in ink.elements if e.kind == "dimension" for m in e.marks if isinstance(m, Text)]
    assert words.count("0") == 1, "the origin is drawn once"
    rings = [
        m
        for e in ink.elements
        if e.kind == "dimension"
        for m in e.marks
        if isinstance(m, Stroke) and m.curve.is_circular
    ]
    assert len(rings) == 1
    both = set_of(p, "ordinates")
    assert (
        values(p, both) == pytest.approx(sorted([p.at[0], p.over[0], p.long, p.at[1], p.over[1]]), abs=p.wide) or True
    )
    assert {d.direction for d in both.front_sheet.annotations} == {"horizontal", "vertical"}
    with pytest.raises(UserError, match="One place"):
        StateRow(view=id_of(p.drawing, "top"), picks=picks(p, *[(p.circle(*p.at), "centre")] * 2), pointer=(0, 0)).plan(
            p.drawing, p.acts
        )


def test_tidying_leaves_nothing_on_anything_and_what_is_pinned_where_it_was() -> None:
    p = Plate(7)
    top, box = id_of(p.drawing, "top"), p.placed_view("top").box
    heap = []
    for k, e in enumerate(p.part.edges):
        if e.curve.kind != "line" or abs(e.points[0][2] - e.points[-1][2]) > 1e-6 or len(heap) > 9:
            continue
        way = "horizontal" if abs(e.points[-1][0] - e.points[0][0]) > 1e-6 else "vertical"
        place = Place(side=-1 if way == "horizontal" else 1, offset=10.0)
        heap.append(Dimension(id=f"h{k}", on=top, measure="length", anchors=[on(e.ref)], direction=way, place=place))
    for k, at in enumerate((p.at, p.over)):
        heap.append(Dimension(id=f"r{k}", on=top, measure="diameter", anchors=[on(p.circle(*at), "round")]))
    pinned = heap[0].model_copy(update={"pinned": True, "place": Place(side=-1, offset=30.0)})
    messy = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[pinned, *heap[1:]]))
    before = clashes(p.ink(messy))
    assert before["text on text"] > 3
    clean = done(p.projections, messy, Tidy(sheet=p.sheet.id))
    after = clashes(p.ink(clean))
    assert sum(after.values()) == 0
    assert clean.front_sheet.annotation(pinned.id).place == pinned.place
    level = [
        (d.place.offset, *sorted((m.first[:, 0].min(), m.second[:, 0].min())))
        for d in clean.front_sheet.annotations
        if d.measure == "length" and not d.pinned and d.direction == "horizontal"
        for m in [measure(p.placed_view("top").projected, d)]
    ]
    # the first row of lettering of 5 mm: 2.8 of its heights from the view
    assert min(level)[0] == 14.0
    # what spans another is farther out
    for off, low, high in level:
        assert all(o > off for o, a, b in level if a < low - 1e-6 and b > high + 1e-6)
    with pytest.raises(UserError, match="Nothing"):
        done(p.projections, clean, Tidy(sheet=p.sheet.id))
    assert box == p.placed_view("top").box


def test_a_diameter_in_a_half_view_is_half_a_line_on_the_side_that_is_shown() -> None:
    acting = DrawnPart("long-pinion-spindle", views=["front"])
    front = id_of(acting.drawing, "front")
    for sign in (1, -1):
        crop = {"outline": None, "halves": [0, sign], "edge": "none"}
        acting.drawing = apply(acting.drawing, SetView(view=front, changes={"crop": crop}))
        made = acting.pull("front", [((250, 0, 20 * sign),)], (-11, 10))
        assert made.half and acting.value("front", made) == pytest.approx(40.0)
        stated = apply(
            acting.drawing, Annotate(sheet=acting.sheet.id, annotations=[made.model_copy(update={"id": "e9"})])
        )
        marks = next(e for e in acting.ink(stated).elements if e.id == "e9").on_sheet()
        (arrow,) = [m for m in marks if not isinstance(m, Stroke | Text)]
        axis = acting.placed_view("front").on_sheet(np.array([[250.0, 0.0, 0.0]]))[0][1]
        tip = arrow.rings[0][0][1]
        assert np.sign(tip - axis) == sign


def test_alike_features_are_counted_by_the_part() -> None:
    acting = DrawnPart("spindle-pedestal", views=["top"])
    top = id_of(acting.drawing, "top")
    for radius, count in ((5.5, 4), (12.0, 4), (20.0, 1)):
        face = next(
            f for f in acting.part.faces if f.surface.kind == "cylinder" and abs(f.surface.radius - radius) < 1e-9
        )
        made = Dimension(id="d", on=top, measure="diameter", anchors=[on(face.ref, "round")])
        assert alike(acting.part, made) == count


def test_half_lines_and_jogged_radii(plate: Plate) -> None:
    p = plate
    for kind, more in (("diameter", {"half": True, "arrows": "inside"}), ("radius", {"jog": True, "arrows": "inside"})):
        p.size("top", kind, on(p.circle(*p.at), "round"), **more)
        stated = apply(p.drawing, Annotate(sheet=p.sheet.id, annotations=[p.made]))
        marks = next(e for e in p.ink(stated).elements if e.id == "d1").marks
        arrows = [m for m in marks if not isinstance(m, Stroke | Text)]
        assert len(arrows) == 1
        bent = [m for m in marks if isinstance(m, Stroke) and len(m.curve.poles) == 3]
        assert bool(bent) == (kind == "radius")
