"""Sheets laid on the paper of a printer, at true size: one on each, or one after another on a roll, with a bar to measure."""

from __future__ import annotations

import io
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

from ..standards.sheets import SIZES, paper

ROLL = re.compile(r"roll ?(\d{3,4}(?:\.\d)?)")
"""How a roll is called: its width in mm."""
GAP = 10.0
"""mm between sheets on a roll, and beside them where there is room."""
LONGEST = 5000.0
"""mm of roll in a page: PDF knows none above 5080."""
SAME = 0.5
"""mm by which a sheet may be larger than the paper and still count as of its size."""
POINT = 72 / 25.4


@dataclass(frozen=True)
class Laid:
    """A sheet on a page: its row, the place of its lower left corner (mm) as it lies there, and whether it is turned by 90°."""

    row: int
    page: int
    x: float
    y: float
    turned: bool


@dataclass(frozen=True)
class PrintPlan:
    """What is printed: pages (width, height in mm), what lies on each, and what is to be known before, a line each."""

    pages: tuple[tuple[float, float], ...]
    laid: tuple[Laid, ...]
    warnings: tuple[str, ...]


def print_plan(sheets: Sequence[tuple[float, float]], on: str) -> PrintPlan:
    """How sheets (width, height in mm) lie on paper: ``""`` each on its own size, ``A3`` or another size, ``roll 914`` a roll of so
    many mm.

    Raises
    ------
    UserError
        Where there is no such paper.
    """
    if not on:
        return PrintPlan(tuple(sheets), tuple(Laid(k, k, 0.0, 0.0, False) for k in range(len(sheets))), ())
    roll = ROLL.fullmatch(on.strip().lower())
    if roll is not None:
        return _on_roll(sheets, float(roll[1]))
    short, long = paper(on.strip().upper().replace("X", "x"))
    pages, laid, warnings = [], [], []
    for k, (w, h) in enumerate(sheets):
        page = (long, short) if w > h else (short, long)
        pages.append(page)
        laid.append(Laid(k, k, (page[0] - w) / 2, (page[1] - h) / 2, False))
        if w > page[0] + SAME or h > page[1] + SAME:
            warnings.append(
                f"Sheet {k + 1} is {w:g} × {h:g} mm, larger than the paper of {page[0]:g} × {page[1]:g} mm: at true size its "
                f"border is cut off. Take {_fitting(w, h)}."
            )
    return PrintPlan(tuple(pages), tuple(laid), tuple(warnings))


def _fitting(w: float, h: float) -> str:
    """The smallest paper on which a sheet goes."""
    long, short = max(w, h) - SAME, min(w, h) - SAME
    found = [(b * a, name) for name, (a, b) in SIZES.items() if a >= short and b >= long]
    return f"{min(found)[1]} or a roll" if found else "a roll"


def _on_roll(sheets: Sequence[tuple[float, float]], width: float) -> PrintPlan:
    """One after another along a roll; turned where that takes less of it, and fits."""
    laid: list[Laid] = []
    warnings, lengths = [], [GAP]
    for k, (w, h) in enumerate(sheets):
        # across the roll, along it, and whether it is turned for that
        ways = sorted([(w, h, False), (h, w, True)], key=lambda s: (s[0] > width + SAME, s[1]))
        across, along, turned = ways[0]
        if across > width + SAME:
            warnings.append(
                f"Sheet {k + 1} is {w:g} × {h:g} mm, wider than the roll of {width:g} mm: at true size its border is cut off."
            )
        if lengths[-1] > GAP and lengths[-1] + along + GAP > LONGEST:
            lengths.append(GAP)
        laid.append(Laid(k, len(lengths) - 1, (width - across) / 2, lengths[-1], turned))
        lengths[-1] += along + GAP
    pages = tuple((width, length) for length in lengths)
    # the first comes off the roll first: it is at the top of the page
    upright = tuple(
        Laid(
            s.row, s.page, s.x, pages[s.page][1] - s.y - (sheets[s.row][0] if s.turned else sheets[s.row][1]), s.turned
        )
        for s in laid
    )
    return PrintPlan(pages, upright, tuple(warnings))


def printed(pdf: bytes, plan: PrintPlan, bar: bool) -> bytes:
    """A PDF of sheets laid on paper as planned, with a ``bar`` of 100 mm in the margin of each; it says that it is not to be
    scaled."""
    import pikepdf
    from pikepdf import Dictionary, Name

    with pikepdf.open(io.BytesIO(pdf)) as source, pikepdf.open(io.BytesIO(_bar())) as measure, pikepdf.new() as made:
        sheets = [made.copy_foreign(page.as_form_xobject()) for page in source.pages]
        rule = made.copy_foreign(measure.pages[0].as_form_xobject())
        for k, (width, height) in enumerate(plan.pages):
            page = made.add_blank_page(page_size=(width * POINT, height * POINT))
            page.Resources = Dictionary(XObject=Dictionary())
            content = []
            for s in (s for s in plan.laid if s.page == k):
                box = [float(v) for v in sheets[s.row].BBox]
                x, y = s.x * POINT, s.y * POINT
                turn = f"0 1 -1 0 {x + box[3] - box[1]:.4f} {y:.4f}" if s.turned else f"1 0 0 1 {x:.4f} {y:.4f}"
                name = f"S{s.row}"
                page.Resources.XObject[Name(f"/{name}")] = sheets[s.row]
                content.append(f"q {turn} cm /{name} Do")
                if bar:
                    page.Resources.XObject[Name.Rule] = rule
                    content.append(f"q 1 0 0 1 {2.0 * POINT:.4f} {25.0 * POINT:.4f} cm /Rule Do Q")
                content.append("Q")
            page.Contents = made.make_stream("\n".join(content).encode())
        made.Root.ViewerPreferences = Dictionary(PrintScaling=Name("/None"))
        out = io.BytesIO()
        made.save(out, deterministic_id=True)
    return out.getvalue()


@lru_cache(maxsize=1)
def _bar() -> bytes:
    """An upright bar of 100 mm with a stroke at every 10, 8 mm wide, as a page."""
    from ..display.lettering import FONT_NAME
    from .pdf import canvas_of

    buffer = io.BytesIO()
    canvas = canvas_of(buffer, 8.0, 104.0)
    canvas.setLineWidth(0.25 * POINT)
    x, y = 5.0 * POINT, 2.0 * POINT
    canvas.line(x, y, x, y + 100 * POINT)
    for k in range(11):
        reach = (3.0 if k in (0, 10) else 1.5) * POINT
        canvas.line(x, y + 10 * k * POINT, x + reach - 0.5 * POINT, y + 10 * k * POINT)
    canvas.saveState()
    canvas.translate(x - 1.0 * POINT, y + 50 * POINT)
    canvas.rotate(90)
    canvas.setFont(FONT_NAME, 2.5 * POINT)
    canvas.drawCentredString(0, 0, "100 mm, to be measured on paper")
    canvas.restoreState()
    canvas.showPage()
    canvas.save()
    return buffer.getvalue()
