"""What every worker needs, loaded once: workers begin as copies of a process that has imported this, and are ready at once.

The kernel is loaded but not used here: it starts threads of its own, which no copy would have.
"""

from __future__ import annotations

import signal
from importlib import import_module

from .collecting import collect_seldom

# a hand that stops the server stops its workers by way of it
signal.signal(signal.SIGINT, signal.SIG_IGN)
for room in ("reading.reading", "reading.warming"):
    import_module(f"barequill.core.{room}")
import_module("barequill.core.projection.warming").warm()
import_module("barequill.work.tasks").load_reading()
collect_seldom()
