"""What every worker needs, loaded once: workers begin as copies of a process that has imported this, and are ready at once.

The kernel is loaded but not used here: it starts threads of its own, which no copy would have.
"""

from __future__ import annotations

from ..core.part import reading, warming
from ..core.projection.warming import warm

__all__ = ["reading", "warming"]

warm()
