"""What is held in memory, and what is kept on disk beside it."""

from __future__ import annotations

import logging
import threading
from collections import OrderedDict
from pathlib import Path
from typing import Any

from ..core.projection.columns import Columns
from ..core.views.keeping import taken_out
from .serialisation import Damaged, unpacked

log = logging.getLogger(__name__)


class Held:
    """Values held in memory, those last used, up to so many bytes as they take on disk."""

    def __init__(self, limit: int) -> None:
        self._limit, self._total = limit, 0
        self._values: OrderedDict[str, tuple[Any, int]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, name: str) -> Any:
        """The value of that name, or None."""
        with self._lock:
            found = self._values.get(name)
            if found is not None:
                self._values.move_to_end(name)
            return None if found is None else found[0]

    def keep(self, name: str, value: Any, size: int) -> None:
        """Hold a value; those used longest ago go, but never the one that came last."""
        with self._lock:
            self._total += size - self._values.pop(name, (None, 0))[1]
            self._values[name] = value, size
            while self._total > self._limit and len(self._values) > 1:
                self._total -= self._values.popitem(last=False)[1][1]


def kept(path: Path) -> tuple[Any, int]:
    """What a file of the cache holds, and its bytes; None where there is none, or it is damaged: then it is removed."""
    try:
        data = path.read_bytes()
        return curves_of(unpacked(data)), len(data)
    except FileNotFoundError:
        return None, 0
    except (Damaged, OSError, ValueError, KeyError, TypeError):
        log.warning("the cached %s is damaged and is made again", path.name)
        path.unlink(missing_ok=True)
        return None, 0


def curves_of(value: Any) -> Any:
    """A scene taken, which is kept as columns; anything else as it is."""
    return taken_out(value) if isinstance(value, Columns) else value
