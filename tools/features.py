"""Features as they are recognised, beside what rays find: ``python -m tools.features PARTS…`` prints a table.

Rays along the axis of a hole must pass it, or end at its bottom; rays out of its axis must end at its radius. Just
within the skin of a boss or step, and just outside a groove, rays must meet it, and no longer so beyond its ends. From the
heart of a fillet they meet it at its radius; between the walls of a slot, keyway or channel, and within a rib, they meet
both walls. The corner that a chamfer takes away is outside the part. Every ray is cast at the feature's own body alone.
"""

from __future__ import annotations

import sys
from collections import Counter
from pathlib import Path
from typing import Any

import numpy as np

from barequill.core import Part, read_part
from barequill.core.errors import UserError
from barequill.core.features.faces import TURNED, normal_of
from barequill.core.features.feature import Feature
from barequill.core.features.holes import Hole, holes_of
from barequill.core.features.listing import features_of
from barequill.core.features.rings import facing_in
from barequill.core.reading.step import read_step

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
    for step in hole.steps:
        if step.kind != "bore":
            continue
        middle = hole.mouth - hole.out * (step.start + step.end) / 2
        found = reach(samples, middle, around(hole.out))
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


def inside(samples: Samples, place: np.ndarray) -> bool:
    """True where most of three rays from a place pass an odd number of faces."""
    votes = 0
    for way in np.array([[0.31, 0.52, 0.79], [-0.66, 0.23, 0.71], [0.12, -0.87, 0.48]]):
        way, at, count = way / np.linalg.norm(way), place.copy(), 0
        for _ in range(64):
            far = float(reach(samples, at, way[None])[0])
            if not np.isfinite(far):
                break
            count, at = count + 1, at + (far + 1e-5 * samples.size) * way
        votes += count % 2
    return votes >= 2


def around(axis: np.ndarray, rays: int = 24) -> np.ndarray:
    """Directions (n, 3) square to an axis, all round."""
    x = np.cross(axis, np.eye(3)[int(np.argmin(np.abs(axis)))])
    x /= np.linalg.norm(x)
    turns = np.linspace(0, 2 * np.pi, rays, endpoint=False) + 0.13
    return np.outer(np.cos(turns), x) + np.outer(np.sin(turns), np.cross(axis, x))


def share_at(samples: Samples, feature: Feature, height: float, sign: float) -> float:
    """How many of the rays around an axis meet a face of the feature's radius from just within (+1) or outside (-1)."""
    radius, step = feature.figure("diameter") / 2, 2e-3 * samples.size
    ways = around(feature.axis)
    middle = feature.place + height * feature.axis
    found = [float(reach(samples, middle + (radius - sign * step) * w, sign * w[None])[0]) for w in ways]
    return float((np.abs(np.array(found) - step) < 0.15 * step).mean())


def faulty(samples: Samples, part: Part, feature: Feature) -> str:
    """What is wrong with a feature that is no hole; nothing where rays find it as it was recognised."""
    kind, near = feature.kind, 1e-3 * samples.size
    figures = dict(feature.figures)
    if kind in ("boss", "step", "groove", "recess"):
        long = figures.get("height") or figures.get("length") or figures.get("width") or 0.0
        middle = long / 2 if kind == "boss" else 0.0
        sign = -1.0 if kind == "recess" else 1.0
        there = max(share_at(samples, feature, middle + x * long, sign) for x in (-0.3, 0.0, 0.3))
        if there < 0.6:
            return f"{kind} Ø{figures['diameter']:.4g} met by {there:.0%} of rays"
        ends = [middle + long / 2] if kind == "boss" else [middle - long / 2, middle + long / 2]
        for end in ends:
            beyond = share_at(samples, feature, end + np.sign(end - middle) * 4 * near, sign)
            if beyond > 0.3:
                return f"{kind} Ø{figures['diameter']:.4g} goes on beyond its end"
        return ""
    if kind in ("fillet", "round"):
        s = part.faces[feature.faces[0]].surface
        row = min(
            feature.faces,
            key=lambda k: np.linalg.norm(part.mesh.nodes[part.faces[k].nodes] - feature.place, axis=1).min(),
        )
        s, nodes = part.faces[row].surface, part.mesh.nodes[part.faces[row].nodes]
        corners = nodes[part.mesh.triangles[part.faces[row].triangles] - part.faces[row].nodes.start]
        place = corners[len(corners) // 2].mean(axis=0)
        off = place - s.origin
        along = (off @ s.axes[2]) * s.axes[2]
        heart = (
            s.origin + along
            if s.kind == "cylinder"
            else s.origin + s.radius * (off - along) / np.linalg.norm(off - along)
        )
        way = (place - heart) / np.linalg.norm(place - heart)
        if inside(samples, place - 0.1 * figures["radius"] * way) != (kind == "round"):
            return f"{kind} R{figures['radius']:.4g} to the other side"
        # other walls may stand between the heart and its fillet
        start = heart + 0.7 * figures["radius"] * way
        far = float(reach(samples, start, way[None])[0]) + 0.7 * figures["radius"]
        return "" if abs(far - figures["radius"]) < near else f"{kind} R{figures['radius']:.4g} is R{far:.4g} by rays"
    if kind == "chamfer":
        if "round" in feature.more:
            return ""
        corner = feature.place + feature.axis * 0.25 * figures["other"]
        right = not inside(samples, corner) and inside(samples, feature.place - feature.axis * 0.1 * figures["other"])
        return "" if right else "chamfer without a corner"
    if kind == "rib":
        ways = np.stack([feature.axis, -feature.axis])
        far = reach(samples, feature.place, ways)
        right = inside(samples, feature.place) and (np.abs(far - figures["thickness"] / 2) < near).all()
        return "" if right else f"rib {figures['thickness']:.4g} is {far.sum():.4g} by rays"
    # slots, keyways, channels
    walls = [
        k
        for k in feature.faces
        if part.faces[k].surface.kind == "plane" and abs(float(normal_of(part, k) @ feature.axis)) < 0.5
    ]
    side = normal_of(part, walls[0])
    nodes = part.mesh.nodes[part.faces[walls[0]].nodes]
    if kind == "channel" or (kind == "keyway" and "round ends" not in feature.more):
        middle = feature.place + 0.3 * figures["depth"] * feature.axis
    else:
        heights = nodes @ feature.axis
        lift = float(heights.min() + heights.max()) / 2 - float(feature.place @ feature.axis)
        middle = feature.place + lift * feature.axis
    middle = middle + (float((nodes[0] - middle) @ side) + figures["width"] / 2) * side
    far = reach(samples, middle, np.stack([side, -side]))
    right = not inside(samples, middle) and (np.abs(far - figures["width"] / 2) < near).all()
    return "" if right else f"{kind} {figures['width']:.4g} is {far.sum():.4g} by rays"


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
    """A part file, how many of its features agree, and what does not."""
    part = read_part(path)
    if not part.faces or len(part.faces) > MOST:
        return None
    shapes: list[Any] = [raw.shape for raw in read_step(path, path.name)[0]]
    alone = len(shapes) == len(part.bodies)
    kept: dict[int, Samples] = {}

    def samples_of(face: int) -> Samples:
        body = part.faces[face].body if alone else 0
        if body not in kept:
            kept[body] = sample([shapes[body]] if alone else shapes)
        return kept[body]

    count: Counter[str] = Counter()
    faults = []
    for hole, feature in zip(holes_of(part), features_of(part), strict=False):
        assert feature.faces == hole.faces
        why = agrees(samples_of(hole.faces[0]), hole)
        count["hole" if not why else "hole wrong"] += 1
        faults += [why] if why else []
    for feature in features_of(part)[len(holes_of(part)) :]:
        why = faulty(samples_of(feature.faces[0]), part, feature)
        count[feature.kind if not why else f"{feature.kind} wrong"] += 1
        faults += [why] if why else []
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
