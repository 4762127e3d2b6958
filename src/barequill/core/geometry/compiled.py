"""Loops over arrays, compiled: the work of a view is many small steps on few numbers each.

Machine code is kept on disk by what a loop is and takes in: its own instructions and figures, and those of all loops that it
calls. An edit of one loop costs the compiling of that one, and of those that take it in. What is called from outside comes
along compiled, for the processors of most machines (x86-64 with AVX2, level 3 of its ABI): where it is not that of the
loops as they are, or not for the machine, it is compiled at first use.
"""

from __future__ import annotations

import hashlib
import os
import pickle
import shutil
import sys
import types as python_types
import zipfile
from collections.abc import Callable, Iterator
from functools import cache
from pathlib import Path
from typing import Any, TypeVar, cast

LEVEL_3 = {"avx2", "bmi1", "bmi2", "f16c", "fma", "abm", "movbe"}
"""What the processor can do that the code which comes along is for, as the system names it."""


def _is_level_3() -> bool:
    try:
        flags = next(line for line in Path("/proc/cpuinfo").read_text().splitlines() if line.startswith("flags"))
    except (OSError, StopIteration):
        return False
    return set(flags.split()) >= LEVEL_3


# one kind of code for all machines that take it, so that it can come along
if _is_level_3() and "NUMBA_CPU_NAME" not in os.environ:
    os.environ["NUMBA_CPU_NAME"], os.environ["NUMBA_CPU_FEATURES"] = "x86-64-v3", ""

# the third level of optimising takes a quarter more time to compile, and gains nothing that could be measured
os.environ.setdefault("NUMBA_OPT", "2")

# the loops use no linear algebra of the compiler's: without it, nothing is loaded for it (0.3 s in each process)
_LINEAR_ALGEBRA = "scipy.linalg.cython_blas"
if _LINEAR_ALGEBRA not in sys.modules:
    sys.modules[_LINEAR_ALGEBRA] = None  # type: ignore[assignment]
import numba  # noqa: E402
import numba.np.arraymath  # noqa: E402
import numpy as np  # noqa: E402
from numba.core.caching import CompileResultCacheImpl, NullCache, dumps  # noqa: E402
from numba.core.dispatcher import Dispatcher  # noqa: E402
from numba.np import arrayobj  # noqa: E402

if sys.modules[_LINEAR_ALGEBRA] is None:
    del sys.modules[_LINEAR_ALGEBRA]

F = TypeVar("F", bound=Callable[..., Any])
CORE = Path(__file__).parents[1]
LOOPS = "loops"
SHIPPED = CORE / "loops" / "x86-64-v3.zip"
ENDING = ".code"


@numba.extending.register_jitable
def _does_not_fit(src_shapes, index_shape):  # type: ignore[no-untyped-def]
    """What is said where rows are assigned that do not fit: the compiler's own words put both shapes together as text, for
    each assignment anew, which takes a fifth of all compiling."""
    raise ValueError("cannot assign slice from input of different size")


arrayobj.raise_with_shape_context = _does_not_fit


def _shelf() -> Path:
    """Where machine code is kept."""
    own = CORE / "__pycache__" / LOOPS
    if own.exists() or os.access(own.parent if own.parent.exists() else CORE, os.W_OK):
        return own
    # installed where only somebody else may write
    home = os.environ.get("XDG_CACHE_HOME") or str(Path.home() / ".cache")
    return Path(home) / "barequill" / LOOPS


SHELF = _shelf()
_may_keep = True
_used: set[str] = set()
_given: set[Path] = set()


def only_load() -> None:
    """From now on this process takes machine code from where it is kept, and what it has to compile it keeps to itself: it
    may not be let write there."""
    global _may_keep
    _may_keep = False


@cache
def _state() -> str:
    """A name for the state of all files with loops."""
    state = hashlib.sha256()
    for path in sorted(CORE.glob("*/*.py")):
        text = path.read_bytes()
        if b"\n@compiled\n" in text:
            state.update(text)
    return state.hexdigest()[:16]


def complete() -> bool:
    """True where the machine code of all loops of this state is kept."""
    return (SHELF / f"complete-{_state()}").exists()


def tell_complete() -> None:
    """Note that it is, and remove the machine code of other states of loops that were used in this process."""
    SHELF.mkdir(parents=True, exist_ok=True)
    of = {name.rpartition("-")[0] for name in _used}
    for path in SHELF.glob(f"*{ENDING}"):
        name = path.name.rpartition("-")[0]
        if name.rpartition("-")[0] in of and name not in _used:
            path.unlink(missing_ok=True)
    for path in SHELF.glob("complete-*"):
        path.unlink(missing_ok=True)
    for former in SHELF.parent.glob("loops-*"):
        shutil.rmtree(former, ignore_errors=True)
    (SHELF / f"complete-{_state()}").touch()


def unpack() -> None:
    """Lay what comes along compiled where machine code is kept."""
    if not SHIPPED.exists():
        return
    SHELF.mkdir(parents=True, exist_ok=True)
    with zipfile.ZipFile(SHIPPED) as packed:
        for name in packed.namelist():
            if not (SHELF / name).exists():
                draft = SHELF / f"{name}.{os.getpid()}"
                draft.write_bytes(packed.read(name))
                draft.replace(SHELF / name)


def pack() -> int:
    """Write what comes along compiled: the code that this process was given when it called loops; how many there are."""
    SHIPPED.parent.mkdir(exist_ok=True)
    with zipfile.ZipFile(SHIPPED, "w", zipfile.ZIP_LZMA) as packed:
        for path in sorted(_given):
            packed.writestr(zipfile.ZipInfo(path.name), path.read_bytes(), zipfile.ZIP_LZMA)
    return len(_given)


def given() -> set[str]:
    """The names of all code that this process was given when it called loops."""
    return {path.name for path in _given}


def _taken_in(function: python_types.FunctionType, seen: set[str]) -> Iterator[bytes]:
    """What the machine code of a function follows from: its instructions and constants, the figures that it takes from its
    file, and the same of all functions that it calls."""
    name = f"{function.__module__}.{function.__qualname__}"
    if name in seen:
        return
    seen.add(name)
    codes = [function.__code__]
    for code in codes:
        yield repr((name, code.co_code, code.co_varnames, code.co_names, function.__defaults__)).encode()
        for constant in code.co_consts:
            if isinstance(constant, python_types.CodeType):
                codes.append(constant)
            elif not isinstance(constant, str):
                yield repr(constant).encode()
        for used in sorted(code.co_names):
            value = function.__globals__.get(used)
            if isinstance(value, Dispatcher):
                value = value.py_func
            if isinstance(value, python_types.FunctionType):
                yield from _taken_in(value, seen)
            elif isinstance(value, np.ndarray | np.generic):
                yield value.tobytes()
            elif isinstance(value, int | float | complex | str | bytes | tuple | frozenset | type(None)):
                yield repr((used, value)).encode()


class _Kept(NullCache):  # type: ignore[misc]
    """The machine code of one loop on disk, a file for each kind of arguments."""

    def __init__(self, function: python_types.FunctionType) -> None:
        self._function = function
        self._name = ""

    @property
    def cache_path(self) -> str:
        return str(SHELF)

    @property
    def name(self) -> str:
        """The loop's own, with a mark of all that it follows from."""
        if not self._name:
            mark = hashlib.sha256(repr((numba.__version__, sys.version_info[:2], numba.config.OPT)).encode())
            for part in _taken_in(self._function, set()):
                mark.update(part)
            own = f"{self._function.__module__.rpartition('.')[2]}.{self._function.__qualname__}"
            self._name = f"{own}-{mark.hexdigest()[:16]}"
        return self._name

    def _path(self, sig: object, codegen: Any) -> Path:
        kind = hashlib.sha256(repr((str(sig), codegen.magic_tuple())).encode()).hexdigest()[:12]
        return SHELF / f"{self.name}-{kind}{ENDING}"

    def load_overload(self, sig: object, target_context: Any) -> Any:
        target_context.refresh()
        _used.add(self.name)
        path = self._path(sig, target_context.codegen())
        try:
            data = pickle.loads(path.read_bytes())
            _given.add(path)
        except (OSError, EOFError, pickle.UnpicklingError):
            return None
        return CompileResultCacheImpl.rebuild(None, target_context, data)

    def save_overload(self, sig: object, data: Any) -> None:
        if not _may_keep or data.library.has_dynamic_globals or data.lifted:
            return
        SHELF.mkdir(parents=True, exist_ok=True)
        path = self._path(sig, data.codegen)
        draft = path.with_suffix(f".{os.getpid()}")
        draft.write_bytes(dumps(CompileResultCacheImpl.reduce(None, data)))
        draft.replace(path)


def compiled(function: F) -> F:
    """The function as machine code; compiled at its first call, and kept on disk.

    What is divided by 0 has no place, as in arrays: a loop that asks each time takes a tenth more. Whoever takes in what may
    have none asks for that.
    """
    made = numba.njit(nogil=True, error_model="numpy")(function)
    made._cache = _Kept(cast(python_types.FunctionType, function))
    return cast(F, made)
