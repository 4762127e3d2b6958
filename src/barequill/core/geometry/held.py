"""What one compiled pass hands on to the next through Python, which only keeps it: to wrap each array for it and unwrap it
again takes more than a microsecond, and a view hands on a hundred."""

from __future__ import annotations

from typing import Any

from .compiled import compiled

# the compiler is set up by the line above
from numba import types  # isort: skip
from numba.experimental import structref  # isort: skip


@structref.register
class _HeldType(types.StructRef):  # type: ignore[misc]
    """The type of a :class:`Held`, by that of what it holds."""


class Held(structref.StructRefProxy):  # type: ignore[misc]
    """Some value ``it`` of compiled passes."""

    def __new__(cls, it: Any) -> Held:
        return structref.StructRefProxy.__new__(cls, it)  # type: ignore[no-any-return]


structref.define_proxy(Held, _HeldType, ["it"])


@compiled
def hold(it):  # type: ignore[no-untyped-def]
    """A value, held for other passes."""
    return Held(it)


@compiled
def let_go(held):  # type: ignore[no-untyped-def]
    """The value that is held, unwrapped."""
    return held.it
