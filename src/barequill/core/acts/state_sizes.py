"""The sizes that a part's recipe names, stated on a sheet: each in the view that shows it best, in good order."""

from __future__ import annotations

from typing import Literal

import numpy as np
from pydantic import Field

from ..arranging.tidying import tidied
from ..bounds import FEW, NAME, Key, Ref
from ..drawing import AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.annotations.hole_note import HoleNote
from ..drawing.operations import Annotate, ChangeAnnotation, Group, apply, need_sheet
from ..errors import Unmeasurable, UserError
from ..features.holes import hole_at, like
from ..kinds.common.tolerancing import checked, parsed
from ..measuring.anchor_geometry import resolve
from ..measuring.measuring import Angular, measure
from ..measuring.named import round_faces, shown_in
from ..measuring.wording import in_unit
from ..part.model import Array
from ..part.named_sizes import NamedSize
from ..sheet.stages import draw_sheet
from ..values import value
from .base import ActContext, AnyAct
from .overall import Span, span_of


@value
class Sized:
    """What of a part's sizes is stated: what comes new, by its size; what is there and is only named; what no view shows."""

    made: dict[str, Dimension]
    named: dict[str, str]
    left: list[str]


class StateSizes(AnyAct):
    """The sizes of a part's recipe on a sheet, those named or all that say what they measure: each in the view that shows it best,
    with its tolerance. One that is there already is not stated twice; it is named, so that it changes the part too. What no view
    shows is said by name."""

    act: Literal["state_sizes"] = "state_sizes"
    sheet: Ref
    part: Key = ""
    """Of which part, where the sheet shows several; else of the one that has sizes."""
    names: list[Ref] = Field(default=[], max_length=FEW)

    def plan(self, drawing: Drawing, acting: ActContext) -> Operation:
        sheet = need_sheet(drawing, self.sheet)
        key, sizes = self._wanted(sheet, acting)
        found = self._sized(drawing, acting, sheet, key, sizes)
        operations: list[Operation] = [
            ChangeAnnotation(id=own, changes={"size": name}) for own, name in found.named.items()
        ]
        if found.made:
            new: list[AnyAnnotation] = list(found.made.values())
            trial = apply(drawing, Annotate(sheet=sheet.id, annotations=new))
            operations.append(Annotate(sheet=sheet.id, annotations=_ordered(trial, acting, sheet.id, new)))
        if not operations:
            if found.left:
                raise UserError(
                    f"No view shows {', '.join(found.left)}"[:NAME],
                    "Add a view or a section in which it lies square to the sight.",
                )
            raise UserError("The sizes of the recipe are all there", "Nothing was added.")
        what = f"{len(found.made)} sizes of the recipe" if found.made else "Name sizes after the recipe"
        label = f"{what}; no view shows {', '.join(found.left)}" if found.left else what
        return Group(label=label[:NAME], operations=operations)

    def _wanted(self, sheet: Sheet, acting: ActContext) -> tuple[str, list[NamedSize]]:
        keys = [self.part] if self.part else list(dict.fromkeys(v.part for v in sheet.views))
        for key in keys:
            sizes = [s for s in acting.projections.part(key).sizes if s.measure]
            if sizes:
                unknown = [n for n in self.names if n not in {s.name for s in sizes}]
                if unknown:
                    raise UserError(
                        f"The recipe shows no size {unknown[0]}", f"It shows {', '.join(s.name for s in sizes)}."
                    )
                return key, [s for s in sizes if not self.names or s.name in self.names]
        raise UserError(
            "The part has no sizes of its own",
            "Only a part that is a recipe names its sizes. Pull them out of the views, or look at what the part has.",
        )

    def _sized(self, drawing: Drawing, acting: ActContext, sheet: Sheet, key: str, sizes: list[NamedSize]) -> Sized:
        there = [
            (home, a)
            for home in drawing.sheets
            for a in home.annotations
            if isinstance(a, Dimension) and _part_of(home, a) == key
        ]
        said = {a.size for _, a in there if a.size}
        free = {
            a.id: meant
            for home, a in there
            if not a.size and not a.reference and (meant := _meant(drawing, acting, home, a)) is not None
        }
        views = [v.id for v in sheet.views if v.part == key]
        ids = drawing.fresh(len(sizes))
        result = Sized({}, {}, [])
        for size, own in zip(sizes, ids, strict=True):
            if size.name in said or _noted(drawing, acting, key, size):
                continue
            shown = []
            for k, view in enumerate(views):
                context, _ = acting.context(drawing, sheet, view)
                found = shown_in(context, size, own)
                if found is not None:
                    shown.append((found[0], -k, found[1]))
            if not shown:
                result.left.append(size.name)
                continue
            wanted = [w for s in shown if (w := _meant(drawing, acting, sheet, s[2])) is not None]
            same = next(
                (i for i, m in free.items() if i not in result.named and any(_same(m, w) for w in wanted)), None
            )
            if same is not None:
                result.named[same] = size.name
                continue
            best = max(shown, key=lambda s: s[:2])[2]
            result.made[size.name] = _toleranced(best, size, drawing.unit)
        return result


def _part_of(sheet: Sheet, dimension: Dimension) -> str:
    view = sheet.view(dimension.on)
    return view.part if view is not None else ""


def _noted(drawing: Drawing, acting: ActContext, key: str, size: NamedSize) -> bool:
    """True for the diameter of a hole that has its note, or of which one that is made alike has."""
    if size.measure != "diameter":
        return False
    part = acting.projections.part(key)
    row = next(round_faces(part, np.array(size.places[0])), None)
    own = hole_at(part, part.faces[row].ref) if row is not None else None
    if own is None:
        return False
    alike = {part.faces[f].ref for h in like(part, own) for f in h.faces}
    noted = (a.ref for s in drawing.sheets for a in s.annotations if isinstance(a, HoleNote))
    found = (hole_at(part, ref) for ref in noted)
    return any(h is not None and part.faces[h.faces[0]].ref in alike for h in found)


Meant = Span | tuple[str, float, Array, Array]


def _meant(drawing: Drawing, acting: ActContext, sheet: Sheet, dimension: Dimension) -> Meant | None:
    """What a dimension is about in space: the levels that it is between, or how great it is and about which axis."""
    if dimension.measure in ("distance", "length"):
        return span_of(drawing, sheet, acting, dimension)
    if dimension.measure not in ("diameter", "radius", "angle") or sheet.view(dimension.on) is None:
        return None
    context, _ = acting.context(drawing, sheet, dimension.on)
    projected = context.view.projected
    try:
        found = measure(projected, dimension)
        if isinstance(found, Angular):
            x, y = found.apex + projected.centre
            return (
                dimension.measure,
                found.value,
                projected.view.toward,
                x * projected.view.right + y * projected.view.up,
            )
        round_ = resolve(projected, dimension.anchors[0])
    except Unmeasurable:
        return None
    if round_.axis is None or not len(round_.space):
        return None
    return dimension.measure, found.value, round_.axis, np.mean(round_.space, axis=0)


def _same(a: Meant, b: Meant) -> bool:
    if isinstance(a, Span) or isinstance(b, Span):
        return (
            isinstance(a, Span)
            and isinstance(b, Span)
            and a.part == b.part
            and max(abs(x - y) for x, y in zip(a.levels, b.levels, strict=True)) < a.near
            and float(np.dot(a.way, b.way)) > 1 - 1e-9
        )
    aside = np.cross(b[3] - a[3], a[2])
    alike = a[0] == b[0] and abs(a[1] - b[1]) < 1e-6 and abs(float(a[2] @ b[2])) > 1 - 1e-9
    return alike and float(np.linalg.norm(aside)) < 1e-3


def _toleranced(dimension: Dimension, size: NamedSize, unit: Literal["mm", "inch"]) -> Dimension:
    """With the tolerance that the recipe gives; without where that is none for it."""
    angle = dimension.measure == "angle"
    try:
        tolerance = parsed(size.tolerance, in_unit(size.value, unit, angle), angle)
        if tolerance.kind == "fit":
            checked(tolerance, size.value, unit)
    except UserError:
        return dimension
    return dimension.model_copy(update={"tolerance": tolerance})


def _ordered(trial: Drawing, acting: ActContext, sheet_id: str, new: list[AnyAnnotation]) -> list[AnyAnnotation]:
    """What is new as it stands once it is tidied, all else staying where it is."""
    names = {a.id for a in new}
    sheet = need_sheet(trial, sheet_id)
    held = [
        a if a.id in names or not isinstance(a, Dimension) else a.model_copy(update={"pinned": True})
        for a in sheet.annotations
    ]
    sheet = sheet.model_copy(update={"annotations": held})
    still = trial.with_sheet(sheet)
    ink = draw_sheet(still, sheet, acting.projections, acting.display_cache)
    placed_views = acting.projections.placed_views(still, sheet)
    moved = {a.id: a for a in tidied(still, sheet, placed_views, ink, sorted({a.on for a in new}))}
    return [moved.get(a.id, a) for a in new]
