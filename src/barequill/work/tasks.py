"""What worker processes do. Each function here runs in a process of its own."""

from __future__ import annotations

import logging
import math
import resource
from contextlib import suppress
from dataclasses import replace
from functools import lru_cache
from importlib import import_module
from pathlib import Path
from typing import cast

from ..core.errors import BadPartFile
from ..core.part.chosen import only
from ..core.part.model import Part
from ..core.views.projecting import camera_of_scene
from ..core.views.scene import Scene
from .confining import bar_calls, confine_files, programs
from .serialisation import packed, unpacked, write_whole

log = logging.getLogger(__name__)


def nothing() -> None:
    """Only start the worker."""


@lru_cache
def load_reading() -> None:
    """Load all that reads: compiled loops are taken from where they are kept, and that has to be writable then."""
    for room in ("geometry", "part", "cutting", "projection"):
        folder = Path(__file__).parents[1] / "core" / room
        for path in sorted(folder.rglob("*.py")):
            import_module(".".join(["barequill", "core", room, *path.relative_to(folder).with_suffix("").parts]))


def _confine(folder: Path) -> None:
    """From now on this process uses no other folder than this one, makes no connection, starts no program."""
    from ..core.reading.warming import only_load

    load_reading()
    only_load()
    confine_files(programs(), [folder])
    bar_calls()


def ready_reader(folder: str) -> None:
    """Use the kernel once, in a process that from now on uses no other folder than this one, nor the network."""
    from ..core.reading.warming import warm

    _confine(Path(folder))
    warm()


def _note(path: Path, share: float, what: str) -> None:
    """Say how far it is, in a file that is there whole or not at all; it need not outlive a loss of power."""
    partial = path.with_suffix(".note")
    with suppress(OSError):
        partial.write_text(f"{share:.3f} {what}")
        partial.replace(path)


def read_part_to(
    path: str, name: str, progress: str, target: str, as_unit: str | None = None, seconds: float = 0
) -> None:
    """Read and prepare a part into a file. The process uses the folder of that file only from now on, and ends once it has
    worked for so many seconds: it reads this one part."""
    from ..core.reading import read_part

    folder = Path(target).parent
    _confine(folder)
    if seconds:
        used = resource.getrusage(resource.RUSAGE_SELF)
        end = math.ceil(used.ru_utime + used.ru_stime + seconds)
        resource.setrlimit(resource.RLIMIT_CPU, (end, end + 5))
    try:
        part = read_part(path, name, lambda share, what: _note(Path(progress), share, what), as_unit, folder)
    except RecursionError as error:
        raise BadPartFile(
            f"{name} is nested too deep", "Assemblies stand in each other too often in it. Export it again, flatter."
        ) from error
    except Exception as error:
        if type(error).__module__.startswith("OCP"):
            raise BadPartFile(
                f"{name} cannot be read",
                f"The kernel refused it ({type(error).__name__}). Heal the part in the modeller and export it again.",
            ) from error
        raise
    if len(part.bodies) > 1:
        from ..core.projection.piercing import meeting

        _note(Path(progress), 0.98, "seeing which bodies run into each other")
        part = replace(part, meeting=meeting(part))
    write_whole(target, packed(part))


def load_loops() -> None:
    """Load the machine code of a plain projection."""
    from ..core.projection.warming import warm_views

    warm_views()


@lru_cache(maxsize=4)
def _part(path: str) -> Part:
    return cast(Part, unpacked(Path(path).read_bytes()))


def take_up(path: str) -> None:
    """Have a prepared part ready for its first view."""
    _part(path)


@lru_cache(maxsize=8)
def _shown(path: str, bodies: tuple[str, ...] | None) -> Part:
    """A prepared part, or some bodies of it."""
    return only(_part(path), bodies)


def shade_to(part_path: str, scene: Scene, target: str) -> bytes:
    """Shade a prepared part; the picture as bytes, which are kept in a file too."""
    from ..core.projection.shading import shade

    data = packed(shade(_shown(part_path, scene.bodies), camera_of_scene(scene), scene.cut))
    _keep(target, data)
    return data


def _keep(target: str, data: bytes) -> None:
    """Keep what was made for the next time, where the disk takes it: it is shown all the same."""
    try:
        write_whole(target, data, durable=False)
    except OSError as error:
        log.warning("a view was not kept: %s", error)


def project_to(part_path: str, scene: Scene, target: str) -> bytes:
    """Project a prepared part; the curves as bytes, which are kept in a file too. How far it is stands beside it."""
    from ..core.views.keeping import put_away
    from ..core.views.projecting import take

    note = Path(f"{target}.progress")
    try:
        _note(note, 0.0, "taking up the part")
        taken = take(_part(part_path), scene, lambda share, what: _note(note, share, what))
        data = packed(put_away(taken))
        _keep(target, data)
    finally:
        note.unlink(missing_ok=True)
    return data
