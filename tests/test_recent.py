"""The cache of the house, by figures worked out by hand."""

from __future__ import annotations

import threading

from barequill.core.recent import Recent


def test_those_used_longest_ago_go_where_all_weigh_too_much() -> None:
    held: Recent[str, str] = Recent(10, len)
    for word in ("four", "tri", "two"):  # 4 + 3 + 3 = 10: all fit
        held.keep(word, word)
    assert held.get("four") == "four"  # used now: "tri" is the oldest
    held.keep("one", "1")
    assert "tri" not in held and held.get("four") and held.get("two") and held.get("one")


def test_the_last_that_came_stays_however_heavy_and_one_kept_again_weighs_once() -> None:
    held: Recent[int, str] = Recent(3, len)
    held.keep(1, "much too heavy")
    assert held.get(1) == "much too heavy" and len(held) == 1
    for _ in range(5):
        held.keep(2, "abc")
    held.keep(3, "")
    assert held.get(2) == "abc" and 1 not in held, "3 + 0 fit"


def test_of_two_that_are_made_at_once_all_get_the_first() -> None:
    held: Recent[str, object] = Recent(4)
    both = threading.Barrier(2)

    def make() -> object:
        both.wait(10)
        return object()

    got: list[object] = []
    hands = [threading.Thread(target=lambda: got.append(held.made("x", make))) for _ in range(2)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(20)
    assert len(got) == 2 and got[0] is got[1] is held.get("x")
