"""The parts of the Withy Lock paddle gear, built with the kernel and written as STEP files.

Run ``python -m barequill.demo.building`` to write them anew.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from pathlib import Path
from typing import Any

from ..core.reading.shapes import bent, box, chamfered, cone, cut, cylinder, fuse, prism, rounded, turned

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


def pedestal_assembly() -> list[tuple[str, Any]]:
    """A small pedestal of six bodies: base, cap, bush, stub spindle and two studs."""
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
]
"""Number, name, file stem, material and builder of each part."""


LATER: list[tuple[str, str, str, str, Callable[[], Any]]] = [
    ("WL-201", "Spindle pedestal", "spindle-pedestal-b", "Cast iron EN-GJL-250", later_pedestal),
]
"""The same of parts as they were changed later, in a folder of their own."""


def write_step(path: Path, number: str, name: str, bodies: list[tuple[str, Any]]) -> None:
    """Write bodies as a STEP file: one product, or an assembly of several."""
    from OCP.BRep import BRep_Builder
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
    if len(bodies) == 1:
        TDataStd_Name.Set_s(tool.AddShape(bodies[0][1], False), TCollection_ExtendedString(name))
    else:
        empty = TopoDS_Compound()
        BRep_Builder().MakeCompound(empty)
        top = tool.AddShape(empty, True)
        TDataStd_Name.Set_s(top, TCollection_ExtendedString(name))
        for body_name, shape in bodies:
            label = tool.AddShape(shape, False)
            TDataStd_Name.Set_s(label, TCollection_ExtendedString(body_name))
            tool.AddComponent(top, label, TopLoc_Location())
        tool.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs)
    writer.Write(str(path))
    text = path.read_text()
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
            write_step(folder / f"{stem}.step", number, name, made if isinstance(made, list) else [(name, made)])
            print(f"{number} {name}")


if __name__ == "__main__":
    main()
