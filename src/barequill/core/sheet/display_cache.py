"""Display lists of elements that are kept, by all that they depend on."""

from __future__ import annotations

import threading
from collections.abc import Callable
from hashlib import blake2b

from ..display import Element
from ..drawing.annotations import AnyAnnotation
from ..measuring.watched import Answers, M, still_so, told, watched
from ..recent import Recent

REMEMBERED = 20_000
"""Annotations whose last ink is remembered."""
VARIANTS = 4
"""Inks of an annotation that says the same, by what else was so, that are remembered."""


def key_of(*what: object) -> str:
    """A short name of things, the same for the same ones in the same order."""
    return blake2b("|".join(str(w) for w in what).encode(), digest_size=12).hexdigest()


class DisplayCache:
    """Display lists of elements by what they depend on, those last used, up to so many marks."""

    def __init__(self, most: int = 60_000) -> None:
        self._held: Recent[str, Element] = Recent(most, _size)
        # annotations are values that never change: the last element of each, with what was asked for it
        self._last: Recent[int, tuple[AnyAnnotation, str, Answers, Element]] = Recent(REMEMBERED)
        # and by what one says, in which scene, what was asked, and the name of its ink
        self._asked: Recent[str, list[tuple[Answers, str]]] = Recent(REMEMBERED)
        self._lock = threading.Lock()

    def last(self, annotation: AnyAnnotation, scene: str, holds: Callable[[Answers], bool]) -> Element | None:
        """The last ink of this very annotation, where it was drawn in the same scene and all that was asked for it ``holds``."""
        found = self._last.get(id(annotation))
        if found is None or found[0] is not annotation or found[1] != scene or not holds(found[2]):
            return None
        return found[3]

    def remember(self, annotation: AnyAnnotation, scene: str, asked: Answers, element: Element) -> None:
        """Remember the ink of this very annotation."""
        self._last.keep(id(annotation), (annotation, scene, asked, element))

    def watched(
        self, said: str, holds: Callable[[Answers], bool], make: Callable[[], tuple[Element, Answers]]
    ) -> tuple[Element, Answers]:
        """The ink of what is ``said``, all that was asked for which ``holds``, and what that was; made where there is none."""
        asked: Answers | None = None
        element: Element | None = None
        for asked, name in self._asked.get(said) or []:
            element = self._held.get(name) if holds(asked) else None
            if element is not None:
                break
        if asked is None or element is None:
            made, asked = make()
            element = self.get(made.key, lambda: made)
        with self._lock:
            known: list[tuple[Answers, str]] = self._asked.get(said) or []
            self._asked.keep(said, [(asked, element.key), *(k for k in known if k[1] != element.key)][:VARIANTS])
        return element, asked

    def get(self, key: str, make: Callable[[], Element]) -> Element:
        """The element of that key, made where it is not there."""
        return self._held.made(key, make)


def drawn_watching(
    display_cache: DisplayCache, said: str, model: M, draw: Callable[[M, Callable[[], str]], Element]
) -> Element:
    """An element that depends on what is ``said`` and on what its drawing reads of a part of the document: ``draw`` is given that
    part, and what gives the element's key when all is read."""

    def made() -> tuple[Element, Answers]:
        asked: Answers = {}
        element = draw(watched(model, "it", asked), lambda: key_of(said, told(asked)))
        return element, asked

    return display_cache.watched(said, lambda asked: still_so(asked, {"it": model}), made)[0]


def _size(element: Element) -> int:
    return 1 + len(element.marks) + len(element.under)
