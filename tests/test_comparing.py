"""Two states of a drawing compared: in words, and as pictures that can be told apart in black on paper."""

from __future__ import annotations

import io
from collections import Counter

import ezdxf
import numpy as np
import pytest
import shapely

from barequill.core.acts.mark_changes import ChangedPlace, MarkChanges, RemoveMarks
from barequill.core.acts.overall import OverallSizes
from barequill.core.acts.sheets import NewSheet
from barequill.core.arranging.comparing import State, compared
from barequill.core.arranging.mark_differences import differences
from barequill.core.display import Stroke, Text
from barequill.core.drawing.operations import (
    ChangeAnnotation,
    MoveView,
    Remove,
    SetField,
    SetSheet,
    SetView,
    apply,
)
from barequill.core.errors import UserError
from barequill.core.geometry import curves2
from barequill.core.sheet.stages import draw_sheet
from tools.common import demo_file
from tools.sheets import DrawnPart, done

from .shared import act, bring


def state(drawn: DrawnPart, drawing) -> State:
    return State(drawing, {s.id: draw_sheet(drawing, s, drawn.projections) for s in drawing.sheets})


def marks(picture, layer: str) -> list:
    return list(picture.of(layer).marks)


@pytest.fixture
def pedestal_sized() -> tuple[DrawnPart, object, dict[str, str]]:
    """The pedestal's front and top view at 1:2 with its overall sizes, and ids by what they say."""
    drawn = DrawnPart("spindle-pedestal", views=["front", "top"], scale=0.5)
    drawing = done(drawn.projections, drawn.drawing, OverallSizes(views=[v.id for v in drawn.sheet.views]))
    ink = drawn.ink(drawing)
    return drawn, drawing, {e.words: e.id for e in ink.elements if e.kind == "dimension"}


def test_nothing_differs_where_nothing_was_done_and_all_is_narrow(pedestal_sized) -> None:
    drawn, drawing, _ = pedestal_sized
    changes, pictures = compared(state(drawn, drawing), state(drawn, drawing))
    picture = pictures[drawing.front_sheet.id]
    assert changes == [] and not marks(picture, "gone") and not marks(picture, "come") and not marks(picture, "moved")
    assert {m.pen for m in marks(picture, "kept") if isinstance(m, Stroke)} & {"visible", "cutting-end"} == set()
    assert len(marks(picture, "kept")) == len(drawn.ink(drawing).marks_of())


def test_each_change_is_told_in_words_and_stands_in_its_layer(pedestal_sized) -> None:
    drawn, drawing, sizes = pedestal_sized
    front = drawing.front_sheet.views[0]
    after = apply(drawing, SetField(field="owner", value="Reed & Rush"))
    after = apply(after, ChangeAnnotation(id=sizes["140"], changes={"tolerance": {"kind": "symmetric", "upper": 0.2}}))
    gone = next(i for w, i in sizes.items() if w not in ("140",))
    words = next(w for w, i in sizes.items() if i == gone)
    on = next(a.on for a in drawing.front_sheet.annotations if a.id == gone)
    after = apply(after, Remove(ids=[gone]))
    after = apply(after, MoveView(view=front.id, to=(front.place[0] + 12.0, front.place[1])))
    changes, pictures = compared(state(drawn, drawing), state(drawn, after))
    told = {(c.kind, c.words) for c in changes}
    where = "front view" if on == front.id else "top view"
    assert ("changed", "Legal owner: empty → Reed & Rush") in told
    assert ("changed", "140 → 140 ±0.2 on the front view") in told or (
        "changed",
        "140 → 140 ±0.2 on the top view",
    ) in told
    assert any(k == "gone" and words in w and w.endswith(f"on the {where} is gone") for k, w in told)
    assert ("moved", "Front view was moved 12 mm right") in told and ("moved", "Top view was moved 12 mm right") in told
    # what goes along with its view is not told
    assert len(told) == 5, told
    picture = pictures[drawing.front_sheet.id]
    come = [m.text for m in marks(picture, "come") if isinstance(m, Text)]
    struck = [m.text for m in marks(picture, "gone") if isinstance(m, Text)]
    assert "140 ±0.2" in come and "Reed & Rush" in come and {"140", words} <= set(struck)
    # an arrow for each view that was moved; the lines of both are as they were
    assert sum(isinstance(m, Stroke) for m in marks(picture, "moved")) == 2
    assert {m.pen for m in marks(picture, "gone") if isinstance(m, Stroke)} == {"adjacent", "dimension"}
    assert {m.pen for m in marks(picture, "come") if isinstance(m, Stroke)} == {"visible"}
    # both figures can be read
    boxes = [
        shapely.Polygon(m.corners()) for layer in ("come", "gone") for m in marks(picture, layer) if isinstance(m, Text)
    ]
    assert all(a.intersection(b).area < 0.3 * min(a.area, b.area) for k, a in enumerate(boxes) for b in boxes[:k])


def test_lines_of_a_view_are_compared_as_far_as_they_lie_on_each_other(pedestal_sized) -> None:
    """Half of the upper edge of a box that is longer by 10 on one side: the common stretch stays, what is longer has come."""

    def line(*ends, pen="visible"):
        return Stroke(curves2.line(*ends), pen)

    was = [line((0, 0), (30, 0)), line((30, 0), (30, 9)), line((0, 5), (10, 5), pen="hidden")]
    now = [line((40, 0), (25, 0)), line((25, 0), (0, 0)), line((40, 0), (40, 9)), line((0, 5), (10, 5))]
    kept, gone, come = differences(was, now)

    def told(found) -> Counter:
        return Counter((m.pen, *sorted(tuple(np.round(p, 6)) for p in m.curve.poles)) for m in found)

    assert told(kept) == Counter({("visible", (0.0, 0.0), (30.0, 0.0)): 1})
    assert told(gone) == Counter({("visible", (30.0, 0.0), (30.0, 9.0)): 1, ("hidden", (0.0, 5.0), (10.0, 5.0)): 1})
    assert told(come) == Counter(
        {
            ("visible", (30.0, 0.0), (40.0, 0.0)): 1,
            ("visible", (40.0, 0.0), (40.0, 9.0)): 1,
            ("visible", (0.0, 5.0), (10.0, 5.0)): 1,
        }
    )
    # a circle is the same wherever it begins
    circles = [
        Stroke(curves2.circle((3, 4), 5.0), "visible"),
        Stroke(curves2.circle((3, 4), 5.0).moved(1.0, 77.0, (0, 0)), "visible"),
    ]
    turned = circles[1].curve
    back = np.array((3, 4)) - turned.poles[0]
    assert not differences(circles[:1], [Stroke(turned.moved(1.0, 0.0, tuple(back)), "visible")])[1]


def test_sheets_scales_and_views_that_come_and_go_are_told(pedestal_sized) -> None:
    drawn, drawing, _ = pedestal_sized
    front, top = drawing.front_sheet.views
    after = apply(drawing, SetSheet(sheet=drawing.front_sheet.id, size="A2", angle="third"))
    after = done(drawn.projections, after, NewSheet(after=drawing.front_sheet.id, name="Details"))
    after = apply(after, SetView(view=front.id, changes={"scale": 1.0}))
    changes, pictures = compared(state(drawn, drawing), state(drawn, after))
    told = [c.words for c in changes]
    for said in (
        "Projection: first → third",
        "Sheet: A3 lying → A2 lying",
        "Sheet 2, Details, is new",
        "Size: A3 → A2",
        "Front view: 1:2 → 1:1",
    ):
        assert said in told, told
    assert len(pictures) == 2 and pictures[drawing.front_sheet.id].width == 594
    # the other way round the sheet is gone, and stands last
    changes, pictures = compared(state(drawn, after), state(drawn, drawing))
    assert "Sheet 2, Details, is gone" in [c.words for c in changes] and list(pictures)[-1] == after.sheets[1].id
    without = apply(drawing, Remove(ids=[top.id]))
    told = {(c.kind, c.words) for c in compared(state(drawn, drawing), state(drawn, without))[0]}
    assert ("gone", "Top view is gone") in told


def test_issues_and_steps_are_compared_over_the_web_and_given_out(app) -> None:
    client = app.test_client()
    part = bring(client, "pawl.step", demo_file("pawl").read_bytes() + b"\n\n \n")["part"]
    made = client.post("/api/drawings", json={"part": part, "views": ["front"], "size": "A3"}).get_json()
    number, sheet = made["id"], made["document"]["sheets"][0]["id"]
    made = act(client, made, act="state_notes", sheet=sheet, text="Deburr.\nPaint: grey.")
    said = {"edit": made["edit"], "letter": "A", "date": "2026-12-02", "words": "First"}
    made = client.post(f"/api/drawings/{number}/issues", json=said).get_json()
    block = next(a for a in made["document"]["sheets"][0]["annotations"] if a["kind"] == "notes_block")
    made = act(client, made, act="change_notes", id=block["id"], text="Deburr.\nPaint: green.\nMark the number.")
    url = f"/api/drawings/{number}/comparison"
    found = client.get(f"{url}?before=issue-A&after=now").get_json()
    told = {(c["kind"], c["words"]) for c in found["changes"]}
    assert (found["before"], found["after"]) == ("issue A", "as it stands")
    assert ("changed", "Note 2: Paint: grey. → Paint: green.") in told and (
        "come",
        "Note 3 is new: Mark the number.",
    ) in told
    assert ("changed", "Rev: A → B") in told, told
    assert [s["name"] for s in found["sheets"]] == ["Sheet 1"]
    history = client.get(f"/api/drawings/{number}/history").get_json()
    assert client.get(f"{url}?before=step-0&after=step-0").get_json()["changes"] == []
    last = history[-1]["position"]
    assert client.get(f"{url}?before=step-{last}&after=now").get_json()["changes"] == []
    for kind, head in (("pdf", b"%PDF"), ("svg", b"<"), ("png", b"\x89PNG")):
        assert client.get(f"{url}/{kind}?before=issue-A&after=now").data.startswith(head)
    dxf = ezdxf.read(io.StringIO(client.get(f"{url}/dxf?before=issue-A&after=now").data.decode()))
    assert not dxf.audit().errors and any(dxf.entitydb)
    for wrong, status in (("step-999", 404), ("issue-Q", 404), ("step-x", 400), ("", 400), ("now-", 400)):
        assert client.get(f"{url}?before={wrong}&after=now").status_code == status, wrong
    assert client.get(f"{url}/gif?before=now&after=now").status_code == 400
    assert client.get(f"{url}/pdf?before=now&after=now&sheet=nope").status_code == 404


@pytest.mark.parametrize("form", ["triangle", "cloud"])
def test_what_changed_is_marked_with_the_letter_clear_of_lettering_and_goes_with_its_view(pedestal_sized, form) -> None:
    drawn, drawing, sizes = pedestal_sized
    front = drawing.front_sheet.views[0]
    after = apply(
        drawing, ChangeAnnotation(id=sizes["140"], changes={"tolerance": {"kind": "symmetric", "upper": 0.2}})
    )
    changes, _ = compared(state(drawn, drawing), state(drawn, after))
    (box,) = [c.box for c in changes if c.of == "annotation"]
    place = ChangedPlace(sheet=after.front_sheet.id, x=box.x0, y=box.y0, width=box.width, height=box.height)
    text = next(
        m for e in drawn.ink(after).elements if e.id == sizes["140"] for m in e.on_sheet() if isinstance(m, Text)
    )
    assert (box.x0, box.y1) == pytest.approx((text.corners()[:, 0].min(), text.corners()[:, 1].max())), (
        "about its lettering"
    )
    marked = done(drawn.projections, after, MarkChanges(letter="C", form=form, places=[place, place]))
    (mark,) = [a for a in marked.front_sheet.annotations if a.kind == "revision_mark"]
    ink = drawn.ink(marked)
    drawn_mark = [m for m in ink.of(mark.id).on_sheet()]
    letters = [m for m in drawn_mark if isinstance(m, Text)]
    assert [m.text for m in letters] == ["C"]
    others = [
        shapely.Polygon(m.corners())
        for e in ink.elements
        if e.id != mark.id
        for m in e.on_sheet()
        if isinstance(m, Text)
    ]
    triangle = shapely.Polygon(drawn_mark[0].curve.poles)
    # equilateral, about its letter
    sides = [np.linalg.norm(p - q) for p, q in zip(drawn_mark[0].curve.poles, drawn_mark[0].curve.poles[1:])]
    assert sides == pytest.approx([sides[0]] * 3) and triangle.contains(
        shapely.Polygon(letters[0].corners()).buffer(-0.3)
    )
    assert not any(triangle.intersects(o) for o in others)
    if form == "cloud":
        bows = [m.curve.poles for m in drawn_mark if isinstance(m, Stroke)][1:]
        hull = shapely.MultiPoint(np.vstack(bows)).convex_hull
        assert hull.contains(shapely.box(box.x0, box.y0, box.x1, box.y1))
        assert all(np.allclose(a[-1], b[0]) for a, b in zip(bows, bows[1:])), "one bump goes on where the last ended"
    # it goes with its view; marks are not marked, and give way to those of the next revision
    view = marked.view(mark.on)
    moved = apply(marked, MoveView(view=view.id, to=(view.place[0] + 7.0, view.place[1])))
    assert drawn.ink(moved).of(mark.id).at[0] == pytest.approx(ink.of(mark.id).at[0] + 7.0)
    assert not [c for c in compared(state(drawn, after), state(drawn, marked))[0] if c.of != "setting"]
    again = done(drawn.projections, marked, MarkChanges(letter="D", places=[place]))
    assert [a.letter for a in again.front_sheet.annotations if a.kind == "revision_mark"] == ["D"]
    bare = done(drawn.projections, again, RemoveMarks())
    assert bare.front_sheet.annotations == after.front_sheet.annotations and front.id
    with pytest.raises(UserError, match="no such marks"):
        done(drawn.projections, bare, RemoveMarks(letter="C"))
