"""Kinds that are known by being there: each module of a folder adds its own."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules
from typing import Any


def kinds(package: str, path: Any, base: type) -> list[Any]:
    """All classes with a discriminating field that the modules of a package add below ``base``, by name; what several have in
    common is called ``Any…``."""
    found: dict[str, Any] = {}
    for module in iter_modules(path):
        held = vars(import_module(f"{package}.{module.name}"))
        found |= {
            n: c
            for n, c in held.items()
            if isinstance(c, type)
            and issubclass(c, base)
            and c is not base
            and not n.startswith("Any")
            and c.__module__.endswith(module.name)
        }
    return [found[n] for n in sorted(found)]
