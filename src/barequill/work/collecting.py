"""How often Python looks for rubbish that refers to itself."""

from __future__ import annotations

import gc

SELDOM = (100_000, 50, 100)
"""A part and its views are hundreds of thousands of values that live long and refer to themselves nowhere: by default they
would be gone through over and over while more of them are made, which takes longer than making them."""


def collect_seldom() -> None:
    """Go through what lives long only now and then."""
    gc.collect()
    gc.freeze()
    begin_seldom()


def begin_seldom() -> None:
    """The same from the start: the kernel's classes alone are many to look through while they are loaded."""
    gc.set_threshold(*SELDOM)
