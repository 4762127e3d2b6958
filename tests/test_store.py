"""What is kept: every step, across restarts, between two writers."""

from __future__ import annotations

import sqlite3
import threading
from datetime import timedelta
from pathlib import Path

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from barequill.core.drawing import (
    Dimension,
    Drawing,
    Operation,
    PartUse,
    apply,
    label,
)
from barequill.core.drawing.operations import (
    AddViews,
    Annotate,
    ChangeAnnotation,
    Group,
    MoveView,
    Remove,
    SetField,
    SetPart,
    SetSheet,
    SetView,
)
from barequill.core.errors import BadOperation, NotFound, StaleEdit, UserError
from barequill.store import Store
from barequill.store.tables import now
from tools.sheets import DrawnPart, id_of

from .shared import SUMMARY, base, dimension, title, two_views, view


@pytest.fixture
def store(tmp_path: Path):
    made = Store(tmp_path)
    yield made
    made.close()


def test_every_step_can_be_undone_and_redone_also_after_a_restart(tmp_path: Path) -> None:
    store = Store(tmp_path)
    snapshot = store.add(base())
    for n in range(60):
        snapshot = store.act(snapshot.id, snapshot.edit, title(f"Title {n}"))
    store.close()
    again = Store(tmp_path)
    snapshot = again.get(snapshot.id)
    assert snapshot.drawing.fields["title"] == "Title 59"
    for n in reversed(range(60)):
        snapshot = again.step(snapshot.id, snapshot.edit, -1)
        assert snapshot.drawing.fields.get("title") == (f"Title {n - 1}" if n else None)
    assert snapshot.undo is None and snapshot.redo == "Title: Title 0"
    with pytest.raises(BadOperation, match="Nothing to undo"):
        again.step(snapshot.id, snapshot.edit, -1)
    for _ in range(60):
        snapshot = again.step(snapshot.id, snapshot.edit, 1)
    assert snapshot.drawing.fields["title"] == "Title 59" and snapshot.redo is None
    assert snapshot.edit == 1 + 3 * 60, "undo and redo are changes too: a second window is told of them"
    again.close()


def test_a_new_step_after_undo_takes_the_place_of_those_undone(store) -> None:
    snapshot = store.add(base())
    for text in ("One", "Two", "Three"):
        snapshot = store.act(snapshot.id, snapshot.edit, title(text))
    for _ in range(2):
        snapshot = store.step(snapshot.id, snapshot.edit, -1)
    snapshot = store.act(snapshot.id, snapshot.edit, title("Other"))
    assert snapshot.redo is None
    assert [done for _, _, done in store.history(snapshot.id)] == [True, True, True]
    snapshot = store.step(snapshot.id, snapshot.edit, -1)
    assert snapshot.drawing.fields["title"] == "One"


def test_the_second_writer_is_told_what_the_first_did(store) -> None:
    seen = store.add(base())
    now = store.act(seen.id, seen.edit, title("Mine"))
    now = store.step(now.id, now.edit, -1)
    with pytest.raises(StaleEdit) as told:
        store.act(seen.id, seen.edit, title("Theirs"))
    assert "Title: " in told.value.detail and "Undo" in told.value.detail
    assert store.get(seen.id).edit == now.edit, "nothing was written"


def test_an_operation_that_fails_leaves_no_trace(store) -> None:
    snapshot = store.add(base())
    with pytest.raises(BadOperation):
        store.act(snapshot.id, snapshot.edit, lambda d: MoveView(view="v77", to=(0, 0)))
    with pytest.raises(ZeroDivisionError):
        store.act(snapshot.id, snapshot.edit, lambda d: 1 / 0)
    assert store.get(snapshot.id) == snapshot and len(store.history(snapshot.id)) == 1


def test_of_many_writers_at_once_each_change_is_kept_or_refused(store) -> None:
    snapshot = store.add(base())
    kept, refused = [], []

    def write(n: int) -> None:
        for k in range(8):
            seen = store.get(snapshot.id).edit
            try:
                store.act(snapshot.id, seen, title(f"{n}.{k}"))
                kept.append((n, k))
            except StaleEdit:
                refused.append((n, k))

    threads = [threading.Thread(target=write, args=(n,)) for n in range(4)]
    for t in threads:
        t.start()
    for t in threads:
        t.join()
    assert len(kept) + len(refused) == 32 and kept
    assert store.get(snapshot.id).edit == 1 + len(kept)
    assert len(store.history(snapshot.id)) == 1 + len(kept)


def test_asking_whether_it_can_be_written_leaves_writers_as_patient_as_they_were(store) -> None:
    made = store.add(base())
    other = sqlite3.connect(store.file, check_same_thread=False)
    other.execute("BEGIN IMMEDIATE")
    assert store.writable(), "another is writing just now"
    # half a second is longer than the question waits, and far less than a writer does
    release = threading.Timer(0.5, other.rollback)
    release.start()
    after = store.act(made.id, made.edit, title("Pawl"))
    assert after.drawing.fields["title"] == "Pawl"
    release.join()
    other.close()


def test_parts_are_kept_once_found_by_all_their_words_and_not_removed_while_shown(store, tmp_path) -> None:
    brought = tmp_path / "brought"
    brought.write_bytes(b"data")
    row = store.keep_part("k1", "pawl.STEP", brought, SUMMARY)
    assert store.keep_part("k1", "copy.step", brought, SUMMARY).file_name == "pawl.STEP"
    assert row.material == "Steel C45", "the file's own material"
    assert (store.home / "parts" / "k1.step").read_bytes() == b"data"
    for words, found in (("wl-205", 1), ("pawl steel", 1), ("PAWL", 1), ("pawl oak", 0), ("", 1)):
        assert len(store.parts(words)) == found
    snapshot = store.add(base())
    with pytest.raises(UserError, match="in use"):
        store.remove_part("k1")
    store.remove(snapshot.id)
    with pytest.raises(UserError, match="in use"):
        store.remove_part("k1")
    store.remove_for_good(snapshot.id)
    store.remove_part("k1")
    assert not store.parts() and not list((store.home / "parts").iterdir())
    with pytest.raises(NotFound):
        store.remove_part("k1")


def test_a_removed_drawing_lies_in_the_basket_for_thirty_days(store, monkeypatch) -> None:
    snapshot = store.add(base())
    store.act(snapshot.id, snapshot.edit, lambda d: SetField(field="creator", value="R. Oake"))
    store.remove(snapshot.id)
    assert not store.drawings() and [d.id for d in store.drawings(removed=True)] == [snapshot.id]
    for refused in (lambda: store.get(snapshot.id), lambda: store.remove(snapshot.id), lambda: store.put_back(10**30)):
        with pytest.raises(NotFound):
            refused()
    store.put_back(snapshot.id)
    assert store.get(snapshot.id).drawing.fields["creator"] == "R. Oake" and store.history(snapshot.id)
    with pytest.raises(NotFound, match="basket"):
        store.remove_for_good(snapshot.id)
    store.remove(snapshot.id)
    other = store.add(base())
    assert store.empty_basket() == 0
    later = now() + timedelta(days=29.9)
    monkeypatch.setattr("barequill.store.drawings.now", lambda: later)
    assert store.empty_basket() == 0
    later += timedelta(days=0.2)
    assert store.empty_basket() == 1 and not store.drawings(removed=True)
    assert [d.id for d in store.drawings()] == [other.id]


def test_drawings_are_found_by_any_field_of_their_title_block(store) -> None:
    snapshot = store.add(base())
    snapshot = store.act(snapshot.id, snapshot.edit, lambda d: SetField(field="creator", value="R. Oake"))
    store.act(snapshot.id, snapshot.edit, lambda d: SetField(field="owner", value="Withy Lock Trust"))
    for words in ("oake", "withy pawl", "wl-205 trust"):
        assert [d.id for d in store.drawings(words)] == [snapshot.id]
    assert not store.drawings("brass")


def test_the_database_is_as_the_migrations_make_it(store, tmp_path: Path) -> None:
    with sqlite3.connect(tmp_path / "barequill.sqlite") as connection:
        tables = {r[0] for r in connection.execute("select name from sqlite_master where type = 'table'")}
        assert {"alembic_version"} < tables and len(tables) >= 5
        assert connection.execute("pragma journal_mode").fetchone()[0] == "wal"


# ---- operations


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        (AddViews(sheet="s1", views=[view(7)]), "Place a view"),
        (AddViews(sheet="s1", views=[view(7), view(8)]), "Place 2 views"),
        (MoveView(view="v1", to=(1, 1)), "Move a view"),
        (SetView(view="v1", changes={"hidden_lines": False, "caption": "A"}), "Change hidden lines, caption of a view"),
        (SetSheet(sheet="s1", size="A2", angle="third"), "Set the sheet: A2, third angle"),
        (SetField(field="document_type", value="x"), "Document type: x"),
        (SetPart(part=PartUse(key="k1", material="Oak")), "Set the part's material"),
        (Annotate(sheet="s1", annotations=[dimension(3)]), "Add a dimension"),
        (Annotate(sheet="s1", annotations=[dimension(3), dimension(4)]), "Add 2 annotations"),
        (ChangeAnnotation(id="d3", changes={"place": {"offset": 17}}), "Move a dimension"),
        (ChangeAnnotation(id="d3", changes={"decimals": 1}), "Change a dimension"),
        (Remove(ids=["v1"]), "Remove"),
        (Group(label="Tidy", operations=[Remove(ids=["v1"])]), "Tidy"),
    ],
)
def test_each_operation_says_in_the_history_what_it_did(operation: Operation, words: str) -> None:
    assert label(operation) == words


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        (lambda f, d: MoveView(view=f, to=(1, 1)), "Move the front view"),
        (lambda f, d: SetView(view=f, changes={"hidden_lines": False}), "Change hidden lines of the front view"),
        (
            lambda f, d: ChangeAnnotation(id=d, changes={"tolerance": {"kind": "fit", "fit": "H7"}, "decimals": 2}),
            "Change a dimension on the front view: decimals none → 2, tolerance none → H7",
        ),
        (lambda f, d: ChangeAnnotation(id=d, changes={"place": {"offset": 20}}), "Move a dimension on the front view"),
        (lambda f, d: Remove(ids=[d]), "Remove a dimension"),
        (lambda f, d: Remove(ids=[f]), "Remove the front view"),
    ],
)
def test_the_history_tells_what_was_changed_and_where(operation, words) -> None:
    p = DrawnPart("pawl", views=["front"])
    edge = next(e for e in p.part.edges if e.curve.kind == "line")
    size = Dimension(
        id="e90", on=id_of(p.drawing, "front"), measure="length", anchors=[{"ref": edge.ref, "at": "line"}]
    )
    drawing = apply(p.drawing, Annotate(sheet="e1", annotations=[size]))
    assert label(operation(id_of(drawing, "front"), "e90"), drawing) == words


@pytest.mark.parametrize(
    ("operation", "words"),
    [
        (AddViews(sheet="s9", views=[view(7)]), "sheet is gone"),
        (AddViews(sheet="s1", views=[view(1)]), "name is taken"),
        (AddViews(sheet="s1", views=[view(7, "v6", "left")]), "parent view is gone"),
        (AddViews(sheet="s1", views=[view(7).model_copy(update={"part": "k2"})]), "not in this drawing"),
        (SetView(view="v1", changes={"tied": True}), "has no parent"),
        (ChangeAnnotation(id="d99", changes={}), "is gone"),
        (Group(label="x", operations=[MoveView(view="v1", to=(5, 5)), Remove(ids=["v9"])]), "gone already"),
    ],
)
def test_an_operation_on_what_is_not_there_says_so_and_changes_nothing(operation: Operation, words: str) -> None:
    drawing = two_views()
    before = drawing.to_json()
    with pytest.raises(BadOperation) as told:
        apply(drawing, operation)
    assert words in f"{told.value.title} {told.value.detail}".lower() or words in told.value.title
    assert drawing.to_json() == before


def test_changing_part_of_a_dimension_s_place_leaves_the_rest() -> None:
    drawing = apply(two_views(), Annotate(sheet="s1", annotations=[dimension(3)]))
    drawing = apply(drawing, ChangeAnnotation(id="d3", changes={"place": {"along": 4.0}, "decimals": 1}))
    drawing = apply(drawing, ChangeAnnotation(id="d3", changes={"place": {"offset": 24.0}}))
    (found,) = drawing.front_sheet.annotations
    assert (found.place.along, found.place.offset, found.decimals) == (4.0, 24.0, 1)


def test_removing_a_view_takes_its_children_and_their_dimensions_in_one_step() -> None:
    drawing = apply(two_views(), Annotate(sheet="s1", annotations=[dimension(3), dimension(4, "v2")]))
    after = apply(drawing, Remove(ids=["v1"]))
    assert not after.front_sheet.views and not after.front_sheet.annotations
    only = apply(drawing, Remove(ids=["v2"]))
    assert [v.id for v in only.front_sheet.views] == ["v1"] and [a.id for a in only.front_sheet.annotations] == ["d3"]


def test_a_drawing_comes_back_from_its_json_as_it_was() -> None:
    drawing = apply(two_views(), Annotate(sheet="s1", annotations=[dimension(3)]))
    assert Drawing.model_validate(drawing.to_json()) == drawing
    with pytest.raises(ValueError, match="colour"):
        Drawing.model_validate({**drawing.to_json(), "colour": "red"})


@settings(max_examples=40, deadline=None)
@given(st.lists(st.tuples(st.sampled_from(["v1", "v2"]), st.floats(-50, 50), st.floats(-50, 50)), max_size=8))
def test_however_views_are_moved_a_tied_one_stays_in_line_with_its_parent(moves) -> None:
    drawing = two_views()
    for name, dx, dy in moves:
        x, y = drawing.front_sheet.view(name).place
        drawing = apply(drawing, MoveView(view=name, to=(x + dx, y + dy)))
    parent, child = (drawing.front_sheet.view(n) for n in ("v1", "v2"))
    assert child.place[1] == pytest.approx(parent.place[1])
