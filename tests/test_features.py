"""Features of parts made by code, as they are recognised, told and counted."""

from __future__ import annotations

import json
import math

import pytest

from barequill.core.drawing import Dimension, apply
from barequill.core.drawing.operations import Annotate
from barequill.core.features.feature import Feature
from barequill.core.features.holes import holes_of
from barequill.core.features.listing import alike_of, feature_at, features_of
from barequill.core.measuring.inventory import inventory
from barequill.core.reading import shapes
from tools.common import demo_file
from tools.made_parts import bodies
from tools.sheets import DrawnPart

from .commanding import run


def found(part, kind: str) -> list[Feature]:
    return [f for f in features_of(part) if f.kind == kind]


def figures(part, kind: str) -> list[dict[str, float]]:
    return sorted(({k: round(v, 6) for k, v in f.figures} for f in found(part, kind)), key=str)


def bracket():
    """A plate with a rib in its corner, a boss, rounded and chamfered edges, a fillet, a channel and holes."""
    solid = shapes.fuse(
        shapes.box((0, 0, 0), (120, 80, 12)),
        shapes.box((0, 0, 12), (12, 80, 50)),
        shapes.prism([(12, 36, 12), (42, 36, 12), (12, 36, 52)], (0, 8, 0)),
        shapes.cylinder((90, 40, 12), (0, 0, 1), 15, 10),
    )
    solid = shapes.rounded(solid, 10, [(120, 0, 6), (120, 80, 6)])
    solid = shapes.chamfered(solid, 4, [(0, 40, 62)])
    solid = shapes.rounded(solid, 3, [(12, 18, 12)])
    return bodies(
        shapes.cut(
            solid,
            shapes.cylinder((90, 40, -1), (0, 0, 1), 6, 40),
            *(shapes.cylinder((x, y, -1), (0, 0, 1), 3, 20) for x in (60, 75) for y in (12, 68)),
            shapes.box((55, -1, -1), (8, 82, 5)),
        )
    )


def test_a_bracket_is_told_by_its_features() -> None:
    part = bracket()
    assert figures(part, "boss") == [{"diameter": 30.0, "height": 10.0}]
    assert figures(part, "rib") == [{"thickness": 8.0, "height": 30.0, "length": 40.0}]
    assert figures(part, "round") == [{"radius": 10.0}, {"radius": 10.0}]
    assert figures(part, "chamfer") == [{"length": 4.0, "other": 4.0, "angle": 45.0}]
    assert {f["radius"] for f in figures(part, "fillet")} == {3.0}
    assert figures(part, "channel") == [{"width": 8.0, "depth": 4.0, "length": 80.0}]
    four = next(a for a in alike_of(part) if a.pattern is not None)
    assert (four.pattern.kind, four.pattern.counts) == ("grid", (2, 2))
    assert sorted(four.pattern.pitches) == pytest.approx([15.0, 56.0])
    # what is pointed at is the feature of the face
    rib = found(part, "rib")[0]
    assert feature_at(part, rib.faces[0]) is rib


def test_a_shaft_is_told_by_its_steps_grooves_and_keyways() -> None:
    # a collar, a groove for a ring, a chamfered end; a keyway with round ends, one that runs out
    profile = [
        (0, 0),
        (0, 14),
        (2, 16),
        (40, 16),
        (40, 13),
        (43, 13),
        (43, 16),
        (60, 16),
        (60, 25),
        (68, 25),
        (68, 20),
        (120, 20),
        (120, 0),
    ]
    shaft = shapes.turned(profile)
    round_ends = [shapes.cylinder((x, 0, 11), (0, 0, 1), 4, 12) for x in (12, 30)]
    shaft = shapes.cut(
        shaft, *round_ends, shapes.box((12, -4, 11), (18, 8, 12)), shapes.box((90, -5, 14), (60, 10, 10))
    )
    part = bodies(shaft)
    assert figures(part, "groove") == [{"diameter": 26.0, "width": 3.0}]
    assert {(f["diameter"], f["length"]) for f in figures(part, "step")} == {
        (32.0, 38.0),
        (32.0, 17.0),
        (50.0, 8.0),
        (40.0, 52.0),
    }
    ways = {"round ends" in f.more: dict(f.figures) for f in found(part, "keyway")}
    assert (ways[True]["width"], ways[True]["length"], ways[True]["depth"]) == pytest.approx((8.0, 26.0, 5.0))
    assert (ways[False]["width"], ways[False]["depth"]) == pytest.approx((10.0, 6.0))
    assert [(f["length"], f["angle"]) for f in figures(part, "chamfer")] == [(2.0, 45.0)]


def test_holes_end_as_they_were_made() -> None:
    # a ball-nosed, a flat and a rounded bottom; one that opens into a cross bore; a round recess within a bore
    block = shapes.box((0, 0, 0), (140, 40, 40))
    tools = [
        shapes.cylinder((15, 20, 20), (0, 0, 1), 5, 30),
        shapes.cylinder((40, 20, 10), (0, 0, 1), 8, 40),
        shapes.cylinder((70, 20, 20), (0, 0, 1), 4, 30),
        shapes.cylinder((70, -1, 20), (0, 1, 0), 6, 50),
        shapes.cylinder((110, 20, -1), (0, 0, 1), 7, 50),
        shapes.cylinder((110, 20, 15), (0, 0, 1), 9, 4),
        shapes.ball((15, 20, 20), 5),
    ]
    part = bodies(shapes.cut(block, *tools))
    by_place = {round(float(h.mouth[0])): h for h in holes_of(part) if abs(h.out[2]) > 0.9}
    assert not by_place[15].through and by_place[15].depth == pytest.approx(20.0)
    assert by_place[40].depth == pytest.approx(30.0)
    assert by_place[70].through, "it opens into the cross bore"
    assert by_place[110].through
    assert figures(part, "recess") == [{"diameter": 18.0, "width": 4.0}]


def test_holes_on_a_pitch_circle(tmp_path) -> None:
    rim = [(50 * math.cos(a), 50 * math.sin(a)) for a in (math.radians(d) for d in (0, 60, 120, 180, 240, 300))]
    disc = shapes.cut(
        shapes.cylinder((0, 0, 0), (0, 0, 1), 65, 10),
        shapes.cylinder((0, 0, -1), (0, 0, 1), 20, 20),
        *(shapes.cylinder((x, y, -1), (0, 0, 1), 4, 20) for x, y in rim),
        *(shapes.cylinder((x, 30, -1), (0, 0, 1), 2, 20) for x in (-6, 0, 6)),
    )
    part = bodies(disc)
    patterns = {a.pattern.kind: a.pattern for a in alike_of(part) if a.pattern is not None}
    assert (patterns["circle"].diameter, patterns["circle"].even) == (pytest.approx(100.0), True)
    assert patterns["row"].pitches == pytest.approx((6.0,))


def test_the_command_line_tells_the_features() -> None:
    ran = run("features", str(demo_file("round-gear-cover")), "--json")
    assert ran.returncode == 0
    (six,) = [f for f in json.loads(ran.stdout)["features"] if f["count"] == 6]
    assert (six["kind"], six["figures"]["diameter"]) == ("hole", 6.6)
    assert six["pattern"] == {"kind": "circle", "diameter": 100.0, "even": True}
    assert len({m["faces"][0] for m in six["members"]}) == 6


def test_the_inventory_tells_what_has_no_size_yet() -> None:
    acting = DrawnPart("angled-keeper", views=["front", "top"])
    before = inventory(acting.part, acting.drawing)
    assert sum(s.count for s in before) == 5 and not any(s.sized for s in before)
    holes = next(s for s in before if s.words.startswith("hole"))
    size = Dimension.model_validate(
        {"id": "d1", "on": "e2", "measure": "diameter", "anchors": [{"ref": holes.refs[0], "at": "round"}]}
    )
    after = inventory(acting.part, apply(acting.drawing, Annotate(sheet="e1", annotations=[size])))
    assert [s.words for s in after if s.sized] == [holes.words]
