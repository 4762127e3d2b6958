"""Loops over arrays, compiled: the work of a view is many small steps on few numbers each."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, TypeVar, cast

import numba

F = TypeVar("F", bound=Callable[..., Any])


def compiled(function: F) -> F:
    """The function as machine code; compiled at its first call, and kept on disk beside its source."""
    return cast(F, numba.njit(cache=True, nogil=True)(function))
