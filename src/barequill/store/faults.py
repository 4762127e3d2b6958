"""What a database could not do, in words."""

from __future__ import annotations

from sqlalchemy.exc import DBAPIError

from ..core.errors import Busy, Unwritable, UserError


def storage_error(error: DBAPIError) -> UserError | None:
    """What the database could not do, in words, where it is not the database's own fault."""
    said = str(error.orig)
    if "full" in said:
        return Unwritable(
            "It was not kept: the disk is full", "Free some room, and do it again; all before it is kept."
        )
    if "readonly" in said or "unable to open" in said:
        return Unwritable(
            "It was not kept: the folder cannot be written",
            "See to the permissions of the folder that BAREQUILL_HOME names, and do it again; all before it is kept.",
        )
    if "disk I/O" in said:
        return Unwritable("It was not kept: the disk does not take it", "See to the disk, and do it again.")
    if "locked" in said:
        return Busy("Others are writing", "It was not kept. Do it again in a moment.")
    return None
