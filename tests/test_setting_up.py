"""What a fresh machine gets: a wheel that serves by itself, and loops that come along compiled."""

from __future__ import annotations

import json
import os
import shutil
import socket
import subprocess
import sys
import time
import urllib.request
import zipfile
from pathlib import Path

import pytest

from barequill.core.geometry import compiled

from .shared import long

ROOT = Path(__file__).parents[1]
NAMES = """
import sys
from barequill.core.geometry import compiled
from barequill.core.projection import warming
warming.warm()
print("\\n".join(sorted(compiled.given())))
"""


def test_what_is_called_from_outside_comes_along_compiled_as_the_loops_are_now() -> None:
    """Else a fresh machine compiles for minutes: after an edit of a loop, ``make loops`` packs them anew."""
    if os.environ.get("NUMBA_CPU_NAME") != "x86-64-v3" or sys.version_info[:2] != (3, 11):
        pytest.skip("what comes along is for Python 3.11 on processors of level 3")
    told = subprocess.run([sys.executable, "-c", NAMES], capture_output=True, text=True, check=True)
    with zipfile.ZipFile(compiled.SHIPPED) as packed:
        assert set(packed.namelist()) == set(told.stdout.split()) and len(packed.namelist()) > 30


def test_code_is_kept_by_what_a_loop_takes_in(tmp_path: Path) -> None:
    """An edit of one loop changes the name of its own code and of those that call it, and of no other."""
    text = """
from barequill.core.geometry.compiled import compiled
STEP = {step}

@compiled
def inner(x):
    return x + STEP

@compiled
def outer(x):
    return inner(x) * 2

@compiled
def other(x):
    return x * 3
"""
    names = []
    for step in (1, 1, 2):
        (tmp_path / "loops_of_a_test.py").write_text(text.format(step=step) + f"# {len(names)}\n")
        code = "import loops_of_a_test as m; print([f._cache.name for f in (m.inner, m.outer, m.other)])"
        path = {"PYTHONPATH": f"{tmp_path}{os.pathsep}{ROOT / 'src'}", "PYTHONDONTWRITEBYTECODE": "1"}
        told = subprocess.run(
            [sys.executable, "-c", code], env=os.environ | path, capture_output=True, text=True, check=True
        )
        names.append(eval(told.stdout))
    assert names[0] == names[1], "a comment changes nothing"
    assert [a == b for a, b in zip(names[1], names[2], strict=True)] == [False, False, True]


@pytest.fixture(scope="module")
def wheel(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A wheel of the application as it is."""
    tmp_path = tmp_path_factory.mktemp("wheel")
    if not (ROOT / "src/barequill/web/static/index.html").exists():
        pytest.skip("the front end is not built here")
    build = [
        sys.executable,
        "-m",
        "pip",
        "wheel",
        "--quiet",
        "--no-deps",
        "--no-build-isolation",
        "--wheel-dir",
        tmp_path,
    ]
    copy = tmp_path / "copy"
    shutil.copytree(
        ROOT,
        copy,
        ignore=shutil.ignore_patterns(".venv", "node_modules", ".git", "var", "__pycache__", "docs", "tests"),
    )
    subprocess.run([*build, copy], check=True, capture_output=True)
    (made,) = tmp_path.glob("barequill-*.whl")
    return made


def test_a_wheel_holds_all_that_the_application_reads(wheel: Path) -> None:
    """Built front end, parts, migrations, fonts and loops come with it: whatever is kept below the package's folder."""
    with zipfile.ZipFile(wheel) as packed:
        names = set(packed.namelist())
    source = ROOT / "src"
    kept = {
        p.relative_to(source) for p in (source / "barequill").rglob("*") if p.is_file() and "__pycache__" not in p.parts
    }
    assert len(kept) > 400 and {str(p) for p in kept} <= names


@long
def test_a_wheel_serves_the_demo_in_an_environment_of_its_own(tmp_path: Path, wheel: Path) -> None:
    own = tmp_path / "own"
    subprocess.run([sys.executable, "-m", "venv", "--without-pip", own], check=True)
    uv = Path(sys.executable).with_name("uv")
    if not uv.exists():
        pytest.skip("the installer that sets up the environment is not here")
    install = [uv, "pip", "install", "--quiet", "--python", own / "bin/python", wheel]
    if subprocess.run([*install, "--offline"], capture_output=True).returncode:
        fetched = subprocess.run(install, capture_output=True, text=True)
        if fetched.returncode and "dns" in fetched.stderr.lower():
            pytest.skip("the packages can be fetched from nowhere")
        assert not fetched.returncode, fetched.stderr
    with socket.socket() as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    home = {"BAREQUILL_HOME": str(tmp_path / "home"), "PYTHONPATH": "", "XDG_CACHE_HOME": str(tmp_path / "cache")}
    with subprocess.Popen(
        [own / "bin/barequill", "demo", "--port", str(port)],
        env=os.environ | home,
        cwd=tmp_path,
        stdout=subprocess.DEVNULL,
    ) as server:
        try:
            url, start = f"http://127.0.0.1:{port}", time.monotonic()
            while True:
                try:
                    with urllib.request.urlopen(f"{url}/api/drawings", timeout=5) as answer:
                        drawings = json.load(answer)
                    break
                except OSError:
                    assert server.poll() is None and time.monotonic() - start < 400
                    time.sleep(0.5)
            with urllib.request.urlopen(f"{url}/", timeout=5) as answer:
                assert b"<script" in answer.read()
            assert len(drawings) == 9
            where = subprocess.run(
                [own / "bin/python", "-c", "import barequill; print(barequill.__file__)"],
                env=os.environ | home,
                cwd=tmp_path,
                capture_output=True,
                text=True,
                check=True,
            ).stdout
            assert where.startswith(str(own))
        finally:
            server.terminate()
