"""A whole sheet as ink: frame, title block, views, annotations."""

from __future__ import annotations

from ..drawing.document import CentreLine, CentreMark, Dimension, Drawing, Sheet, View
from ..ink import Ink
from ..standards.lines import line_group
from ..standards.scales import scale_text
from ..standards.sheets import sheet_rectangle
from ..views.picture import Picture, Studio, draw_view
from .centres import draw_centre_line, draw_centre_mark
from .dimensions import draw_dimension
from .title_block import draw_frame, draw_title_block, field_values


def mass_of(drawing: Drawing, studio: Studio) -> float | None:
    """Mass in g of the drawing's part, where densities are known."""
    if not drawing.parts:
        return None
    use = drawing.parts[0]
    return studio.part(use.key).mass(use.density)


def view_name(view: View) -> str:
    """A view's name in words."""
    names = {
        "front": "Front",
        "left": "Left",
        "right": "Right",
        "top": "Top",
        "bottom": "Bottom",
        "back": "Back",
        "corner": "Isometric",
    }
    return names[view.look]


def blank(drawing: Drawing, sheet: Sheet) -> Ink:
    """An empty sheet of the right size."""
    r = sheet_rectangle(sheet.size, sheet.landscape)
    ink = Ink(r.x1, r.y1, line_group(sheet.size))
    ink.names["sheet"] = "frame-and-title-block"
    ink.group_of["sheet"] = "sheet"
    return ink


def draw_caption(ink: Ink, picture: Picture, sheet: Sheet) -> None:
    """A view's caption above it, with its scale where that is not the main one (ISO 128-3, ISO 5455)."""
    view = picture.view
    text = view.caption
    if picture.scale != sheet.scale:
        text = f"{text} ({scale_text(picture.scale)})".strip()
    if text:
        box = picture.box
        ink.text(
            text,
            (box.x0 + box.x1) / 2,
            box.y1 + 5.0,
            ink.group.caption if view.caption else ink.group.lettering,
            f"{view.id}-caption",
            "middle",
        )
        ink.group_of[f"{view.id}-caption"] = view.id


def draw_sheet(drawing: Drawing, sheet: Sheet, studio: Studio, today: str) -> Ink:
    """All marks of a sheet; ``today`` is the date (ISO 8601) where none was filled in."""
    ink = blank(drawing, sheet)
    mass = mass_of(drawing, studio)
    values = field_values(drawing, sheet, mass, today)
    ink.title = " ".join(x for x in (values.get("number", ""), values.get("title", "")) if x) or "Drawing"
    draw_frame(ink, sheet)
    draw_title_block(ink, drawing, sheet, mass, today)
    pictures = studio.pictures(sheet)
    for picture in pictures.values():
        ink.names[picture.view.id] = f"{view_name(picture.view)} view"
        draw_view(ink, picture, drawing)
        draw_caption(ink, picture, sheet)
    for annotation in sheet.annotations:
        picture = pictures[annotation.view]
        match annotation:
            case Dimension():
                draw_dimension(ink, picture, annotation, drawing)
            case CentreMark():
                draw_centre_mark(ink, picture, annotation)
            case CentreLine():
                draw_centre_line(ink, picture, annotation)
    return ink
