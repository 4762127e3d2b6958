"""What is said in the text of a STEP file and not in its geometry."""

from __future__ import annotations

import re

from .step_text import decoded

_PRODUCT = re.compile(rb"#(\d+)\s*=\s*PRODUCT\s*\(\s*'((?:[^']|'')*)'\s*,\s*'((?:[^']|'')*)'", re.S)
_DEFINITION = re.compile(rb"#(\d+)\s*=\s*PRODUCT_DEFINITION\s*\([^#]*#(\d+)", re.S)
_FORMATION = re.compile(rb"#(\d+)\s*=\s*PRODUCT_DEFINITION_FORMATION\w*\s*\([^#]*#(\d+)", re.S)
_MATERIAL = re.compile(
    rb"#(\d+)\s*=\s*PROPERTY_DEFINITION\s*\(\s*'material property'\s*,\s*'material name'\s*,\s*#(\d+)", re.S
)
_SHOWN = re.compile(rb"PROPERTY_DEFINITION_REPRESENTATION\s*\(\s*#(\d+)\s*,\s*#(\d+)", re.S)
_REPRESENTATION = re.compile(rb"#(\d+)\s*=\s*REPRESENTATION\s*\(\s*'[^']*'\s*,\s*\(\s*#(\d+)", re.S)
_DESCRIPTION = re.compile(rb"#(\d+)\s*=\s*DESCRIPTIVE_REPRESENTATION_ITEM\s*\(\s*'((?:[^']|'')*)'", re.S)

_UNNAMED = re.compile(
    r"STEP translator|^\W*(the|a)?\s*product(\s*(name|id))?\W*$|^[\d\W_]*$"
    r"|^(unnamed|untitled|none|noname|assembly|part|solid|shape|compound)$",
    re.I,
)
"""What translators write in place of a name where the modeller gave none; figures alone are none either."""


def given(name: str) -> str:
    """A name that somebody gave; empty for one that a translator made up."""
    # what translators write is short, and what is long is not gone through over and over
    return "" if not name.strip() or (len(name) <= 200 and _UNNAMED.search(name)) else name


def materials(text: bytes) -> dict[str, str]:
    """Material name by product name, from the material properties of a STEP file."""
    products = {n: decoded(name) or decoded(number) for n, number, name in _PRODUCT.findall(text)}
    formations = dict(_FORMATION.findall(text))
    definitions = dict(_DEFINITION.findall(text))
    items = dict(_DESCRIPTION.findall(text))
    content = dict(_REPRESENTATION.findall(text))
    shown = dict(_SHOWN.findall(text))
    found = {}
    for property_number, definition in _MATERIAL.findall(text):
        product_number = formations.get(definitions.get(definition, b""), b"")
        name = items.get(content.get(shown.get(property_number, b""), b""))
        if product_number in products and name:
            found[products[product_number]] = decoded(name)
    return found
