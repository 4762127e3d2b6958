"""Values held in memory by key, those last used, up to so much as they weigh: the one cache of the house."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from typing import Generic, TypeVar

K = TypeVar("K")
V = TypeVar("V")


class Recent(Generic[K, V]):
    """Values by key; where they weigh more than ``most`` together, those used longest ago go, but never the last that came.

    ``weight`` tells what a value weighs (1 each where it is None). Threads may share one.
    """

    def __init__(self, most: float, weight: Callable[[V], float] | None = None) -> None:
        self._most, self._weight, self._total = most, weight, 0.0
        self._values: OrderedDict[K, tuple[V, float]] = OrderedDict()
        self._lock = threading.Lock()

    def get(self, key: K) -> V | None:
        """The value of that key, used now; None where there is none."""
        with self._lock:
            found = self._values.get(key)
            if found is None:
                return None
            self._values.move_to_end(key)
            return found[0]

    def keep(self, key: K, value: V, weight: float | None = None) -> V:
        """Hold a value, in place of one of the same key; it is given back."""
        if weight is None:
            weight = 1.0 if self._weight is None else self._weight(value)
        with self._lock:
            self._put(key, value, weight)
        return value

    def made(self, key: K, make: Callable[[], V]) -> V:
        """The value of that key, made where there is none; of two that are made at once the first is held, and both get it."""
        found = self.get(key)
        if found is not None:
            return found
        value = make()
        weight = 1.0 if self._weight is None else self._weight(value)
        with self._lock:
            there = self._values.get(key)
            if there is not None:
                return there[0]
            self._put(key, value, weight)
        return value

    def clear(self) -> None:
        """Hold nothing any more."""
        with self._lock:
            self._values.clear()
            self._total = 0.0

    def __contains__(self, key: K) -> bool:
        return key in self._values

    def __len__(self) -> int:
        return len(self._values)

    def _put(self, key: K, value: V, weight: float) -> None:
        old = self._values.pop(key, None)
        self._total += weight - (0.0 if old is None else old[1])
        self._values[key] = value, weight
        while self._total > self._most and len(self._values) > 1:
            self._total -= self._values.popitem(last=False)[1][1]
