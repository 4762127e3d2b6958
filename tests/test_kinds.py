"""Kinds of annotations declare what is done with them: one that is thrown away again touches its own files and no other."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import barequill

DOCUMENT = '''
"""Stamps: a letter on a leader."""
from __future__ import annotations
from typing import ClassVar, Literal
from ...bounds import Figure, Ref
from .base import AnyAnnotation

class Stamp(AnyAnnotation):
    """A stamp on a face."""
    noun: ClassVar[str] = "stamp"
    counts_as: ClassVar[str] = "stamp"
    lettered: ClassVar[bool] = True
    tidied: ClassVar[Literal["stays", "measured", "leader"]] = "leader"
    placed_by: ClassVar[tuple[str, ...]] = ("angle", "offset")
    kind: Literal["stamp"] = "stamp"
    ref: Ref = ""
    letter: str = ""
    angle: Figure = 0.0
    offset: Figure = 20.0

    @property
    def letters(self):
        return frozenset({self.letter} if self.letter else ())

    def says_of(self):
        return {self.ref: "diameter"}

    @property
    def leader(self):
        return self.angle, self.offset

    def led(self, angle, offset):
        return self.model_copy(update={"angle": angle, "offset": offset})
'''
SOLVED = '''
"""Stamps: a letter on a leader from the middle of a face."""
from __future__ import annotations
import numpy as np
from ..display.lettering import text_width
from .common.solving import Run, Solved, draw_line
from ..measuring.wording import Lettering

class SolvedStamp(Solved):
    def __init__(self, stamp, context):
        part, placed_view = context.view.projected.whole, context.view
        known = part.index.get(stamp.ref)
        self.words, self.stands_on, self.loose = f"stamp {stamp.letter}", (stamp.ref,), known is None
        centre = part.faces[known[1]].centre if known else part.low
        self.tip = placed_view.transform.to_sheet(placed_view.projected.flat(np.array([centre])))[0]
        a = np.radians(stamp.angle)
        foot = self.tip + stamp.offset * np.array([np.cos(a), np.sin(a)])
        high, wide = context.style.lettering, text_width(stamp.letter, context.style.lettering)
        self.run = Run(Lettering(((stamp.letter, 0.0, 0.0, high),), wide, high, stamp.letter), foot, 0.0)

    def occupies(self):
        return np.concatenate([self.tip[None], self.run.corners()])

    def draw(self, sketch):
        draw_line(sketch, self.tip, self.run.foot)
        self.run.draw(sketch)

def solve(stamp, context):
    return SolvedStamp(stamp, context)

def placer(stamp, context):
    return lambda s: SolvedStamp(s, context)
'''
TRIED = """
import sys
from pathlib import Path
from barequill.core import read_part
from barequill.core.acts import ActContext, NewDrawing, new_drawing
from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.acts.paste import Paste
from barequill.core.acts.tidy import Tidy
from barequill.core.sheet.stages import draw_sheet
from barequill.core.arranging.clashes import clashes
from barequill.core.measuring.inventory import inventory
from barequill.core.arranging.remarks import remarks_on
from barequill.core.drawing import Drawing
from barequill.core.drawing.annotations.stamp import Stamp
from barequill.core.drawing.operations import Annotate, apply
from barequill.core.errors import UserError
from barequill.core.display import Stroke
from barequill.core.views.placed_view import ProjectionCache
from barequill.core.views.projecting import take

part = read_part(Path(sys.argv[1]))
projections = ProjectionCache(lambda key: part)
acting = ActContext(projections)
drawing = new_drawing(projections, NewDrawing(part=part.key, size="A3"))
sheet = drawing.front_sheet
front = sheet.views[0].id
ink = lambda d: draw_sheet(d, d.front_sheet, projections)
mark = next(a for a in sheet.annotations if a.kind == "centre_mark" and a.on == front)
face = part.edges[part.index[mark.ref][1]].faces[0]
unsized = sum(s.sized for s in inventory(part, drawing))

def with_(*stamps):
    return apply(drawing, Annotate(sheet=sheet.id, annotations=list(stamps)))

# right over a centre mark: its lines give way
at = ink(drawing)
stamp = Stamp(id="e900", on=front, ref=part.faces[face].ref, letter="A", offset=0.5)
stamped = with_(stamp)
before, after = ({e.id: e for e in i.elements} for i in (at, ink(stamped)))
marked = [k for k, e in before.items() if e.kind == "centre_mark" and len(after[k].marks) > len(e.marks)]
assert marked, "no mark gave way"
# it is counted as what says of its face what that is
assert sum(s.sized for s in inventory(part, stamped)) == unsized + 1
# its letter is taken: the next section is B
box = projections.placed_views(stamped, stamped.front_sheet)[front].box
x = (box.x0 + box.x1) / 2
cut = CutView(view=front, points=[CutPoint(x=x, y=box.y0 - 3), CutPoint(x=x, y=box.y1 + 3)], to=(box.x1 + 60, 100))
assert apply(stamped, cut.plan(stamped, acting)).front_sheet.views[-1].letter == "B"
# it is tidied off what it lies on
other = Stamp(id="e901", on=front, ref=part.faces[face].ref, letter="D", offset=0.5)
two = with_(stamp, other)
assert clashes(ink(two))["text on text"] > 0
tidy = apply(two, Tidy(sheet=sheet.id).plan(two, acting))
assert not clashes(ink(tidy))["text on text"]
assert any(s.leader != t.leader for s, t in zip((stamp, other), tidy.front_sheet.annotations[-2:]))
# what is loose is remarked by its own name
lost = with_(Stamp(id="e902", on=front, ref="F0000000000", letter="E"))
assert any(r.on == "e902" and r.words.startswith("A stamp ") for r in remarks_on(ink(lost), {})), "no remark"
# a copy on another view is one more, and the same again is none
top = sheet.views[1].id
copied = Paste(on=top, annotations=[stamp]).plan(stamped, acting).annotations
assert [c.on for c in copied] == [top]
twice = apply(stamped, Annotate(sheet=sheet.id, annotations=copied))
try:
    Paste(on=top, annotations=[stamp.led(90.0, 40.0)]).plan(twice, acting)
except UserError as error:
    assert "None of it fits" in str(error.title)
else:
    raise AssertionError("pasted twice")
# the document is read again as it was written
assert Drawing.model_validate_json(stamped.model_dump_json()) == stamped
print("tried")
"""


def test_a_kind_declares_all_that_is_done_with_it_and_nothing_else_names_it(tmp_path) -> None:
    package = tmp_path / "barequill"
    source = Path(barequill.__file__).parent
    shutil.copytree(source, package, ignore=shutil.ignore_patterns("static", "*.pyc"))
    (package / "core/drawing/annotations/stamp.py").write_text(DOCUMENT)
    (package / "core/kinds/stamp.py").write_text(SOLVED)
    part = source / "demo/parts/round-gear-cover.step"
    done = subprocess.run(
        [sys.executable, "-c", TRIED, str(part)],
        env=os.environ | {"PYTHONPATH": str(tmp_path)},
        capture_output=True,
        text=True,
        timeout=300,
    )
    assert done.returncode == 0 and done.stdout.split()[-1] == "tried", done.stderr[-2000:]
