"""The rules between the rooms of the code."""

from __future__ import annotations

import ast
import importlib
import json
import re
from pathlib import Path

import pytest

import barequill
import tools
from barequill.web.openapi import document, offered

ROOT = Path(barequill.__file__).parent
SCREEN = Path(__file__).parents[1] / "frontend" / "src"
MAY: dict[str, set[str]] = {
    "core/geometry": set(),
    "core/standards": set(),
    "core/part": {"core/geometry"},
    "core/recipe": set(),
    "core/reading": {"core/geometry", "core/part", "core/recipe"},
    "core/features": {"core/geometry", "core/part"},
    "core/cutting": {"core/part", "core/geometry"},
    "core/projection": {"core/cutting", "core/part", "core/reading", "core/geometry"},
    "core/drawing": {"core/standards"},
    "core/display": {"core/standards", "core/geometry"},
    "core/views": {
        "core/cutting",
        "core/projection",
        "core/drawing",
        "core/part",
        "core/features",
        "core/standards",
        "core/display",
        "core/geometry",
    },
    "core/measuring": {
        "core/views",
        "core/drawing",
        "core/standards",
        "core/display",
        "core/features",
        "core/geometry",
        "core/part",
    },
    "core/kinds": {
        "core/measuring",
        "core/views",
        "core/drawing",
        "core/standards",
        "core/display",
        "core/features",
        "core/geometry",
        "core/part",
    },
    "core/sheet": {
        "core/kinds",
        "core/measuring",
        "core/views",
        "core/drawing",
        "core/standards",
        "core/display",
        "core/features",
        "core/geometry",
        "core/part",
    },
    "core/arranging": {
        "core/geometry",
        "core/sheet",
        "core/kinds",
        "core/measuring",
        "core/views",
        "core/drawing",
        "core/standards",
        "core/display",
    },
    "core/acts": {
        "core/arranging",
        "core/sheet",
        "core/kinds",
        "core/measuring",
        "core/views",
        "core/drawing",
        "core/standards",
        "core/display",
        "core/features",
        "core/geometry",
        "core/part",
    },
    "core/writers": {"core/display", "core/geometry", "core/standards"},
    "work": {"core/drawing", "core/features", "core/part", "core/reading", "core/projection", "core/views"},
    "store": {"core/drawing", "core/standards"},
    "web": {
        "core/acts",
        "core/arranging",
        "core/sheet",
        "core/kinds",
        "core/measuring",
        "core/drawing",
        "core/display",
        "core/part",
        "core/recipe",
        "core/reading",
        "core/projection",
        "core/standards",
        "core/views",
        "core/writers",
        "store",
        "work",
    },
    "demo": {"core/acts", "core/sheet", "core/drawing", "core/reading", "core/standards", "core/views", "store", "web"},
}
"""What each room may import of the others; lower ones come first, and none imports one that imports it."""
OUTSIDE = {
    "core": {"flask", "sqlalchemy", "alembic", "pebble", "waitress", "click"},
    "store": {"flask", "pebble", "OCP"},
    "work": {"flask", "sqlalchemy"},
}
KERNEL = ("core/reading/", "demo/building.py")
"""Where alone the kernel is imported."""


def imports(path: Path) -> list[tuple[int, str]]:
    """Level and module of each import of a file."""
    found: list[tuple[int, str]] = []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.ImportFrom):
            found.append((node.level, node.module or ""))
        elif isinstance(node, ast.Import):
            found += [(0, n.name) for n in node.names]
    return found


def room(relative: str) -> str:
    parts = relative.split("/")
    return "/".join(parts[:2]) if parts[0] == "core" and len(parts) > 2 else parts[0] if len(parts) > 1 else ""


@pytest.mark.parametrize("path", sorted(ROOT.rglob("*.py")), ids=lambda p: str(p.relative_to(ROOT)))
def test_imports_go_up_the_table_only(path: Path) -> None:
    relative = path.relative_to(ROOT).as_posix()
    own = room(relative)
    for level, module in imports(path):
        if level == 0:
            top = module.split(".")[0]
            assert top not in OUTSIDE.get(own.split("/")[0], set()), f"{relative} uses {top}"
            assert top != "OCP" or relative.startswith(KERNEL), f"{relative} uses the kernel"
        elif own in MAY:
            base = relative.split("/")[:-1]
            target = "/".join([*base[: len(base) - level + 1], *module.split(".")])
            other = room(target + "/x") if target.startswith("core/") else target.split("/")[0]
            if (
                other
                and other != own
                and target not in ("core/errors", "core/bounds", "core/registry", "core/recent", "core/values", "core")
            ):
                assert other in MAY[own], f"{relative} uses {target}"


def test_the_front_end_s_types_come_from_the_schema_as_it_is() -> None:
    kept = ROOT.parents[1] / "frontend" / "src" / "api" / "openapi.json"
    assert json.loads(kept.read_text()) == json.loads(json.dumps(document())), "run make types"
    assert json.loads(kept.with_name("offered.json").read_text()) == offered(), "run make types"


SEARCHED = re.compile(
    r"\.(words|says|explained|title)\b[\w.()]*\.(includes|startsWith|endsWith|match|search|indexOf)\("
)
JOINED = re.compile(r"`\$\{[\w.]*(id|view|owner)\}-\w")


@pytest.mark.parametrize("path", sorted([*SCREEN.rglob("*.svelte"), *SCREEN.rglob("*.ts")]), ids=lambda p: p.name)
def test_the_screen_reads_nothing_out_of_words_and_makes_up_no_ids(path: Path) -> None:
    """Kinds are told by their kind; what the server says in words is shown, not searched."""
    if path.name != "schema.ts" and not path.name.endswith(".test.ts"):
        text = path.read_text()
        assert not SEARCHED.search(text) and not JOINED.search(text)


@pytest.mark.parametrize("path", sorted(ROOT.rglob("*.py")), ids=lambda p: str(p.relative_to(ROOT)))
def test_what_takes_more_than_six_values_is_told_them_by_name(path: Path) -> None:
    """But for what gathers any number of them, and for what the kernel offers by place alone."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Call) and not any(isinstance(a, ast.Starred) for a in node.args):
            name = node.func.attr if isinstance(node.func, ast.Attribute) else getattr(node.func, "id", "")
            gathers = name in ("create_table", "key_of", "zip") or name.startswith("GeomConvert_")
            assert len(node.args) <= 6 or gathers, f"{path.name}, line {node.lineno}: {name}"


def test_the_front_end_only_shows_what_the_server_says_in_words() -> None:
    asked = re.compile(
        r"\bwords\??\.(includes|startsWith|endsWith|match|search|indexOf|split)\(|\bwords\s*[!=]==\s*['\"`]\w"
    )
    files = [
        p
        for p in (ROOT.parents[1] / "frontend" / "src").rglob("*")
        if p.suffix in (".ts", ".svelte") and ".test." not in p.name
    ]
    assert files
    for path in files:
        for number, line in enumerate(path.read_text().splitlines(), 1):
            assert not asked.search(line), f"{path.name}:{number} tells things apart by words: {line.strip()}"


@pytest.mark.parametrize("path", sorted(Path(__file__).parent.glob("*.py")), ids=lambda p: p.name)
def test_no_test_file_is_imported_by_another(path: Path) -> None:
    assert not [m for _, m in imports(path) if m.split(".")[-1].startswith("test_")]


@pytest.mark.parametrize("name", sorted(p.stem for p in (Path(tools.__file__).parent).glob("*.py")))
def test_every_tool_can_be_begun(name: str) -> None:
    """Benches, surveys and sieges are run by hand; what they name of the house is there."""
    importlib.import_module(f"tools.{name}")
    for said in re.findall(r"from (barequill[\w.]*) import", (Path(tools.__file__).parent / f"{name}.py").read_text()):
        importlib.import_module(said)
