"""Reading part files: STEP, IGES, B-rep and recipes, through the kernel.

Runs in a worker process: the kernel may take long or crash on a bad file.
"""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable
from dataclasses import dataclass, replace
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any

from ..errors import BadPartFile
from ..part.model import Part
from ..part.named_sizes import NamedSize, NamedThread
from ..part.products import Product
from ..recipe.model import looks_like_one, read_recipe
from . import references, step_header
from .raw import RawBody
from .splitting import split_bodies
from .step import read_step

LARGEST = 200 * 1024 * 1024
ENDS = 4000
"""Bytes of both ends of a file by which its format is told."""
SUFFIXES = {
    ".step": "STEP",
    ".stp": "STEP",
    ".p21": "STEP",
    ".iges": "IGES",
    ".igs": "IGES",
    ".brep": "B-rep",
    ".brp": "B-rep",
    ".recipe": "recipe",
    ".zip": "zip",
}
Progress = Callable[[float, str], None]


def content_key(data: bytes) -> str:
    """Key of a part file by its content."""
    return hashlib.sha256(data).hexdigest()[:24]


def check_part_file(name: str, path: Path) -> str:
    """The same as :func:`check_file` of a file on disk, of which only both ends are read."""
    size = path.stat().st_size
    with path.open("rb") as file:
        head = file.read(ENDS)
        file.seek(max(0, size - ENDS))
        return _format_of(name, size, head, file.read(ENDS))


def check_file(name: str, data: bytes) -> str:
    """The file's format (``STEP``, ``IGES``, ``B-rep``, ``recipe`` or ``zip``), judged by content as well as by name.

    Raises
    ------
    BadPartFile
        Where it is empty, too large, or of another kind; the message says what to do.
    """
    return _format_of(name, len(data), data[:ENDS], data[-ENDS:])


def _format_of(name: str, size: int, start: bytes, end: bytes) -> str:
    if not size:
        raise BadPartFile(f"{name} is empty", "The file holds no bytes. Save it again from the modeller.")
    if size > LARGEST:
        raise BadPartFile(
            f"{name} is too large",
            f"It has {size / 1e6:.0f} MB; the limit is {LARGEST / 1e6:.0f} MB. Save it without pictures or split it.",
        )
    if start.startswith(b"PK\x03\x04"):
        return "zip"
    for magic, what in (
        (b"\x1f\x8b", "a gzip archive"),
        (b"7z\xbc\xaf", "a 7z archive"),
        (b"Rar!", "a RAR archive"),
    ):
        if start.startswith(magic):
            raise BadPartFile(f"{name} is {what}", "Unpack it and bring the part file inside.")
    head = start.lstrip(b"\xef\xbb\xbf \t\r\n")
    if head.startswith(b"ISO-10303-21"):
        if b"END-ISO-10303-21" not in end:
            raise BadPartFile(
                f"{name} is cut short",
                "The STEP file does not reach its closing line END-ISO-10303-21. Copy or save it again.",
            )
        return "STEP"
    if b"CASCADE Topology" in head or head.startswith(b"DBRep_DrawableShape"):
        return "B-rep"
    if looks_like_one(start):
        return "recipe"
    lines = start.splitlines()
    if len(lines) > 1 and len(lines[0]) >= 73 and lines[0][72:73] in b"SBC":
        return "IGES"
    suffix = Path(name).suffix.lower()
    kind = SUFFIXES.get(suffix)
    if kind:
        raise BadPartFile(
            f"{name} is not a {kind} file",
            f"Its name ends in {suffix}, but its content does not begin as such a file does. Save the part again as STEP.",
        )
    raise BadPartFile(
        f"{name} is not a part file",
        "Bare Quill reads STEP (.step, .stp), IGES (.iges, .igs) and B-rep (.brep) files, recipes (.recipe), and assemblies "
        "of several STEP files as a zip. Save the part as one of these.",
    )


UNITS = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "inch": 25.4}
"""mm in each unit as which a file can be read."""
SMALL, LARGE = 0.5, 100_000.0
"""mm below or above which the size of a part makes its unit doubtful."""
_SPELT = {"MILLIMETRE": "mm", "CENTIMETRE": "cm", "METRE": "m", "INCH": "inch"}


def read_part(
    path: str | Path,
    name: str | None = None,
    progress: Progress | None = None,
    as_unit: str | None = None,
    beside: Path | None = None,
) -> Part:
    """Read and prepare a part from a file.

    Parameters
    ----------
    path : the file (STEP AP203, AP214 or AP242; IGES; the kernel's B-rep text; a zip of STEP files that name each other)
    name : file name for messages, where it differs from the path's
    progress : called with the share done (0 to 1) and what is being done
    as_unit : mm, cm, m or inch: take the file's figures to be in this unit, whatever it says of its own
    beside : folder in which may be written what the kernel is to read; None for the system's own

    Raises
    ------
    BadPartFile
        Where the file cannot be read.
    """
    say = progress or (lambda share, what: None)
    path = Path(path)
    label = name or path.name
    try:
        data = path.read_bytes()
    except OSError as error:
        raise BadPartFile(
            f"{label} cannot be opened", f"{error.strerror}. Check the path and its permissions."
        ) from error
    kind = check_file(label, data)
    with TemporaryDirectory(prefix="reading-", dir=beside) as folder:
        files = references.unbundled(data, label) if kind == "zip" else [references.Along(label, data)]
        if kind == "zip":
            kind = check_file(files[0].name, files[0].data)
        say(0.05, f"reading {kind}")
        lacking: list[str] = []
        if kind == "STEP" and (files[0].data is not data or references.names_any(data)):
            path, lacking = references.lay_out(files, Path(folder))
        elif files[0].data is not data:
            path = Path(folder) / "file"
            path.write_bytes(files[0].data)
        named = _Named()
        readers: dict[str, Callable[[Path, str], tuple[list[RawBody], str, list[Product]]]]
        readers = {"STEP": read_step, "IGES": _read_iges, "B-rep": _read_brep, "recipe": partial(_built, named, say)}
        said = references.lacking_words(lacking)
        try:
            raw, unit, products = readers[kind](path, label)
        except BadPartFile as error:
            raise BadPartFile(error.title, f"{error.detail} {said}".strip()) from error
    top = products[0] if products else Product("")
    if kind == "STEP":
        # the kernel gives a material only with its density; what it is called stands in the text
        materials = {k: v for f in files for k, v in step_header.materials(f.data).items()}
        products = [replace(p, material=materials.get(p.name)) for p in products]
        for body in raw:
            body.material = materials.get(body.name)
    if not raw:
        raise BadPartFile(
            f"{label} holds no shape",
            said or "It was read, but there is no solid or surface in it. Export the part with its geometry.",
        )
    if as_unit is not None:
        raw, unit = _scaled(raw, UNITS[as_unit] / UNITS[_SPELT.get(unit.upper(), "mm")]), as_unit
    say(0.4, "preparing faces and edges")
    # the kernel is loaded only where a part is read
    from .aside import begun
    from .preparing import prepare
    from .weighing import weigh, worth_aside

    stem, work = Path(label).stem, partial(weigh, raw)
    part = prepare(
        raw,
        begun(work) if worth_aside(raw) else work,
        key=key_as(content_key(data), as_unit),
        name=top.name or raw[0].name or stem,
        number=top.number,
        unit=unit,
        progress=say,
    )
    # what nobody named is called as the part is
    known = tuple(p if p.name else replace(p, name=part.name) for p in products) or (Product(part.name, part.number),)
    remarks = (*([said] if said else ()), *part.remarks)
    return replace(part, products=known, remarks=remarks, sizes=named.sizes, threads=named.threads)


@dataclass
class _Named:
    """Sizes and threads that a file names."""

    sizes: tuple[NamedSize, ...] = ()
    threads: tuple[NamedThread, ...] = ()


def _built(named: _Named, say: Progress, path: Path, label: str) -> tuple[list[RawBody], str, list[Product]]:
    """The bodies of a recipe, built; what it names is put into ``named``."""
    from . import recipes

    recipe = read_recipe(path.read_bytes(), label)
    made = recipes.build(recipe, label, lambda share, what: say(0.05 + 0.3 * share, what))
    named.sizes, named.threads = recipes.sizes_of(recipe, made, label), tuple(made.threads)
    raw = recipes.bodies_of(made, recipe)
    names = list(dict.fromkeys(b.name for b in raw))
    if len(names) == 1:
        return raw, "millimetre", [Product(recipe.name, recipe.number, material=recipe.material or None)]
    rows = {name: k + 1 for k, name in enumerate(names)}
    for body in raw:
        body.product, body.path = rows[body.name], (0, rows[body.name] - 1)
    whole = Product(recipe.name, recipe.number, uses=tuple(rows.values()))
    return raw, "millimetre", [whole, *(Product(n, material=recipe.material or None) for n in names)]


def key_as(key: str, as_unit: str | None) -> str:
    """Key of a part whose file, of a key by its content, is read as another unit."""
    return key if as_unit is None else content_key(f"{key} as {as_unit}".encode())


def _scaled(raw: list[RawBody], factor: float) -> list[RawBody]:
    from OCP.BRepBuilderAPI import BRepBuilderAPI_Transform
    from OCP.gp import gp_Pnt, gp_Trsf

    scale = gp_Trsf()
    scale.SetScale(gp_Pnt(0, 0, 0), factor)
    return [replace(b, shape=BRepBuilderAPI_Transform(b.shape, scale, True).Shape()) for b in raw]


SEAM = 2e-4
"""Widest gap between faces, in part sizes, over which they are sewn together."""


def _read_iges(path: Path, label: str) -> tuple[list[RawBody], str, list[Product]]:
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.IGESControl import IGESControl_Reader

    reader = IGESControl_Reader()
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise BadPartFile(
            f"{label} cannot be read", "The IGES file has errors in its syntax. Save it again, best as STEP."
        )
    reader.TransferRoots()
    if reader.NbShapes() == 0:
        raise BadPartFile(
            f"{label} holds no shape",
            "The IGES file was read, but holds no surfaces. Export the part with its geometry.",
        )
    unit = "millimetre"
    section = reader.IGESModel().GlobalSection()
    if section.UnitFlag() == 1:
        unit = "inch"
    shape = _sewn(reader.OneShape())
    return [RawBody(n, s) for n, s in split_bodies(shape, Path(label).stem)], unit, []


def _sewn(shape: Any) -> Any:
    """Faces of an IGES file sewn together, as a solid where they close: over as small gaps as leave no border, or the fewest."""
    from OCP.BRepBuilderAPI import BRepBuilderAPI_MakeSolid, BRepBuilderAPI_Sewing
    from OCP.BRepLib import BRepLib
    from OCP.TopAbs import TopAbs_ShapeEnum as Kind
    from OCP.TopExp import TopExp_Explorer
    from OCP.TopoDS import TopoDS

    from .extent import rough_box

    if TopExp_Explorer(shape, Kind.TopAbs_SOLID).More():
        return shape
    low, high = rough_box([shape])
    fewest = None
    for gap in (1e-3, *(g for g in (4e-3, 1.6e-2) if g < SEAM * math.dist(low, high))):
        sewing = BRepBuilderAPI_Sewing(gap)
        sewing.Add(shape)
        sewing.Perform()
        borders = sewing.NbFreeEdges()
        if fewest is None or borders < fewest:
            fewest, sewn = borders, sewing.SewedShape()
        if not borders:
            break
    explorer = TopExp_Explorer(sewn, Kind.TopAbs_SHELL)
    if not explorer.More():
        return sewn
    shell = TopoDS.Shell(explorer.Current())
    explorer.Next()
    if explorer.More() or not shell.Closed():
        return sewn
    solid = BRepBuilderAPI_MakeSolid(shell).Solid()
    BRepLib.OrientClosedSolid_s(solid)
    return solid


def _read_brep(path: Path, label: str) -> tuple[list[RawBody], str, list[Product]]:
    from OCP.BRep import BRep_Builder
    from OCP.BRepTools import BRepTools
    from OCP.TopoDS import TopoDS_Shape

    shape = TopoDS_Shape()
    if not BRepTools.Read_s(shape, str(path), BRep_Builder()) or shape.IsNull():
        raise BadPartFile(
            f"{label} cannot be read", "The B-rep file has errors. Save it again from the program that wrote it."
        )
    return [RawBody(n, s) for n, s in split_bodies(shape, Path(label).stem)], "millimetre", []
