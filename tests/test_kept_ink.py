"""Ink that is kept is as it would be drawn anew, whichever field of the document changes."""

from __future__ import annotations

from barequill.core.sheet.stages import ON_PAPER, STAGES
from tools import kept_ink
from tools.common import at_length, demo_file, part_of


def test_kept_ink_is_as_fresh_whichever_field_changes() -> None:
    assert kept_ink.main([part_of(demo_file("round-gear-cover"))], at_length(12, 400)) == []


def test_each_stage_of_a_sheet_reads_earlier_ones_and_what_is_drawn_is_made() -> None:
    names = [context.name for context in STAGES]
    assert len(set(names)) == len(names)
    for k, context in enumerate(STAGES):
        assert set(context.reads) <= set(names[:k]), context.name
    assert set(ON_PAPER) <= set(names) and len(set(ON_PAPER)) == len(ON_PAPER)
