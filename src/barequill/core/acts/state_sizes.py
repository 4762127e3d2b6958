"""The sizes that a part's recipe names, stated on a sheet: each in the view that shows it best, in good order."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from ..arranging.tidying import tidied
from ..bounds import FEW, NAME, Key, Ref
from ..drawing import AnyAnnotation, Dimension, Drawing, Operation, Sheet
from ..drawing.operations import Annotate, ChangeAnnotation, Group, apply, need_sheet
from ..errors import UserError
from ..kinds.common.tolerancing import checked, parsed
from ..measuring.named import shown_in
from ..measuring.wording import in_unit
from ..part.named_sizes import NamedSize
from ..sheet.stages import draw_sheet
from ..values import value
from .base import ActContext, AnyAct


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
        there = [a for s in drawing.sheets for a in s.annotations if isinstance(a, Dimension)]
        said = {a.size for a in there if a.size and _part_of(drawing, a) == key}
        views = [v.id for v in sheet.views if v.part == key]
        ids = drawing.fresh(len(sizes))
        result = Sized({}, {}, [])
        for size, own in zip(sizes, ids, strict=True):
            if size.name in said:
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
            same = next((a for _, _, d in shown for a in there if _alike(a, d) and not a.size), None)
            if same is not None and same.id not in result.named:
                result.named[same.id] = size.name
                continue
            best = max(shown, key=lambda s: s[:2])[2]
            result.made[size.name] = _toleranced(best, size, drawing.unit)
        return result


def _part_of(drawing: Drawing, dimension: Dimension) -> str:
    sheet = drawing.sheet_of(dimension.id)
    view = sheet.view(dimension.on) if sheet is not None else None
    return view.part if view is not None else ""


def _alike(there: Dimension, made: Dimension) -> bool:
    """True where one says what the other would, of the same places of the part."""
    refs = [sorted(a.ref for a in d.anchors) for d in (there, made)]
    return (
        there.measure == made.measure
        and there.on == made.on
        and refs[0] == refs[1]
        and there.direction == made.direction
    )


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
