"""Tables: what fills them, and that all of it fits; items of assemblies, and their numbers."""

from __future__ import annotations

import itertools
import math
import random
from pathlib import Path

import pytest
import shapely

from barequill.core import read_part
from barequill.core.acts import ActContext
from barequill.core.acts.item_numbers import NumberItems, StackItems
from barequill.core.acts.items import ChangeItem, ChangeItems, ItemChange, ListParts, Renumber
from barequill.core.acts.state_hole import StateHole
from barequill.core.acts.state_material import StateMaterial
from barequill.core.acts.state_table import StateListTable, StateTable
from barequill.core.acts.state_tolerance import StateTolerance
from barequill.core.arranging.list_remarks import list_remarks
from barequill.core.display import Stroke, Text
from barequill.core.drawing import Drawing
from barequill.core.drawing.annotations.table import Column, Joined, Table
from barequill.core.drawing.operations import Annotate, Remove, SetField, SetView, apply
from barequill.core.errors import UserError
from barequill.core.kinds import solve
from barequill.core.reading import shapes
from tools.common import at_length
from tools.made_parts import write_assembly
from tools.sheets import DrawnPart, done, id_of


@pytest.fixture
def cover() -> DrawnPart:
    return DrawnPart("round-gear-cover", views=["front", "left"], face="+Y", scale=1.0)


def table_of(drawing: Drawing) -> Table:
    return next(a for a in drawing.front_sheet.annotations if isinstance(a, Table))


def texts(p: DrawnPart, drawing: Drawing, own: str) -> list[str]:
    element = p.ink(drawing).of(own)
    return [m.text for m in element.marks if isinstance(m, Text)]


def rows(p: DrawnPart, drawing: Drawing) -> list[list[str]]:
    """The cells below the heading and the titles, from above on."""
    table = table_of(drawing)
    across = len(table.columns)
    found = texts(p, drawing, table.id)[(1 if table.heading else 0) :]
    return [found[k : k + across] for k in range(0, len(found), across)]


# ---- holes


def test_a_table_of_holes_gives_where_each_is_from_the_lower_left(cover):
    front = id_of(cover.drawing, "front")
    drawing = done(cover.projections, cover.drawing, StateListTable(sheet="e1", follows="holes", view=front))
    titles, *found = rows(cover, drawing)
    assert titles == ["Hole", "X", "Y", "Size"]
    # six holes on Ø100 in a cover of Ø124, from 30° on; the lower left corner is at (-62, -62)
    spots = {(62 + 50 * math.cos(math.radians(a)), 62 + 50 * math.sin(math.radians(a))) for a in range(30, 390, 60)}
    ring = [r for r in found if r[0].startswith("B")]
    assert [r[0] for r in ring] == [f"B{n}" for n in range(1, 7)]
    for r, (x, y) in zip(ring, sorted((round(x, 6), round(y, 6)) for x, y in spots), strict=True):
        assert (float(r[1]), float(r[2])) == pytest.approx((x, y), abs=0.051)
        assert r[3] == "Ø6.6 ⌴ Ø11 ↧ 6"
    assert found[0] == ["A1", "62", "62", "Ø36 ⌴ Ø40 ↧ 8"]
    # each hole has its letter, and they read as the table does
    letters = [a for a in drawing.front_sheet.annotations if a.kind == "hole_letter"]
    assert sorted(texts(cover, drawing, a.id)[0] for a in letters) == sorted(r[0] for r in found)
    with pytest.raises(UserError, match="already"):
        done(cover.projections, drawing, StateListTable(sheet="e1", follows="holes", view=front))


def test_it_says_what_the_note_of_the_hole_says_and_counts_from_what_is_picked(cover):
    front = id_of(cover.drawing, "front")
    hole = next(e for e in cover.part.edges if e.curve.is_circle and abs(e.curve.radius - 3.3) < 1e-6)
    drawing = done(cover.projections, cover.drawing, StateHole(view=front, ref=hole.ref, pointer=(300, 250)))
    note = drawing.front_sheet.annotations[-1]
    drawing = done(cover.projections, drawing, StateTolerance(ids=[note.id], text="H12"))
    bore = next(e for e in cover.part.edges if e.curve.is_circle and abs(e.curve.radius - 18) < 1e-6)
    pick = {"ref": bore.ref, "at": "centre", "x": 0, "y": 0}
    drawing = done(cover.projections, drawing, StateListTable(sheet="e1", follows="holes", view=front, origin=pick))
    found = {r[0]: r for r in rows(cover, drawing)}
    assert found["A1"][1:3] == ["0", "0"]
    assert float(found["B6"][1]) == pytest.approx(50 * math.cos(math.radians(30)), abs=0.051)
    assert found["B6"][3].startswith("Ø6.6 H12")


def test_a_view_without_holes_from_above_has_no_table(cover):
    with pytest.raises(UserError, match="no holes from above"):
        done(
            cover.projections,
            cover.drawing,
            StateListTable(sheet="e1", follows="holes", view=id_of(cover.drawing, "left")),
        )


def test_general_tolerances_are_those_of_the_class_as_far_as_the_part_goes(cover):
    drawing = apply(cover.drawing, SetField(field="general_tolerance", value="ISO 2768-f"))
    drawing = done(cover.projections, drawing, StateListTable(sheet="e1", follows="tolerances"))
    # ISO 2768-1, table 1, class f; the diagonal of a cover of Ø124 × 26 is 178
    assert rows(cover, drawing)[1:] == [
        ["0.5", "3", "0.05"],
        ["3", "6", "0.05"],
        ["6", "30", "0.1"],
        ["30", "120", "0.15"],
        ["120", "400", "0.2"],
    ]
    # it follows the title block
    drawing = apply(drawing, SetField(field="general_tolerance", value="ISO 2768-c"))
    assert [r[2] for r in rows(cover, drawing)[1:]] == ["0.2", "0.3", "0.5", "0.8", "1.2"]


# ---- written ones


def test_no_text_goes_over_the_edge_of_its_cell_in_random_tables(cover):
    dice = random.Random(7)
    words = ["", "M8", "Ø12 H7", "0.05 A B", "Bush, bronze, with oil groove", "W", "½″", "⌴ Ø11 ↧ 6", "iii", "MMMMMMMM"]
    context = ActContext(cover.projections).sheet_stage(cover.drawing, cover.sheet)
    compared = 0
    for k in range(at_length(60, 500)):
        across, deep = dice.randint(1, 8), dice.randint(1, 14)
        columns = [
            Column(
                title=dice.choice(words),
                align=dice.choice(["left", "middle", "right"]),
                width=dice.choice([None, None, 4.0, 30.0]),
            )
            for _ in range(across)
        ]
        cells = [[dice.choice(words) for _ in range(dice.randint(0, across))] for _ in range(deep)]
        joined = [Joined(row=0, column=0, across=2)] if across > 1 and dice.random() < 0.5 else []
        table = Table(
            id="e9",
            on="e1",
            heading=dice.choice(["", "Table", "A heading that is longer than all"]),
            columns=columns,
            rows=cells,
            joined=joined,
            corner=dice.choice(["top left", "top right", "bottom left", "bottom right"]),
            titles=dice.choice(["top", "bottom"]),
            tied=dice.choice(["", "", "frame", "title block"]),
            most=dice.choice([None, 3]),
        )
        ink = cover.ink(
            apply(cover.drawing, Annotate(sheet="e1", annotations=[table.model_copy(update={"id": f"e{900 + k}"})]))
        )
        element = ink.of(f"e{900 + k}")
        lines = [shapely.LineString(m.curve.points(0.01)) for m in element.marks if isinstance(m, Stroke)]
        regions = list(shapely.get_parts(shapely.polygonize([shapely.node(shapely.union_all(lines))])))
        tree = shapely.STRtree([r.buffer(1e-6) for r in regions])
        for m in element.marks:
            if isinstance(m, Text):
                compared += 1
                assert len(tree.query(shapely.Polygon(m.corners()), predicate="covered_by")), (k, m.text)
        solved = solve(table, context)
        low, high = solved.occupies().min(axis=0), solved.occupies().max(axis=0)
        if table.tied == "title block":
            # A3: the title block ends at x = 410 and y = 59
            assert (high[0], low[1]) == pytest.approx((410.0, 59.0))
        if table.tied == "frame":
            right, lower = table.corner.endswith("right"), table.corner.startswith("bottom")
            assert (high[0] if right else low[0]) == pytest.approx(410.0 if right else 20.0)
            assert (low[1] if lower else high[1]) == pytest.approx(10.0 if lower else 287.0)
    assert compared > at_length(500, 5000)


def test_tables_are_taken_from_lines_tabs_and_bars(cover):
    made = done(
        cover.projections, cover.drawing, StateTable(sheet="e1", text="Variants\nNo.\tL1\tL2\n1\t40\t60\n2\t50\t70")
    )
    table = table_of(made)
    assert (table.heading, [c.title for c in table.columns]) == ("Variants", ["No.", "L1", "L2"])
    assert table.rows == [["1", "40", "60"], ["2", "50", "70"]]
    again = done(
        cover.projections, made, StateTable(sheet="e1", id=table.id, text="Variants\nNo. | L1 | L2\n1 | 41 | 60")
    )
    assert table_of(again).rows == [["1", "41", "60"]]
    with pytest.raises(UserError, match="Too many columns"):
        done(cover.projections, cover.drawing, StateTable(sheet="e1", text="\t".join("x" * 30)))


# ---- items


@pytest.fixture
def gear(tmp_path: Path) -> DrawnPart:
    """Two racks of three teeth (10 × 10 × 10) and two pins (Ø4 × 20) each, and a pin more on the whole."""
    tooth, pin = shapes.box((0, 0, 0), (10, 10, 10)), shapes.cylinder((0, 0, 0), (0, 0, 1), 2, 20)
    plan = {
        "gear": [("Rack", 0), ("Rack", 100), ("Pin", 200)],
        "Rack": [("Tooth", 0), ("Tooth", 12), ("Tooth", 24), ("Pin", 40), ("Pin", 50)],
        "Tooth": tooth,
        "Pin": pin,
    }
    return DrawnPart(read_part(write_assembly(tmp_path / "gear.step", plan)), views=["front", "top"], size="A3")


def items(drawing: Drawing) -> dict[str, tuple[int, int]]:
    return {i.name: (i.number, i.quantity) for i in drawing.items}


def test_the_parts_list_counts_what_the_whole_is_put_together_of(gear):
    top = done(gear.projections, gear.drawing, ListParts(sheet="e1"))
    assert items(top) == {"Rack": (1, 2), "Pin": (2, 1)}
    flat = done(gear.projections, gear.drawing, ListParts(sheet="e1", level="flat"))
    assert items(flat) == {"Tooth": (1, 6), "Pin": (2, 5)}
    # on the title block, the first item lowest, its titles at the foot
    found = texts(gear, flat, table_of(flat).id)
    assert found[:4] == ["2", "5", "Pin", "1"] and found[-1] == "Parts list"
    # what was said of an item stays when the list is made anew
    said = done(gear.projections, flat, ChangeItem(id="i2", name="Dowel", remarks="hardened", material="Steel C45"))
    anew = done(gear.projections, said, ListParts(sheet="e1", level="flat"))
    assert [(i.name, i.remarks, i.material) for i in anew.items] == [
        ("Tooth", "", ""),
        ("Dowel", "hardened", "Steel C45"),
    ]
    # 7.85 g/cm³ · π · 2² · 20 mm³
    assert anew.items[1].mass == pytest.approx(7.85e-3 * math.pi * 80, rel=1e-9)
    own = done(gear.projections, anew, ChangeItem(id="i1", material="Own alloy, 8.1"))
    assert (own.items[0].material, own.items[0].mass) == ("Own alloy", pytest.approx(8.1))
    # all have a mass: the title block adds them up, 6 teeth and 5 pins
    total = 6 * 8.1 + 5 * 7.85e-3 * math.pi * 80
    mass = next(f for f in gear.ink(own).fields if f.field == "mass")
    assert (mass.value, mass.says) == (f"{total:.3g} g", "the masses of all items together")


def test_items_change_places_and_are_numbered_anew(gear):
    flat = done(gear.projections, gear.drawing, ListParts(sheet="e1", level="flat"))
    swapped = done(gear.projections, flat, ChangeItem(id="i1", number=2))
    assert items(swapped) == {"Tooth": (2, 6), "Pin": (1, 5)}
    assert items(done(gear.projections, swapped, Renumber())) == {"Tooth": (1, 6), "Pin": (2, 5)}
    with pytest.raises(UserError, match="Two items have the number 2"):
        done(gear.projections, flat, ChangeItems(items=[ItemChange(id="i1", number=2)]))


def test_all_items_of_a_view_are_numbered_once_and_no_leaders_cross():
    for stem, view in (("small-pedestal-assembly", "front"), ("small-pedestal-assembly", "corner")):
        p = DrawnPart(stem, views=["front", "iso"], size="A2")
        drawing = done(p.projections, p.drawing, NumberItems(view=id_of(p.drawing, view)))
        numbers = [a for a in drawing.front_sheet.annotations if a.kind == "item_number"]
        shown = [own for a in numbers for own in a.items]
        assert len(shown) == len(set(shown)) == len(drawing.items) == 5
        leaders = [
            shapely.LineString(m.curve.points(0.1))
            for a in numbers
            for m in p.ink(drawing).of(a.id).marks[:2]
            if isinstance(m, Stroke) and len(m.curve.points(0.1)) == 2
        ]
        assert len(leaders) == 5
        assert not any(a.crosses(b) for a, b in itertools.combinations(leaders, 2))
        # on the body that it names
        for a in numbers:
            item = next(i for i in drawing.items if i.id == a.items[0])
            kind, row = p.part.find(a.foot.ref)
            body = p.part.edges[row].body if kind == "edge" else p.part.faces[row].body
            assert p.part.bodies[body].name == item.product
        with pytest.raises(UserError, match="Nothing is to be numbered"):
            done(p.projections, drawing, NumberItems(view=id_of(p.drawing, view)))
        stacked = done(p.projections, drawing, StackItems(ids=[numbers[0].id, numbers[1].id]))
        (both,) = [a for a in stacked.front_sheet.annotations if a.id == numbers[0].id]
        by_id = {i.id: str(i.number) for i in drawing.items}
        assert texts(p, stacked, both.id) == [by_id[numbers[0].items[0]], by_id[numbers[1].items[0]]]


def test_items_without_a_number_and_holes_without_a_letter_are_remarked(gear, cover):
    def remarks(p: DrawnPart, drawing: Drawing) -> list[str]:
        placed = p.projections.placed_views(drawing, drawing.front_sheet)
        return [r.words for r in list_remarks(drawing, drawing.front_sheet, placed)]

    drawing = done(gear.projections, gear.drawing, ListParts(sheet="e1", level="flat"))
    assert remarks(gear, drawing) == [], "nothing is numbered yet"
    drawing = done(gear.projections, drawing, NumberItems(view=id_of(gear.drawing, "front")))
    assert remarks(gear, drawing) == []
    pin = next(a for a in drawing.front_sheet.annotations if a.kind == "item_number" and a.items == ["i2"])
    assert remarks(gear, apply(drawing, Remove(ids=[pin.id]))) == ["Item 2, Pin, has no number on any view"]
    front = id_of(cover.drawing, "front")
    holes = done(cover.projections, cover.drawing, StateListTable(sheet="e1", follows="holes", view=front))
    letter = next(a for a in holes.front_sheet.annotations if a.kind == "hole_letter")
    name = texts(cover, holes, letter.id)[0]
    assert remarks(cover, holes) == []
    assert remarks(cover, apply(holes, Remove(ids=[letter.id]))) == [
        f"Hole {name} of the table has no letter beside it"
    ]


def test_where_a_view_shows_some_bodies_alone_these_are_numbered():
    p = DrawnPart("small-pedestal-assembly", views=["front", "iso"], size="A2")
    front = id_of(p.drawing, "front")
    drawing = apply(p.drawing, SetView(view=front, changes={"bodies": ["Bush", "Stud (2)"]}))
    drawing = done(p.projections, drawing, NumberItems(view=front))
    by_id = {i.id: i.product for i in drawing.items}
    numbers = [a for a in drawing.front_sheet.annotations if a.kind == "item_number"]
    assert sorted(by_id[own] for a in numbers for own in a.items) == ["Bush", "Stud"]


# ---- the title block's material


def test_a_material_in_the_title_block_is_that_of_the_part(cover):
    def fields(drawing: Drawing) -> dict[str, str]:
        return {f.field: f.value for f in cover.ink(drawing).fields}

    volume = sum(b.volume for b in cover.part.bodies) / 1000
    drawing = done(cover.projections, cover.drawing, StateMaterial(sheet="e1", text="aluminium en aw-6082"))
    assert fields(drawing)["material"] == "Aluminium EN AW-6082"
    assert fields(drawing)["mass"] == f"{volume * 2.7:.3g} g"
    unknown = done(cover.projections, drawing, StateMaterial(sheet="e1", text="Unobtainium"))
    assert (fields(unknown)["material"], fields(unknown)["mass"]) == ("Unobtainium", ""), "nobody knows its mass"
    typed = done(cover.projections, drawing, StateMaterial(sheet="e1", text="Own alloy, 8.1 g/cm³"))
    assert fields(typed)["mass"] == f"{volume * 8.1 / 1000:.3g} kg"


def test_a_field_that_is_emptied_stays_empty_until_it_may_fill_itself(cover):
    def value(drawing: Drawing) -> str:
        return next(f.value for f in cover.ink(drawing).fields if f.field == "title")

    was = value(cover.drawing)
    emptied = apply(cover.drawing, SetField(field="title", value=""))
    assert was and value(emptied) == "" and value(Drawing.load(emptied.to_json())) == ""
    assert value(apply(emptied, SetField(field="title", value=None))) == was
