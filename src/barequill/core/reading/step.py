"""STEP files through the kernel's document: bodies where they stand, and the products that they are put together of."""

from __future__ import annotations

import re
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from ..errors import BadPartFile
from ..part.products import Product
from . import step_header
from .raw import RawBody, faces_of
from .splitting import split_bodies
from .step_text import decoded

DEEP = 200
"""How many assemblies may stand in each other."""


def read_step(path: Path, label: str) -> tuple[list[RawBody], str, list[Product]]:
    """The bodies of a STEP file, its unit of length as the kernel calls it, and its products, those above before those below.

    Raises
    ------
    BadPartFile
        Where it is no STEP file that the kernel can read, or holds no geometry.
    """
    from OCP.collections import Sequence_TCollection_AsciiString, Sequence_TDF_Label
    from OCP.IFSelect import IFSelect_ReturnStatus
    from OCP.STEPCAFControl import STEPCAFControl_Reader
    from OCP.TCollection import TCollection_ExtendedString
    from OCP.TDocStd import TDocStd_Document
    from OCP.XCAFApp import XCAFApp_Application
    from OCP.XCAFDoc import XCAFDoc_DocumentTool

    document = TDocStd_Document(TCollection_ExtendedString("part"))
    XCAFApp_Application.GetApplication_s().InitDocument(document)
    reader = STEPCAFControl_Reader()
    reader.SetNameMode(True)
    reader.SetMatMode(True)
    reader.SetColorMode(True)
    if reader.ReadFile(str(path)) != IFSelect_ReturnStatus.IFSelect_RetDone:
        raise BadPartFile(
            f"{label} cannot be read", "The STEP file has errors in its syntax. Save it again from the modeller."
        )
    lengths, angles, solids = (Sequence_TCollection_AsciiString() for _ in range(3))
    reader.ChangeReader().FileUnits(lengths, angles, solids)
    units = [lengths.Value(i + 1).ToCString() for i in range(lengths.Length())]
    if not reader.Transfer(document):
        raise BadPartFile(
            f"{label} holds no shape",
            "The STEP file was read, but no geometry could be made of it. Export it again with its solids.",
        )
    shapes = XCAFDoc_DocumentTool.ShapeTool_s(document.Main())
    roots = Sequence_TDF_Label()
    shapes.GetFreeShapes(roots)
    colours = XCAFDoc_DocumentTool.ColorTool_s(document.Main())
    tree = _Tree(_numbers(reader.Reader().StepModel()), label, colours)
    for i in range(roots.Length()):
        tree.walk(roots.Value(i + 1), None, None, ())
    return tree.bodies, units[0] if units else "millimetre", tree.sorted()


@dataclass
class _Tree:
    """What is gathered while labels of the kernel's document are gone through: products by label, bodies by occurrence."""

    numbers: dict[str, list[str]]
    """Identification numbers by product name, in the order of the file."""
    file: str
    colours: Any
    bodies: list[RawBody] = field(default_factory=list)
    products: list[Product] = field(default_factory=list)
    rows: dict[str, int] = field(default_factory=dict)

    def walk(self, label: Any, place: Any, inherited: float | None, path: tuple[int, ...], colour: str = "") -> int:
        """Collect the bodies and products below a label, placed; the row of its product."""
        from OCP.collections import Sequence_TDF_Label
        from OCP.TDF import TDF_Label
        from OCP.XCAFDoc import XCAFDoc_ShapeTool

        if len(path) > DEEP:
            raise BadPartFile(
                f"{self.file} nests its assemblies too deep",
                f"More than {DEEP} stand in each other. Export it flatter.",
            )
        density = _density(label) or inherited
        # what is used has the colour of its use before its own
        colour = colour or _colour(label)
        row, new = self._row(label)
        here = path or (row,)
        if XCAFDoc_ShapeTool.IsAssembly_s(label):
            components = Sequence_TDF_Label()
            XCAFDoc_ShapeTool.GetComponents_s(label, components)
            uses = []
            for i in range(components.Length()):
                component = components.Value(i + 1)
                own = XCAFDoc_ShapeTool.GetLocation_s(component)
                target = TDF_Label()
                XCAFDoc_ShapeTool.GetReferredShape_s(component, target)
                there = own if place is None else place.Multiplied(own)
                uses.append(self.walk(target, there, density, (*here, i), colour or _colour(component)))
            if new:
                self.products[row] = replace(self.products[row], uses=tuple(uses))
            return row
        shape = XCAFDoc_ShapeTool.GetShape_s(label)
        if place is not None:
            shape = shape.Moved(place)
        self.bodies += [
            RawBody(n, s, density=density, product=row, path=here, colour=colour or self._colour_of(s))
            for n, s in split_bodies(shape, _name(label))
        ]
        return row

    def _colour_of(self, shape: Any) -> str:
        """The colour of a body by itself, or of its first face where its faces have the colours."""
        from OCP.Quantity import Quantity_Color
        from OCP.TopLoc import TopLoc_Location

        found = Quantity_Color()
        for own in (shape, next(faces_of(shape), None)):
            if own is not None:
                plain = own.Located(TopLoc_Location())
                for kind in _kinds_of_colour():
                    if self.colours.GetColor(plain, kind, found):
                        return _hexadecimal(found)
        return ""

    def _row(self, label: Any) -> tuple[int, bool]:
        """The row of a label's product, and whether it is met for the first time."""
        from OCP.TCollection import TCollection_AsciiString
        from OCP.TDF import TDF_Tool

        entry = TCollection_AsciiString()
        TDF_Tool.Entry_s(label, entry)
        known = self.rows.setdefault(entry.ToCString(), len(self.products))
        if known < len(self.products):
            return known, False
        name = _raw_name(label)
        own = self.numbers.get(name) or [""]
        number = own.pop(0) if len(own) > 1 else own[0]
        # an identification number may be of figures alone, a name may not
        plain = re.fullmatch(r"[\d.\- ]*\d[\d.\- ]*", number) and step_header.given(name)
        number = number if plain else step_header.given(number)
        self.products.append(Product(step_header.given(name) or number, number))
        return known, True

    def sorted(self) -> list[Product]:
        """The products in an order in which none stands before one that it stands in; bodies are told their new rows."""
        above: list[list[int]] = [[] for _ in self.products]
        for row, p in enumerate(self.products):
            for child in set(p.uses):
                above[child].append(row)
        order: list[int] = []
        left = [len(a) for a in above]
        ready = [row for row, n in enumerate(left) if n == 0]
        while ready:
            row = ready.pop(0)
            order.append(row)
            for child in dict.fromkeys(self.products[row].uses):
                left[child] -= 1
                if left[child] == 0:
                    ready.append(child)
        now = {row: k for k, row in enumerate(order)}
        assert len(now) == len(self.products), "a product stands in itself"
        for body in self.bodies:
            body.product = now[body.product]
            body.path = (now[body.path[0]], *body.path[1:])
        return [replace(p, uses=tuple(now[u] for u in p.uses)) for p in (self.products[row] for row in order)]


def _numbers(model: Any) -> dict[str, list[str]]:
    """Identification numbers (``id``) of the products of a STEP model by what the kernel names them, in its order."""
    from OCP.StepBasic import StepBasic_Product

    products = model.Entities()
    # chosen by the kernel: to look at each of a hundred thousand entities from here takes half as long as to read the file
    products.SelectType(StepBasic_Product.get_type_descriptor_s(), True)
    found: dict[str, list[str]] = {}
    products.Start()
    while products.More():
        number, name = (_said(x) for x in (products.Value().Id(), products.Value().Name()))
        found.setdefault(name or number, []).append(number)
        products.Next()
    return found


def _said(text: Any) -> str:
    return decoded(text.ToCString().encode("utf-8", "surrogateescape")) if text is not None else ""


def _raw_name(label: Any) -> str:
    from OCP.TDataStd import TDataStd_Name

    name = TDataStd_Name()
    found = label.FindAttribute(TDataStd_Name.GetID_s(), name)
    return str(name.Get().ToExtString()).strip() if found else ""


def _name(label: Any) -> str:
    return step_header.given(_raw_name(label))


def _kinds_of_colour() -> tuple[Any, ...]:
    from OCP.XCAFDoc import XCAFDoc_ColorType

    return XCAFDoc_ColorType.XCAFDoc_ColorSurf, XCAFDoc_ColorType.XCAFDoc_ColorGen


def _colour(label: Any) -> str:
    """The colour that is tied to a label; empty where none is."""
    from OCP.Quantity import Quantity_Color
    from OCP.XCAFDoc import XCAFDoc_ColorTool

    found = Quantity_Color()
    for kind in _kinds_of_colour():
        if XCAFDoc_ColorTool.GetColor_s(label, kind, found):
            return _hexadecimal(found)
    return ""


def _hexadecimal(colour: Any) -> str:
    from OCP.Quantity import Quantity_Color

    return "#" + str(Quantity_Color.ColorToHex_s(colour).ToCString()).lstrip("#").lower()[:6]


def _density(label: Any) -> float | None:
    """Density (g/cm³) of the material tied to a label."""
    from OCP.XCAFDoc import XCAFDoc_MaterialTool

    density = XCAFDoc_MaterialTool.GetDensityForShape_s(label) * 1000
    return density if density > 0 else None
