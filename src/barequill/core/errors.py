"""The one family of errors that a user can cause.

Each message says what is wrong, where, and what to do; the web layer turns it into problem details
(RFC 9457) and the command line into one line on the error stream.
"""

from __future__ import annotations


class UserError(Exception):
    """Something that the user can put right.

    Parameters
    ----------
    title : short statement of what is wrong
    detail : where it is wrong, and what to do about it
    """

    status = 400
    kind = "bad-input"

    def __init__(self, title: str, detail: str = "") -> None:
        super().__init__(title, detail)
        self.title = title
        self.detail = detail

    def __str__(self) -> str:
        return f"{self.title}: {self.detail}" if self.detail else self.title


class BadPartFile(UserError):
    """A part file that cannot be read."""

    status = 422
    kind = "bad-part-file"


class BadOperation(UserError):
    """An operation that cannot be applied to the drawing as it stands."""

    status = 422
    kind = "bad-operation"


class NotFound(UserError):
    """Something that does not exist (any more)."""

    status = 404
    kind = "not-found"


class StaleEdit(UserError):
    """The drawing has changed since the client last saw it."""

    status = 409
    kind = "stale-edit"


class Unmeasurable(UserError):
    """Geometry from which no dimension can be taken, or which is gone from the part."""

    status = 422
    kind = "unmeasurable"


class Unwritable(UserError):
    """Something that could not be kept: the disk is full, or the folder may not be written."""

    status = 507
    kind = "not-kept"


class Busy(UserError):
    """More is asked for at once than can be waited for."""

    status = 503
    kind = "busy"


class OurFault(UserError):
    """Something that went wrong in Bare Quill itself: never the user's fault, nor the file's."""

    status = 500
    kind = "our-fault"


class Forbidden(UserError):
    """A request from where none may come."""

    status = 403
    kind = "forbidden"


class Pending(UserError):
    """Something that is still being made: ask again in a moment."""

    status = 503
    kind = "pending"
