"""Text of STEP files (ISO 10303-21, 6.4.3): strings as they stand in the file, and what they say."""

from __future__ import annotations

import re

_SIGNS = re.compile(
    r"''|\\\\|\\X2\\((?:[0-9A-Fa-f]{4})*)\\X0\\|\\X4\\((?:[0-9A-Fa-f]{8})*)\\X0\\|\\X\\([0-9A-Fa-f]{2})|\\S\\(.)|\\P([A-I])\\|[\r\n]",
    re.S,
)
_WRITES = re.compile(r"[^\x20-\x7e]|['\\]")


def decoded(raw: bytes) -> str:
    """What a string says: its control directives, and plain UTF-8 where it is that, else ISO 8859-1.

    ``\\X2\\`` and ``\\X4\\`` hold characters of ISO 10646, ``\\X\\`` one of its first 256, ``\\S\\`` one of the upper half of
    the part of ISO 8859 that ``\\P`` has named last (A for 1, which holds from the start, to I for 9).
    """
    try:
        text = raw.decode("utf-8")
    except UnicodeDecodeError:
        text = raw.decode("latin-1")
    page = "iso8859-1"

    def said(match: re.Match[str]) -> str:
        nonlocal page
        wide, wider, byte, upper, named = match.groups()
        if wide is not None:
            return bytes.fromhex(wide).decode("utf-16-be", "replace")
        if wider is not None:
            return bytes.fromhex(wider).decode("utf-32-be", "replace")
        if byte is not None:
            return chr(int(byte, 16))
        if upper is not None:
            return bytes([(ord(upper) & 0x7F) + 128]).decode(page, "replace")
        if named is not None:
            page = f"iso8859-{ord(named) - ord('A') + 1}"
            return ""
        return {"''": "'", "\\\\": "\\"}.get(match[0], "")

    return _SIGNS.sub(said, text).strip()


def encoded(text: str) -> bytes:
    """A text as it stands between the quotes of a string."""

    def written(match: re.Match[str]) -> str:
        sign = match[0]
        if sign in "'\\":
            return sign * 2
        if ord(sign) < 0x10000:
            return f"\\X2\\{ord(sign):04X}\\X0\\"
        return f"\\X4\\{ord(sign):08X}\\X0\\"

    return _WRITES.sub(written, text).encode("ascii")
