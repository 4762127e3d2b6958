"""Ink that is kept, by all that it depends on."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable
from hashlib import blake2b

from ..drawing.annotations import AnyAnnotation
from ..ink import Element
from ..ink.marks import Place

REMEMBERED = 20_000
"""Annotations whose last ink is remembered."""


def key_of(*what: object) -> str:
    """A short name of things, the same for the same ones in the same order."""
    return blake2b("|".join(str(w) for w in what).encode(), digest_size=12).hexdigest()


class Inkwell:
    """Ink of elements by what they depend on, those last used, up to so many marks."""

    def __init__(self, most: int = 60_000) -> None:
        self._most, self._count = most, 0
        self._held: OrderedDict[str, Element] = OrderedDict()
        # annotations are values that never change: the last element of each, by where it was drawn
        self._last: OrderedDict[int, tuple[AnyAnnotation, str, Element]] = OrderedDict()
        self._lock = threading.Lock()

    def last(self, annotation: AnyAnnotation, scene: str, at: Place) -> Element | None:
        """The ink of this very annotation at a place, where it was last drawn in the same scene."""
        row = id(annotation)
        found = self._last.get(row)
        if found is None or found[0] is not annotation or found[1] != scene:
            return None
        element = found[2]
        if element.at != at:
            element = element.placed(at)
            self._last[row] = (annotation, scene, element)
        return element

    def remember(self, annotation: AnyAnnotation, scene: str, element: Element) -> None:
        """Remember the ink of an annotation."""
        with self._lock:
            self._last[id(annotation)] = (annotation, scene, element)
            while len(self._last) > REMEMBERED:
                self._last.popitem(last=False)

    def get(self, key: str, make: Callable[[], Element]) -> Element:
        """The element of that key, made where it is not there."""
        with self._lock:
            found = self._held.get(key)
            if found is not None:
                self._held.move_to_end(key)
                return found
        made = make()
        with self._lock:
            if key not in self._held:
                self._held[key] = made
                self._count += _size(made)
            while self._count > self._most and len(self._held) > 1:
                self._count -= _size(self._held.popitem(last=False)[1])
        return made


def _size(element: Element) -> int:
    return 1 + len(element.marks) + len(element.under)
