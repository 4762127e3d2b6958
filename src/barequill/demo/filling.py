"""Filling in the demo data: the parts on the shelf, and three finished drawings."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from ..core.acts import NewDrawing
from ..core.part.reading import content_key
from ..core.standards.materials import MATERIALS
from ..web.desk import Desk
from .hand import Hand

FOLDER = Path(__file__).parent / "parts"
STEMS = {
    "spindle-pedestal": "Cast iron EN-GJL-250",
    "long-pinion-spindle": "Steel C45",
    "angled-keeper": "Steel S235JR",
    "round-gear-cover": "Cast iron EN-GJL-250",
    "pawl": "Steel 42CrMo4",
    "catch-box": "Ductile iron EN-GJS-400-15",
    "small-pedestal-assembly": "Steel S235JR",
}
OWNER = {"owner": "Withy Lock Trust", "creator": "R. Oake", "approver": "M. Sallow"}


def fill(home: Path, say: Callable[[str], object]) -> None:
    """Put the demo parts on the shelf and make the drawings, where they are not there yet."""
    marker = home / "demo-filled"
    if marker.exists():
        return
    home.mkdir(parents=True, exist_ok=True)
    desk = Desk(home)
    try:
        keys = {stem: _bring(desk, stem, material, say) for stem, material in STEMS.items()}
        for stem, draw in (
            ("long-pinion-spindle", draw_spindle),
            ("spindle-pedestal", draw_pedestal),
            ("round-gear-cover", draw_cover),
        ):
            say(f"drawing {stem.replace('-', ' ')}")
            made = draw(desk, keys[stem]).now
            desk.prefetch(made.drawing, made.drawing.front_sheet)
            desk.thumbnail(made)
        marker.write_text("1\n")
    finally:
        desk.close()


def _bring(desk: Desk, stem: str, material: str, say: Callable[[str], object]) -> str:
    path = FOLDER / f"{stem}.step"
    data = path.read_bytes()
    key = content_key(data)
    say(f"reading {path.name}")
    job = desk.workshop.read(
        path, path.name, lambda part, kept: desk.store.keep_part(part.key, path.name, kept, part.summary())
    )
    job.done.wait()
    if job.error is not None:
        raise job.error
    desk.store.set_part(key, {"material": material, "density": MATERIALS[material]})
    return key


def _hand(desk: Desk, wish: NewDrawing) -> Hand:
    return Hand(desk.store, desk.bench, desk.store.add(desk.propose(wish)))


H7_40 = {"kind": "unequal", "upper": 0.025, "lower": 0.0}


def draw_cover(desk: Desk, key: str) -> Hand:
    """The round gear cover: front with the hole circle, left view with diameters and widths."""
    hand = _hand(desk, NewDrawing(part=key, size="A3", scale=1.0, views=["front", "left", "iso"], face="+Y"))
    hand.pull("left", [(0, 12, 60), (0, 0, 58)], "below", 0)
    hand.pull("left", [(0, 26, 30), (0, 0, 58)], "below", 1)
    hand.pull("left", [(0, 18, 19), (0, 26, 30)], "above", 0)
    hand.pull("left", [(0, 22, -20)], "right", 0, tolerance=H7_40)
    hand.pull("left", [(0, 26, 33.4)], "right", 1)
    hand.pull("left", [(0, 6, -62)], "right", 2)
    hand.pull("left", [(0, 9, -18)], "left", 0)
    hand.pull("left", [(0, 0, 10), (0, 2, 10)], "above", 1, suffix=" × 45°")
    hand.pull("front", [((0, 12, 50), "centre"), ((0, 12, -50), "centre")], "right", 0, sign="diameter")
    hand.pull_out("front", [(-25.46, 12, -25.46)], (30, -52))
    hand.pull_out("front", [(-43.3 - 3.3, 12, 25)], (32, 34), count=6)
    hand.pull_out("front", [(43.3 + 5.5, 0, 25)], (-32, 38), count=6, suffix=" ↧6")
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 3.2")
    return hand


def draw_pedestal(desk: Desk, key: str) -> Hand:
    """The spindle pedestal in three views and a pictorial one."""
    hand = _hand(desk, NewDrawing(part=key, size="A3", views=["front", "top", "left", "iso"]))
    hand.pull("front", [(-70, -28, 8), (70, -28, 8)], "below", 0)
    hand.pull("front", [(-64, -40, 0), (-64, -40, 16)], "left", 0)
    hand.pull("front", [(-30, -40, 0), ((0, -20, 60), "centre")], "left", 1)
    hand.pull_out("front", [(14.1, -20, 94.1)], (24, 18), tolerance=H7_40)
    hand.pull_out("front", [(-24, -20, 104)], (-16, 14))
    hand.pull("front", [(4, 0, 106)], "above", 0)
    hand.pull("left", [(-34, -20, 50), (-34, 20, 50)], "above", 0)
    hand.pull("top", [((-54, -30.5, 16), "centre"), ((54, -30.5, 16), "centre")], "below", 0)
    hand.pull("top", [((-54, -30.5, 16), "centre"), ((-54, 30.5, 16), "centre")], "left", 0)
    hand.pull("top", [(-20, -40, 16), (-20, 40, 16)], "left", 1)
    hand.pull_out("top", [(54, 30.5, 16)], (22, 20), count=4)
    hand.pull_out("top", [(66.5, -36.5, 16)], (14, -8), count=4)
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 6.3")
    return hand


def draw_spindle(desk: Desk, key: str) -> Hand:
    """The long pinion spindle: a chain of lengths, diameters in the view, keyway and square."""
    hand = _hand(desk, NewDrawing(part=key, size="A2", views=["front", "top", "right", "iso"]))
    for k, (start, end) in enumerate(((0, 60), (60, 150), (150, 170), (170, 330), (370, 420))):
        hand.pull("front", [(start, 0, -5 if start == 0 else -13), (end, 0, -(15.5, 22, 22, 18, -5)[k])], "below", 0)
    hand.pull("front", [(0, 0, -12), (420, 0, 5)], "below", 1)
    hand.pull("front", [(30, 0, 15)], "left", 0)
    for x, r in ((145, 20), (160, 25), (250, 20), (350, 16)):
        hand.pull_out("front", [(x, 0, r)], (0, -3), place={"along": 9})
    hand.pull_out("front", [(105, 0, 14), (105, 0, -20)], (0, -6), place={"along": -8})
    hand.pull("front", [(0, 0, 5), (2, 0, 5)], "above", 0, count=2, suffix=" × 45°")
    hand.pull("top", [((74, 0, 20), "centre"), ((136, 0, 20), "centre")], "above", 0)
    hand.pull("top", [(60, 18, 0), ((74, 0, 20), "centre")], "above", 1)
    hand.pull_out("top", [(136, 0, 20)], (6, 28))
    hand.pull("right", [(400, 12, 0), (400, -12, 0)], "below", 0, sign="square")
    hand.shade()
    hand.fill(**OWNER, revision="A", surface="Ra 1.6")
    return hand
