"""Screw threads: ISO metric (ISO 261, ISO 262, ISO 724) and unified inch ones (ASME B1.1), with their core holes."""

from __future__ import annotations

from dataclasses import dataclass

from .sheets import INCH

_COARSE = """1 .25 1.2 .25 1.6 .35 2 .4 2.5 .45 3 .5 4 .7 5 .8 6 1 8 1.25 10 1.5 12 1.75 14 2 16 2 18 2.5 20 2.5 22 2.5 24 3 27 3
30 3.5 33 3.5 36 4 39 4 42 4.5 45 4.5 48 5 52 5 56 5.5 60 5.5 64 6"""
_FINE = """8 1 10 1.25 10 1 12 1.5 12 1.25 14 1.5 16 1.5 18 2 18 1.5 20 2 20 1.5 22 2 22 1.5 24 2 27 2 30 2 33 2 36 3 39 3 42 3
45 3 48 3 52 4 56 4 60 4 64 4"""
_UNIFIED = """#4 .112 40 48 #6 .138 32 40 #8 .164 32 36 #10 .190 24 32 1/4 .25 20 28 5/16 .3125 18 24 3/8 .375 16 24
7/16 .4375 14 20 1/2 .5 13 20 9/16 .5625 12 18 5/8 .625 11 18 3/4 .75 10 16 7/8 .875 9 14 1 1 8 12"""


@dataclass(frozen=True)
class ThreadSize:
    """A thread: how it is called, its nominal diameter and pitch, mm."""

    name: str
    diameter: float
    pitch: float

    @property
    def inner(self) -> float:
        """The basic minor diameter (ISO 724), mm."""
        return self.diameter - 1.082532 * self.pitch

    @property
    def root(self) -> float:
        """The diameter at the root of the external thread, mm."""
        return self.diameter - 1.226869 * self.pitch

    @property
    def core(self) -> float:
        """The usual drill for the core hole, mm: the diameter less the pitch."""
        return round(self.diameter - self.pitch, 3)


def _pairs(text: str) -> list[ThreadSize]:
    figures = [float(f) for f in text.split()]
    return [ThreadSize(f"M{d:g}×{p:g}", d, p) for d, p in zip(figures[::2], figures[1::2], strict=True)]


def _unified() -> list[ThreadSize]:
    words, found = _UNIFIED.split(), []
    for name, d, coarse, fine in zip(*(iter(words),) * 4, strict=True):
        for count, series in ((coarse, "UNC"), (fine, "UNF")):
            found.append(ThreadSize(f"{name}-{count} {series}", float(d) * INCH, INCH / float(count)))
    return found


COARSE, FINE, UNIFIED = _pairs(_COARSE), _pairs(_FINE), _unified()
SIZES = {t.name: t for t in (*COARSE, *FINE, *UNIFIED)}


def proposed(diameter: float, internal: bool, inch: bool = False) -> list[ThreadSize]:
    """Threads that a bore or shaft of a diameter (mm) may be meant for, the likeliest first: coarse ones before fine."""
    found = []
    for rank, sizes in enumerate((UNIFIED, COARSE, FINE) if inch else (COARSE, FINE, UNIFIED)):
        for t in sizes:
            # as it is drilled, at its minor diameter, or modelled at its nominal one
            as_made = (
                ((t.core, 0.0), (t.inner, 0.0), (t.diameter, 0.3)) if internal else ((t.diameter, 0.0), (t.root, 0.2))
            )
            off = min(abs(diameter - d) / t.pitch + less for d, less in as_made)
            if off < 0.36:
                found.append((off + 0.12 * rank, t))
    return [t for _, t in sorted(found, key=lambda f: f[0])][:6]
