"""Filling in the demo data: the parts on the shelf, and ten finished drawings."""

from __future__ import annotations

import math
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from ..core.acts import NewDrawing
from ..core.acts.break_view import BreakView
from ..core.acts.centre_lines import PitchCircles
from ..core.acts.crop_view import CropView
from ..core.acts.cut_locally import CutLocally
from ..core.acts.enlarge import Enlarge
from ..core.acts.explode import Explode
from ..core.acts.item_numbers import NumberItems
from ..core.acts.items import ChangeItems, ItemChange, ListParts
from ..core.acts.lay_flat import LayFlat
from ..core.acts.leave_rib import LeaveRib
from ..core.acts.look_square import LookSquare
from ..core.acts.make_exact import MakeExact
from ..core.acts.outlining import DrawnOutline
from ..core.acts.overall import OverallSizes
from ..core.acts.revolve_between import RevolveBetween
from ..core.acts.sheets import NewSheet, SendTo
from ..core.acts.state_datum import StateDatum
from ..core.acts.state_frame import StateFrame
from ..core.acts.state_material import StateMaterial
from ..core.acts.state_notes import StateFlag
from ..core.acts.state_sign import StateSign
from ..core.acts.state_sizes import StateSizes
from ..core.acts.state_table import StateListTable
from ..core.acts.state_texture import StateTexture
from ..core.acts.take_revision import TakeRevision
from ..core.drawing.operations import MoveView, SetSheet, SetView
from ..core.drawing.pictures import Picture, PicturePath
from ..core.drawing.templates import ISO_7200
from ..core.drawing.title_cells import changed, split
from ..core.reading.reading import content_key
from ..core.standards.materials import MATERIALS
from ..core.views.placed_view import PlacedView
from ..web.issue_schemas import IssueRequest
from ..web.issues import issue_now
from ..web.parts import DEMO as FOLDER
from ..web.parts import demo_files
from ..web.services import Services
from .hand import Hand

STEMS = {
    "spindle-pedestal": "Cast iron EN-GJL-250",
    "long-pinion-spindle": "Steel C45",
    "angled-keeper": "Steel S235JR",
    "round-gear-cover": "Cast iron EN-GJL-250",
    "pawl": "Steel 42CrMo4",
    "catch-box": "Ductile iron EN-GJS-400-15",
    "rack-guard": "Steel S235JR",
    "small-pedestal-assembly": "Steel S235JR",
    "paddle-gear": "Steel S235JR",
}
OWNER = {"owner": "Withy Lock Trust", "creator": "R. Oake", "approver": "M. Sallow"}


def _keep_template(services: Services) -> None:
    """The trust's own title block, with its sign and who checked, kept for its drawings."""
    arch = "M0 0L0 60L1000 60L1000 0ZM60 90L940 90" + "".join(
        f"L{500 + 440 * math.cos(math.radians(t)):.1f} {90 + 440 * math.sin(math.radians(t)):.1f}"
        for t in range(0, 181, 5)
    )
    wheel = "M" + "L".join(
        f"{500 + 170 * math.cos(math.radians(t)):.1f} {250 + 170 * math.sin(math.radians(t)):.1f}"
        for t in range(0, 360, 10)
    )
    picture = Picture(width=1000, height=530, paths=[PicturePath(outlines=f"{arch}Z{wheel}Z")])
    own = split(ISO_7200, "owner", across=True, at=50)
    own = changed(own, "cell-1", picture=picture, shows="picture")
    own = split(own, "approver", across=True)
    own = changed(own, "cell-2", field="checked_by", label="Checked by", choices=["R. Oake", "M. Sallow", "J. Teasel"])
    name = OWNER["owner"]
    kept = own.model_copy(update={"name": name, "fields": {"owner": name}})
    services.store.keep("template", name, kept.model_dump(mode="json"))


def fill(home: Path, say: Callable[[str], object]) -> None:
    """Put the demo parts on the shelf and make the drawings, where they are not there yet; one part in a later revision too."""
    marker = home / "demo-filled"
    if marker.exists():
        return
    home.mkdir(parents=True, exist_ok=True)
    services = Services(home)
    try:
        keys = {stem: _bring(services, stem, material, say) for stem, material in STEMS.items()}
        for stem, draw in (
            ("long-pinion-spindle", draw_spindle),
            ("spindle-pedestal", draw_pedestal),
            ("round-gear-cover", draw_cover),
            ("catch-box", draw_box),
            ("small-pedestal-assembly", draw_assembly),
            ("angled-keeper", draw_keeper),
            ("pawl", draw_pawl),
            ("rack-guard", draw_guard),
            ("long-pinion-spindle", draw_short_spindle),
            ("paddle-gear", draw_gear),
        ):
            say(f"drawing {stem.replace('-', ' ')}")
            made = draw(services, keys[stem]).now
            services.prefetch(made.drawing, made.drawing.front_sheet)
            services.thumbnail(made, made.drawing.front_sheet)
            if stem == "spindle-pedestal":
                _revise(services, made.id, keys[stem], say)
        _keep_template(services)
        # its drawing is offered the cover as it was changed
        _read(services, FOLDER / "later" / "round-gear-cover-b.recipe", say, keys["round-gear-cover"])
        marker.write_text("1\n")
    finally:
        services.close()


def _revise(services: Services, drawing: int, key: str, say: Callable[[str], object]) -> None:
    """A drawing issued as A, then worked on as B, with its part as it was changed: longer in its foot, for a thicker spindle."""
    now = services.store.get(drawing)
    request = IssueRequest(
        edit=now.edit,
        letter="A",
        date="2026-11-20",
        words="First issue",
        creator=OWNER["creator"],
        approver=OWNER["approver"],
    )
    now = issue_now(services, drawing, request)
    later = _read(services, FOLDER / "later" / "spindle-pedestal-b.recipe", say, key)
    hand = Hand(services.store, services.acting, now)
    hand.act(TakeRevision(part=key, by=later))


def _bring(services: Services, stem: str, material: str, say: Callable[[str], object]) -> str:
    path = next(p for p in demo_files() if p.stem == stem)
    key = content_key(path.read_bytes())
    _read(services, path, say)
    services.store.set_part(key, {"material": material, "density": MATERIALS[material]})
    return key


def _read(services: Services, path: Path, say: Callable[[str], object], former: str = "") -> str:
    say(f"reading {path.name}")
    job = services.read(path.name, path, former=former)
    job.done.wait()
    if job.error is not None:
        raise job.error
    return job.key


def _hand(services: Services, wish: NewDrawing) -> Hand:
    return Hand(services.store, services.acting, services.store.add(services.propose(wish)))


def _spot(placed_view: PlacedView, place: tuple[float, float, float]) -> tuple[float, float]:
    """Where a place of the part stands on the sheet, mm."""
    x, y = placed_view.on_sheet(np.array([place]))[0]
    return float(x), float(y)


def draw_cover(services: Services, key: str) -> Hand:
    """The round gear cover: front with the hole circle, and an aligned section through two holes and the bore."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "iso"], face="+Y"))
    hand.place("front", (105, 165))
    hand.place("corner", (330, 195))
    c, s = 0.8660254, 0.5
    holes = ((0, 12, 50), "centre"), ((0, 26, 0), "centre"), ((-50 * c, 12, -50 * s), "centre")
    hand.cut("front", list(holes), (115, 0), lean=(1, 2))
    hand.pull("section", [(0, 12, 60), (0, 0, 58)], "above", 0)
    hand.pull("section", [(0, 26, 30), (0, 0, 58)], "above", 1)
    hand.pull("section", [(0, 18, 19), (0, 26, 30)], "above", 0)
    hand.pull("section", [(0, 22, 20)], "right", 0, tolerance="H7 with deviations")
    hand.pull("section", [(0, 9, 18)], "left", 0)
    hand.pull("section", [(0, 26, 33.4)], "right", 1)
    hand.pull("section", [(0, 6, 62)], "right", 2)
    hand.pull("section", [(0, 0, 10), (0, 2, 10)], "below", 0, suffix=" × 45°")
    hand.pull("front", [((0, 12, 50), "centre"), ((0, 12, -50), "centre")], "left", 0, sign="diameter")
    hand.pull_out("front", [(-25.46, 12, -25.46)], (30, -52))
    hand.note("front", (-43.3 - 3.3, 12, 25), (-12, 52))
    hand.act(PitchCircles(view=hand.placed_view("front").view.id))
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 3.2")
    hand.hang_on(StateDatum, "Ø40 H7 (+0.025/0)", (0, 60))
    hand.hang_on(StateFrame, "6× Ø6.6 ⌴ Ø11 ↧ 6", text="position Ø0.2 M B")
    hand.act(MakeExact(id=hand.last()))
    hand.hang(StateTexture, "section", (0, 0, 44), (-1, 0), text="Ra 1.6")
    block = hand.general_notes("Joint face scraped, free of paint.")
    hand.hang(StateFlag, "section", (0, 0, -50), (-10, 10), block=block.id, line=block.notes[-1].id)
    return hand


def draw_pedestal(services: Services, key: str) -> Hand:
    """The spindle pedestal: front, top, a full section with its ribs uncut, and a pictorial view."""
    hand = _hand(services, NewDrawing(part=key, size="A3", views=["front", "top", "left", "iso"]))
    hand.drop("left")
    hand.cut("front", [((0, -20, 80), "centre")], (130, 0))
    section = hand.placed_view("section")
    for y in (-26.0, 26.0):
        hand.act(LeaveRib(view=section.view.id, to=_spot(section, (0.0, y, 24.0))))
    hand.pull("front", [(-70, -28, 8), (70, -28, 8)], "below", 0, along=30)
    hand.pull("front", [(-64, -40, 0), (-64, -40, 16)], "left", 0)
    hand.pull("front", [(-30, -40, 0), ((0, -20, 60), "centre")], "left", 1)
    hand.pull_out("front", [(14.1, -20, 94.1)], (24, 18), tolerance="H7")
    hand.pull_out("front", [(-24, -20, 104)], (-16, 14))
    hand.pull("section", [(-34, -20, 70), (-34, 20, 70)], "above", 0)
    hand.thread("top", (2.83, 2.83, 114), "M8×1")
    hand.note("top", (2.83, 2.83, 114), (82, 4))
    hand.pull("top", [(-5, 34, 20), (5, 34, 20)], "above", 0)
    hand.pull("front", [(4, -20, 52), (60, -40, 16)], "right", 0)
    hand.pull("top", [(4, 37, 16), (20, 20, 114)], "right", 0)
    hand.pull("top", [((-54, -30.5, 16), "centre"), ((54, -30.5, 16), "centre")], "below", 0)
    hand.pull("top", [((-54, -30.5, 16), "centre"), ((-54, 30.5, 16), "centre")], "left", 0)
    hand.pull("top", [(-20, -40, 16), (-20, 40, 16)], "left", 1)
    hand.note("top", (58, 34.4, 16), (22, 20))
    hand.pull_out("top", [(66.5, -36.5, 16)], (14, -8), count=4)
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 6.3")
    hand.hang(StateDatum, "section", (0, -33, 0), (0, -14))
    hand.hang_on(StateFrame, "Ø40 H7", text="parallelism Ø0.05 B")
    hand.hang_on(StateDatum, "∥ Ø0.05 B")
    hand.hang_on(StateFrame, "4× Ø11", text="position Ø0.4 M B C")
    hand.act(MakeExact(id=hand.last()))
    hand.hang(StateTexture, "section", (0, 8, 60), (0, 1), text="Ra 1.6")
    hand.hang(StateTexture, "section", (0, 6, 0), (3, -12), text="Ra 3.2")
    hand.hang(StateFrame, "section", (0, -39, 16), (9, 9), text="parallelism 0.1 B")
    hand.general_notes("Casting: fettled, free of sand and blowholes.")
    hand.act(
        StateSizes(sheet=hand.now.drawing.front_sheet.id, names=["length", "height", "bore", "deep", "across", "along"])
    )
    return hand


def draw_spindle(services: Services, key: str) -> Hand:
    """The long pinion spindle: a chain of lengths, diameters in the view, removed sections at keyway and square."""
    hand = _hand(services, NewDrawing(part=key, size="A2", views=["front", "top", "iso"]))
    shoulders = [(0, 0, -5), (60, 0, -18), (150, 0, -22), (170, 0, -22), (330, 0, -18), (420, 0, 5)]
    hand.row("front", list(shoulders), "running", "below")
    hand.pull("front", [(370, 0, -5), (420, 0, 5)], "above", 0)
    hand.pull("front", [(30, 0, 15)], "left", 0, tolerance="k6 with deviations")
    for x, r, fit, along in ((145, 20, "h6", 9), (160, 25, "", 9), (250, 20, "", 9), (350, 16, "g6", 28)):
        hand.pull_out("front", [(x, 0, r)], (0, -3), place={"along": along}, tolerance=fit)
    hand.pull_out("top", [(331.5, 15, 0)], (0, -3), place={"along": 30})
    hand.pull("front", [(330, 0, 18), (333, 0, 7)], "above", 0, along=-9)
    hand.pull_out("front", [(1, 0, 14)], (0, 18), "chamfer", count=2)
    hand.pull("top", [((74, 0, 20), "centre"), ((136, 0, 20), "centre")], "above", 0)
    hand.pull("top", [(60, 18, 0), ((74, 0, 20), "centre")], "above", 1)
    hand.pull_out("top", [(136, 0, 20)], (6, 28))
    for at in (97.0, 385.0):
        hand.cut("front", [(at, 0, -40), (at, 0, 40)], (at - 210, 62), "removed")
    hand.pull("section B", [(385, 12, 0), (385, -12, 0)], "right", 0, sign="square")
    hand.pull("section A", [(97, 6, 17), (97, -6, 17)], "above", 0, tolerance="P9")
    hand.pull("section A", [(97, 0, 14), ((97, 0, -20), "rim:270")], "right", 0, tolerance="0/-0.2")
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 1.6")
    hand.hang_on(StateDatum, "Ø30 k6 (+0.015/+0.002)", (0, -45))
    hand.hang_on(StateDatum, "Ø32 g6", (0, -32))
    hand.hang(StateFrame, "front", (240, 0, -20), (14, -8), text="circular run-out 0.03 C-D")
    hand.hang_on(StateFrame, "12 P9", text="symmetry 0.05 C-D")
    hand.hang(StateFrame, "front", (290, 0, 20), (16, 36), text="cylindricity 0.02")
    hand.hang(StateTexture, "front", (215, 0, 20), (0, 1), text="Ra 0.8 ground")
    hand.hang(StateSign, "front", (0, 0, 0), (-16, -26), sign="centre_hole", text="A 4")
    hand.hang(StateSign, "front", (420, 0, 0), (10, -20), sign="centre_hole", text="A 4")
    hand.general_notes()
    return hand


def draw_box(services: Services, key: str) -> Hand:
    """The catch box: an offset section through lugs and the bore, and its front cut open locally at a lug."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "iso"]))
    hand.place("front", (120, 215))
    hand.place("corner", (325, 205))
    line: list[Any] = [(-76, -35, 5), (-47, -35, 5), (-47, -35, 25), ((0, -35, 25), "centre")]
    line += [(47, -35, 25), (47, -35, 5), (76, -35, 5)]
    hand.cut("front", line, (0, -105))
    front = hand.placed_view("front")
    outline = [_spot(front, (x, -35.0, z)) for x, z in LUG]
    hand.act(CutLocally(view=front.view.id, outline=outline, at="box"))
    hand.pull("front", [(-80, 0, 5), (80, 0, 5)], "below", 1)
    hand.pull("front", [(-50, 0, 40), (50, 0, 40)], "above", 0)
    hand.pull("front", [(0, -35, 45), (-20, -35, 0)], "left", 0)
    hand.pull_out("front", [(6.4, -35, 31.4)], (58, 12), tolerance="H11")
    hand.pull("front", [(70, -14, 0), (70, -14, 10)], "right", 1)
    hand.pull("front", [(30, -35, 0), ((0, -35, 25), "centre")], "right", 2)
    hand.pull("section", [((-66, 0, 5), "centre"), ((66, 0, 5), "centre")], "below", 0)
    hand.pull("section", [(25, 29, 25), (25, 35, 25)], "right", 1)
    hand.pull("section", [(25, -35, 25), (25, 35, 25)], "right", 2)
    hand.note("section", (66 + 4.24, 4.24, 5), (3, -30), "H13")
    corner = 1 - 0.7071
    hand.pull_out("section", [(-50 + 14 * corner, 35 - 14 * corner, 25)], (-22, 8), count=4)
    hand.pull_out("section", [(-44 + 8 * corner, 29 - 8 * corner, 25)], (18, -18), count=4)
    hand.pull_out("section", [(-66 - 9.9, -9.9, 5)], (-2, -14), count=2)
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 6.3")
    return hand


LUG = ((50.5, -4), (57, -8), (70, -6), (86, -3), (87, 9), (80, 16), (64, 15), (54, 13), (51, 6))
"""A free line round the right lug, x and z."""


def draw_assembly(services: Services, key: str) -> Hand:
    """The small pedestal: cut along its spindle, which stays whole as its bush and studs do; a quarter taken out."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "top", "iso"]))
    hand.place("front", (95, 215))
    hand.place("top", (95, 95))
    hand.place("corner", (330, 190))
    whole = ["Stub spindle", "Bush", "Stud", "Stud (2)"]
    hand.cut("front", [((0, -20, 34), "centre")], (115, 0), whole=whole)
    hand.change("corner", quarter=True, whole=whole, hidden_lines=False)
    # the view from above is about the base; what is bolted on it is there to tell where it stands
    hand.change("top", adjacent=["Stub spindle"])
    hand.pull("front", [(-45, -20, 6), (45, -20, 6)], "below", 1)
    hand.pull("front", [(-30, -20, 0), ((0, -20, 34), "centre")], "left", 0)
    hand.pull("front", [(-30, -20, 0), (-19, -6.5, 60)], "left", 1)
    hand.pull("section", [(0, -50, 30), (0, 50, 30)], "below", 0)
    hand.pull("section", [(0, 40, 43)], "right", 0, tolerance="H7/g6")
    hand.pull("section", [(0, -21.5, 46)], "left", 1, tolerance="H7/p6")
    hand.pull("top", [(-45, -20, 12), (-45, 20, 12)], "left", 0)
    hand.pull("top", [((-36, 0, 12), "centre"), ((36, 0, 12), "centre")], "below", 0, along=26)
    hand.pull_out("top", [(-36 - 3.18, 3.18, 12)], (-14, 26), count=2)
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 3.2", document_type="Assembly drawing")
    hand.act(NumberItems(view=hand.placed_view("corner").view.id))
    hand.act(ListParts(sheet=hand.now.drawing.front_sheet.id))
    made_of = {"Base": "Cast iron EN-GJL-250", "Cap": "Cast iron EN-GJL-250", "Bush": "Bronze CuSn12"}
    said = {"Stud": "greased", "Bush": "pressed in"}
    changes = [
        ItemChange(id=i.id, material=made_of.get(i.name, "Steel C45"), remarks=said.get(i.name, ""))
        for i in hand.now.drawing.items
    ]
    hand.act(ChangeItems(items=changes))
    hand.act(StateMaterial(sheet=hand.now.drawing.front_sheet.id, text="See parts list"))
    return hand


def draw_keeper(services: Services, key: str) -> Hand:
    """The angled keeper: what lies level from above, and its slanted leaf in true size, the rest of either left out."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "top", "iso"], centres=False))
    hand.place("front", (200, 147))
    hand.place("top", (200, 52))
    hand.place("corner", (342, 232))
    front = hand.placed_view("front")
    leaf = hand.pick(front, (112.5, -30.0, 38.97))
    hand.act(LookSquare(view=front.view.id, ref=leaf.ref, to=(78, 217.4), partial=True))
    top = hand.placed_view("top")
    level = DrawnOutline(form="rectangle", centre=_spot(top, (42.0, 0.0, 0.0)), half=(46.0, 40.0))
    hand.act(CropView(view=top.view.id, outline=level))
    for look in ("front", "square"):
        hand.centres(look)
    hand.pull("front", [(0, -30, 5), ((90, -30, 0), "end")], "below", 0)
    hand.pull("front", [(45, -30, 0), (45, -30, 10)], "left", 0)
    hand.pull_out("front", [(112.5, -30, 38.97)], (12, -8))
    hand.pull_out("front", [(45, -30, 0), (112.5, -30, 38.97)], (14, 28))
    hand.pull("top", [((18, 0, 10), "centre"), ((57, 0, 10), "centre")], "above", 0)
    hand.pull("top", [(0, 0, 5), ((18, 0, 10), "centre")], "above", 0)
    hand.pull("top", [(25, 7, 10), (25, -7, 10)], "left", 0)
    hand.pull_out("top", [(2.93, 27.07, 10)], (-16, 10), count=2)
    hand.note("square", (112.5 + 3, 15 + 5.2, 38.97 + 5.2), (6, 34), "H11")
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 6.3")
    hand.hang(StateSign, "front", (90, -30, 0), (13, -27), sign="weld", text="s8 bevel; other a5 fillet; tail 135")
    return hand


def draw_pawl(services: Services, key: str) -> Hand:
    """The pawl: its nose by ordinates from the bore, its back by radii."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=2.0, views=["front", "top", "iso"]))
    hand.place("front", (160, 205))
    hand.place("top", (160, 85))
    hand.place("corner", (345, 190))
    bore, pin = ((0, 0, 0), "centre"), ((55, 0, 3), "centre")
    heel, low, tip, high = ((64, 0, -8), "end"), ((84, 0, -12), "end"), ((92, 0, -4), "end"), ((70, 0, 14), "end")
    hand.row("front", [bore, ((15, 0, 9.95), "end"), pin, heel, high, low, tip], "running", "below")
    hand.row("front", [bore, pin, high, tip, heel, low], "running", "right")
    hand.pull_out("front", [(-5.66, 0, 5.66)], (-20, 36), tolerance="H7 with deviations")
    hand.note("front", (55 - 2.12, 0, 3 + 2.12), (-8, 38))
    hand.pull_out("front", [(-16.3, 0, 7.64)], (-16, 9))
    hand.pull_out("front", [(30, 0, -10)], (-4, -20), jog=True)
    hand.pull("top", [(-18, 0, 0), (-18, 16, 0)], "left", 0)
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 3.2", number="WL-205")
    return hand


def draw_guard(services: Services, key: str) -> Hand:
    """The rack guard: as it is bent, and its flat pattern with the places of its bends and holes."""
    hand = _hand(services, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "top", "iso"]))
    hand.place("front", (100, 231))
    hand.place("top", (100, 139))
    hand.place("corner", (182, 54))
    hand.change("corner", scale=0.5)
    hand.pull("front", [((0, 0, 2), "end"), ((120, 0, 2), "end")], "below", 1)
    hand.pull("front", [((28, 0, 48), "end"), ((120, 0, 0), "end")], "right", 0)
    hand.pull("front", [(24.0, 0, 20), (96.0, 0, 20)], "above", 0)
    front = hand.placed_view("front").view.id
    hand.act(LayFlat(view=front, to=(290, 195)))
    flat = hand.now.drawing.front_sheet.views[-1].id
    hand.act(OverallSizes(views=[flat], axes=["x", "y"]))
    hand.act(StateListTable(sheet="e1", follows="bends", view=flat))
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 6.3")
    hand.general_notes("Neutral line by DIN 6935. Deburr before bending.")
    return hand


def draw_gear(services: Services, key: str) -> Hand:
    """The paddle gear on three sheets: as it stands, taken apart, and in section along its spindle beside its parts list."""
    hand = _hand(
        services, NewDrawing(part=key, size="A2", scale=1.0, views=["front", "left", "iso"], hidden_lines=False)
    )
    first = hand.now.drawing.front_sheet.id
    sides = [hand.placed_view(look).view.id for look in ("front", "left")]
    hand.act(OverallSizes(views=sides, axes=["x", "y"]))
    whole = ["Spindle", "Key", "Pin", "Pin (2)", "Stud", "Stud (2)", "Stud (3)", "Stud (4)", "Rack"]
    hand.cut("front", [(0, -110, 160), (0, -110, -20)], (250, 0), whole=whole)
    hand.act(ListParts(sheet=first, level="flat", table=False))
    hand.act(NewSheet(after=first, name="Taken apart", scale=0.5))
    apart = hand.now.drawing.sheets[1].id
    picture = hand.placed_view("corner").view.id
    hand.act(SendTo(ids=[picture], sheet=apart))
    hand.operation(SetView(view=picture, changes={"scale": 0.5}))
    hand.operation(MoveView(view=picture, to=(290, 225)))
    hand.act(Explode(view=picture))
    hand.act(NumberItems(view=picture))
    hand.act(NewSheet(after=apart, name="Section and parts list"))
    last = hand.now.drawing.sheets[2].id
    hand.act(SendTo(ids=[hand.placed_view("section").view.id], sheet=last))
    hand.act(StateListTable(sheet=last, follows="parts"))
    hand.fill(**OWNER, revision="A", surface="Ra 6.3", document_type="Assembly drawing")
    return hand


def draw_short_spindle(services: Services, key: str) -> Hand:
    """The long pinion spindle on A4, which only breaking makes possible: a section between break lines, its undercut
    enlarged."""
    hand = _hand(services, NewDrawing(part=key, size="A4", landscape=False, scale=0.2, views=["front"]))
    sheet = hand.now.drawing.front_sheet
    hand.operation(SetSheet(sheet=sheet.id, scale=0.5))
    hand.place("front", (110, 243))
    front = hand.placed_view("front")
    hand.act(RevolveBetween(view=front.view.id, to=_spot(front, (250.0, 0.0, 0.0))))
    hand.centres("section")
    front = hand.placed_view("front")
    first, second = (_spot(front, (at, 0.0, 0.0)) for at in (18.0, 46.0))
    hand.act(BreakView(view=front.view.id, first=first, second=second))
    front = hand.placed_view("front")
    ring = DrawnOutline(centre=_spot(front, (332.0, 0.0, 17.0)), half=(3.0, 3.0))
    hand.act(Enlarge(view=front.view.id, outline=ring, to=(65, 135), scale=5.0))
    hand.pull("front", [(0, 0, -12), (420, 0, 5)], "below", 1)
    hand.pull("front", [(0, 0, -5), (60, 0, -15.5)], "below", 0)
    hand.pull("front", [(170, 0, -22), (330, 0, -18)], "below", 0)
    for at, r, along in ((145, 20, 16.5), (160, 25, 19), (350, 16, 14.5)):
        hand.pull_out("front", [(at, 0, r)], (0, -3), place={"along": along})
    hand.pull("detail", [(330, 0, 19), (334, 0, 15.5)], "above", 0)
    hand.fill(**OWNER, revision="A", surface="Ra 1.6", number="WL-202-A4")
    return hand
