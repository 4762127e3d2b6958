"""How annotations of each kind are solved: the module of a kind bears the kind's name and has a function ``solve``."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module
from typing import Any

from ..drawing.annotations import AnyAnnotation
from ..measuring.context import LayoutContext
from .common.loose import as_it_remains
from .common.solving import Solved


def placer(annotation: AnyAnnotation, context: LayoutContext) -> Callable[[Any], Solved]:
    """What solves an annotation for one place after another, with what is the same for all of them done once."""
    kind = type(annotation).model_fields["kind"].default
    found: Callable[[Any], Solved] = import_module(f"{__name__}.{kind}").placer(annotation, context)
    return found if annotation.was is None else lambda a: as_it_remains(a, found(a), context.style.lettering)


def solve(annotation: AnyAnnotation, context: LayoutContext) -> Solved:
    """An annotation with all that can be asked of it, in its layout context."""
    kind = type(annotation).model_fields["kind"].default
    found: Solved = import_module(f"{__name__}.{kind}").solve(annotation, context)
    return as_it_remains(annotation, found, context.style.lettering)
