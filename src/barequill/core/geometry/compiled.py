"""Loops over arrays, compiled: the work of a view is many small steps on few numbers each."""

from __future__ import annotations

import hashlib
import os
import shutil
import sys
from collections.abc import Callable
from pathlib import Path
from typing import Any, TypeVar, cast

# the third level of optimising takes a quarter more time to compile, and gains nothing that could be measured
os.environ.setdefault("NUMBA_OPT", "2")

# the loops use no linear algebra of the compiler's: without it, nothing is loaded for it (0.3 s in each process)
_LINEAR_ALGEBRA = "scipy.linalg.cython_blas"
if _LINEAR_ALGEBRA not in sys.modules:
    sys.modules[_LINEAR_ALGEBRA] = None  # type: ignore[assignment]
import numba  # noqa: E402
import numba.np.arraymath  # noqa: E402

if sys.modules[_LINEAR_ALGEBRA] is None:
    del sys.modules[_LINEAR_ALGEBRA]

F = TypeVar("F", bound=Callable[..., Any])
CORE = Path(__file__).parents[1]
COMPLETE = "complete"


def _shelf() -> Path:
    """Where machine code is kept: a folder for this state of all files with loops.

    Loops take in others from other files, and on its own the compiler only sees when a loop's own file has changed.
    """
    state = hashlib.sha256()
    for path in sorted(CORE.glob("*/*.py")):
        text = path.read_bytes()
        if b"\n@compiled\n" in text:
            state.update(text)
    own = CORE / "__pycache__" / f"loops-{state.hexdigest()[:16]}"
    if own.exists() or os.access(own.parent if own.parent.exists() else CORE, os.W_OK):
        return own
    # installed where only somebody else may write
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(home) / "barequill" / own.name


numba.config.CACHE_DIR = str(_shelf())


def only_load() -> None:
    """From now on this process takes machine code from where it is kept, and what it has to compile it keeps to itself: it
    may not be let write there."""
    from numba.core.caching import FunctionCache

    FunctionCache.save_overload = lambda self, sig, data: None


def complete() -> bool:
    """True where the machine code of all loops of this state is kept."""
    return (Path(numba.config.CACHE_DIR) / COMPLETE).exists()


def tell_complete() -> None:
    """Note that it is."""
    (Path(numba.config.CACHE_DIR) / COMPLETE).touch()


def forget_others() -> None:
    """Remove the machine code of other states."""
    current = Path(numba.config.CACHE_DIR)
    for path in current.parent.glob("loops-*"):
        if path != current:
            shutil.rmtree(path, ignore_errors=True)


def compiled(function: F) -> F:
    """The function as machine code; compiled at its first call, and kept on disk.

    What is divided by 0 has no place, as in arrays: a loop that asks each time takes a tenth more. Whoever takes in what may
    have none asks for that.
    """
    return cast(F, numba.njit(cache=True, nogil=True, error_model="numpy")(function))
