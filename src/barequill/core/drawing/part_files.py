"""What the files of parts are called where they are kept, or sent along."""

from __future__ import annotations

import re

SUFFIX = r"\.[a-z0-9]{1,8}"
"""What the name of a part file may end in; it becomes part of file names."""
ENDING = rf"(?:\.as-(mm|cm|m|inch))?{SUFFIX}"
PART_FILE = re.compile(rf"([0-9a-f]{{24}}){ENDING}")
"""What the file of a part is called: its key, as which unit it is read, and the suffix of the file that was brought."""


def unit_told(name: str) -> str | None:
    """The unit in which a part's file is read, as its name says; None where it says none."""
    told = PART_FILE.fullmatch(name)
    return told[2] if told else None
