"""A drawing that takes up another revision of its part: sizes, marks, cuts and close-ups go along; figures by hand."""

from __future__ import annotations

import io
import json
import math
import re
import time
from dataclasses import replace

import numpy as np
import pytest

from barequill.core.acts import ActContext as Tools
from barequill.core.acts import NewDrawing, PickJson, PullDimension, new_drawing
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.items import ListParts
from barequill.core.acts.seat_anew import SeatAnew, adrift
from barequill.core.acts.state_table import StateListTable
from barequill.core.acts.take_revision import TakeRevision
from barequill.core.arranging.remarks import remarks_on
from barequill.core.display import Text
from barequill.core.drawing import Drawing, apply
from barequill.core.drawing.operations import ChangeAnnotation
from barequill.core.drawing.operations.revisions import renamed, strings
from barequill.core.errors import BadOperation, UserError
from barequill.core.measuring.measuring import measure
from barequill.core.part.matching import matched
from barequill.core.reading import shapes
from barequill.core.sheet.elements import solved
from barequill.core.sheet.stages import draw_sheet
from barequill.core.views.cutting_lines import run_of
from barequill.core.views.placed_view import ProjectionCache
from tools.common import DEMO_PARTS, demo_file
from tools.made_parts import bodies
from tools.revisions import BASES, built
from tools.sheets import done, id_of

from .commanding import run
from .shared import act, bring


class Shelf:
    """A studio with several parts, and a drawing of the first."""

    def __init__(self, *solids, **wish) -> None:
        own = [replace(bodies(s), key=f"{k + 1:032x}") for k, s in enumerate(solids)]
        self.parts = {p.key: p for p in own}
        self.keys = list(self.parts)
        self.projections = ProjectionCache(self.parts.__getitem__)
        self.drawing = new_drawing(self.projections, NewDrawing(part=self.keys[0], **wish))

    def placed_view(self, look: str, drawing: Drawing):
        return self.projections.placed_views(drawing, drawing.front_sheet)[id_of(drawing, look)]

    def ref(self, kind: str, place, part: int = 0) -> str:
        """The edge of a kind (line, round) whose middle, or centre, is nearest to a place."""
        edges = [e for e in self.parts[self.keys[part]].edges if e.curve.is_circle == (kind == "round")]
        middle = (lambda e: e.curve.origin) if kind == "round" else lambda e: e.points.mean(axis=0)
        return min(edges, key=lambda e: float(np.linalg.norm(middle(e) - np.array(place)))).ref

    def pull(self, look: str, *picks: tuple[str, str]) -> None:
        placed_view = self.placed_view(look, self.drawing)
        x, y = placed_view.transform.place
        own = [PickJson(ref=r, at=a, x=x, y=y) for r, a in picks]
        pointer = (placed_view.box.x0 + 20, placed_view.box.y1 + 25)
        self.drawing = done(
            self.projections, self.drawing, PullDimension(view=placed_view.view.id, picks=own, pointer=pointer, wish="")
        )

    def taken(self) -> Drawing:
        return done(self.projections, self.drawing, TakeRevision(part=self.keys[0], by=self.keys[1]))

    def values(self, drawing: Drawing) -> list[float]:
        placed_views = self.projections.placed_views(drawing, drawing.front_sheet)
        sizes = [a for a in drawing.front_sheet.annotations if a.kind == "dimension"]
        return [measure(placed_views[a.on].projected, a).value for a in sizes]


def plate(long: float, radius: float, high: float = 10.0):
    block = shapes.box((0, 0, 0), (long, 40, high))
    return shapes.cut(
        block,
        shapes.cylinder((20, 20, -1), (0, 0, 1), radius, high + 2),
        shapes.cylinder((45, 12, -1), (0, 0, 1), 3, high + 2),
    )


def test_sizes_marks_and_a_section_follow_a_plate_that_grew_at_one_end() -> None:
    shelf = Shelf(plate(60, 8), plate(84, 10), size="A2", scale=1.0, views=["front", "top"])
    front, hole = shelf.ref("line", (30, 0, 10)), shelf.ref("round", (20, 20, 10))
    shelf.pull("top", (front, ""))
    shelf.pull("top", (hole, ""))
    shelf.pull("top", (shelf.ref("line", (0, 20, 10)), ""), (hole, "centre"))
    # cut by a line through nothing but a place of the part: 45 from its left
    top = shelf.placed_view("top", shelf.drawing)
    x = top.transform.place[0] + (45 - 30)
    points = [CutPoint(x=x, y=top.box.y0 - 5), CutPoint(x=x, y=top.box.y1 + 5)]
    cut = CutView(view=top.view.id, points=points, to=(top.box.x1 + 60, top.transform.place[1]))
    shelf.drawing = done(shelf.projections, shelf.drawing, cut)
    assert shelf.values(shelf.drawing) == pytest.approx([60.0, 16.0, 20.0])
    after = shelf.taken()
    assert shelf.values(after) == pytest.approx([84.0, 20.0, 20.0])
    section = next(v for v in after.front_sheet.views if v.kind == "section")
    run = run_of(section.line, shelf.placed_view("top", after).projected.frame, shelf.parts[shelf.keys[1]])
    # from the middle of the new part, at 42, to the same 45
    assert run.points[:, 0] == pytest.approx([3.0, 3.0], abs=1e-6)
    ink = draw_sheet(after, after.front_sheet, shelf.projections)
    assert not [e.words for e in ink.elements if "?" in e.words]
    assert {v.part for v in after.front_sheet.views} == {p.key for p in after.parts} == {shelf.keys[1]}
    assert len(after.front_sheet.annotations) == len(shelf.drawing.front_sheet.annotations)


def test_several_changes_at_once_are_followed() -> None:
    """An angled keeper: longer, thicker, one hole wider and the other moved along with the end."""

    def keeper(long: float, radius: float, high: float):
        block = shapes.fuse(shapes.box((0, 0, 0), (long, 40, high)), shapes.box((0, 0, high), (12, 40, 25)))
        bores = [((30, 20, -1), radius), ((long - 12, 20, -1), 4)]
        tools = [shapes.cylinder(foot, (0, 0, 1), r, high + 2) for foot, r in bores]
        return shapes.cut(block, *tools, shapes.cylinder((-1, 20, high + 12), (1, 0, 0), 5, 20))

    shelf = Shelf(keeper(80, 8, 10), keeper(104, 10, 12), size="A2", views=["front", "top", "left"])
    left, right = shelf.ref("line", (0, 0, 5)), shelf.ref("line", (80, 0, 5))
    shelf.pull("front", (left, ""), (right, ""))
    shelf.pull("front", (shelf.ref("line", (40, 0, 0)), ""), (shelf.ref("line", (46, 0, 10)), ""))
    shelf.pull("top", (shelf.ref("round", (30, 20, 10)), ""))
    shelf.pull("top", (shelf.ref("round", (30, 20, 10)), "centre"), (shelf.ref("round", (68, 20, 10)), "centre"))
    assert shelf.values(shelf.drawing) == pytest.approx([80.0, 10.0, 16.0, 38.0])
    assert shelf.values(shelf.taken()) == pytest.approx([104.0, 12.0, 20.0, 62.0])


def test_what_is_gone_is_loose_and_all_else_follows() -> None:
    """The second hole is filled: its size is kept, and says that it hangs on nothing."""
    shelf = Shelf(plate(60, 8), shapes.cut(shapes.box((0, 0, 0), (60, 40, 10)), shapes.cylinder((20, 20, -1), (0, 0, 1), 8, 12)), views=["front", "top"])  # fmt: skip
    shelf.pull("top", (shelf.ref("round", (20, 20, 10)), ""))
    shelf.pull("top", (shelf.ref("round", (45, 12, 10)), ""))
    after = shelf.taken()
    ink = draw_sheet(after, after.front_sheet, shelf.projections)
    sizes = [e for e in ink.elements if e.kind == "dimension"]
    assert [e.words for e in sizes] == ["Ø16", "loose Ø6"]
    remarks = remarks_on(ink, shelf.projections.placed_views(after, after.front_sheet))
    assert [r.words for r in remarks if r.on == sizes[1].id] == ["The size Ø6 is loose: what it hung on is gone"]
    words = TakeRevision(part=shelf.keys[0], by=shelf.keys[1]).preview(shelf.drawing, Tools(shelf.projections)).words
    assert "gone" in words
    with pytest.raises(BadOperation, match="shows it already"):
        TakeRevision(part=shelf.keys[0], by=shelf.keys[0]).plan(shelf.drawing, Tools(shelf.projections))


@pytest.mark.parametrize("base", BASES)
def test_there_and_back_again_is_the_same_drawing(base: str) -> None:
    """From one length to another and back: the document is what it was, but for figures that were rounded."""
    shelf = Shelf(built(base), built(base, length=110.0), views=["front", "top", "left"], centres=True)
    there = shelf.taken()
    back = done(shelf.projections, there, TakeRevision(part=shelf.keys[1], by=shelf.keys[0]))
    assert _rounded(json.loads(back.model_dump_json())) == _rounded(json.loads(shelf.drawing.model_dump_json()))
    assert apply(shelf.drawing, TakeRevision(part=shelf.keys[0], by=shelf.keys[1]).plan(shelf.drawing, Tools(shelf.projections))) == there  # fmt: skip


def test_a_part_that_a_drawing_can_go_back_to_is_not_removed(app) -> None:
    """It shows another revision of it now; what is unlike takes nothing along, and that is told before."""
    client = app.test_client()
    # files of its own: other tests draw the parts as they are
    files = [(f"{s}.step", demo_file(s).read_bytes() + b"\n") for s in ("angled-keeper", "pawl")]
    one, two = (bring(client, *file)["part"] for file in files)
    state = client.post("/api/drawings", json={"part": one, "views": ["front", "top"]}).get_json()
    wish = {"act": "take_revision", "part": one, "by": two}
    words = client.post(f"/api/drawings/{state['id']}/preview", json={"act": wish}).get_json()["words"]
    assert re.fullmatch(r"Of \d+ edges and faces that the drawing hangs on, \d+ are there.*; \d+ are gone", words)
    state = act(client, state, **wish)
    assert {v["part"] for v in state["document"]["sheets"][0]["views"]} == {two}
    refused = client.delete(f"/api/parts/{one}")
    assert refused.status_code == 400 and "can go back to that" in refused.get_json()["detail"]
    client.delete(f"/api/drawings/{state['id']}")
    client.delete(f"/api/drawings/{state['id']}?for_good=1")
    assert client.delete(f"/api/parts/{one}").status_code < 300
    unknown = {"act": "take_revision", "part": two, "by": "nowhere"}
    state = client.post("/api/drawings", json={"part": two, "views": ["front"]}).get_json()
    told = client.post(f"/api/drawings/{state['id']}/preview", json={"act": unknown})
    assert told.status_code in (404, 400) and told.get_json()["title"]
    client.delete(f"/api/drawings/{state['id']}")
    client.delete(f"/api/drawings/{state['id']}?for_good=1")


def _rounded(value):
    if isinstance(value, float):
        return round(value, 6) + 0.0
    if isinstance(value, dict):
        return {k: _rounded(v) for k, v in value.items()}
    return [_rounded(v) for v in value] if isinstance(value, list) else value


def test_a_table_of_holes_its_letters_and_the_items_follow() -> None:
    shelf = Shelf(plate(60, 8), plate(84, 10), size="A2", scale=1.0, views=["front", "top"])
    top = shelf.placed_view("top", shelf.drawing).view.id
    corner = PickJson(ref=shelf.ref("line", (0, 20, 10)), at="start", x=0, y=0)
    act = StateListTable(sheet="e1", follows="holes", view=top, origin=corner)
    shelf.drawing = done(shelf.projections, shelf.drawing, act)
    shelf.drawing = done(shelf.projections, shelf.drawing, ListParts(sheet="e1"))

    def told(drawing: Drawing) -> tuple[list[str], list[str]]:
        ink = draw_sheet(drawing, drawing.front_sheet, shelf.projections)
        table = next(a for a in drawing.front_sheet.annotations if getattr(a, "follows", "") == "holes")
        letters = [a for a in drawing.front_sheet.annotations if a.kind == "hole_letter"]
        words = [m.text for m in ink.of(table.id).marks if isinstance(m, Text)]
        return words[5:], sorted(m.text for a in letters for m in ink.of(a.id).marks if isinstance(m, Text))

    cells, names = told(shelf.drawing)
    assert cells[3::4] == ["Ø16", "Ø6"] and names == ["A1", "B1"]
    after = shelf.taken()
    cells, names = told(after)
    assert cells[3::4] == ["Ø20", "Ø6"] and names == ["A1", "B1"]
    assert {i.part for i in after.items} == {shelf.keys[1]}


# ---- the shelf


LATER = DEMO_PARTS / "later" / "spindle-pedestal-b.step"


def bring_next(client, former: str, data: bytes = b"") -> str:
    sent = {"file": (io.BytesIO(data or LATER.read_bytes()), LATER.name)}
    job = client.post(f"/api/parts?former={former}", data=sent).get_json()
    for _ in range(600):
        job = client.get(f"/api/jobs/{job['id']}").get_json()
        if job["state"] != "working":
            break
        time.sleep(0.05)
    assert job["state"] == "done", job
    return job["part"]


def test_a_newer_file_is_told_from_the_one_before_and_offered_to_drawings(app) -> None:
    """The pedestal longer by 16, its four bolt holes 8 farther out each way, its bore 5 wider, with a drain hole of 6."""
    client = app.test_client()
    # files of its own: other tests bring them as they are
    one = bring(client, "spindle-pedestal.step", demo_file("spindle-pedestal").read_bytes() + b"\n")["part"]
    client.patch(f"/api/parts/{one}", json={"material": "Steel C45"})
    state = client.post("/api/drawings", json={"part": one, "views": ["front", "top"]}).get_json()
    assert state["newer"] == []
    two = bring_next(client, one, LATER.read_bytes() + b"\n")
    info = client.get(f"/api/parts/{two}").get_json()
    assert info["former"] == one and info["material"] == "Steel C45" and info["newest"] == "", "carried over"
    assert client.get(f"/api/parts/{one}").get_json()["newest"] == two
    told = client.get(f"/api/parts/{two}/changes?since={one}").get_json()
    assert {(c["change"], c["words"], len(c["after"] or c["before"])) for c in told["changes"]} == {
        ("resized", "cylinder Ø40 → Ø45", 1),
        ("moved", "cylinder Ø24 by 8 mm", 4),
        ("moved", "cylinder Ø11 by 8 mm", 4),
        ("moved", "plane face by 8 mm", 2),
        ("new", "cylinder Ø6", 1),
    }
    # foot 16·80·16; less a ring of the bore over 40, and the drain through 16
    by = 16 * 80 * 16 - math.pi * (22.5**2 - 20**2) * 40 - math.pi * 9 * 16
    # the oil hole from 90 up to the round top ends in the bore: what of it the wider bore takes was gone already
    assert told["volume"][1] - told["volume"][0] == pytest.approx(by, abs=math.pi * 16 * 2.6)
    shown = client.get(f"/api/drawings/{state['id']}").get_json()
    assert [(n["part"], n["by"]) for n in shown["newer"]] == [(one, two)]
    assert next(d for d in client.get("/api/drawings").get_json() if d["id"] == state["id"])["newer"]
    wish = {"act": "take_revision", "part": one, "by": two, "sheet": "e1"}
    seen = client.post(f"/api/drawings/{state['id']}/preview", json={"act": wish}).get_json()
    assert seen["elements"] and any(line.startswith("new: centre mark") for line in seen["changes"])
    state = act(client, state, **wish)
    assert state["newer"] == [] and state["document"]["parts"][0]["key"] == two
    back = client.post(f"/api/drawings/{state['id']}/undo", json={"edit": state["edit"]}).get_json()
    assert back["document"] == shown["document"] | {"last_id": back["document"]["last_id"]}, "all of it in one undo"
    client.patch(f"/api/parts/{two}", json={"former": ""})


def test_what_cannot_come_before_a_part_is_refused_and_one_that_goes_leaves_no_gap(app) -> None:
    client = app.test_client()
    one = bring(client, "angled-keeper.step", demo_file("angled-keeper").read_bytes())["part"]
    two, three = (bring(client, f"{s}.step", demo_file(s).read_bytes())["part"] for s in ("pawl", "catch-box"))

    def former(key: str, before: str):
        return client.patch(f"/api/parts/{key}", json={"former": before})

    assert former(two, one).status_code == former(three, two).status_code == 200
    assert client.get(f"/api/parts/{one}").get_json()["newest"] == three
    for key, before in ((one, three), (one, one), (two, "0" * 24)):
        refused = former(key, before)
        assert refused.status_code in (400, 404, 422) and refused.get_json()["detail"], (key, before)
    assert client.post("/api/parts?former=nothing", data={"file": (io.BytesIO(b"x"), "x.step")}).status_code == 404
    used = {k: client.get(f"/api/parts/{k}").get_json()["drawings"] for k in (one, two, three)}
    if not used[two]:
        assert client.delete(f"/api/parts/{two}").status_code == 200
        assert client.get(f"/api/parts/{three}").get_json()["former"] == one
    for key in (two, three):
        former(key, "")


def test_what_is_loose_stands_where_it_was_and_is_seated_anew_on_a_likely_place_or_another() -> None:
    """A ring of six holes turned by 0.5 rad: of each hole the two nearest ends of arcs of 0.5 and π/3 − 0.5 are named first."""

    def flange(turn: float):
        places = [
            (50 + 22 * math.cos(turn + k * math.pi / 3), 30 + 22 * math.sin(turn + k * math.pi / 3)) for k in range(6)
        ]
        block = shapes.cut(shapes.box((0, 0, 0), (100, 60, 10)), shapes.cylinder((50, 30, -1), (0, 0, 1), 10, 12))
        return shapes.cut(block, *(shapes.cylinder((x, y, -1), (0, 0, 1), 4, 12) for x, y in places))

    shelf = Shelf(flange(0.0), flange(0.5), views=["front", "top"], centres=True)
    bolt, bore = shelf.ref("round", (72, 30, 10)), shelf.ref("round", (50, 30, 10))
    shelf.pull("top", (bolt, "centre"), (bore, "centre"))
    before = shelf.drawing.front_sheet.annotations[-1]
    shelf.drawing = apply(
        shelf.drawing, ChangeAnnotation(id=before.id, changes={"tolerance": {"kind": "symmetric", "upper": 0.1}})
    )
    tools, placed = Tools(shelf.projections), solved(shelf.drawing, shelf.drawing.front_sheet, shelf.projections)
    now = shelf.taken()
    found = {a.id: a for a in adrift(now, tools)}
    marks = [a.id for a in now.front_sheet.annotations if a.kind == "centre_mark"]
    assert len(found) == 11 and len([m for m in marks if m in found]) == 6, "four lines, six marks, one size"
    own = found[before.id]
    assert own.words == placed[before.id][0].words == "22 ±0.1" and own.gone == (bolt,)
    drawn = solved(now, now.front_sheet, shelf.projections)[before.id][0]
    assert drawn.loose and drawn.foot == pytest.approx(placed[before.id][0].run.foot, abs=0.01)

    def step(seat) -> float:
        part = shelf.parts[shelf.keys[1]]
        centre = part.edges[part.index[seat.refs[bolt]][1]].curve.origin
        return math.dist(centre[:2], (72, 30))

    # chords of a circle of 22
    assert [step(s) for s in own.seats[:2]] == pytest.approx([44 * math.sin(t / 2) for t in (0.5, math.pi / 3 - 0.5)])
    seated = done(shelf.projections, now, SeatAnew(id=own.id, refs=own.seats[0].refs))
    anew = seated.front_sheet.annotation(own.id)
    assert anew.was is None and anew.tolerance == shelf.drawing.front_sheet.annotation(own.id).tolerance
    again = solved(seated, seated.front_sheet, shelf.projections)[own.id][0]
    assert not again.loose and again.words == "22 ±0.1", "as far from the middle of the ring"
    assert bolt not in {r for a in adrift(seated, tools) for r in a.gone}, "its mark hung on the same"
    # the wall of a hole is meant where its rim is pointed at, and the other way round
    line = next(a for a in found.values() if a.words != own.words and a.id not in marks)
    rims = [e for e in shelf.parts[shelf.keys[1]].edges if e.curve.full_turn and e.curve.radius == 4]
    walls = done(
        shelf.projections, now, SeatAnew(id=line.id, refs={r: e.ref for r, e in zip(line.gone, rims, strict=False)})
    )
    assert all(r.startswith("F") for r in walls.front_sheet.annotation(line.id).refs)
    for refs, why in (
        ({"E0": bore}, "not loose"),
        ({bolt: "E0000000000"}, "not there"),
        ({bolt: bore}, "cannot hang there"),
    ):
        with pytest.raises(UserError, match=why):
            done(shelf.projections, now, SeatAnew(id=own.id, refs=refs))


def test_what_an_annotation_was_keeps_the_names_of_the_revision_in_which_it_was_whole() -> None:
    """Also where another entity is called so by now, and is renamed."""
    was = {"part": "a", "refs": {"E1.gone": "E1"}}
    held = {"ref": "E1.gone", "refs": ["E1", "E2"], "was": was}
    assert renamed(held, {"E1": "E7"}) == {"ref": "E1.gone", "refs": ["E7", "E2"], "was": was}
    assert list(strings(held)) == ["E1.gone", "E1", "E2"]


def test_a_folder_is_watched_for_newer_files(tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("BAREQUILL_HOME", str(tmp_path / "home"))
    folder = tmp_path / "out"
    folder.mkdir()
    assert run("watch", str(tmp_path / "nowhere"), "--once").returncode == 2
    (folder / "pedestal.step").write_bytes(demo_file("spindle-pedestal").read_bytes())
    assert run("watch", str(folder), "--once").stdout == "pedestal.step: on the shelf as Spindle pedestal\n"
    (folder / "pedestal-b.step").write_bytes(LATER.read_bytes())
    (folder / "spoilt.step").write_bytes(b"nothing")
    (folder / "notes.txt").write_text("not a part")
    told = run("watch", str(folder), "--once").stdout.splitlines()
    assert told[0] == "pedestal-b.step: a newer revision of WL-201 (pedestal.step)"
    assert len(told) == 2 and told[1].startswith("spoilt.step: spoilt.step")


def test_a_pattern_that_was_moved_as_a_whole_follows_and_one_that_was_rearranged_waits() -> None:
    """Four holes wider apart, and on a ring; of a ring turned by 30° nobody can say which hole is which."""

    def drilled(places, long: float = 100.0):
        block = shapes.box((0, 0, 0), (long, 60, 10))
        return bodies(shapes.cut(block, *(shapes.cylinder((x, y, -1), (0, 0, 1), 3, 12) for x, y in places)))

    def of(part) -> list[str]:
        return [f.ref for f in part.faces if f.surface.kind == "cylinder"]

    def ring(radius: float, turn: float):
        return [
            (50 + radius * math.cos(turn + k * math.pi / 3), 30 + radius * math.sin(turn + k * math.pi / 3))
            for k in range(6)
        ]

    grid = [(x, y) for x in (20, 60) for y in (15, 45)]
    wider = [(x, y) for x in (20, 72) for y in (15, 45)]
    for one, two, certain in (
        (grid, wider, True),
        (ring(15, 0.1), ring(20, 0.1), True),
        (ring(15, 0), ring(15, 0.5), False),
    ):
        old, new = drilled(one), drilled(two)
        found = matched(old, new)
        known = [found.get(r) for r in of(old)]
        assert all(known) if certain else not any(known)
        if certain:
            for ref, match in zip(of(old), known, strict=True):
                a = old.faces[old.index[ref][1]].surface.origin
                b = new.faces[new.index[match.ref][1]].surface.origin
                at = min(range(len(one)), key=lambda k: math.dist(one[k], a[:2]))
                assert math.dist(two[at], b[:2]) < 1e-6
    # of a row made twice as wide two holes stand where others stood: those that are left are not tied to each other
    rows = [drilled([(x, 30) for x in range(10, 50 + 40 * k, 10 * (k + 1))]) for k in (0, 1)]
    assert len(of(rows[0])) == len(of(rows[1])) == 4
    assert sum(r in matched(*rows) for r in of(rows[0])) == 2
