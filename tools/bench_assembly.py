"""How reading, first view, further views and a section grow with the bodies of an assembly: placed copies of the demo pawl."""

from __future__ import annotations

import math
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

from barequill.core import project, read_part
from barequill.core.projection.piercing import meeting
from barequill.core.reading.step import read_step
from barequill.demo.filling import FOLDER


def write_assembly(count: int, path: Path) -> None:
    """A STEP file of so many copies of the pawl, side by side, none running into another."""
    from OCP.gp import gp_Trsf, gp_Vec
    from OCP.STEPCAFControl import STEPCAFControl_Writer
    from OCP.STEPControl import STEPControl_StepModelType
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.TopLoc import TopLoc_Location
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    (body,) = read_step(FOLDER / "pawl.step", "pawl")[0]
    document = TDocStd_Document(TCollection_ExtendedString("assembly"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    top, part = shapes.NewShape(), shapes.AddShape(body.shape, False)
    across = math.ceil(math.sqrt(count))
    for k in range(count):
        move = gp_Trsf()
        move.SetTranslation(gp_Vec(130 * (k % across), 20 * (k // across), 3 * (k % 7)))
        shapes.AddComponent(top, part, TopLoc_Location(move))
    shapes.UpdateAssemblies()
    writer = STEPCAFControl_Writer()
    writer.Transfer(document, STEPControl_StepModelType.STEPControl_AsIs, None)
    writer.Write(str(path))


def main() -> None:
    """A row for each number of bodies."""
    print(f"{'bodies':>7s} {'read':>7s} {'meeting':>8s} {'view':>7s} {'next':>7s} {'section':>8s}  s")
    with tempfile.TemporaryDirectory() as folder:
        for count in [int(a) for a in sys.argv[1:]] or [150, 300, 600]:
            path = Path(folder) / f"{count}.step"
            write_assembly(count, path)
            times = [time.perf_counter()]
            part = read_part(path)
            times.append(time.perf_counter())
            part = replace(part, meeting=meeting(part))
            times.append(time.perf_counter())
            for toward, up, cut in (((0, -1, 0), (0, 0, 1), ()), ((0, 0, 1), (0, 1, 0), ()), ((0, 0, 1), (0, 1, 0), 1)):
                project(part, toward, up, cut=[((0, 0, 10), (0, 0, 1))] if cut else ())
                times.append(time.perf_counter())
            steps = [b - a for a, b in zip(times, times[1:], strict=False)]
            print(f"{count:7d} " + " ".join(f"{s:7.2f}" for s in steps), flush=True)


if __name__ == "__main__":
    main()
