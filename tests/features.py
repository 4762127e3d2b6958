"""Holes as they are recognised, beside what rays find: ``python -m tests.features PARTS…`` prints a table.

Rays along the axis of a hole must pass it, or end at its bottom; rays out of its axis must end at its radius, at
several places along each of its bores. Round faces that face their axis all round and belong to no hole are counted.
"""

from __future__ import annotations

import sys
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np

from barequill.core import Part, read_part
from barequill.core.errors import UserError
from barequill.core.part.features import TURNED
from barequill.core.part.holes import Hole, facing_in, holes_of
from barequill.core.part.reading import _read_step

from .truth import Samples, sample

MOST = 800
"""Faces of a part up to which it is taken."""


def reach(samples: Samples, origin: np.ndarray, ways: np.ndarray) -> np.ndarray:
    """How far (n,) rays go from a point before they meet the part, mm; infinity where they meet nothing."""
    start = np.tile((origin - samples.centre) / samples.size, (len(ways), 1)).astype(np.float32)
    hit = samples.scene.run(start, np.ascontiguousarray(ways, np.float32), output=1)
    return np.where(hit["primID"] >= 0, hit["tfar"], np.inf) * samples.size


def agrees(samples: Samples, hole: Hole) -> str:
    """What is wrong with a hole; nothing where rays find it as it was recognised."""
    near = 2e-3 * samples.size
    helper = np.eye(3)[int(np.argmin(np.abs(hole.out)))]
    x = np.cross(hole.out, helper)
    x /= np.linalg.norm(x)
    y = np.cross(hole.out, x)
    turns = np.linspace(0, 2 * np.pi, 24, endpoint=False) + 0.13
    around = np.outer(np.cos(turns), x) + np.outer(np.sin(turns), y)
    for step in hole.steps:
        if step.kind != "bore":
            continue
        middle = hole.mouth - hole.out * (step.start + step.end) / 2
        found = reach(samples, middle, around)
        if (np.abs(found - step.diameter / 2) < near).mean() < 0.7:
            return f"Ø{step.diameter:.4g} is Ø{2 * np.median(found):.4g} by rays"
    low = hole.mouth - hole.out * hole.bore.start - hole.out * 1e-4 * samples.size
    deep = float(reach(samples, low, -hole.out[None])[0])
    floor = max(s.end for s in hole.steps) - hole.bore.start
    if hole.through and deep < floor - near:
        return f"through, but rays end {deep:.4g} deep"
    if not hole.through and abs(deep - floor) > near + 1e-4 * samples.size:
        return f"{floor:.4g} deep, by rays {deep:.4g}"
    return ""


def left_over(part: Part) -> int:
    """Cylinders that face their axis all round and are in no hole."""
    within = {f for h in holes_of(part) for f in h.faces}
    found = 0
    for k, face in enumerate(part.faces):
        if face.surface.kind != "cylinder" or k in within or face.surface.kind not in TURNED:
            continue
        circles = [part.edges[e].curve for e in face.boundary if part.edges[e].curve.is_circle]
        found += facing_in(part, k) and sum(c.full_turn for c in circles) >= 2
    return found


def compared(path: Path) -> tuple[Part, Counter[str], list[str]] | None:
    """A part file, how many of its holes agree, and what does not."""
    part = read_part(path)
    if not part.faces or len(part.faces) > MOST:
        return None
    shapes: list[Any] = [raw.shape for raw in _read_step(path, path.name)[0]]
    samples, count, faults = sample(shapes), Counter(), []
    for hole in holes_of(part):
        kind = "through" if hole.through else "blind"
        kind += " counterbored" if hole.counterbore else ""
        kind += " countersunk" if hole.countersink else ""
        why = agrees(samples, hole)
        count[kind if not why else "wrong"] += 1
        if why:
            faults.append(why)
    count["left over"] = left_over(part)
    return part, count, faults


def main() -> None:
    """Print the table."""
    total: Counter[str] = Counter()
    parts = 0
    for folder in sys.argv[1:]:
        for path in sorted(p for p in Path(folder).iterdir() if p.suffix.lower() in (".step", ".stp")):
            try:
                found = compared(path)
            except UserError:
                continue
            if found is None:
                continue
            parts += 1
            part, count, faults = found
            total += count
            if count:
                print(f"{path.name[:56]:56} {len(part.faces):5} faces  {dict(+count)}", flush=True)
            for fault in faults[:4]:
                print("     ", fault)
    print(f"{parts} parts: {dict(total)}")


if __name__ == "__main__":
    main()
