"""OpenAPI made from the routes and their models."""

from __future__ import annotations

import json
import re
import sys
from typing import Any

from pydantic import TypeAdapter
from pydantic.json_schema import models_json_schema

from .. import __version__
from ..core.display.lettering import LETTERINGS
from ..core.drawing.templates import ISO_7200
from ..core.drawing.title_fields import COMPUTED, LABELS
from ..core.measuring.style import READY
from ..core.standards.lines import GROUPS, HEIGHTS
from ..core.standards.scales import SERIES, scale_text
from ..core.standards.sheets import SIZES
from .api import COUNTED, ROUTES, Route
from .schemas import Problem

LEAST = 0.01
"""The smallest scale that lists of scales offer; smaller ones are typed."""


def document() -> dict[str, Any]:
    """The OpenAPI 3.1 document of the application."""
    from . import comparing, containers, drawings, issues, issuing_several, library, own, parts, writing  # noqa: F401  (their routes register on import)

    models = {m for r in ROUTES for m in (r.body, _model(r.answer), Problem) if m is not None}
    _, top = models_json_schema(
        [(m, "serialization") for m in sorted(models, key=lambda m: m.__name__)],
        ref_template="#/components/schemas/{model}",
    )
    paths: dict[str, Any] = {}
    for r in ROUTES:
        paths.setdefault(f"/api{r.path}", {})[r.method.lower()] = _operation(r)
    return {
        "openapi": "3.1.0",
        "info": {"title": "Bare Quill", "version": __version__},
        "paths": paths,
        "components": {"schemas": top.get("$defs", {})},
    }


def _model(answer: Any) -> Any:
    if answer is None:
        return None
    return getattr(answer, "__args__", [answer])[0]


def _operation(r: Route) -> dict[str, Any]:
    names = re.findall(r"{(\w+)}", r.path)
    integer = {"id"} if any(p in r.path for p in COUNTED) else set()
    operation: dict[str, Any] = {
        "operationId": r.name,
        "summary": r.summary,
        "parameters": [
            {"name": n, "in": "path", "required": True, "schema": {"type": "integer" if n in integer else "string"}}
            for n in names
        ]
        + [{"name": n, "in": "query", "required": False, "schema": {"type": "string"}} for n in r.query],
        "responses": {
            str(r.status): {"description": "OK"},
            "default": {
                "description": "Problem",
                "content": {"application/problem+json": {"schema": {"$ref": "#/components/schemas/Problem"}}},
            },
        },
    }
    if r.answer is not None:
        schema = TypeAdapter(r.answer).json_schema(mode="serialization", ref_template="#/components/schemas/{model}")
        schema.pop("$defs", None)
        name = _model(r.answer).__name__
        ref = {"$ref": f"#/components/schemas/{name}"}
        operation["responses"][str(r.status)]["content"] = {
            "application/json": {"schema": {"type": "array", "items": ref} if schema.get("type") == "array" else ref}
        }
    if r.upload:
        file = {"type": "object", "required": ["file"], "properties": {"file": {"type": "string", "format": "binary"}}}
        operation["requestBody"] = {"required": True, "content": {"multipart/form-data": {"schema": file}}}
    if r.body is not None:
        operation["requestBody"] = {
            "required": True,
            "content": {"application/json": {"schema": {"$ref": f"#/components/schemas/{r.body.__name__}"}}},
        }
    return operation


def offered() -> dict[str, Any]:
    """What is to choose from in several places of the screen, as the core knows it."""
    return {
        "sizes": {
            "ISO": [n for n in SIZES if len(n) == 2][::-1],
            "ASME": [n for n in SIZES if len(n) == 1],
        },
        "scales": [scale_text(s) for s in SERIES if s >= LEAST],
        "styles": [s.name for s in READY],
        "wide": list(GROUPS),
        "lettering": list(HEIGHTS),
        "fonts": list(LETTERINGS),
        "template": ISO_7200.model_dump(mode="json"),
        "fields": LABELS,
        "computed": COMPUTED,
        "usual": {
            "ISO": {"size": "A3", "angle": "first"},
            "ASME": {"size": "B", "angle": "third"},
        },
    }


if __name__ == "__main__":
    print(json.dumps(offered() if sys.argv[1:] == ["offered"] else document(), indent=1))
