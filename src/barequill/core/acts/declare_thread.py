"""A bore or shaft declared to be threaded."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..bounds import Name, Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import SetThreads, need_view
from ..drawing.threads import Size, Thread
from ..errors import UserError
from ..features.faces import faces_beside, halves_of
from ..features.helices import Helix, helix_at
from ..features.holes import Hole, hole_at, like
from ..features.rings import facing_in
from ..part.model import Part
from ..standards.threads import SIZES, ThreadSize, proposed
from .base import ActContext, AnyAct


class DeclareThread(AnyAct):
    """The thread of the bore or shaft that an edge or face of it names: ``size`` such as ``M8`` or ``M8×1``, the likeliest by its
    diameter where none is given, ``none`` takes it back; ``alike``: of all holes that are made alike."""

    act: Literal["declare_thread"] = "declare_thread"
    view: Ref
    ref: Ref
    size: Name = ""
    length: Size | None = None
    tolerance: str = Field(default="", max_length=12)
    hand: Literal["right", "left"] = "right"
    alike: bool = True

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view = need_view(drawing, self.view)
        part = acting.projections.part(view.part)
        helix = helix_at(part, self.ref)
        if helix is not None:
            return self._of_helix(drawing, view.part, part, helix)
        rows = [r for r in faces_beside(part, self.ref) if part.faces[r].surface.kind == "cylinder"]
        if not rows:
            raise UserError("That is no bore or shaft", "Point at the circle or the sides of one.")
        row = rows[0]
        internal = facing_in(part, row)
        hole = hole_at(part, self.ref) if internal else None
        owners = [row]
        if hole is not None:
            row = _bore_of(part, hole)
            owners = [_bore_of(part, h) for h in (like(part, hole) if self.alike else [hole])]
        gone = {part.faces[f].ref for owner in owners for f in halves_of(part, owner)}
        kept = [t for t in drawing.threads if not (t.part == view.part and t.ref in gone)]
        if self.size.strip().lower() == "none":
            return SetThreads(threads=kept)
        size = _size(self.size, 2 * part.faces[row].surface.radius, internal, drawing.unit == "inch")
        added = [
            Thread(
                part=view.part,
                ref=part.faces[owner].ref,
                size=size.name,
                diameter=size.diameter,
                pitch=size.pitch,
                length=self.length,
                tolerance=self.tolerance or ("6H" if internal else "6g")
                if size.name.startswith("M")
                else self.tolerance,
                hand=self.hand,
            )
            for owner in owners
        ]
        return SetThreads(threads=[*kept, *added])

    def _of_helix(self, drawing: Drawing, key: str, part: Part, helix: Helix) -> Operation:
        """A thread that is modelled as it is cut, shown as the convention has it instead."""
        refs = helix.refs(part)
        kept = [t for t in drawing.threads if not (t.part == key and t.ref in refs)]
        if self.size.strip().lower() == "none":
            return SetThreads(threads=kept)
        likely = [t for t in SIZES.values() if abs(t.pitch - helix.pitch) < 0.03 * helix.pitch]
        likely.sort(key=lambda t: abs(t.diameter - helix.major))
        near = [t for t in likely if abs(t.diameter - helix.major) < 0.75 * helix.pitch]
        if self.size.strip():
            size = _size(
                self.size, helix.minor if helix.internal else helix.major, helix.internal, drawing.unit == "inch"
            )
        elif near:
            size = near[0]
        else:
            raise UserError(
                f"No usual thread has Ø{helix.major:.4g} and a pitch of {helix.pitch:.4g} mm",
                "Name the nearest that is meant, such as M8 or M8×1.",
            )
        thread = Thread(
            part=key,
            ref=part.faces[helix.faces[0]].ref,
            size=size.name,
            diameter=size.diameter,
            pitch=size.pitch,
            tolerance=self.tolerance or (("6H" if helix.internal else "6g") if size.name.startswith("M") else ""),
            hand="left" if helix.left else "right",
        )
        return SetThreads(threads=[*kept, thread])


def _bore_of(part: Part, hole: Hole) -> int:
    """The face of the narrowest bore of a hole, by row."""
    bores = [f for f in hole.faces if part.faces[f].surface.kind == "cylinder"]
    return min(bores, key=lambda f: part.faces[f].surface.radius)


def _size(text: str, diameter: float, internal: bool, inch: bool) -> ThreadSize:
    """The thread of that name, or the likeliest for a diameter (mm).

    Raises
    ------
    UserError
        Where there is none.
    """
    likely = proposed(diameter, internal, inch)
    if not text.strip():
        if not likely:
            raise UserError(f"No usual thread has a diameter of {diameter:g} mm", "Name one, such as M8 or M8×1.")
        return likely[0]
    name = text.strip().upper().replace("X", "×").replace(",", ".").replace(" ×", "×").replace("× ", "×")
    found = SIZES.get(name) or next((t for n, t in SIZES.items() if n.upper() == name), None)
    found = found or next((t for n, t in SIZES.items() if n.split("×")[0] == name or n.split(" ")[0] == name), None)
    if found is None:
        raise UserError(f"“{text}” is not a thread", "Write it as M8, M8×1 or 1/4-20.")
    gap = diameter - (found.core if internal else found.diameter)
    if abs(gap) > 1.5 * found.pitch:
        raise UserError(
            f"{found.name} does not fit Ø{diameter:g}",
            "Likely are " + (", ".join(t.name for t in likely[:3]) or "none") + ".",
        )
    return found
