"""References that last from one revision of a part to the next."""

from __future__ import annotations

import pytest

from barequill.core import Part
from barequill.core.part.matching import matched, matching
from barequill.core.reading import shapes
from tools.common import at_length, demo_file, part_of
from tools.made_parts import bodies
from tools.random_revisions import KINDS, random_pair
from tools.revisions import BASES, Pair, pairs


@pytest.fixture(scope="module", params=at_length(("plate", "cover"), BASES))
def changes(request) -> list[Pair]:
    return list(pairs(request.param))


def ref(part: Part, row: tuple[str, int]) -> str:
    return (part.faces if row[0] == "face" else part.edges)[row[1]].ref


def test_what_did_not_change_keeps_its_reference_wherever_the_rest_grows(changes) -> None:
    kept = [ref(p.old, row) == ref(p.new, p.true[row]) for p in changes for row in p.same]
    assert len(kept) > 150 and sum(kept) >= 0.98 * len(kept)
    for pair in changes:
        for part in (pair.old, pair.new):
            assert len(part.index) == len(part.faces) + len(part.edges) + len(part.vertices), pair.name
        held = {ref(pair.old, row): to for row, to in pair.true.items()}
        for name in set(held) & set(pair.new.index):
            assert name == ref(pair.new, held[name]), f"{pair.name}: {name} is on another entity"


def test_what_changed_is_found_again_and_never_wrongly(changes) -> None:
    right = total = 0
    for pair in changes:
        found = matched(pair.old, pair.new)
        total += len(pair.true)
        for row, to in pair.true.items():
            match = found.get(ref(pair.old, row))
            assert match is None or match.ref == ref(pair.new, to), f"{pair.name}: {row} {match}"
            right += match is not None
        assert len({m.ref for m in found.values()}) == len(found), "two old entities on one new one"
    assert right >= 0.95 * total


def test_a_block_cut_shorter_has_no_certain_end_face_but_one_made_longer_has() -> None:
    def block(length: float) -> Part:
        return bodies(shapes.box((0, 0, 0), (length, 20, 10)))

    end = next(f.ref for f in block(50).faces if f.centre[0] > 49)
    grown = matched(block(50), block(60))[end]
    assert grown.how == "moved" and block(60).faces[block(60).index[grown.ref][1]].centre[0] == pytest.approx(60)
    assert end not in matched(block(50), block(30)), "what a cut leaves is not the old end"


def test_coincident_edges_of_two_bodies_have_references_of_their_own() -> None:
    both = bodies(shapes.box((0, 0, 0), (10, 10, 10)), shapes.box((10, 0, 0), (10, 10, 10)))
    assert len(both.index) == 2 * (6 + 12 + 8)
    alone = bodies(shapes.box((0, 0, 0), (10, 10, 10)))
    shared = [e.ref for e in alone.edges if e.points[:, 0].min() > 9.9]
    assert not set(shared) & set(both.index), "what became ambiguous is loose, not on either"


def test_references_made_before_still_find_their_entities() -> None:
    """Those that the pawl's edges 0 and 7, face 3 and vertex 2 had before references were named as they are now."""
    part = part_of(demo_file("pawl"))
    before = {
        "Ef8ed4128f": ("edge", 0),
        "Ed06e2684b": ("edge", 7),
        "Ff7220646a": ("face", 3),
        "Vbd55af876": ("vertex", 2),
    }
    assert {ref: part.find(ref) for ref in before} == before
    assert not set(before) & set(part.index) and part.find("E000000000") is None


@pytest.mark.parametrize("kind", KINDS)
def test_of_pairs_at_random_none_is_tied_wrongly(kind) -> None:
    """By what the maker of the pair knows; all that only stands elsewhere follows, and what is mirrored waits to be asked."""
    right = total = 0
    for seed in range(at_length(1, 12)):
        pair = random_pair(kind, seed)
        found = matching(pair.old, pair.new)
        for one, to in pair.true.items():
            total += 1
            if one in found.found:
                assert found.found[one].ref == to, f"{kind} {seed}: {one} is tied to another"
                right += 1
        assert not pair.none & set(found.found), f"{kind} {seed}: what is no one entity is tied to one"
        if kind == "mirrored":
            assert not found.found and found.other is not None and found.other.mirrors
            asked = matching(pair.old, pair.new, "moved").found
            assert {a: asked[a].ref for a in pair.true} == pair.true
        if kind.startswith("turned"):
            assert found.motion.angle == pytest.approx(
                0.3 if "little" in kind else 180 if "180" in kind else 90, abs=1e-4
            )
    assert kind == "mirrored" or right >= (0.8 if kind == "swapped" else 0.97) * total


def test_where_two_motions_explain_as_much_only_what_both_say_is_taken() -> None:
    """A plate that is the same turned by 180° but for two bores of two sizes, which stand where each other's did: it was
    turned, or they were exchanged. The ends of the plate are certain when
    one says which."""

    def bored(left: float, right: float) -> Part:
        bores = [shapes.cylinder((x, 20, -1), (0, 0, 1), r, 12) for x, r in ((20, left), (60, right))]
        return bodies(shapes.cut(shapes.box((0, 0, 0), (80, 40, 10)), *bores))

    old, new = bored(5, 8), bored(8, 5)
    end = next(f.ref for f in old.faces if f.centre[0] < 0.1)
    bore = next(f.ref for f in old.faces if f.surface.radius == 5)
    unsure = matching(old, new)
    assert not unsure.sure and end not in unsure.found and unsure.other is not None
    assert bore not in unsure.found or new.faces[new.index[unsure.found[bore].ref][1]].surface.radius == 5
    for choice, x in (("moved", 80.0), ("stayed", 0.0)):
        ref = matching(old, new, choice).found[end].ref
        assert new.faces[new.index[ref][1]].centre[0] == pytest.approx(x)
