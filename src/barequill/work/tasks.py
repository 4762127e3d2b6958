"""What worker processes do. Each function here runs in a process of its own."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path
from typing import cast

from ..core.errors import BadPartFile
from ..core.part.chosen import only
from ..core.part.model import Part
from ..core.views.scene import Scene
from .plain import packed, unpacked, write_whole

READER_MEMORY, PROJECTOR_MEMORY = 10 << 30, 8 << 30
"""Bytes that a worker may take."""


def nothing() -> None:
    """Only start the worker."""


def warm_reader() -> None:
    """Use the kernel once."""
    from ..core.part.warming import warm

    warm()


def _note(path: Path, share: float, what: str) -> None:
    """Say how far it is, in a file that is there whole or not at all; it need not outlive a loss of power."""
    partial = path.with_suffix(".note")
    partial.write_text(f"{share:.3f} {what}")
    partial.replace(path)


def read_part_to(path: str, name: str, progress: str, target: str, as_unit: str | None = None) -> None:
    """Read and prepare a part into a file."""
    from ..core.part import read_part

    try:
        part = read_part(path, name, lambda share, what: _note(Path(progress), share, what), as_unit)
    except Exception as error:
        if type(error).__module__.startswith("OCP"):
            raise BadPartFile(
                f"{name} cannot be read",
                f"The kernel refused it ({type(error).__name__}). Heal the part in the modeller and export it again.",
            ) from error
        raise
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

    data = packed(shade(_shown(part_path, scene.bodies), scene.toward, scene.up, scene.cut))
    write_whole(target, data, durable=False)
    return data


def project_to(part_path: str, scene: Scene, target: str) -> bytes:
    """Project a prepared part; the curves as bytes, which are kept in a file too. How far it is stands beside it."""
    from ..core.views.keeping import put_away
    from ..core.views.taking import take

    note = Path(f"{target}.progress")
    try:
        _note(note, 0.0, "taking up the part")
        taken = take(_part(part_path), scene, lambda share, what: _note(note, share, what))
        data = packed(put_away(taken))
        write_whole(target, data, durable=False)
    finally:
        note.unlink(missing_ok=True)
    return data
