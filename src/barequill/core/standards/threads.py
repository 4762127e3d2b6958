"""Screw threads: ISO metric (ISO 261, ISO 262, ISO 724), unified inch (ASME B1.1), pipe (ISO 228-1, ISO 7-1, ASME B1.20.1) and
trapezoidal ones (ISO 2902 to 2904), with their core holes."""

from __future__ import annotations

import re
from dataclasses import dataclass

from .sheets import INCH

_COARSE = """1 .25 1.2 .25 1.6 .35 2 .4 2.5 .45 3 .5 4 .7 5 .8 6 1 8 1.25 10 1.5 12 1.75 14 2 16 2 18 2.5 20 2.5 22 2.5 24 3 27 3
30 3.5 33 3.5 36 4 39 4 42 4.5 45 4.5 48 5 52 5 56 5.5 60 5.5 64 6"""
_FINE = """8 1 10 1.25 10 1 12 1.5 12 1.25 14 1.5 16 1.5 18 2 18 1.5 20 2 20 1.5 22 2 22 1.5 24 2 27 2 30 2 33 2 36 3 39 3 42 3
45 3 48 3 52 4 56 4 60 4 64 4"""
_UNIFIED = """#4 .112 40 48 #6 .138 32 40 #8 .164 32 36 #10 .190 24 32 1/4 .25 20 28 5/16 .3125 18 24 3/8 .375 16 24
7/16 .4375 14 20 1/2 .5 13 20 9/16 .5625 12 18 5/8 .625 11 18 3/4 .75 10 16 7/8 .875 9 14 1 1 8 12 1-1/8 1.125 7 12 1-1/4 1.25 7 12 1-3/8 1.375 6 12 1-1/2 1.5 6 12"""
_FINER = """3 .35 4 .5 5 .5 6 .75 8 .75 10 .75 12 1 14 1 16 1 18 1 20 1 22 1 24 1.5 24 1 27 1.5 30 1.5 33 1.5 36 2 36 1.5 39 2 39 1.5
42 2 42 1.5 45 2 45 1.5 48 2 48 1.5 52 3 52 2 52 1.5 56 3 56 2 60 3 60 2 64 3 64 2"""
"""Fine pitches of ISO 261 beside those that ISO 262 chooses for screws."""
_EXTRA_FINE = """#12 .216 32 1/4 .25 32 5/16 .3125 32 3/8 .375 32 7/16 .4375 28 1/2 .5 28 9/16 .5625 24 5/8 .625 24 11/16 .6875 24
3/4 .75 20 13/16 .8125 20 7/8 .875 20 15/16 .9375 20 1 1 20"""
_PIPE = """1/16 7.723 28 1/8 9.728 28 1/4 13.157 19 3/8 16.662 19 1/2 20.955 14 5/8 22.911 14 3/4 26.441 14 7/8 30.201 14
1 33.249 11 1-1/8 37.897 11 1-1/4 41.910 11 1-1/2 47.803 11 1-3/4 53.746 11 2 59.614 11 2-1/4 65.710 11 2-1/2 75.184 11
2-3/4 81.534 11 3 87.884 11 3-1/2 100.330 11 4 113.030 11"""
"""Size, major diameter (mm), threads to the inch (ISO 228-1)."""
_TAPERED = "1/16 1/8 1/4 3/8 1/2 3/4 1 1-1/4 1-1/2 2 2-1/2 3 4"
"""Sizes of ISO 7-1; diameters and pitches are those of ISO 228-1."""
_NPT = """1/16 .3125 27 1/8 .405 27 1/4 .540 18 3/8 .675 18 1/2 .840 14 3/4 1.050 14 1 1.315 11.5 1-1/4 1.660 11.5 1-1/2 1.900 11.5
2 2.375 11.5 2-1/2 2.875 8 3 3.5 8 4 4.5 8"""
"""Size, outside diameter of the pipe (inch), threads to the inch (ASME B1.20.1)."""
_TRAPEZOIDAL = """8 1.5 9 2 10 2 11 2 12 3 14 3 16 4 18 4 20 4 22 5 24 5 26 5 28 5 30 6 32 6 34 6 36 6 38 7 40 7 42 7 44 7 46 8 48 8 50 8
52 8 55 9 60 9 65 10 70 10 75 10 80 10 85 12 90 12 95 12 100 12"""


@dataclass(frozen=True)
class ThreadSize:
    """A thread: how it is called, its nominal diameter and pitch, mm."""

    name: str
    diameter: float
    pitch: float

    @property
    def inner(self) -> float:
        """The basic minor diameter of the internal thread (ISO 724, ISO 228-1, ISO 2904; of NPT at the small end), mm."""
        if self.name.startswith("Tr"):
            return self.diameter - self.pitch
        if self.name.endswith("NPT"):
            return self.diameter - 1.6 * self.pitch
        return self.diameter - (1.280654 if self.whitworth else 1.082532) * self.pitch

    @property
    def root(self) -> float:
        """The diameter at the root of the external thread, mm."""
        if self.name.startswith("Tr"):
            clear = 0.15 if self.pitch < 2 else 0.25 if self.pitch < 6 else 0.5 if self.pitch < 14 else 1.0
            return self.diameter - self.pitch - 2 * clear
        if self.name.endswith("NPT") or self.whitworth:
            return self.inner
        return self.diameter - 1.226869 * self.pitch

    @property
    def core(self) -> float:
        """The usual drill for the core hole, mm: the diameter less the pitch."""
        if self.whitworth or self.name.endswith("NPT") or self.name.startswith("Tr"):
            return round(self.inner, 3)
        return round(self.diameter - self.pitch, 3)

    @property
    def whitworth(self) -> bool:
        """True for pipe threads of 55°."""
        return self.name[:1] in "GR"

    @property
    def usual_class(self) -> tuple[str, str]:
        """The tolerance classes that are usual, of an internal and of an external thread; nothing where none is stated."""
        if self.name.startswith("M"):
            return "6H", "6g"
        if self.name.startswith("Tr"):
            return "7H", "7e"
        return ("", "A") if self.name.startswith("G") else ("", "")


def _pairs(text: str) -> list[ThreadSize]:
    figures = [float(f) for f in text.split()]
    return [ThreadSize(f"M{d:g}×{p:g}", d, p) for d, p in zip(figures[::2], figures[1::2], strict=True)]


def _unified() -> list[ThreadSize]:
    words, found = _UNIFIED.split(), []
    for name, d, coarse, fine in zip(*(iter(words),) * 4, strict=True):
        for count, series in ((coarse, "UNC"), (fine, "UNF")):
            found.append(ThreadSize(f"{name}-{count} {series}", float(d) * INCH, INCH / float(count)))
    return found


def _in_inches(text: str, form: str, unit: float = INCH) -> list[ThreadSize]:
    """Threads told by size, diameter (in a unit of so many mm) and threads to the inch."""
    words = text.split()
    return [
        ThreadSize(form.format(name=name, count=count), float(d) * unit, INCH / float(count))
        for name, d, count in zip(words[::3], words[1::3], words[2::3], strict=True)
    ]


def _trapezoidal() -> list[ThreadSize]:
    return [ThreadSize(f"Tr{t.name[1:]}", t.diameter, t.pitch) for t in _pairs(_TRAPEZOIDAL)]


def _seventh() -> list[ThreadSize]:
    """Pipe threads that seal on the thread: external taper (R), internal parallel (Rp) and taper (Rc)."""
    by_size = {t.name[1:]: t for t in _in_inches(_PIPE, "G{name}", 1.0)}
    own = [by_size[n] for n in _TAPERED.split()]
    return [ThreadSize(f"{kind}{t.name[1:]}", t.diameter, t.pitch) for kind in ("R", "Rp", "Rc") for t in own]


COARSE, FINE, UNIFIED = _pairs(_COARSE), _pairs(_FINE), _unified()
OTHERS = [
    *_pairs(_FINER),
    *_in_inches(_EXTRA_FINE, "{name}-{count} UNEF"),
    *_in_inches(_PIPE, "G{name}", 1.0),
    *_seventh(),
    *_in_inches(_NPT, "{name}-{count} NPT"),
    *_trapezoidal(),
]
"""Threads that are named, and never the first to be proposed."""
SIZES = {t.name: t for t in (*COARSE, *FINE, *UNIFIED, *OTHERS)}
_SPELT = re.compile(r"^(?P<kind>G|RP|RC|R)(?P<size>[0-9]+(?:-[0-9]+/[0-9]+|/[0-9]+)?)(?P<grade>[AB])?$")


def named(text: str) -> ThreadSize | None:
    """The thread that a text names: M8, M8×1, 1/4-20, 1/4-20 UNC, G1/2 A, Rp 1/2, NPT 1/2, Tr20×4; None where there is none."""
    name = text.strip().upper().replace("X", "×").replace(",", ".")
    name = re.sub(r"\s*×\s*", "×", name)
    every = {n.upper(): t for n, t in SIZES.items()}
    if name in every:
        return every[name]
    tight = name.replace(" ", "")
    found = next((t for n, t in every.items() if n.replace(" ", "") == tight), None)
    if found is not None:
        return found
    if tight.startswith("NPT") or tight.endswith("NPT"):
        size = tight.replace("NPT", "")
        return next(
            (
                t
                for n, t in every.items()
                if size
                and n.startswith(f"{size}-")
                and n[len(size) + 1 :][:1].isdigit()
                and "/" not in n[len(size) + 1 :]
                and n.endswith("NPT")
            ),
            None,
        )
    spelt = _SPELT.match(tight)
    if spelt is not None:
        return every.get(f"{spelt['kind']}{spelt['size']}")
    return next((t for n, t in every.items() if n.split("×")[0] == tight or n.split(" ")[0] == tight), None)


def fits(size: ThreadSize, diameter: float, internal: bool) -> bool:
    """Whether a bore or shaft (mm) can carry a thread: a bore between the minor diameter, or less by what a tap still takes, and
    the nominal one at which it may be modelled; a shaft between root and crest."""
    low, high = (size.inner - 0.2 * size.pitch, size.diameter) if internal else (size.root, size.diameter)
    near = 0.12 * size.pitch
    return low - near <= diameter <= high + near


def proposed(diameter: float, internal: bool, inch: bool = False) -> list[ThreadSize]:
    """Threads that a bore or shaft of a diameter (mm) may be meant for, the likeliest first: coarse ones before fine."""
    found = []
    for rank, sizes in enumerate((UNIFIED, COARSE, FINE, OTHERS) if inch else (COARSE, FINE, UNIFIED, OTHERS)):
        for t in sizes:
            # as it is drilled, at its minor diameter, or modelled at its nominal one
            as_made = (
                ((t.core, 0.0), (t.inner, 0.0), (t.diameter, 0.3)) if internal else ((t.diameter, 0.0), (t.root, 0.2))
            )
            off = min(abs(diameter - d) / t.pitch + less for d, less in as_made)
            if off < 0.36:
                found.append((off + (0.12 * rank if rank < 3 else 1.0), t))
    return [t for _, t in sorted(found, key=lambda f: f[0])][:6]
