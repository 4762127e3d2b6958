"""Ink that is kept is as it would be drawn anew, whichever field of the document changes."""

from __future__ import annotations

from . import kept_ink
from .conftest import demo_file, part_of


def test_kept_ink_is_as_fresh_whichever_field_changes() -> None:
    assert kept_ink.main([part_of(demo_file("round-gear-cover"))], 120) == []
