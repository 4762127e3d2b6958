"""Parts as recipes: built to hand figures, refused by step, their sizes on sheets, built anew."""

from __future__ import annotations

import json
import math
import time

import numpy as np
import pytest

from barequill.core.acts.state_sizes import StateSizes
from barequill.core.drawing import Dimension
from barequill.core.errors import BadPartFile, UserError
from barequill.core.measuring.measuring import measure
from barequill.core.reading.reading import read_part
from barequill.core.recipe.figures import worked_out
from barequill.core.recipe.model import read_recipe, with_values
from tools.common import DEMO_PARTS, demo_file, part_of
from tools.sheets import DrawnPart, done

from .shared import act, bring

RECIPES = sorted(DEMO_PARTS.glob("*.recipe"))
BLOCK = {"name": "block", "do": "extrude", "by": 20, "profile": {"area": {"corner": [0, 0], "size": ["length", 30]}}}


def recipe(*steps: dict, **sizes: object) -> bytes:
    told = [{"name": n, "value": v} for n, v in {"length": 60, **sizes}.items()]
    return json.dumps({"recipe": 1, "name": "Trial", "sizes": told, "steps": [BLOCK, *steps]}).encode()


def made(tmp_path, data: bytes):
    path = tmp_path / "trial.recipe"
    path.write_bytes(data)
    return read_part(path)


@pytest.mark.parametrize("path", RECIPES, ids=lambda p: p.stem)
def test_a_demo_recipe_builds_what_its_exchange_file_holds(path) -> None:
    """Those were written by code that knows nothing of recipes."""
    built, read = part_of(path), part_of(demo_file(path.stem))
    assert built.volume == pytest.approx(read.volume, rel=2e-6) and built.area == pytest.approx(read.area, rel=2e-6)
    assert np.allclose([built.low, built.high], [read.low, read.high], atol=1e-6)
    assert np.allclose(built.centroid, read.centroid, atol=1e-4) and len(built.faces) == len(read.faces)


WHOLE = 60 * 30 * 20
PI = math.pi
STEPS = {
    "hole": (
        [
            {
                "name": "h",
                "do": "hole",
                "at": [[10, 15, 20]],
                "diameter": 8,
                "depth": 10,
                "counterbore": {"diameter": 12, "depth": 4},
            }
        ],
        -PI * 16 * 10 - PI * 16 * (4 / math.tan(math.radians(59))) / 3 - PI * (36 - 16) * 4,
    ),
    "sunk": (
        [
            {
                "name": "h",
                "do": "hole",
                "at": [[10, 15, 20], [40, 15, 20]],
                "diameter": 6,
                "countersink": {"diameter": 12},
            }
        ],
        -2 * (PI * 9 * 20 + PI * (216 - 27) / 3 - PI * 9 * 3),
    ),
    "row": (
        [
            {"name": "h", "do": "hole", "at": [[10, 15, 20]], "diameter": "length / 10", "depth": 5, "tip": 0},
            {"name": "r", "do": "pattern", "of": ["h"], "along": [20, 0, 0], "count": 3},
            {"name": "m", "do": "mirror", "of": ["h"], "plane": "xy", "origin": [0, 0, 10]},
        ],
        -4 * PI * 9 * 5,
    ),
    "ring": (
        [
            {
                "name": "s",
                "do": "extrude",
                "mode": "cut",
                "by": -4,
                "profile": {"origin": [30, 15, 20], "area": {"corner": [8, -1], "size": [3, 2]}},
            },
            {
                "name": "r",
                "do": "pattern",
                "of": ["s"],
                "about": {"at": [30, 15, 0], "along": [0, 0, 1]},
                "count": "3 * 2",
            },
        ],
        -6 * 3 * 2 * 4,
    ),
    "turned": (
        [
            {
                "name": "t",
                "do": "turn",
                "profile": {"plane": "xz", "origin": [60, 15, 10], "area": [[-1, 0], [-1, 5], [9, 5], [9, 0]]},
            }
        ],
        PI * 25 * 9,
    ),
    "swept": (
        [
            {
                "name": "s",
                "do": "sweep",
                "profile": {"plane": "yz", "origin": [60, 15, 10], "area": {"diameter": 6}},
                "path": [
                    [60, 15, 10],
                    [70, 15, 10],
                    {"through": ["70 + 10 * sin(45)", 15, "20 - 10 * cos(45)"], "to": [80, 15, 20]},
                ],
            }
        ],
        PI * 9 * (10 + PI / 2 * 10),
    ),
    "hexagon": (
        [
            {
                "name": "x",
                "do": "extrude",
                "by": 5,
                "profile": {"origin": [30, 15, 20], "area": {"sides": 6, "across": 10}},
            }
        ],
        5 * 6 * 25 * math.tan(PI / 6),
    ),
    "pocket": (
        [
            {
                "name": "p",
                "do": "extrude",
                "mode": "cut",
                "by": -10,
                "profile": {
                    "origin": [0, 0, 20],
                    "area": {"corner": [5, 5], "size": [50, 20], "round": 4},
                    "holes": [{"centre": [30, 15], "diameter": 10}],
                },
            }
        ],
        -10 * (50 * 20 - (4 - PI) * 16 - PI * 25),
    ),
    "kept": (
        [
            {
                "name": "k",
                "do": "extrude",
                "mode": "keep",
                "by": 50,
                "profile": {"area": {"centre": [30, 15], "diameter": 20}},
            }
        ],
        PI * 100 * 20 - WHOLE,
    ),
    "fillet": (
        [{"name": "f", "do": "fillet", "radius": 4, "edges": [[0, 0, 10], ["length", 30, 7]]}],
        -2 * (1 - PI / 4) * 16 * 20,
    ),
    "chamfer": ([{"name": "c", "do": "chamfer", "width": 3, "edges": [[30, 0, 20]]}], -4.5 * 60),
    "shell": ([{"name": "s", "do": "shell", "thick": 2, "open": [[30, 15, 20]]}], -56 * 26 * 18),
    "other body": (
        [
            {
                **BLOCK,
                "name": "o",
                "body": "Lid",
                "profile": {"origin": [0, 0, 20], "area": {"corner": [0, 0], "size": [10, 10]}},
            }
        ],
        2000,
    ),
    "bent": (
        [
            {
                "name": "b",
                "do": "bend",
                "body": "Sheet",
                "origin": [0, 40, 0],
                "flats": [20, 30],
                "turns": [90],
                "radius": 3,
                "thick": 2,
                "wide": 10,
            }
        ],
        10 * 2 * (20 + 30 + PI / 2 * 4),
    ),
}


@pytest.mark.parametrize("name", STEPS)
def test_a_step_adds_or_takes_what_a_hand_reckons(name: str, tmp_path) -> None:
    steps, change = STEPS[name]
    part = made(tmp_path, recipe(*steps))
    assert part.volume == pytest.approx(WHOLE + change, rel=1e-9)
    assert len(part.bodies) == (2 if name in ("other body", "bent") else 1)


ILL = {
    "no such size": (
        {"name": "f", "do": "fillet", "radius": "wide", "edges": [[0, 0, 10]]},
        "step f: There is no size named wide",
    ),
    "too round": ({"name": "f", "do": "fillet", "radius": 40, "edges": [[0, 0, 10]]}, "step f: "),
    "no edge": ({"name": "f", "do": "chamfer", "width": 1, "edges": [[5, 5, 5]]}, "step f: no edge lies at 5, 5, 5"),
    "a corner": ({"name": "f", "do": "fillet", "radius": 1, "edges": [[0, 0, 0]]}, "step f: 3 edges meet at 0, 0, 0"),
    "cut in two": (
        {
            "name": "h",
            "do": "extrude",
            "mode": "cut",
            "by": 20,
            "profile": {"area": {"corner": [20, 0], "size": [5, 30]}},
        },
        "step h: it cuts the body into 2 pieces",
    ),
    "beside": ({"name": "h", "do": "hole", "at": [[100, 0, 20]], "diameter": 5}, "step h: it takes away nothing"),
    "all of it": (
        {
            "name": "h",
            "do": "extrude",
            "mode": "cut",
            "by": 20,
            "profile": {"area": {"corner": [-1, -1], "size": [90, 90]}},
        },
        "step h: nothing is left",
    ),
    "apart": (
        {**BLOCK, "name": "o", "profile": {"origin": [90, 0, 0], "area": {"diameter": 5}}},
        "Trial is of 2 pieces",
    ),
    "crossed": (
        {**BLOCK, "name": "o", "profile": {"area": [[0, 0], [10, 10], [10, 0], [0, 10]]}},
        "step o: its outline is no area",
    ),
    "a line": (
        {**BLOCK, "name": "o", "profile": {"area": [[0, 0], {"through": [5, 0], "to": [10, 0]}]}},
        "step o: an arc of it is none",
    ),
    "nothing to repeat": (
        {"name": "p", "do": "pattern", "of": ["q"], "along": [1, 0, 0], "count": 2},
        "step p: there is no step q",
    ),
    "half a count": (
        {"name": "p", "do": "pattern", "of": ["block"], "along": [1, 0, 0], "count": "length / 7"},
        "step p: its count comes to",
    ),
    "named twice": (BLOCK, "two steps are named block"),
    "unknown": ({"name": "z", "do": "melt"}, "steps 2"),
    "misspelt": ({"name": "f", "do": "fillet", "radious": 2, "edges": [[0, 0, 10]]}, "steps 2"),
}


@pytest.mark.parametrize("name", ILL)
def test_what_cannot_be_built_is_refused_by_its_step_and_the_reason(name: str, tmp_path) -> None:
    step, words = ILL[name]
    with pytest.raises(BadPartFile) as told:
        made(tmp_path, recipe(step))
    assert words in str(told.value)


@pytest.mark.parametrize(
    "data",
    [
        b'{"recipe": 1}',
        b'{"recipe": 2, "name": "x", "steps": []}',
        b'{"recipe": 1, "name": "x", "steps": [NaN]}',
        b'{"recipe": 1, "name": "x", "steps": ' + b"[" * 100_000,
        b'{"recipe": 1, "name": "x", "sizes": [{"name": "a", "value": 1e999}], "steps": []}',
    ],
)
def test_what_is_no_sound_recipe_is_told_to_be_none(data: bytes, tmp_path) -> None:
    with pytest.raises(BadPartFile):
        made(tmp_path, data)


def test_a_figure_is_reckoned_and_nothing_in_it_is_run() -> None:
    sizes = {"a": 12.0, "b": 30.0}
    assert worked_out("(a - 2) / 4 * -b + sin(b) + max(1, 2, a)", sizes) == pytest.approx(-75 + 0.5 + 12)
    for ill in ("__import__('os')", "a.b", "9**9**9", "[a]", "a if b else 1", "c", "1/0", "sqrt(-1)", "1e999", "True",
                "(" * 150, "a=1", "lambda: 1", "tan(90) * 1e9", "max()", "sin(a, b)", "'x'"):  # fmt: skip
        with pytest.raises(UserError):
            worked_out(ill, sizes)


def test_a_size_that_the_part_does_not_have_is_refused(tmp_path) -> None:
    data = json.loads(recipe())
    data["sizes"][0]["shown"] = {"between": [[0, 0, 0], [59, 0, 0]]}
    with pytest.raises(BadPartFile, match="size length: the part does not have it"):
        made(tmp_path, json.dumps(data).encode())


def test_values_are_changed_and_all_else_of_the_file_stays() -> None:
    before = (DEMO_PARTS / "spindle-pedestal.recipe").read_bytes()
    after = with_values(before, {"bore": 45.0}, "x")
    old, new = json.loads(before), json.loads(after)
    assert next(s for s in new["sizes"] if s["name"] == "bore")["value"] == 45
    assert new["steps"] == old["steps"] and len(new["sizes"]) == len(old["sizes"])
    assert read_recipe(after, "x").values()["across"] == 108
    for ill in ({"across": 3.0}, {"no": 1.0}):
        with pytest.raises(UserError):
            with_values(before, ill, "x")


@pytest.mark.parametrize("path", RECIPES, ids=lambda p: p.stem)
def test_the_sizes_of_a_recipe_come_onto_the_sheet_once_and_say_what_it_says(path) -> None:
    drawn = DrawnPart(part_of(path))
    act = StateSizes(sheet=drawn.sheet.id)
    drawn.drawing = done(drawn.projections, drawn.drawing, act)
    stated = [a for a in drawn.sheet.annotations if isinstance(a, Dimension)]
    values = {s.name: s for s in drawn.part.sizes}
    assert {a.size for a in stated} == {s.name for s in drawn.part.sizes if s.measure}
    placed = drawn.projections.placed_views(drawn.drawing, drawn.sheet)
    for a in stated:
        assert measure(placed[a.on].projected, a).value == pytest.approx(values[a.size].value, rel=1e-6)
        assert (a.tolerance.kind == "none") == (not values[a.size].tolerance)
    with pytest.raises(UserError, match="all there"):
        done(drawn.projections, drawn.drawing, act)
    # what a hand has stated is named, and not stated twice
    bare = [a.model_copy(update={"size": ""}) for a in drawn.sheet.annotations if isinstance(a, Dimension)]
    others = [a for a in drawn.sheet.annotations if not isinstance(a, Dimension)]
    drawn.drawing = drawn.drawing.with_sheet(drawn.sheet.model_copy(update={"annotations": [*others, *bare]}))
    drawn.drawing = done(drawn.projections, drawn.drawing, act)
    again = [a for a in drawn.sheet.annotations if isinstance(a, Dimension)]
    assert len(again) == len(stated) and {a.size for a in again} == {a.size for a in stated}


def test_a_thread_of_a_recipe_is_declared_on_new_drawings(tmp_path) -> None:
    steps = [{"name": "h", "do": "hole", "at": [[10, 15, 20]], "diameter": 6.8, "thread": {"size": "M8", "length": 12}}]
    drawn = DrawnPart(made(tmp_path, recipe(*steps)))
    (thread,) = drawn.drawing.threads
    assert (thread.size, thread.diameter, thread.pitch, thread.length) == ("M8×1.25", 8, 1.25, 12)
    row = drawn.part.index[thread.ref][1]
    assert 2 * drawn.part.faces[row].surface.radius == pytest.approx(6.8)


@pytest.fixture
def client(app):
    return app.test_client()


def test_a_part_is_built_anew_offered_and_refused_with_nothing_changed(client) -> None:
    data = (DEMO_PARTS / "spindle-pedestal.recipe").read_bytes() + b"\n \n"
    key = bring(client, "anew.recipe", data)["part"]
    told = client.get(f"/api/parts/{key}").get_json()
    assert told["mass"] == pytest.approx(told["summary"]["volume"] * 7.2 / 1000, rel=0.05)
    wish = {"part": key, "size": "A3", "views": ["front"], "scale": 0.5}
    state = client.post("/api/drawings", json=wish).get_json()
    state = act(client, state, act="state_sizes", sheet=state["document"]["sheets"][0]["id"])
    own = next(a for a in state["document"]["sheets"][0]["annotations"] if a.get("size") == "bore")
    said = client.get(f"/api/drawings/{state['id']}/sizes/{own['id']}").get_json()
    assert (said["named"]["name"], said["named"]["value"], said["named"]["part"]) == ("bore", 40, key)

    def build(**values: float) -> dict:
        answer = client.post(f"/api/parts/{key}/sizes", json={"values": values})
        job = answer.get_json()
        while answer.status_code == 202 and job["state"] == "working":
            time.sleep(0.05)
            job = client.get(f"/api/jobs/{job['id']}").get_json()
        return job

    shelf = len(client.get("/api/parts").get_json())
    refused = build(length=20)
    assert refused["state"] == "failed" and "step foot" in refused["problem"]["title"]
    assert "worked out" in build(across=3)["title"] and build(bore=40)["title"] == "Nothing changes"
    assert len(client.get("/api/parts").get_json()) == shelf
    by = build(bore=46)["part"]
    assert client.get(f"/api/parts/{key}").get_json()["newest"] == by
    assert client.get(f"/api/drawings/{state['id']}").get_json()["newer"][0]["by"] == by
    state = act(client, state, act="take_revision", part=key, by=by)
    assert (
        any(e["id"] == own["id"] and "46" in e["words"] for e in state["ink"]["elements"]) if "ink" in state else True
    )
    # there and back again is a revision each time
    for bore in (40, 46):
        values = {"values": {"bore": bore}}
        job = client.post(f"/api/parts/{by}/sizes", json=values).get_json()
        while job["state"] == "working":
            time.sleep(0.05)
            job = client.get(f"/api/jobs/{job['id']}").get_json()
        assert client.get(f"/api/parts/{job['part']}").get_json()["former"] == by, job
        by = job["part"]
    other = bring(client, "pawl.step", demo_file("pawl").read_bytes())["part"]
    answer = client.post(f"/api/parts/{other}/sizes", json={"values": {"bore": 3}})
    assert answer.status_code == 400 and "no recipe" in answer.get_json()["title"]
