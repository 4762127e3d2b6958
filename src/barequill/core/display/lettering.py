"""The sheet's lettering, measured: osifont (ISO 3098), upright or sloped, or a plain one, and for what they lack two more fonts that are
shipped too.

DejaVu Sans has Hebrew, Arabic and other alphabets, and signs; Droid Sans Fallback has Chinese and Japanese.
"""

from __future__ import annotations

import io
import unicodedata
from collections.abc import Iterator
from contextlib import contextmanager
from contextvars import ContextVar
from dataclasses import dataclass
from functools import cached_property, lru_cache
from pathlib import Path
from typing import Literal

from fontTools.ttLib import TTFont

from .signs import sign_of

FOLDER = Path(__file__).parent / "fonts"
CAPITAL = 1510 / 2048
"""Height of osifont's capitals in ems."""
SWAPS = {
    "−": "–",
    "⌀": "Ø",
    "’": "'",
    "‘": "'",
    "“": '"',
    "”": '"',
    "\u00a0": " ",
    "…": "...",
    "⟂": "⊥",
}
RIGHT_TO_LEFT = {"R", "AL"}
CHINESE = (0x2E80, 0x9FFF), (0xF900, 0xFAFF), (0xFE30, 0xFE4F), (0xFF00, 0xFFEF), (0x20000, 0x3FFFF)
"""Where the signs of Chinese and Japanese stand: all of one text from one font."""


@dataclass(frozen=True)
class Face:
    """A font: its name, its file, and how large its ems are drawn beside osifont's, so that the letters are of one height."""

    name: str
    file: Path
    share: float = 1.0

    @cached_property
    def font(self) -> TTFont:
        """The font itself, its tables read at once: several threads ask it."""
        found = TTFont(io.BytesIO(self.file.read_bytes()))
        for table in ("head", "maxp", "hhea", "hmtx", "cmap", "loca", "glyf"):
            _ = found[table]
        return found

    @cached_property
    def glyphs(self) -> dict[int, str]:
        """Names of its glyphs by character."""
        found: dict[int, str] = self.font.getBestCmap()
        return found

    @cached_property
    def em(self) -> int:
        """Units of an em."""
        return int(self.font["head"].unitsPerEm)

    @lru_cache(maxsize=4096)  # noqa: B019  (there are three, for as long as the program runs)
    def advance(self, letter: str) -> float:
        """How far the next letter stands from this one, in osifont's ems."""
        widths = self.font["hmtx"].metrics
        return float(widths[self.glyphs[ord(letter)]][0]) / self.em * self.share


FONT_NAME = "osifont"
FACES = (
    Face(FONT_NAME, FOLDER / "osifont.ttf"),
    Face("DejaVuSans", FOLDER / "DejaVuSans.ttf", 0.99),
    Face("DroidSansFallback", FOLDER / "DroidSansFallbackFull.ttf", 0.95),
)
FONT_FILE = FACES[0].file
SLOPED = Face("osifont-sloped", FOLDER / "osifont-sloped.ttf")
EVERY = (*FACES, SLOPED)
LETTERINGS: dict[str, tuple[Face, ...]] = {
    "upright": FACES,
    "sloped": (SLOPED, *FACES[1:]),
    "plain": (FACES[1], FACES[0], FACES[2]),
}
"""The fonts of each lettering that can be chosen, the first for all that it has."""
Font = Literal["upright", "sloped", "plain"]
_now: ContextVar[Font] = ContextVar("lettering", default="upright")


@contextmanager
def lettered(font: Font) -> Iterator[None]:
    """Have texts measured in a lettering where none is told, as long as this lasts."""
    before = _now.set(font)
    try:
        yield
    finally:
        _now.reset(before)


def lettering_now() -> Font:
    """The lettering in which texts are measured."""
    return _now.get()


def face_of(letter: str, font: Font | None = None) -> Face | None:
    """The font that a letter is drawn with in a lettering; None where none has it."""
    return _face_of(letter, font or _now.get())


@lru_cache(maxsize=8192)
def _face_of(letter: str, font: Font) -> Face | None:
    code, faces = ord(letter), LETTERINGS[font]
    chinese = any(low <= code <= high for low, high in CHINESE)
    for face in (faces[2], *faces[:2]) if chinese else faces:
        if code in face.glyphs:
            return face
    return None


def font_size(height: float) -> float:
    """Font size (ems, mm) that makes capitals ``height`` mm high."""
    return height / CAPITAL


@lru_cache(maxsize=8192)
def _advance(letter: str, font: Font) -> float:
    sign = sign_of(letter)
    if sign is not None:
        return sign.width * CAPITAL
    face = _face_of(letter, font)
    return face.advance(letter) if face is not None else FACES[0].advance("0")


def text_width(text: str, height: float, font: Font | None = None) -> float:
    """Width in mm of a text with capitals ``height`` mm high, in a lettering, or that which is in force."""
    own = font or _now.get()
    return sum(_advance(c, own) for c in laid_out(text)) * font_size(height)


@lru_cache(maxsize=4096)
def laid_out(text: str) -> str:
    """The letters of a text from left to right, as they stand: what is read from right to left in its order, and Arabic in
    the forms that join (Unicode's bidirectional algorithm, and its presentation forms)."""
    if text.isascii() or not any(unicodedata.bidirectional(c) in RIGHT_TO_LEFT for c in text):
        return text
    from arabic_reshaper import reshape
    from bidi import get_display

    shown: str = get_display(reshape(text))
    return shown


def has_shape(letter: str) -> bool:
    """True for what can be drawn: by strokes, or with one of the fonts."""
    return sign_of(letter) is not None or face_of(letter) is not None


def pieces(text: str, font: Font = "upright") -> list[tuple[Face | None, str, float]]:
    """A text in a lettering as it stands, from left to right: runs of letters of one font, and each sign that is drawn as strokes (None),
    with where they begin, in osifont's ems."""
    found: list[tuple[Face | None, str, float]] = []
    at = 0.0
    for letter in laid_out(text):
        face = None if sign_of(letter) is not None else _face_of(letter, font) or LETTERINGS[font][0]
        if found and face is not None and found[-1][0] is face:
            found[-1] = (face, found[-1][1] + letter, found[-1][2])
        else:
            found.append((face, letter, at))
        at += _advance(letter, font)
    return found


@lru_cache(maxsize=4096)
def drawable(text: str) -> str:
    """The text as it can be drawn: typographers' signs as the lettering has them, and where no font has a character, its
    number in brackets, so that it is seen that something is lacking."""
    if text.isascii() and text.isprintable():
        return text
    text = unicodedata.normalize("NFC", "".join(SWAPS.get(c, c) for c in text))
    return "".join(c if has_shape(c) and c.isprintable() else _instead(c) for c in text)


def _instead(letter: str) -> str:
    kind = unicodedata.category(letter)
    if kind in ("Cc", "Zs", "Zl", "Zp"):
        return " "
    if kind == "Cf" or 0xFE00 <= ord(letter) <= 0xFE0F:
        # marks of direction and of form are not drawn
        return ""
    plain = unicodedata.normalize("NFKC", letter)
    if plain != letter and all(has_shape(c) for c in plain):
        return plain
    return f"[U+{ord(letter):04X}]"


def undrawable(text: str) -> list[str]:
    """The characters of a text that no font has, each once."""
    return [
        c
        for c in dict.fromkeys(unicodedata.normalize("NFC", text))
        if not has_shape(c) and _instead(c).startswith("[U+")
    ]
