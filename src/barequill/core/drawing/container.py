"""A drawing in one file: a zip of its document, its part files and what was issued of it, each with its hash.

``manifest.json`` names the format, its version and the SHA-256 of every other file; ``drawing.json`` is the document as
``docs/drawing-format.md`` tells; ``parts/`` holds the part files under their keys, ``issues/LETTER/`` what went out as that revision.
"""

from __future__ import annotations

import hashlib
import io
import json
import re
import zipfile
from dataclasses import dataclass
from typing import Any

from ..errors import UserError

FORMAT, VERSION = "bare-quill-drawing", 1
SUFFIX = ".quill"
MOST_FILES, MOST_BYTES = 2000, 500 * 1024 * 1024
"""Files and bytes that one may hold, unpacked."""
DOCUMENT, MANIFEST = "drawing.json", "manifest.json"
LARGEST_DOCUMENT = 64 * 1024 * 1024
_NAME = re.compile(
    r"drawing\.json|manifest\.json|parts/[A-Za-z0-9._-]{1,120}|issues/[A-Z0-9-]{1,4}/[A-Za-z0-9._-]{1,120}"
)
DATE = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class Container:
    """What is in one: the document as plain values, the part files by name, and by letter what was issued, ``about.json`` among it."""

    document: dict[str, Any]
    parts: dict[str, bytes]
    issues: dict[str, dict[str, bytes]]


def packed(document: dict[str, Any], parts: dict[str, bytes], issues: dict[str, dict[str, bytes]]) -> bytes:
    """A drawing as one file; the same content gives the same bytes."""
    files = {DOCUMENT: json.dumps(document, indent=1, sort_keys=True).encode()}
    files |= {f"parts/{name}": data for name, data in sorted(parts.items())}
    files |= {f"issues/{letter}/{name}": d for letter, own in sorted(issues.items()) for name, d in sorted(own.items())}
    manifest = {
        "format": FORMAT,
        "version": VERSION,
        "files": {name: hashlib.sha256(data).hexdigest() for name, data in files.items()},
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, data in {MANIFEST: json.dumps(manifest, indent=1).encode(), **files}.items():
            entry = zipfile.ZipInfo(name, DATE)
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, data)
    return out.getvalue()


def unpacked(data: bytes) -> Container:
    """What is in such a file.

    Raises
    ------
    UserError
        Where it is none, or damaged, or holds what it should not; the message says what, and what of it is sound.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = _read(archive)
    except (zipfile.BadZipFile, NotImplementedError, EOFError, OSError, ValueError, RuntimeError) as error:
        raise UserError("That is no drawing in one file", f"It cannot be unpacked: {str(error)[:120]}.") from error
    manifest = _json(files, MANIFEST)
    if manifest.get("format") != FORMAT:
        raise UserError("That is no drawing in one file", "Its manifest does not say so.")
    version = manifest.get("version")
    if not isinstance(version, int) or version > VERSION:
        raise UserError("It is of a newer version", f"This Bare Quill knows version {VERSION} of such files.")
    told = manifest.get("files")
    if not isinstance(told, dict) or set(told) != set(files) - {MANIFEST}:
        raise UserError("The file is not whole", "Its manifest names other files than it holds.")
    spoilt = [n for n in told if hashlib.sha256(files[n]).hexdigest() != told[n]]
    if spoilt:
        sound = ", ".join(sorted(set(told) - set(spoilt))[:5]) or "nothing"
        raise UserError(
            "The file is damaged",
            f"{', '.join(spoilt[:3])} is not what it was; sound in it is {sound}. Unpack it to take that out.",
        )
    document = _json(files, DOCUMENT)
    issues: dict[str, dict[str, bytes]] = {}
    for name, content in files.items():
        if name.startswith("issues/"):
            _, letter, own = name.split("/")
            issues.setdefault(letter, {})[own] = content
    return Container(
        document, {n.removeprefix("parts/"): d for n, d in files.items() if n.startswith("parts/")}, issues
    )


def _read(archive: zipfile.ZipFile) -> dict[str, bytes]:
    """All files of an archive, as far as they may be there."""
    entries = archive.infolist()
    if len(entries) > MOST_FILES:
        raise UserError("That is too much", f"One file holds at most {MOST_FILES} files.")
    files: dict[str, bytes] = {}
    left = MOST_BYTES
    for entry in entries:
        name = entry.filename
        if not _NAME.fullmatch(name) or ".." in name:
            raise UserError("It holds what does not belong there", f"{name[:80]!r} is no file of a drawing.")
        if name in files:
            raise UserError("It holds a file twice", f"{name[:80]} is there two times: nobody knows which is meant.")
        # what it says of its size may be a lie: no more is unpacked than there is room for
        with archive.open(entry) as stream:
            files[name] = stream.read(left + 1)
        left -= len(files[name])
        if left < 0:
            raise UserError("That is too much", f"Unpacked it has more than {MOST_BYTES // 2**20} MB.")
    return files


def _json(files: dict[str, bytes], name: str) -> dict[str, Any]:
    if name not in files:
        raise UserError("That is no drawing in one file", f"It lacks {name}.")
    if len(files[name]) > LARGEST_DOCUMENT:
        raise UserError("That is too much", f"{name} has more than {LARGEST_DOCUMENT // 2**20} MB.")
    try:
        found = json.loads(files[name])
    except (ValueError, RecursionError) as error:
        raise UserError("The file is damaged", f"{name} cannot be read: {str(error)[:100]}.") from error
    if not isinstance(found, dict):
        raise UserError("The file is damaged", f"{name} is no JSON object.")
    return found
