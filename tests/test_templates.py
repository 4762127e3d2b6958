"""Templates: borders and title blocks of cells, changed without gaps, given from drawing to drawing; pictures in them."""

from __future__ import annotations

import io
import json
import math
import random

import numpy as np
import pytest
import shapely
from PIL import Image, ImageDraw
from pydantic import ValidationError

from barequill.core.acts.title_block import (
    AddCell,
    CellChanges,
    ChangeBorder,
    ChangeCell,
    JoinCells,
    MoveCellEdge,
    RemoveCells,
    SplitCell,
    TakeTemplate,
)
from barequill.core.display import Region, Stroke, Text
from barequill.core.drawing import title_cells as cells
from barequill.core.drawing.operations import SetField, SetSheet, apply
from barequill.core.drawing.pictures import corners_of
from barequill.core.drawing.templates import ISO_7200, SHIPPED, Template, shipped
from barequill.core.drawing.title_fields import field_values
from barequill.core.errors import BadOperation, UserError
from barequill.core.standards.sheets import SIZES
from barequill.work.pictures import picture_of
from tools.common import demo_file
from tools.sheets import DrawnPart, done, empty

from .shared import act, bring

SVG = b'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 %d %d">%s</svg>'


def area(template: Template) -> float:
    """What the cells cover, by a second reckoning."""
    return shapely.union_all([shapely.box(c.x, c.y, c.x + c.width, c.y + c.height) for c in template.cells]).area


def whole(template: Template) -> bool:
    """Whether the cells fill the block without gap or overlap."""
    Template.model_validate(template.model_dump())
    block = template.width * template.height
    parts = sum(c.width * c.height for c in template.cells)
    return area(template) == pytest.approx(block, rel=1e-9) and parts == pytest.approx(block, rel=1e-9)


@pytest.mark.parametrize("name", SHIPPED)
def test_shipped_title_blocks_are_whole_and_go_on_the_sheets_that_they_are_for(name: str) -> None:
    template = shipped(name)
    assert whole(template)
    sizes = [s for s in SIZES if (len(s) == 1) == name.startswith("asme")]
    assert all(template.fits(size, True) for size in sizes)
    assert {"title", "number", "owner", "revision", "sheet", "scale"} <= {c.field for c in template.cells}


def test_cells_are_split_joined_moved_and_removed_by_hand_figures() -> None:
    # ISO 7200: the title is 116 wide and 13 high, the owner 74 × 10 below it at the left
    two = cells.split(ISO_7200, "title", across=True)
    assert [(c.x, c.width) for c in two.cells if c.y == 10 and c.x < 116] == [(0, 58), (58, 58)]
    low = cells.split(ISO_7200, "title", across=False, at=5.2)
    assert [(c.y, c.height) for c in low.cells if c.x == 0 and 10 <= c.y < 23] == [(15, 8), (10, 5)]
    assert cells.joined(two, ["title", "cell-1"]) == ISO_7200
    with pytest.raises(BadOperation, match="do not make a rectangle"):
        cells.joined(ISO_7200, ["title", "owner"])
    # the border between owner and revision; that of the title above it stays
    moved = cells.moved(ISO_7200, "owner", "right", 80.2)
    assert [(c.id, c.x, c.width) for c in moved.cells if c.id in ("owner", "revision", "title")] == [
        ("owner", 0, 80), ("revision", 80, 12), ("title", 0, 116),
    ]  # fmt: skip
    # the border over the lowest row goes on over the whole block, and five cells below it get higher
    higher = cells.moved(ISO_7200, "owner", "top", 12)
    assert {c.height for c in higher.cells if c.y == 0} == {12} and {
        c.y for c in higher.cells if c.id in ("title", "number")
    } == {12}
    # no cell gets smaller than it may, and the block grows at its left and its top only
    assert cells.moved(ISO_7200, "owner", "right", 500).cell("revision").width == cells.NARROWEST
    wider = cells.moved(ISO_7200, "title", "left", -20)
    assert wider.width == 200 and wider.cell("owner").width == 94 and wider.cell("sheet").x == 168
    assert cells.moved(ISO_7200, "scale", "top", 60).height == 60
    for cell, side in (("sheet", "right"), ("owner", "bottom")):
        with pytest.raises(BadOperation, match="block stands"):
            cells.moved(ISO_7200, cell, side, 5)
    assert cells.removed(cells.added(ISO_7200, "top"), "cell-1") == ISO_7200
    assert cells.removed(cells.added(ISO_7200, "left"), "cell-1") == ISO_7200
    # language between date and sheet: the one before it grows
    assert cells.removed(ISO_7200, "language").cell("date").width == 56


def test_whatever_is_done_to_cells_they_fill_the_block() -> None:
    rng, template, refused = random.Random(7), ISO_7200, 0
    for _ in range(400):
        own = rng.choice(template.cells).id
        how = rng.randrange(6)
        try:
            if how < 2:
                template = cells.split(template, own, rng.random() < 0.5, rng.uniform(0, 100))
            elif how == 2:
                template = cells.removed(template, own)
            elif how == 3:
                template = cells.joined(template, [own, rng.choice(template.cells).id])
            elif how == 4:
                template = cells.moved(
                    template, own, rng.choice(["left", "right", "top", "bottom"]), rng.uniform(-20, 250)
                )
            else:
                template = (
                    cells.added(template, rng.choice(["top", "left"]))
                    if template.width < 400 and template.height < 100
                    else template
                )
        except BadOperation:
            refused += 1
        assert whole(template)
    assert refused < 300, "most of it can be done"


def test_cells_say_fields_of_one_s_own_computed_ones_and_texts() -> None:
    drawn = DrawnPart("spindle-pedestal")
    sheet = drawn.sheet.id

    def do(drawing, **named):
        return done(drawn.projections, drawing, ChangeCell(sheet=sheet, cell="cell-1", changes=CellChanges(**named)))

    drawing = done(drawn.projections, drawn.drawing, SplitCell(sheet=sheet, cell="approver"))
    drawing = do(drawing, shows="Checked by", needed=True, choices=["A. Reed", "B. Rush"])
    cell = drawing.template_of(drawing.front_sheet).cell("cell-1")
    assert (cell.field, cell.label, cell.needed) == ("checked_by", "Checked by", True)
    zone = next(f for f in drawn.ink(drawing).fields if f.cell == "cell-1")
    assert (zone.value, zone.needed, zone.auto, zone.choices) == ("", True, False, ("A. Reed", "B. Rush"))
    drawing = apply(drawing, SetField(field="checked_by", value="A. Reed"))
    # what it says by itself gives way to what is filled in
    drawing = do(drawing, text="{creator} at {scale}")
    assert field_values(drawing, drawing.front_sheet, None)["checked_by"] == "A. Reed"
    drawing = apply(drawing, SetField(field="checked_by", value=None))
    drawing = apply(drawing, SetField(field="creator", value="B. Rush"))
    assert field_values(drawing, drawing.front_sheet, None)["checked_by"].startswith("B. Rush at 1:")
    drawing = do(drawing, shows="nothing", text="Sheet {sheet_number} of {sheet_count}: {part_name}, {nonsense}")
    ink = drawn.ink(drawing)
    said = "Sheet 1 of 1: Spindle pedestal, {nonsense}"
    assert next(f.value for f in ink.fields if f.cell == "cell-1") == said
    shown = [m.text for m in ink.marks_of("sheet") if isinstance(m, Text)]
    assert any(f"{b} {a}" == said for a, b in zip(shown, shown[1:], strict=False)), (
        "in two lines, as the cell is narrow"
    )
    with pytest.raises(UserError, match="is computed"):
        do(drawing, shows="part count")


def test_a_template_is_taken_with_its_fields_and_nothing_comes_to_lie_under_it() -> None:
    drawn = DrawnPart("spindle-pedestal", size="A3")
    high = ISO_7200.model_copy(update={"name": "High", "fields": {"owner": "Reed & Rush", "creator": "R. Reed"}})
    for _ in range(5):
        high = cells.added(high, "top")
    drawing = apply(drawn.drawing, SetField(field="creator", value="Somebody"))
    taken = done(drawn.projections, drawing, TakeTemplate(template=high))
    assert taken.fields["owner"] == "Reed & Rush" and taken.fields["creator"] == "Somebody", "what is filled in stays"
    block = taken.template_of(taken.front_sheet).block("A3", True)
    assert block.height == 99 and (block.x1, block.y0) == (410, 10)
    for placed in drawn.projections.placed_views(taken, taken.front_sheet).values():
        assert not placed.box.overlaps(block)
    # and given back
    back = done(drawn.projections, taken, TakeTemplate(template=None))
    assert back.templates == [] and back.template_of(back.front_sheet) is ISO_7200
    with pytest.raises(BadOperation, match="has no room on that sheet"):
        apply(drawn.drawing, SetSheet(sheet="e1", size="150x150"))
    with pytest.raises(ValidationError, match="both sides in mm"):
        SetSheet(sheet="e1", size="20x9000")
    own = apply(drawn.drawing, SetSheet(sheet="e1", size="300x1000"))
    ink = drawn.ink(own)
    assert (ink.width, ink.height) == (1000, 300)
    assert next(f.value for f in ink.fields if f.field == "size") == "300 × 1000"


def test_changes_of_one_sheet_reach_those_with_the_same_title_block_and_no_others() -> None:
    drawn = DrawnPart("pawl")
    first = drawn.drawing
    other = first.front_sheet.model_copy(update={"id": "e900", "views": [], "annotations": []})
    third = other.model_copy(update={"id": "e901"})
    drawing = first.model_copy(update={"sheets": [first.front_sheet, other, third]})
    small = shipped("small-a4")
    drawing = done(drawn.projections, drawing, TakeTemplate(template=small, sheets=["e901"]))
    drawing = done(drawn.projections, drawing, AddCell(sheet="e900", side="top"))
    names = [s.template for s in drawing.sheets]
    assert names[0] == names[1] != "" and names[2] == small.name
    assert [drawing.template_of(s).height for s in drawing.sheets] == [59, 59, 28.5]
    # renamed, it stays that of both
    drawing = done(drawn.projections, drawing, ChangeBorder(sheet=first.front_sheet.id, name="Ours", zones=False))
    assert [s.template for s in drawing.sheets] == ["Ours", "Ours", small.name]
    assert drawing.template_of(drawing.sheets[1]).zones is None
    with pytest.raises(BadOperation, match="name is taken"):
        done(drawn.projections, drawing, ChangeBorder(sheet="e901", name="Ours"))
    for wrong in (
        JoinCells(sheet="e901", cells=["title"]),
        RemoveCells(sheet="e901", cells=["gone"]),
        MoveCellEdge(sheet="e901", cell="owner", side="bottom", to=3),
    ):
        with pytest.raises(BadOperation):
            done(drawn.projections, drawing, wrong)


@pytest.mark.parametrize(("size", "across", "up"), [("B", 4, 2), ("C", 4, 4), ("D", 8, 4)])
def test_asme_zones_share_the_sheet_equally_and_count_from_the_lower_right(size: str, across: int, up: int) -> None:
    drawing = empty(size, standard="ASME")
    asme = shipped("asme-y14-1")
    sheet = drawing.front_sheet.model_copy(update={"template": asme.name})
    drawing = drawing.model_copy(update={"templates": [asme], "sheets": [sheet]})
    ink = DrawnPart("pawl").ink(drawing)
    space = asme.space(size, True)
    texts = [
        m
        for m in ink.marks_of("sheet")
        if isinstance(m, Text) and m.height == 3.5 and not space.y0 < m.y + 1.75 < space.y1
    ]
    figures = {m.text: m.x for m in texts if m.y > space.y1}
    assert sorted(figures, key=lambda t: -figures[t]) == [str(k + 1) for k in range(across)], "from the right"
    sides = {m.text: m.y for m in ink.marks_of("sheet") if isinstance(m, Text) and m.x < space.x0}
    assert sorted(sides, key=lambda t: sides[t]) == list("ABCD"[:up]), "from below"


@pytest.mark.parametrize("kind", ["svg", "png"])
def test_pictures_keep_their_dark_areas_as_outlines(kind: str) -> None:
    # a ring of radii 40 and 20 in a square of 100, with a bar under it
    if kind == "svg":
        data = SVG % (
            100,
            100,
            b'<circle cx="50" cy="40" r="40" fill="#123"/><circle cx="50" cy="40" r="20" fill="white"/><path d="M0 90H100V100H0Z"/>',
        )
    else:
        picture = Image.new("L", (400, 400), 255)
        pen = ImageDraw.Draw(picture)
        pen.ellipse((40, 0, 360, 320), fill=0)
        pen.ellipse((120, 80, 280, 240), fill=255)
        pen.rectangle((0, 360, 400, 400), fill=0)
        out = io.BytesIO()
        picture.save(out, "PNG")
        data = out.getvalue()
    found = picture_of(f"logo.{kind}", data)
    assert (found.width, found.height) == pytest.approx((1000, 1000), rel=0.01)
    dark = shapely.Polygon()
    for path in found.paths:
        for corners, closed in corners_of(path.outlines):
            assert closed
            dark = dark.symmetric_difference(shapely.Polygon(corners))
    assert dark.area / 100 == pytest.approx(math.pi * (1600 - 400) + 1000, rel=0.01)
    assert dark.contains(shapely.Point(500, 50)) and not dark.contains(shapely.Point(500, 600)), "y upward"
    # drawn as one fill within its cell
    drawn = DrawnPart("pawl")
    drawing = done(
        drawn.projections, drawn.drawing, ChangeCell(sheet="e1", cell="owner", changes=CellChanges(picture=found))
    )
    box = ISO_7200.block("A3", True)
    fills = [m for m in drawn.ink(drawing).marks_of("sheet") if isinstance(m, Region)]
    corners = np.vstack([r for f in fills for r in f.rings])
    assert len(fills) == len(found.paths) and box.x0 < corners[:, 0].min() and corners[:, 0].max() < box.x0 + 74
    assert box.y0 < corners[:, 1].min() and corners[:, 1].max() < box.y0 + 10
    assert all(isinstance(m, Stroke | Text | Region) for m in drawn.ink(drawing).marks_of("sheet"))


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b'<!DOCTYPE l [<!ENTITY a "ha">]><svg>&a;</svg>', "declares entities"),
        (SVG[:30], "no SVG that can be read"),
        (b"<html></html>", "begins with html"),
        (SVG % (9, 9, b"<g>" * 60 + b"</g>" * 60), "too large a drawing"),
        (SVG % (9, 9, b"<path/>" * 5000), "too large a drawing"),
        (SVG % (9, 9, b'<text x="1" y="1">Reed</text>'), "only texts"),
        (SVG % (9, 9, b'<image href="file:///etc/passwd" width="9" height="9"/><use href="#a"/>'), "shows nothing"),
        (SVG % (9, 9, b'<path d="M0 0L1e999 nan"/>'), "shows nothing"),
        (b"\x89PNG\r\n\x1a\n" + b"\0" * 90, "no picture"),
        (b"", "no picture"),
        (b"GIF89a" + b"\0" * 50, "no picture"),
    ],
)  # fmt: skip
def test_hostile_and_empty_pictures_are_refused_with_the_reason(data: bytes, says: str) -> None:
    with pytest.raises(UserError, match=says):
        picture_of("it", data)


def test_templates_are_kept_given_out_and_taken_in(app) -> None:
    client = app.test_client()
    part = bring(client, "pawl.step", demo_file("pawl").read_bytes() + b"\n\n\n")["part"]
    state = client.post("/api/drawings", json={"part": part, "views": ["front"]}).get_json()
    sheet = state["document"]["sheets"][0]["id"]
    state = act(client, state, act="split_cell", sheet=sheet, cell="approver")
    state = act(client, state, act="operation", operation={"op": "set_field", "field": "owner", "value": "Reed & Rush"})
    state = act(
        client, state, act="operation", operation={"op": "set_field", "field": "title", "value": "Of this one only"}
    )
    kept = client.post(
        "/api/templates", json={"drawing": state["id"], "sheet": sheet, "name": "Of the house"}
    ).get_json()
    assert kept["template"]["fields"] == {"owner": "Reed & Rush"}
    listed = client.get("/api/templates").get_json()
    assert [t["name"] for t in listed if t["id"] is None] == ["ISO 7200", "ASME Y14.1", "Small, for A4"]
    assert [t["template"] for t in listed if t["id"] == kept["id"]] == [kept["template"]]
    # as a file, and in again
    data = client.get(f"/api/drawings/{state['id']}/template?sheet={sheet}").data
    file = json.loads(data)
    file["template"]["name"] = "From elsewhere"
    answer = client.post("/api/templates/files", data={"file": (io.BytesIO(json.dumps(file).encode()), "t.json")})
    assert answer.status_code == 201 and answer.get_json()["template"]["cells"] == kept["template"]["cells"]
    taken = answer.get_json()["template"]
    other = client.post("/api/drawings", json={"part": part, "views": ["front"], "template": taken}).get_json()
    assert (
        other["document"]["sheets"][0]["template"] == "From elsewhere"
        and other["document"]["fields"]["owner"] == "Reed & Rush"
    )
    # new drawings begin as the last one did
    ways = client.get("/api/ways").get_json()["ways"]
    third = client.post("/api/drawings", json={"part": part, "views": ["front"], "ways": ways}).get_json()
    assert third["document"]["sheets"][0]["template"] == "From elsewhere"
    for spoilt, says in (
        (b"{}", "template: Field required"),
        (b"[" * 100000, "It is not JSON"),
        (b"\xff\xfe", "It is not JSON"),
        (json.dumps(file | {"version": 2}).encode(), "version"),
        (json.dumps(file | {"template": file["template"] | {"cells": [*taken["cells"], taken["cells"][0]]}}).encode(), "two cells have the same id"),
        (json.dumps(file | {"template": file["template"] | {"cells": [*taken["cells"], taken["cells"][0] | {"id": "x"}]}}).encode(), "lie on each other"),
    ):  # fmt: skip
        answer = client.post("/api/templates/files", data={"file": (io.BytesIO(spoilt), "bad.json")})
        assert answer.status_code == 400 and says in answer.get_json()["detail"], answer.get_json()
    assert client.delete(f"/api/templates/{kept['id']}").status_code == 200
    assert client.delete(f"/api/templates/{kept['id']}").status_code == 404


def test_cells_that_are_no_block_are_refused() -> None:
    plain = ISO_7200.model_dump()
    far = [c | {"x": c["x"] + 3} for c in plain["cells"]]
    with pytest.raises(ValidationError, match="no cell stands at the left"):
        Template.model_validate(plain | {"cells": far})


def test_ways_of_a_house_are_kept_given_and_what_departs_is_told_and_set_back(app) -> None:
    client = app.test_client()
    part = bring(client, "pawl.step", demo_file("pawl").read_bytes() + b"\n \n")["part"]
    wish = {"part": part, "views": ["front", "top", "left"], "angle": "third", "size": "A3"}
    state = client.post("/api/drawings", json=wish).get_json()
    sheet = state["document"]["sheets"][0]["id"]

    def do(state: dict, **operation) -> dict:
        return act(client, state, act="operation", operation=operation)

    state = do(state, op="set_sheet", sheet=sheet, wide=0.7, font="sloped")
    state = do(state, op="set_styles", styles=[{"name": "Ours", "arrow": "open"}], style="Ours")
    state = do(state, op="set_field", field="owner", value="Reed & Rush")
    state = act(client, state, act="split_cell", sheet=sheet, cell="approver")
    state = act(client, state, act="state_notes", sheet=sheet, text="Deburr all over.\nPaint: none.")
    kept = client.post("/api/ways/kept", json={"drawing": state["id"], "name": "Reed & Rush"}).get_json()
    assert kept["ways"]["notes"] == ["Deburr all over.", "Paint: none."] and kept["ways"]["angle"] == "third"
    # given to another, which is otherwise in all of that
    other = client.post("/api/drawings", json={**wish, "angle": "first"}).get_json()
    own = other["document"]["sheets"][0]["id"]
    before = [v["place"] for v in other["document"]["sheets"][0]["views"]]
    given = act(client, other, act="take_ways", ways={"name": kept["name"], "ways": kept["ways"]})
    document = given["document"]
    assert (document["angle"], document["wide"], document["font"], document["style"]) == (
        "third",
        0.7,
        "sloped",
        "Ours",
    )
    assert document["sheets"][0]["template"] == "Own title block" and document["fields"]["owner"] == "Reed & Rush"
    (block,) = [a for a in document["sheets"][0]["annotations"] if a["kind"] == "notes_block"]
    assert [n["text"] for n in block["notes"]] == ["Deburr all over.", "Paint: none."]
    places = [v["place"] for v in document["sheets"][0]["views"]]
    assert np.sign(places[1][1] - places[0][1]) == -np.sign(before[1][1] - before[0][1]), "the view from above is above"

    def departs() -> dict[str, str]:
        found = client.get(f"/api/drawings/{given['id']}/departures").get_json()
        assert not found["changed"]
        return {d["what"]: d["words"] for d in found["departs"]}

    assert departs() == {}
    # each thing by itself, and back
    now = do(given, op="set_sheet", sheet=own, font="plain", lettering=5.0)
    now = do(now, op="set_field", field="owner", value="Somebody")
    now = do(now, op="set_styles", styles=[{"name": "Ours", "arrow": "dot"}])
    now = do(now, op="remove", ids=[block["id"]])
    now = act(client, now, act="take_template", template=None)
    assert departs() == {
        "font": "Lettering plain, not sloped",
        "lettering": "Lettering 5 mm, not by the sheet's size",
        "look of sizes": "Look Ours of sizes was changed",
        "template": "Title block ISO 7200 in place of Own title block",
        "field owner": "Legal owner: Somebody, not Reed & Rush",
        "notes": "General note missing: Deburr all over., and 1 more",
    }
    now = act(client, now, act="set_back", what=["font", "notes"])
    assert set(departs()) == {"lettering", "look of sizes", "template", "field owner"}
    now = act(client, now, act="set_back")
    assert departs() == {}
    refused = client.post(f"/api/drawings/{now['id']}/acts", json={"edit": now["edit"], "act": {"act": "set_back"}})
    assert refused.status_code == 400 and refused.get_json()["title"] == "Nothing of that departs"
    # kept otherwise since, it is told; as a file, and begun with
    client.post("/api/ways/kept", json={"drawing": other["id"], "name": "Reed & Rush"})
    state = do(state, op="set_sheet", sheet=sheet, font="upright")
    again = client.post("/api/ways/kept", json={"drawing": state["id"], "name": "Reed & Rush"}).get_json()
    assert again["id"] == kept["id"]
    assert client.get(f"/api/drawings/{now['id']}/departures").get_json()["changed"]
    file = client.get(f"/api/ways/kept/{kept['id']}/file").data
    assert client.delete(f"/api/ways/kept/{kept['id']}").status_code == 200
    taken = client.post("/api/ways/files", data={"file": (io.BytesIO(file), "w.json")}).get_json()
    assert taken["ways"] == again["ways"]
    begun = client.post(
        "/api/drawings", json={"part": part, "views": ["front"], "ways": taken["ways"], "house": taken["name"]}
    )
    made = begun.get_json()
    assert client.get(f"/api/drawings/{made['id']}/departures").get_json()["departs"] == []
    assert client.post("/api/ways/files", data={"file": (io.BytesIO(b'{"name":"x"}'), "w.json")}).status_code == 400
