"""A whole sheet as ink, element by element: frame and title block, views, captions, annotations.

Each element's ink is kept by what it depends on: what a change does not touch is not drawn anew, and what is only moved
is moved.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..display import DisplayList, Element, Sketch, box_of
from ..display.lettering import lettered, text_width
from ..drawing import AuxiliaryView, DetailView, Dimension, Drawing, SectionView, Sheet, View
from ..drawing.annotations import AnyAnnotation
from ..drawing.views import DIMETRIC, ISOMETRIC, FreeView, PictorialView, PrincipalView
from ..kinds import solve
from ..kinds.common.solving import Solved
from ..kinds.common.tolerancing import with_tolerance
from ..measuring.context import LayoutContext, root_view
from ..measuring.style import Style, style_of
from ..measuring.watched import Answers, told
from ..standards.lines import LineGroup
from ..standards.scales import scale_text
from ..standards.sheets import sheet_rectangle
from ..views.conventions import NONE, Conventions
from ..views.drawing_views import draw_view
from ..views.placed_view import PlacedView, ProjectionCache
from .cuts import draw_hatch, keeping_clear
from .display_cache import DisplayCache, drawn_watching, key_of
from .threading import conventions_of, thread_elements
from .title_block import draw_frame, draw_title_block
from .windows import draw_turn

NAMES = {
    "front": "Front",
    "left": "Left",
    "right": "Right",
    "top": "Top",
    "bottom": "Bottom",
    "back": "Back",
    "corner": "Isometric",
    "detail": "Detail",
    "square": "Auxiliary view",
}


Array = NDArray[np.float64]
TURN = 1.9
"""Lettering heights of room for the sign of a turned view."""


def mass_told(drawing: Drawing, sheet: Sheet, projections: ProjectionCache) -> tuple[float | None, str]:
    """Mass in g of the part that a sheet is about, None where it is not known, and in words from what it follows."""
    use = drawing.subject(sheet)
    if use is None:
        return None, ""
    listed = listed_masses(drawing, use.key)
    if listed is not None:
        return listed, "the masses of all items together"
    part = projections.part(use.key)
    if use.told and use.density is None and use.material not in {b.material or "" for b in part.bodies}:
        # a material of which nobody knows how heavy it is
        return None, ""
    mass = part.mass(use.density)
    if mass is None:
        return None, ""
    volume = f"{sum(b.volume for b in part.bodies if b.solid) / 1000:.4g} cm³"
    if use.density is None:
        return mass, f"{volume} with the densities of the part file"
    named = f" {use.material}" if use.material else ""
    return mass, f"{volume} of{named} at {use.density:g} g/cm³"


def listed_masses(drawing: Drawing, part: str) -> float | None:
    """The masses of all items of a part together, g, where materials were chosen for items and each has a mass; None else."""
    listed = [i for i in drawing.items if i.part == part]
    if not any(i.material for i in listed) or any(i.mass is None for i in listed):
        return None
    return sum((i.mass or 0.0) * i.quantity for i in listed)


def view_name(view: View) -> str:
    """A view's name in words."""
    if isinstance(view, SectionView):
        kind = "Revolved section" if view.within else "Removed section" if view.bare else "Section"
        return f"{kind} {view.letter}–{view.letter}" if view.letter else kind
    if isinstance(view, DetailView | AuxiliaryView):
        return f"{NAMES[view.look]} {view.letter}".strip()
    if isinstance(view, PictorialView) and view.form != "axonometric":
        return view.form.capitalize()
    if isinstance(view, PictorialView) and view.angles != ISOMETRIC:
        return "Dimetric" if _alike(view.angles, DIMETRIC) else "Trimetric"
    return NAMES.get(view.look, "Own")


def _alike(a: tuple[float, float], b: tuple[float, float]) -> bool:
    return all(abs(x - y) < 0.01 for x, y in zip(a, b, strict=True))


def view_words(view: View) -> str:
    """What a view is, in words."""
    if isinstance(view, PrincipalView | FreeView) and (view.flat is not None or view.mirrored):
        name = "Flat pattern" if view.flat is not None else f"{view_name(view)} view"
        return f"{name}, mirrored" if view.mirrored else name
    named = isinstance(view, SectionView | DetailView | AuxiliaryView)
    return view_name(view) if named else f"{view_name(view)} view"


def blank(drawing: Drawing, sheet: Sheet) -> DisplayList:
    """An empty sheet of the right size."""
    r = sheet_rectangle(sheet.size, sheet.landscape)
    return DisplayList(r.x1, r.y1, drawing.lines_of(sheet), names={"sheet": "frame-and-title-block"})


def view_element(
    placed_view: PlacedView,
    lines: LineGroup,
    display_cache: DisplayCache,
    pending: bool = False,
    instead: Conventions = NONE,
) -> Element:
    """A view's lines and tones; none in whose place something else is drawn ``instead``."""
    view, transform = placed_view.view, placed_view.transform
    said = key_of(
        "view", view.id, placed_view.projected.scene.digest, transform.name, sorted(instead.refs), pending, lines
    )

    def drawn(seen: View, key: Callable[[], str]) -> Element:
        sketch = Sketch(lines)
        draw_view(sketch, replace(placed_view.still(), view=seen), instead)
        words = view_words(seen)
        return sketch.element(view.id, "view", view.id, words, key(), (0.0, 0.0), view=view.id)

    return drawn_watching(display_cache, said, view, drawn).placed(transform.place)


def drawn_view(
    drawing: Drawing, sheet: Sheet, placed_view: PlacedView, ink: DisplayList, display_cache: DisplayCache
) -> list[Element]:
    """A view by itself as it is drawn on a sheet: its hatch, its lines and tones, and the threads that it shows."""
    instead = conventions_of(drawing, placed_view)
    hatch = hatch_element(drawing, placed_view, ink.lines, display_cache, instead=instead)
    own = view_element(placed_view, ink.lines, display_cache, instead=instead)
    threads = thread_elements(drawing, sheet, placed_view, display_cache)
    return [e for e in (hatch, own, *threads) if e is not None]


def caption_element(
    placed_view: PlacedView, drawing: Drawing, sheet: Sheet, title: str, written: Collection[Element] = ()
) -> Element | None:
    """A view's ``title`` above it or below, with its scale where that is not the main one (ISO 128-3, ISO 5455) or its style has it,
    and clear of what is ``written`` on the view."""
    view, lines = placed_view.view, drawing.lines_of(sheet)
    look, text = drawing.look_of(view), title
    scale = sheet.scale_of(view)
    with_scale = scale != sheet.scale or isinstance(view, DetailView)
    if look.scale == "always" or (with_scale and look.scale == "auto"):
        text = f"{text} ({scale_text(scale)})".strip()
    if not (text or view.turn):
        return None
    sketch = Sketch(lines)
    box, place = placed_view.box, placed_view.transform.place
    height = look.letters or (lines.caption if title else lines.lettering)
    below = look.caption == "below"
    at = (box.x0 + box.x1) / 2 - place[0], (box.y0 - 5.0 - height if below else box.y1 + 5.0) - place[1]
    turn = f"{abs(view.turn):g}°" if view.turn else ""
    wide = text_width(text, height), text_width(turn, height)
    half = (sum(wide) + (TURN * height if turn else 0.0)) / 2 + 1.0
    boxes = [b for e in written if (b := box_of(e.marks)) is not None]
    for box_ in sorted(boxes, key=lambda b: -b.y1 if below else b.y0):
        if (
            box_.x0 < at[0] + half
            and box_.x1 > at[0] - half
            and box_.y0 < at[1] + height + 1.5
            and box_.y1 > at[1] - 1.5
        ):
            at = at[0], box_.y0 - 3.0 - height if below else box_.y1 + 3.0
    if view.caption_off is not None:
        at = at[0] + view.caption_off[0], at[1] + view.caption_off[1]
    if turn:
        left = at[0] - half + 1.0
        sketch.text(text, left, at[1], height)
        draw_turn(sketch, (left + wide[0] + TURN * height / 2, at[1] + height / 2), height / 2, view.turn > 0)
        sketch.text(turn, left + wide[0] + TURN * height, at[1], height)
    else:
        sketch.text(text, at[0], at[1], height, "middle")
    own = f"{view.id}-caption"
    words = f"caption {text}{f', turned by {turn}' if turn else ''}"
    key = key_of(own, text, turn, view.turn > 0, at, height)
    return sketch.element(own, "caption", view.id, words, key, place, view=view.id)


def context_of(drawing: Drawing, sheet: Sheet, placed_views: dict[str, PlacedView], on: str | None) -> LayoutContext:
    """The layout context of annotations on a view (by its id), or on the sheet itself (None)."""
    placed_view = placed_views[on].still() if on is not None else None
    return LayoutContext(drawing, sheet, style_of(drawing, sheet), placed_view, placed_views, solve=solve)


def solved(
    drawing: Drawing, sheet: Sheet, projections: ProjectionCache
) -> dict[str, tuple[Solved, tuple[float, float]]]:
    """All annotations of a sheet, solved, each with the place of the view on which it hangs."""
    placed_views = projections.placed_views(drawing, sheet)
    found = {}
    with lettered(drawing.font):
        for annotation in sheet.annotations:
            root = root_view(sheet, annotation)
            place = placed_views[root].transform.place if root is not None else (0.0, 0.0)
            found[annotation.id] = solve(annotation, context_of(drawing, sheet, placed_views, root)), place
    return found


def scene_key(context: LayoutContext, pending: bool) -> str:
    """What annotations on a view depend on besides themselves and what they read of the document: the view as it is drawn, and how
    they are to look."""
    scene: tuple[object, ...] = ("", "")
    if context.placed_view is not None:
        placed_view = context.placed_view
        cropped = isinstance(placed_view.view, DetailView) and (placed_view.view.edge, placed_view.view.border)
        scene = (
            placed_view.projected.scene.digest,
            placed_view.transform.name,
            placed_view.projected.scene.own,
            cropped,
        )
    return key_of(*scene, context.style, pending)


def annotation_element(
    annotation: AnyAnnotation,
    root: str | None,
    context: LayoutContext,
    display_cache: DisplayCache,
    scene: str,
    at: tuple[float, float],
) -> Element:
    """An annotation's ink; ``scene`` is its :func:`scene_key`."""
    known = display_cache.last(annotation, scene, context.answers)
    if known is None:

        def made() -> tuple[Element, Answers]:
            seen = context.watching()
            assert seen.asked is not None
            found = solve(annotation, seen)
            sketch = Sketch(context.style.lines)
            found.draw(sketch)
            if isinstance(annotation, Dimension) and sketch.record is not None:
                sketch.record = with_tolerance(seen, annotation, sketch.record)
            kind = type(annotation).model_fields["kind"].default
            group = root or "sheet"
            # each answer once, in whichever order it was asked for
            key = key_of(annotation.model_dump_json(), scene, told(seen.asked))
            drawn = sketch.element(annotation.id, kind, group, found.words, key, (0.0, 0.0), loose=found.loose)
            return drawn, seen.asked

        known, asked = display_cache.watched(key_of(annotation.model_dump_json(), scene), context.answers, made)
        display_cache.remember(annotation, scene, asked, known)
    return known.placed(at)


def frame_element(
    drawing: Drawing, sheet: Sheet, values: dict[str, str], lines: LineGroup, display_cache: DisplayCache
) -> Element:
    """Frame and title block."""
    template = drawing.template_of(sheet)
    key = key_of("sheet", template, sheet.size, sheet.landscape, drawing.angle, sorted(values.items()), lines)

    def made() -> Element:
        frame = Sketch(lines)
        draw_frame(frame, template, sheet)
        draw_title_block(frame, drawing.angle, template, sheet, values)
        return frame.element("sheet", "sheet", "sheet", "frame and title block", key, (0.0, 0.0))

    return display_cache.get(key, made)


def hatch_element(
    drawing: Drawing,
    placed_view: PlacedView,
    lines: LineGroup,
    display_cache: DisplayCache,
    written: Sequence[Element] = (),
    instead: Conventions = NONE,
) -> Element | None:
    """The hatch of a view, clear of what is ``written`` on it."""
    view, transform = placed_view.view, placed_view.transform
    if not placed_view.projected.taken.regions:
        return None
    clear = keeping_clear([m for e in written if e.group == view.id for m in e.marks])
    use = drawing.part(view.part)
    material = "" if use is None else use.material
    shown = [np.round(c, 2).tolist() for c in clear]
    looks = drawing.hatches, view.hatches, material, drawing.main_scale(view.id)
    scene = placed_view.projected.scene.digest, transform.name, sorted(instead.refs)
    key = key_of("hatch", view.id, scene, looks, shown, lines)

    def made() -> Element:
        sketch = Sketch(lines)
        draw_hatch(sketch, drawing, placed_view.still(), clear, instead)
        return sketch.element(f"{view.id}-hatch", "hatch", view.id, "hatch", key, (0.0, 0.0), view=view.id)

    return display_cache.get(key, made).placed(transform.place)


__all__ = [
    "DisplayCache",
    "Style",
    "annotation_element",
    "blank",
    "caption_element",
    "context_of",
    "mass_told",
    "scene_key",
    "solved",
    "view_element",
    "view_name",
]
