"""Parts that are made of others to be shown: laid flat, or of the other hand. Their keys say of what and how, so that whoever has the
other can make them; faces and edges are called as there."""

from __future__ import annotations

import re
from collections.abc import Callable
from functools import lru_cache
from hashlib import blake2b

from ..errors import UserError
from ..part.chosen import body_names
from ..part.model import Part
from ..part.transforming import mirrored_part, parted
from ..recent import Recent
from .bent_sheet import Rule
from .flat_pattern import flat_pattern_of

HOW = re.compile(r"^(.*?)-(mirrored|flat(\d*)-(?:din|k(\d{5}))|apart-([0-9a-f]{12}))$")
FINE = 10_000
"""Steps of the share at which the neutral line of a bend lies."""


def mirrored_key(key: str) -> str:
    """The key of a part of the other hand."""
    return f"{key}-mirrored"


def flat_key(part: Part, body: str, k: float | None) -> str:
    """The key of a body of a part (the first that is a bent sheet where it is empty) laid flat; ``k``: see :class:`Rule`."""
    names = body_names(part)
    row = str(names.index(body)) if body in names else ""
    return f"{part.key}-flat{row}-" + ("din" if k is None else f"k{round(k * FINE):05d}")


Steps = tuple[tuple[str, tuple[float, float, float]], ...]
_steps: Recent[str, Steps] = Recent(20_000)


def apart_key(key: str, steps: Steps) -> str:
    """The key of a part with bodies (by name) moved by steps, mm. Their figures are too many for it: they are remembered here, and told
    anew with each scene that is made."""
    named = blake2b(repr(steps).encode(), digest_size=6).hexdigest()
    _steps.keep(named, steps, len(steps))
    return f"{key}-apart-{named}"


def source_of(key: str) -> str:
    """The key of the part of which another is made; of one that is made of none its own."""
    while found := HOW.match(key):
        key = found.group(1)
    return key


def part_of(key: str, parts: Callable[[str], Part]) -> Part:
    """The part of a key, made of that of which it is.

    Raises
    ------
    UserError
        Where it cannot be made; the message says why.
    """
    found = HOW.match(key)
    return _made(part_of(found.group(1), parts), key) if found else parts(key)


@lru_cache(maxsize=16)
def _made(part: Part, key: str) -> Part:
    found = HOW.match(key)
    assert found is not None
    if found.group(2) == "mirrored":
        return mirrored_part(part)
    if found.group(5):
        steps = _steps.get(found.group(5))
        if steps is None:
            raise UserError("The view is not there yet", "Ask for it again.")
        return parted(part, dict(steps))
    row, share = found.group(3), found.group(4)
    names = body_names(part)
    body = names[int(row)] if row and int(row) < len(names) else ""
    return flat_pattern_of(part, body, Rule(None if share is None else int(share) / FINE))
