"""Issuing a drawing: what its title block and its revisions say then, and what it is worked on as afterwards."""

from __future__ import annotations

from collections.abc import Collection, Iterable

from ..bounds import TEXT
from ..drawing import Drawing, Operation
from ..drawing.operations import Group, SetField, SetRevisions
from ..drawing.revisions import Revision
from ..errors import UserError
from ..standards.revision_letters import next_letter

MOST = 4
"""How many things that changed are proposed as the words of a revision."""


ISSUE, WORK = "Issue revision", "Work on revision"
"""How the steps are called with which a revision ends and begins."""


def next_revision(drawing: Drawing, issued: Collection[str]) -> str:
    """The letter that a drawing is issued as next."""
    taken = {r.letter for r in drawing.revisions} | set(issued)
    own = drawing.fields.get("revision", "").strip()
    if own and own not in taken:
        return own
    return next_letter(taken, drawing.standard)


def as_issued(drawing: Drawing, revision: Revision, issued: Collection[str]) -> Operation:
    """The operation by which a drawing becomes the revision that is issued: it adds a row to the revision table and fills fields of the title block.

    Raises
    ------
    UserError
        Where that letter was issued before.
    """
    if revision.letter in issued:
        after = next_letter([*issued, *(r.letter for r in drawing.revisions)], drawing.standard)
        raise UserError(
            f"{revision.letter} was issued already", f"What was issued stays as it is. The next letter is {after}."
        )
    kept = [r for r in drawing.revisions if r.letter != revision.letter]
    fields = {
        "revision": revision.letter,
        "date": revision.date,
        "creator": revision.creator,
        "approver": revision.approver,
    }
    changed = [SetField(field=k, value=v) for k, v in fields.items() if v and drawing.fields.get(k) != v]
    label = f"{ISSUE} {revision.letter}"
    return Group(label=label, operations=[SetRevisions(revisions=[*kept, revision], label=label), *changed])


def worked_on(drawing: Drawing, issued: Collection[str]) -> Operation:
    """The operation after which an issued drawing is worked on as the next revision: it bears the next letter, and no date."""
    letter = next_letter({r.letter for r in drawing.revisions} | set(issued), drawing.standard)
    return Group(
        label=f"{WORK} {letter}",
        operations=[SetField(field="revision", value=letter), SetField(field="date", value=None)],
    )


def what_changed(labels: Iterable[str], first: bool) -> str:
    """Words for a revision, from what was done since the last began: each once, the latest last."""
    if first:
        return "First issue"
    since: dict[str, None] = {}
    for label in labels:
        if label.startswith(WORK):
            since.clear()
        elif not label.startswith((ISSUE, "New drawing")):
            since[label] = None
    own = list(since)
    more = f", and {len(own) - MOST} more" if len(own) > MOST else ""
    return ("; ".join(own[-MOST:]) + more)[:TEXT]
