"""A stand-in for a view that takes long, for the worker processes to import."""

from __future__ import annotations

import os
import signal
import time
from pathlib import Path

from barequill.core.views.scene import Scene
from barequill.work.tasks import project_to


def project_slowly(part_path: str, scene: Scene, target: str) -> bytes:
    """Wait, then project."""
    time.sleep(30)
    return project_to(part_path, scene, target)


def fail_once(part_path: str, scene: Scene, target: str) -> bytes:
    """Die at the first go, project at the next."""
    mark = Path(f"{target}.died")
    if not mark.exists():
        mark.touch()
        os.kill(os.getpid(), signal.SIGKILL)
    return project_to(part_path, scene, target)
