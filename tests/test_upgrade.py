"""Drawings that an older version has stored: they mean what they meant."""

from __future__ import annotations

import json
from pathlib import Path

import numpy as np
import pytest

from barequill.core.drawing import Drawing
from barequill.core.views.directions import cameras

OLD = json.loads((Path(__file__).parent / "data" / "drawings-version-1.json").read_text())


@pytest.mark.parametrize("old", OLD, ids=[d["parts"][0]["name"] for d in OLD[:3]] + ["odd"])
def test_each_view_looks_from_where_it_did_and_each_size_says_what_it_said(old: dict) -> None:
    new = Drawing.load(old)
    found = cameras(new)
    for before, after in zip(old["sheets"][0]["views"], new.front_sheet.views, strict=True):
        for was, now in zip((before["toward"], before["up"]), found[after.id], strict=True):
            was, now = (np.array(v) / np.linalg.norm(v) for v in (was, now))
            assert now == pytest.approx(was, abs=1e-9)
        assert (after.look, after.tied, after.caption) == (before["look"], before["tied"], before["caption"])
        assert (after.place, after.scale, after.parent) == (
            tuple(before["place"]),
            before["scale"],
            before["parent"],
        )
    for before, after in zip(old["sheets"][0]["annotations"], new.front_sheet.annotations, strict=True):
        assert (after.id, after.on) == (before["id"], before["view"])
    assert Drawing.load(new.to_json()) == new
    assert new.last_id == old["last_id"]


def test_what_stood_in_prefixes_is_meant_as_such() -> None:
    said = [
        (a.count, a.sign, a.prefix)
        for old in OLD
        for a in Drawing.load(old).front_sheet.annotations
        if a.kind == "dimension" and (a.count, a.sign, a.prefix) != (1, "auto", "")
    ]
    assert sorted(said) == [
        (1, "diameter", ""),
        (1, "square", ""),
        (2, "auto", ""),
        (3, "auto", "M6 "),
        (4, "auto", ""),
        (4, "auto", ""),
        (6, "auto", ""),
        (6, "auto", ""),
    ]


def test_views_that_followed_their_parent_do_so_and_others_keep_their_own_direction() -> None:
    odd = Drawing.load(OLD[3])
    assert [v.kind for v in odd.front_sheet.views] == ["principal", "projected", "principal", "free", "principal"]


def test_a_document_of_a_newer_version_is_refused() -> None:
    with pytest.raises(ValueError, match="newer"):
        Drawing.load({**OLD[0], "version": 99})


def test_what_version_2_stored_is_what_version_1_became() -> None:
    stored = json.loads((Path(__file__).parent / "data" / "drawings-version-2.json").read_text())
    assert {d["version"] for d in stored} == {2}
    assert [Drawing.load(d) for d in stored] == [Drawing.load(d) for d in OLD]


def says(now: object, before: object) -> bool:
    """True where all that was said before is said now, whatever else is."""
    if isinstance(before, dict):
        return isinstance(now, dict) and all(says(now.get(k), v) for k, v in before.items())
    if isinstance(before, list):
        return isinstance(now, list) and len(now) == len(before) and all(map(says, now, before))
    return now == before


@pytest.mark.parametrize("k", range(3))
def test_what_version_3_stored_is_drawn_as_it_was(k: int) -> None:
    old = json.loads((Path(__file__).parent / "data" / "drawings-version-3.json").read_text())[k]
    assert old["version"] == 3
    new = Drawing.load(old)
    for before, after in zip(old["sheets"][0]["views"], new.front_sheet.views, strict=True):
        assert says(after.model_dump(mode="json"), before), "all that it said it says now"
        assert (after.crop, after.breaks, after.turn, after.adjacent) == (None, [], 0.0, [])
    for before, after in zip(old["sheets"][0]["annotations"], new.front_sheet.annotations, strict=True):
        assert says(after.model_dump(mode="json"), before)
    assert Drawing.load(new.to_json()) == new


@pytest.mark.parametrize("k", range(3))
def test_what_version_4_stored_says_now_what_it_said(k: int) -> None:
    old = json.loads((Path(__file__).parent / "data" / "drawings-version-4.json").read_text())[k]
    assert old["version"] == 4
    new = Drawing.load(old)
    now = new.model_dump(mode="json")
    assert says(now | {"version": 4}, old)
    assert (new.styles, new.threads) == ([], [])
    assert Drawing.load(new.to_json()) == new


@pytest.mark.parametrize("k", range(3))
def test_what_version_5_stored_says_now_what_it_said(k: int) -> None:
    old = json.loads((Path(__file__).parent / "data" / "drawings-version-5.json").read_text())[k]
    assert old["version"] == 5
    tables = [a for a in old["sheets"][0]["annotations"] if a["kind"] == "value_table"]
    emptied = {name for name, value in old["fields"].items() if value == ""}
    new = Drawing.load(old)
    now = new.model_dump(mode="json")
    # what was empty filled itself, and does so still
    assert now["fields"] == {name: value for name, value in old["fields"].items() if name not in emptied}
    for before, after in zip(old["sheets"][0]["annotations"], now["sheets"][0]["annotations"], strict=True):
        if before in tables:
            cells = [[r["name"], r["value"]] for r in before["rows"]]
            assert (after["kind"], after["heading"], after["rows"]) == ("table", before["heading"], cells)
            assert (after["at"], len(after["columns"])) == (before["at"], 2)
        else:
            assert says(after, before)
    assert says({**now, "version": 5, "fields": {}, "sheets": []}, {**old, "fields": {}, "sheets": []})
    assert Drawing.load(new.to_json()) == new and (k > 0 or (tables and emptied))


def test_lettering_on_large_sheets_stays_as_high_as_it_was() -> None:
    """Up to version 6 it was 3.5 mm on all; A1 has 5 now."""
    old = {"version": 6, "sheets": [{"id": "e1", "size": "A1"}]}
    for size, height in (("A1", 3.5), ("A0", 3.5), ("D", 3.5), ("A2", None)):
        new = Drawing.load(old | {"sheets": [{"id": "e1", "size": size}]})
        assert new.lettering == height
        assert new.lines_of(new.front_sheet).lettering == 3.5
    assert Drawing.load(old | {"version": 7}).lines_of(Drawing.load(old | {"version": 7}).front_sheet).lettering == 5
