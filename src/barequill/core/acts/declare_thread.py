"""A bore or shaft declared to be threaded."""

from __future__ import annotations

from typing import Any, Literal

import numpy as np
from pydantic import Field

from ..bounds import Name, Ref
from ..drawing import Drawing, Operation
from ..drawing.operations import SetThreads, need_view
from ..drawing.threads import Size, Thread
from ..errors import BadOperation, UserError
from ..features.faces import faces_beside, halves_of
from ..features.helices import Helix, helix_at
from ..features.holes import Hole, hole_at, like
from ..features.rings import facing_in
from ..measuring.named import round_faces
from ..part.model import Part
from ..standards.threads import SIZES, ThreadSize, fits, named, proposed
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
        usual = size.usual_class[0 if internal else 1]
        said = {"length": self.length, "tolerance": self.tolerance or usual, "hand": self.hand}
        added = [_thread(view.part, part.faces[o].ref, size, said) for o in owners]
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
                self.size, helix.minor if helix.internal else helix.major, helix.internal, drawing.unit == "inch", True
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
            tolerance=self.tolerance or size.usual_class[0 if helix.internal else 1],
            hand="left" if helix.left else "right",
        )
        return SetThreads(threads=[*kept, thread])


class ChangeThread(AnyAct):
    """What a thread is said to be, changed: its ``size`` (``none`` takes it back), class, hand, how long it is and how far it
    runs out (mm; 0 as the bore or shaft has it, and no run-out); what is not given stays. ``alike``: of all holes that are made alike and have the
    same thread."""

    act: Literal["change_thread"] = "change_thread"
    view: Ref
    ref: Ref
    size: Name | None = None
    tolerance: str | None = Field(default=None, max_length=12)
    hand: Literal["right", "left"] | None = None
    length: float | None = Field(default=None, ge=0, le=1000, allow_inf_nan=False)
    runout: float | None = Field(default=None, ge=0, le=1000, allow_inf_nan=False)
    alike: bool = True

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        _, view = need_view(drawing, self.view)
        part = acting.projections.part(view.part)
        own = next((t for t in drawing.threads if t.part == view.part and t.ref == self.ref), None)
        if own is None:
            raise BadOperation("The thread is gone", "It was taken back.")
        refs = {own.ref}
        hole = hole_at(part, own.ref)
        if hole is not None and self.alike and helix_at(part, own.ref) is None:
            refs |= {part.faces[f].ref for h in like(part, hole) for f in h.faces}
        changes: dict[str, object] = {}
        if self.size is not None and self.size.strip().lower() != "none":
            stated = DeclareThread(view=self.view, ref=self.ref, size=self.size).plan(drawing, acting)
            assert isinstance(stated, SetThreads)
            new = stated.threads[-1]
            changes |= {"size": new.size, "diameter": new.diameter, "pitch": new.pitch, "tolerance": new.tolerance}
        if self.tolerance is not None:
            changes["tolerance"] = "" if self.tolerance.strip().lower() == "none" else self.tolerance.strip()
        if self.hand is not None:
            changes["hand"] = self.hand
        for field in ("length", "runout"):
            if (value := getattr(self, field)) is not None:
                changes[field] = value or None
        if own.length is None and not changes.get("length") and changes.get("runout"):
            raise UserError("A run-out needs the thread's length", "Say first how long the thread is.")

        def meant(thread: Thread) -> bool:
            return thread.part == view.part and thread.ref in refs and thread.size == own.size

        if self.size is not None and self.size.strip().lower() == "none":
            return SetThreads(threads=[t for t in drawing.threads if not meant(t)])
        return SetThreads(
            threads=[Thread.model_validate(t.model_dump() | changes) if meant(t) else t for t in drawing.threads]
        )


def _bore_of(part: Part, hole: Hole) -> int:
    """The face of the narrowest bore of a hole, by row."""
    bores = [f for f in hole.faces if part.faces[f].surface.kind == "cylinder"]
    return min(bores, key=lambda f: part.faces[f].surface.radius)


def _size(text: str, diameter: float, internal: bool, inch: bool, modelled: bool = False) -> ThreadSize:
    """The thread of that name, or the likeliest for a diameter (mm); ``modelled`` as it is cut it is roughly that wide.

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
    found = named(text)
    if found is None:
        raise UserError(f"“{text}” is not a thread", "Write it as M8, M8×1, 1/4-20, G1/2, Rp1/2, 1/2-14 NPT or Tr20×4.")
    if not (modelled or fits(found, diameter, internal)) or abs(diameter - found.diameter) > 2 * found.pitch:
        wants = f"Ø{found.core:g}, its core hole" if internal else f"Ø{found.diameter:g}"
        raise UserError(
            f"{found.name} does not fit Ø{diameter:.4g}",
            f"It wants {wants}. "
            + (f"Likely here: {', '.join(t.name for t in likely[:3])}." if likely else "No usual thread fits here."),
        )
    return found


def threads_said(part: Part, inch: bool) -> list[Thread]:
    """The threads that a part's own file says its bores and shafts have; what is no thread, or lies on none of them, is left out."""
    found = []
    for said in part.threads:
        row = next(round_faces(part, np.array(said.place)), None)
        if row is None or part.faces[row].surface.kind != "cylinder":
            continue
        internal = facing_in(part, row)
        try:
            size = _size(said.size, 2 * part.faces[row].surface.radius, internal, inch)
        except UserError:
            continue
        more = {"length": said.length or None, "tolerance": size.usual_class[0 if internal else 1]}
        found.append(_thread(part.key, part.faces[row].ref, size, more))
    return found


def _thread(part: str, ref: str, size: ThreadSize, more: dict[str, Any]) -> Thread:
    """A thread of a size on a round face, and what more is said of it."""
    of_size = {"size": size.name, "diameter": size.diameter, "pitch": size.pitch}
    return Thread.model_validate({"part": part, "ref": ref, **of_size, **more})
