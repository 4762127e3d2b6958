"""Files that a STEP file names: found before the kernel sees it, followed only to files that came along, else said.

The kernel opens whatever a ``DOCUMENT_FILE`` names. Here that word is taken out of the file, unless the file that it names
lies beside it under a name given here; so a part means the same on every machine, and reaches no other file.
"""

from __future__ import annotations

import io
import re
import zipfile
from collections.abc import Iterable
from dataclasses import dataclass
from pathlib import Path, PurePosixPath

from ..errors import BadPartFile
from .step_text import decoded

# each goes on for so far only: however a file is spoilt, it is gone through once
_NAME = rb"'((?:[^']|''){0,2000})'"
_FILE = re.compile(rb"#(\d{1,20})\s{0,99}=\s{0,99}DOCUMENT_FILE\s{0,99}\(\s{0,99}" + _NAME, re.S)
_ASSIGNED = re.compile(
    rb"\bAPPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT\s{0,99}\(\s{0,99}"
    + _NAME
    + rb"\s{0,99},[^,]{0,99},[^,]{0,99},\s{0,99}\(([^)]{0,2000})\)",
    re.S,
)
_WORDS = re.compile(rb"(?i)\b(?:DOCUMENT_FILE|APPLIED_EXTERNAL_IDENTIFICATION_ASSIGNMENT)\b")
_ASIDE = re.compile(rb"'|/\*")
NOT_FOLLOWED = b"DOCUMENT_NOT_FOLLOWED"
MOST_FILES = 2000
"""Files that one part may be made of."""
LARGEST = 200 * 1024 * 1024
"""Bytes that they may have together, unpacked."""
DATE = (1980, 1, 1, 0, 0, 0)


@dataclass(frozen=True)
class Along:
    """A file of an assembly: its name, and what is in it."""

    name: str
    data: bytes


def plain_name(name: str) -> str:
    """The last part of a path, of whichever machine, in lower case: by it files find each other."""
    return PurePosixPath(re.sub(r"^file:/*", "", name, flags=re.I).replace("\\", "/")).name.casefold()


def names_any(data: bytes) -> bool:
    """True for a STEP file that may name others."""
    return bool(_WORDS.search(data))


def named_in(data: bytes) -> dict[bytes, str]:
    """The files that a STEP file names, by the number of the instance that does, in their order."""
    if not names_any(data):
        return {}
    text = _without_comments(data)
    found = {number: decoded(name) for number, name in _FILE.findall(text)}
    for name, items in _ASSIGNED.findall(text):
        for number in re.findall(rb"#(\d+)", items):
            # where a file is said to be counts before what the document is called
            if number in found and decoded(name):
                found[number] = decoded(name)
    return found


def _without_comments(data: bytes) -> bytes:
    """A STEP file with a space in place of each comment; what looks like one in a string is none."""
    out, start, at = [], 0, 0
    while (match := _ASIDE.search(data, at)) is not None:
        mark = match.start()
        if match[0] == b"'":
            end = data.find(b"'", mark + 1)
            at = end + 1 if end >= 0 else len(data)
            continue
        end = data.find(b"*/", mark + 2)
        out += [data[start:mark], b" "]
        start = at = end + 2 if end >= 0 else len(data)
    return b"".join([*out, data[start:]])


def standing_alone(data: bytes, local: dict[str, str]) -> bytes:
    """A STEP file that names no file but those of ``local``, under the names given there (by plain name)."""
    if not names_any(data):
        return data
    kept = {n: local[plain_name(name)].encode() for n, name in named_in(data).items() if plain_name(name) in local}

    def named(match: re.Match[bytes]) -> bytes:
        if match[1] not in kept:
            return match[0]
        start, end = (x - match.start() for x in match.span(2))
        return match[0][:start] + kept[match[1]] + match[0][end:]

    text = _FILE.sub(named, _without_comments(data))
    good = b"|".join(re.escape(name) for name in set(kept.values())) or b"(?!)"
    follows = re.compile(rb"DOCUMENT_FILE\s*\(\s*'(?:" + good + rb")'")
    return _WORDS.sub(lambda m: m[0] if follows.match(text, m.start()) else NOT_FOLLOWED, text)


def lay_out(files: list[Along], folder: Path) -> tuple[Path, list[str]]:
    """Write the files of an assembly, the first being the whole, so that each finds those that it names and no other.

    Returns
    -------
    The file to be read, and the names of those that are lacking.
    """
    by_name = {plain_name(f.name): f for f in files}
    own = {plain: f"file-{k}.stp" for k, plain in enumerate(by_name)}
    first = plain_name(files[0].name)
    wants = {plain: named_in(f.data) for plain, f in by_name.items()}
    reach: dict[str, dict[str, str]] = {first: {}}
    lacking: dict[str, None] = {}
    # depth first: none may name one within which it is named itself
    way = [(first, iter(wants[first].values()))]
    while way:
        name, rest = way[-1]
        wanted = next(rest, None)
        if wanted is None:
            way.pop()
            continue
        plain = plain_name(wanted)
        if plain not in by_name:
            lacking[re.split(r"[\\/]", wanted)[-1] or wanted or "one without a name"] = None
        elif all(plain != above for above, _ in way):
            reach[name][plain] = own[plain]
            if plain not in reach:
                reach[plain] = {}
                way.append((plain, iter(wants[plain].values())))
    for name, local in reach.items():
        (folder / own[name]).write_bytes(standing_alone(by_name[name].data, local))
    return folder / own[first], list(lacking)


def lacking_words(lacking: list[str]) -> str:
    """What is said of files that did not come along."""
    if not lacking:
        return ""
    some = [n if len(n) <= 80 else f"{n[:79]}…" for n in lacking[:6]]
    rest = [f"{len(lacking) - len(some)} more"] if len(lacking) > len(some) else []
    *most, last = [*some, *rest]
    names = f"{', '.join(most)} and {last}" if most else last
    count = {1: "one file that", 2: "two files that", 3: "three files that"}.get(
        len(lacking), f"{len(lacking)} files that"
    )
    return f"This assembly names {count} did not come along: {names}. Bring them together with it, all at once or as a zip."


# ---- bundles


def is_bundle(data: bytes) -> bool:
    """True for a zip."""
    return data[:4] == b"PK\x03\x04"


def bundle(files: list[Along]) -> bytes:
    """Files as one, always the same of the same: a plain zip, the whole first, then the others by name."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_STORED) as archive:
        for file in [files[0], *sorted(files[1:], key=lambda f: f.name)]:
            entry = zipfile.ZipInfo(file.name, DATE)
            entry.create_system, entry.external_attr = 3, 0o600 << 16
            archive.writestr(entry, file.data)
    return out.getvalue()


def unbundled(data: bytes, label: str) -> list[Along]:
    """The part files of a zip, by their names without folders, in its order; nothing is written.

    Raises
    ------
    BadPartFile
        Where it is damaged, too large, holds none, or two of one name.
    """
    found: list[Along] = []
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [e for e in archive.infolist() if not e.is_dir() and _is_part(e.filename)]
            if len(entries) > MOST_FILES or sum(e.file_size for e in entries) > LARGEST:
                raise BadPartFile(
                    f"{label} is too large",
                    f"A zip may hold {MOST_FILES} part files of {LARGEST >> 20} MB together. Split it.",
                )
            for entry in entries:
                if entry.flag_bits & 1:
                    raise BadPartFile(
                        f"{label} is locked", f"{entry.filename} in it wants a password. Pack it without one."
                    )
                with archive.open(entry) as file:
                    inside = file.read(entry.file_size + 1)
                if len(inside) != entry.file_size:
                    raise BadPartFile(
                        f"{label} is damaged", f"{entry.filename} is not as long as the zip says. Pack it again."
                    )
                found.append(Along(re.split(r"[\\/]", entry.filename)[-1], inside))
    except (zipfile.BadZipFile, NotImplementedError, EOFError, OSError, ValueError, RuntimeError) as error:
        raise BadPartFile(
            f"{label} cannot be unpacked", f"The zip is damaged ({str(error)[:100]}). Pack it again."
        ) from error
    if not found:
        raise BadPartFile(f"{label} holds no part file", "Put the STEP, IGES or B-rep files of the part into the zip.")
    check_names(found, label)
    return found


def check_names(files: Iterable[Along], label: str) -> None:
    """Raise BadPartFile where two files have one name."""
    seen: set[str] = set()
    for file in files:
        plain = plain_name(file.name)
        if plain in seen:
            raise BadPartFile(
                f"{label} holds two files named {file.name}",
                "One of them would be taken for the other. Give each its own name.",
            )
        seen.add(plain)


def _is_part(name: str) -> bool:
    from .reading import SUFFIXES

    base = re.split(r"[\\/]", name)[-1]
    # what some systems put beside each file of a zip is no part
    return not base.startswith("._") and "__MACOSX" not in name and Path(base).suffix.lower() in SUFFIXES


def parted(files: list[Along]) -> list[list[Along]]:
    """Files as parts: each that no other names is one, with all that it names, at however many removes."""
    by_name = {plain_name(f.name): f for f in files}
    below = {
        n: [p for w in named_in(f.data).values() if (p := plain_name(w)) in by_name and p != n]
        for n, f in by_name.items()
    }
    named = {n for found in below.values() for n in found}
    found: list[list[Along]] = []
    taken: set[str] = set()
    # where each is named by another, the first that came is the whole
    for start in [*(n for n in by_name if n not in named), *by_name]:
        if start in taken:
            continue
        mine, level = [start], [start]
        while level:
            level = [n for n in dict.fromkeys(x for y in level for x in below[y]) if n not in mine]
            mine += level
        taken |= set(mine)
        found.append([by_name[n] for n in mine])
    return found
