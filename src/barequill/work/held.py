"""What is kept on disk of parts and scenes."""

from __future__ import annotations

import logging
from pathlib import Path
from typing import Any

from ..core.projection.columns import Columns
from ..core.views.keeping import taken_out
from .serialisation import Damaged, unpacked

log = logging.getLogger(__name__)


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
    """The projection result of what is kept as columns; anything else as it is."""
    return taken_out(value) if isinstance(value, Columns) else value
