"""Value classes: plain data that is never changed once it is made."""

from __future__ import annotations

import dataclasses
from typing import TypeVar, dataclass_transform

T = TypeVar("T")


@dataclass_transform(frozen_default=True, eq_default=False, field_specifiers=(dataclasses.field,))
def value(cls: type[T]) -> type[T]:
    """A frozen data class that is told apart by identity.

    The type checker sees to it that nothing is assigned to: a class that guards itself at run time takes ten times as
    long to make, and a view is made of thousands.
    """
    return dataclasses.dataclass(eq=False)(cls)
