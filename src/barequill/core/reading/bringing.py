"""Files that come in together: which of them are one part."""

from __future__ import annotations

from pathlib import Path

from . import references
from .references import Along


def parts_of(brought: list[tuple[str, Path]]) -> list[tuple[str, bytes | Path]]:
    """Files, by name and place, as parts: a name for each, and its file or the bytes of what several files are together.

    Raises
    ------
    BadPartFile
        Where a zip is damaged or holds none, or two files have one name.
    """
    whole: list[tuple[str, bytes | Path]] = []
    loose: list[Along] = []
    for name, path in brought:
        if is_zip(path):
            loose += references.unbundled(path.read_bytes(), name)
        elif len(brought) == 1:
            whole.append((name, path))
        else:
            loose.append(Along(name, path.read_bytes()))
    references.check_names(loose, "What was brought")
    for group in references.parted(loose):
        alone = len(group) == 1
        stem = Path(group[0].name).stem
        whole.append((group[0].name if alone else f"{stem}.zip", group[0].data if alone else references.bundle(group)))
    return whole


def is_zip(path: Path) -> bool:
    """True for a zip, by how it begins."""
    with path.open("rb") as file:
        return references.is_bundle(file.read(4))
