"""The parts of the Withy Lock paddle gear, built with the kernel and written as STEP files.

Run ``python -m barequill.demo.building`` to write them anew.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from ..core.reading.shapes import Point, bent, box, chamfered, cone, cut, cylinder, fuse, moved, prism, rounded, turned

FOLDER = Path(__file__).parent / "parts"


def spindle_pedestal(half: float = 70, bore: float = 20, drain: bool = False) -> Any:
    """A foot, twice ``half`` long, with four holes, an upright with the spindle's ``bore`` (radius), and a rib before and behind it; with a
    ``drain`` hole beside the upright."""
    at = half - 16
    foot = box((-half, -40, 0), (2 * half, 80, 16))
    foot = rounded(foot, 12, [(x, y, 8) for y in (-40, 40) for x in (-half, half)])
    upright = prism([(-34, -20, 16), (34, -20, 16), (34, -20, 80), ((0, -20, 114), (-34, -20, 80))], (0, 40, 0))
    ribs = [prism([(-5, s * 37, 16), (-5, s * 20, 16), (-5, s * 20, 52)], (10, 0, 0)) for s in (-1, 1)]
    body = fuse(foot, upright, *ribs)
    holes = [cylinder((x, y, -1), (0, 0, 1), 5.5, 20) for x in (-at, at) for y in (-25, 25)]
    holes += [cylinder((46, 0, -1), (0, 0, 1), 3, 20)] if drain else []
    through = cylinder((0, -30, 80), (0, 1, 0), bore, 60)
    oil = cylinder((0, 0, 90), (0, 0, 1), 4, 40)
    return cut(body, *holes, through, oil)


def later_pedestal() -> Any:
    """The spindle pedestal as it was changed: longer in its foot, for a thicker spindle, with a drain hole."""
    return spindle_pedestal(78, 22.5, drain=True)


def pinion_spindle() -> Any:
    """A long turned spindle with a square end for the windlass, a keyway, chamfers, and an undercut at its last shoulder."""
    shaft = turned(
        [
            (0, 0),
            (0, 13),
            (2, 15),
            (60, 15),
            (60, 20),
            (150, 20),
            (150, 25),
            (170, 25),
            (170, 20),
            (330, 20),
            (330, 15),
            (333, 15),
            (334, 16),
            (418, 16),
            (420, 14),
            (420, 0),
        ]
    )
    square = 24.0
    corner = [
        box((370, square / 2, -30), (60, 20, 60)),
        box((370, -square / 2 - 20, -30), (60, 20, 60)),
        box((370, -30, square / 2), (60, 60, 20)),
        box((370, -30, -square / 2 - 20), (60, 60, 20)),
    ]
    key = prism(
        [(80, -6, 14), (130, -6, 14), ((136, 0, 14), (130, 6, 14)), (80, 6, 14), ((74, 0, 14), (80, -6, 14))],
        (0, 0, 10),
    )
    return cut(shaft, *corner, key)


def angled_keeper() -> Any:
    """A plate bent by 60 degrees, with a slot in one leg and two holes in the other."""
    t = 10.0
    c, s = math.cos(math.radians(60)), math.sin(math.radians(60))
    outline = [
        (0, -30, 0),
        (90, -30, 0),
        (90 + 80 * c, -30, 80 * s),
        (90 + 80 * c - t * s, -30, 80 * s + t * c),
        (90 - t * math.tan(math.radians(30)), -30, t),
        (0, -30, t),
    ]
    body = prism(outline, (0, 60, 0))
    body = rounded(body, 10, [(0, -30, 5), (0, 30, 5)])
    slot = prism(
        [(25, -7, -1), (50, -7, -1), ((57, 0, -1), (50, 7, -1)), (25, 7, -1), ((18, 0, -1), (25, -7, -1))], (0, 0, 20)
    )
    holes = [cylinder((90 + 45 * c - 20 * s, y, 45 * s + 20 * c), (s, 0, -c), 6, 40) for y in (-15, 15)]
    return cut(body, slot, *holes)


def gear_cover() -> Any:
    """A round flange with six counterbored holes, a tapered boss and a bore. Its axis is Y."""
    flange = chamfered(cylinder((0, 0, 0), (0, 1, 0), 62, 12), 2, [(-62, 0, 0)])
    boss = cone((0, 12, 0), (0, 1, 0), 36, 33.5, 14)
    body = fuse(flange, boss)
    tools = [cylinder((0, -1, 0), (0, 1, 0), 18, 40), cylinder((0, 18, 0), (0, 1, 0), 20, 20)]
    for k in range(6):
        a = math.radians(90 + 60 * k)
        x, z = 50 * math.cos(a), 50 * math.sin(a)
        tools += [cylinder((x, -1, z), (0, 1, 0), 3.3, 20), cylinder((x, -1, z), (0, 1, 0), 5.5, 7)]
    return cut(body, *tools)


def pawl() -> Any:
    """A lever with a bore, a curved back and a nose that falls into the gear."""
    outline = [
        (-18, 0, 0),
        ((0, 0, 18), (15, 0, 9.95)),
        (70, 0, 14),
        (92, 0, -4),
        (84, 0, -12),
        (64, 0, -8),
        ((30, 0, -10), (0, 0, -18)),
        ((-12.73, 0, -12.73), (-18, 0, 0)),
    ]
    body = prism(outline, (0, 16, 0))
    return cut(body, cylinder((0, -1, 0), (0, 1, 0), 8, 20), cylinder((55, -1, 3), (0, 1, 0), 3, 20))


def catch_box() -> Any:
    """An open box with rounded corners and two lugs."""
    outer = rounded(box((-50, -35, 0), (100, 70, 45)), 14, [(-50, -35, 22), (50, -35, 22), (-50, 35, 22), (50, 35, 22)])
    inner = rounded(box((-44, -29, 6), (88, 58, 60)), 8, [(-44, -29, 36), (44, -29, 36), (-44, 29, 36), (44, 29, 36)])
    lugs = [
        prism([(s * 40, -14, 0), (s * 66, -14, 0), ((s * 80, 0, 0), (s * 66, 14, 0)), (s * 40, 14, 0)], (0, 0, 10))
        for s in (-1, 1)
    ]
    body = cut(fuse(outer, *lugs), inner, *[cylinder((s * 66, 0, -1), (0, 0, 1), 6, 20) for s in (-1, 1)])
    return cut(body, cylinder((0, -50, 25), (0, 1, 0), 9, 30))


def rack_guard() -> Any:
    """A guard over the paddle rack, bent of sheet 2 mm thick: a hat with feet that are screwed down, and a slot to look at the rack."""
    guard = bent([20, 36, 60, 36, 20], [90, -90, -90, 90], 4.0, 2.0, 100.0)
    left = 20 + 6 + 60 + 2 * 4 + 2 * 2 + 6 + 20 - 4
    feet = [cylinder((x, y, -1), (0, 0, 1), 3.5, 4) for x in (10, left - 10) for y in (15, 85)]
    top, middle, half = 36 + 2 * 4 + 2, left / 2, 9
    slot = prism(
        [
            (middle - half, 30, top - 4),
            (middle - half, 70, top - 4),
            ((middle, 70 + half, top - 4), (middle + half, 70, top - 4)),
            (middle + half, 30, top - 4),
            ((middle, 30 - half, top - 4), (middle - half, 30, top - 4)),
        ],
        (0, 0, 12),
    )
    return cut(guard, *feet, slot)


def _bearing() -> tuple[Any, Any, Any]:
    """Base, cap and bush of a small pedestal, its axis along Y at a height of 34."""
    base = cut(
        fuse(box((-45, -20, 0), (90, 40, 12)), box((-26, -20, 12), (52, 40, 22))),
        cylinder((0, -30, 34), (0, 1, 0), 12, 60),
        *[cylinder((x, 0, -1), (0, 0, 1), 4.5, 20) for x in (-36, 36)],
        *[cylinder((x, 0, 16), (0, 0, 1), 4, 30) for x in (-19, 19)],
    )
    cap = cut(
        rounded(box((-26, -20, 34), (52, 40, 20)), 8, [(-26, 0, 54), (26, 0, 54)]),
        cylinder((0, -30, 34), (0, 1, 0), 12, 60),
        *[cylinder((x, 0, 30), (0, 0, 1), 4, 30) for x in (-19, 19)],
    )
    bush = cut(cylinder((0, -23, 34), (0, 1, 0), 12, 46), cylinder((0, -30, 34), (0, 1, 0), 9, 60))
    return base, cap, bush


def pedestal_assembly() -> list[tuple[str, Any]]:
    """A small pedestal of six bodies: base, cap, bush, stub spindle and two studs."""
    base, cap, bush = _bearing()
    spindle = cylinder((0, -50, 34), (0, 1, 0), 9, 100)
    studs = [fuse(cylinder((x, 0, 16), (0, 0, 1), 4, 38), prism(_hexagon(x, 0, 54, 6.5), (0, 0, 6))) for x in (-19, 19)]
    return [
        ("Base", base),
        ("Cap", cap),
        ("Bush", bush),
        ("Stub spindle", spindle),
        ("Stud", studs[0]),
        ("Stud", studs[1]),
    ]


Use = tuple["Made", Point]
"""What stands in an assembly, and how far it is moved there."""


@dataclass(frozen=True)
class Made:
    """A product of an assembly: a shape, or what it is put together of."""

    name: str
    number: str
    shape: Any = None
    uses: tuple[Use, ...] = ()


def paddle_gear() -> Made:
    """The gear that lifts a paddle: a rack, a spindle with its pinion in two pedestals, and a windlass; 31 bodies of 19 products."""
    axis = 34.0
    base, cap, bush = _bearing()
    nut = Made("Nut", "WL-225", cut(prism(_hexagon(0, 0, 0, 6.5), (0, 0, 6)), cylinder((0, 0, -1), (0, 0, 1), 4, 9)))
    stud = Made("Stud", "WL-224", cylinder((0, 0, 16), (0, 0, 1), 4, 46))
    pedestal = Made(
        "Bearing pedestal",
        "WL-221",
        uses=(
            (Made("Base", "WL-222", base), (0, 0, 0)),
            (Made("Cap", "WL-223", cap), (0, 0, 0)),
            (Made("Bush", "WL-226", bush), (0, 0, 0)),
            *((one, (x, 0.0, z)) for one, z in ((stud, 0.0), (nut, 54.0)) for x in (-19.0, 19.0)),
        ),
    )
    key = box((-2.5, -10, axis + 6.5), (5, 20, 5))
    pins = [cylinder((0, y, axis - 15), (0, 0, 1), 2, 30) for y in (-30, 30)]
    shaft = fuse(
        cylinder((0, -110, axis), (0, 1, 0), 9, 260),
        box((-6, 150, axis - 6), (12, 14, 12)),
        cylinder((0, 164, axis), (0, 1, 0), 4, 16),
    )
    teeth = [
        moved(box((20, -12, -3), (7, 24, 6)), axis=(0, 1, 0), degrees=15 + 30 * k, by=(0, 0, axis)) for k in range(12)
    ]
    wheel = fuse(cylinder((0, -12, axis), (0, 1, 0), 21.5, 24), *teeth)
    collar = cut(
        cylinder((0, -5, axis), (0, 1, 0), 15, 10),
        cylinder((0, -9, axis), (0, 1, 0), 9, 18),
        cylinder((0, 0, axis - 20), (0, 0, 1), 2, 40),
    )
    pin = Made("Pin", "WL-235", cylinder((0, 0, axis - 15), (0, 0, 1), 2, 30))
    ring = Made("Collar", "WL-234", collar)
    spindle = Made(
        "Spindle with pinion",
        "WL-230",
        uses=(
            (Made("Spindle", "WL-231", cut(shaft, key, *pins)), (0, 0, 0)),
            (Made("Pinion", "WL-232", cut(wheel, cylinder((0, -20, axis), (0, 1, 0), 9, 40), key)), (0, 0, 0)),
            (Made("Key", "WL-233", key), (0, 0, 0)),
            *((one, (0.0, y, 0.0)) for one in (ring, pin) for y in (-30.0, 30.0)),
        ),
    )
    arm = cut(
        rounded(
            box((-12, 150, axis - 14), (24, 14, 134)),
            11.5,
            [(x, 157, z) for x in (-12, 12) for z in (axis - 14, axis + 120)],
        ),
        box((-6, 140, axis - 6), (12, 40, 12)),
        cylinder((0, 140, axis + 105), (0, 1, 0), 5, 40),
    )
    grip = fuse(cylinder((0, 150, axis + 105), (0, 1, 0), 5, 14), cylinder((0, 164, axis + 105), (0, 1, 0), 8, 90))
    washer = cut(cylinder((0, 164, axis), (0, 1, 0), 12, 3), cylinder((0, 160, axis), (0, 1, 0), 4, 9))
    turn = moved(nut.shape, axis=(1, 0, 0), degrees=-90, by=(0, 167, axis))
    windlass = Made(
        "Windlass",
        "WL-240",
        uses=(
            (Made("Arm", "WL-241", arm), (0, 0, 0)),
            (Made("Grip", "WL-242", grip), (0, 0, 0)),
            (Made("Washer", "WL-243", washer), (0, 0, 0)),
            (Made("Windlass nut", "WL-244", turn), (0, 0, 0)),
        ),
    )
    pitch = 2 * math.pi * 24.5 / 12
    rack = fuse(
        box((-44, -10, -110), (14, 20, 250)),
        *[box((-30.5, -10, axis - 2.5 + pitch * k), (5, 20, 5)) for k in range(-10, 8)],
    )
    bed = cut(
        box((-60, -110, -10), (120, 220, 10)),
        box((-46, -12, -20), (24, 24, 40)),
        *[cylinder((x, y, -20), (0, 0, 1), 4, 40) for x in (-36, 36) for y in (-60, 60)],
    )
    bolt = Made(
        "Bolt",
        "WL-253",
        fuse(cylinder((0, 0, -10), (0, 0, 1), 4, 22), prism(_hexagon(0, 0, 12, 6.5), (0, 0, 5.5))),
    )
    return Made(
        "Paddle gear",
        "WL-220",
        uses=(
            (Made("Bed plate", "WL-251", bed), (0, 0, 0)),
            (pedestal, (0, -60, 0)),
            (pedestal, (0, 60, 0)),
            (spindle, (0, 0, 0)),
            (windlass, (0, 0, 0)),
            (Made("Rack", "WL-252", rack), (0, 0, 0)),
            *((bolt, (x, y, 0.0)) for x in (-36.0, 36.0) for y in (-60.0, 60.0)),
        ),
    )


def _hexagon(x: float, y: float, z: float, half: float) -> list[tuple[float, float, float]]:
    r = half / math.cos(math.pi / 6)
    return [(x + r * math.cos(math.radians(60 * k)), y + r * math.sin(math.radians(60 * k)), z) for k in range(6)]


PARTS: list[tuple[str, str, str, str, Callable[[], Any]]] = [
    ("WL-201", "Spindle pedestal", "spindle-pedestal", "Cast iron EN-GJL-250", spindle_pedestal),
    ("WL-202", "Long pinion spindle", "long-pinion-spindle", "Steel C45", pinion_spindle),
    ("WL-203", "Angled keeper", "angled-keeper", "Steel S235JR", angled_keeper),
    ("WL-204", "Round gear cover", "round-gear-cover", "Cast iron EN-GJL-250", gear_cover),
    ("WL-205", "Pawl", "pawl", "Steel 42CrMo4", pawl),
    ("WL-206", "Catch box", "catch-box", "Ductile iron EN-GJS-400-15", catch_box),
    ("WL-207", "Rack guard", "rack-guard", "Steel S235JR", rack_guard),
    ("WL-210", "Small pedestal assembly", "small-pedestal-assembly", "Steel S235JR", pedestal_assembly),
    ("WL-220", "Paddle gear", "paddle-gear", "Steel S235JR", paddle_gear),
]
"""Number, name, file stem, material and builder of each part."""


LATER: list[tuple[str, str, str, str, Callable[[], Any]]] = [
    ("WL-201", "Spindle pedestal", "spindle-pedestal-b", "Cast iron EN-GJL-250", later_pedestal),
]
"""The same of parts as they were changed later, in a folder of their own."""


def write_step(path: Path, number: str, name: str, bodies: list[tuple[str, Any]]) -> None:
    """Write bodies as a STEP file: one product, or an assembly of several."""
    if len(bodies) == 1:
        return write_made(path, Made(name, number, bodies[0][1]))
    write_made(path, Made(name, number, uses=tuple((Made(n, n, shape), (0, 0, 0)) for n, shape in bodies)))


def write_made(path: Path, made: Made) -> None:
    """Write a product, and all that it is put together of, as a STEP file."""
    from OCP.BRep import BRep_Builder
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_StepModelType
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDataStd import TDataStd_Name
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.TopoDS import TopoDS_Compound
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("part"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    tool = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    labels: dict[int, Any] = {}
    numbers: dict[str, str] = {}

    def label(one: Made) -> Any:
        if id(one) in labels:
            return labels[id(one)]
        numbers[one.name] = one.number
        if one.shape is not None:
            own = tool.AddShape(one.shape, False)
        else:
            empty = TopoDS_Compound()
            BRep_Builder().MakeCompound(empty)
            own = tool.AddShape(empty, True)
        labels[id(one)] = own
        TDataStd_Name.Set_s(own, TCollection_ExtendedString(one.name))
        for used, by in one.uses:
            move = gp_Trsf()
            move.SetTranslation(gp_Vec(*by))
            tool.AddComponent(own, label(used), TopLoc_Location(move) if any(by) else TopLoc_Location())
        return own

    label(made)
    tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(str(path))
    text = path.read_text()
    for name, number in numbers.items():
        text = text.replace(f"PRODUCT('{name}','{name}'", f"PRODUCT('{number}','{name}'")
    text = re.sub(
        r"FILE_NAME\([^;]*;",
        f"FILE_NAME('{path.name}','2026-11-23T00:00:00',('Withy Lock Trust'),('Withy Lock Trust'),'','','');",
        text,
    )
    path.write_text(text)


def main() -> None:
    """Write all parts."""
    for folder, parts in ((FOLDER, PARTS), (FOLDER / "later", LATER)):
        folder.mkdir(exist_ok=True)
        for number, name, stem, _, build in parts:
            made = build()
            if isinstance(made, Made):
                write_made(folder / f"{stem}.step", made)
            else:
                write_step(folder / f"{stem}.step", number, name, made if isinstance(made, list) else [(name, made)])
            print(f"{number} {name}")


if __name__ == "__main__":
    main()
