"""A stand-in for a view that takes long, for the worker processes to import."""

from __future__ import annotations

import time

from barequill.work.tasks import project_to


def project_slowly(part_path: str, toward: tuple, up: tuple, target: str) -> bytes:
    """Wait, then project."""
    time.sleep(30)
    return project_to(part_path, toward, up, target)
