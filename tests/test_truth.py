"""The projection against rays, on demo parts, real parts, and parts made at random."""

from __future__ import annotations

from dataclasses import replace

import pytest

from barequill.core import project
from barequill.core.part.reading import _read_step

from .conftest import demo_file, part_of, real_file
from .truth import VIEWS, judge, random_part, random_shape, sample, verdict

DEMO = [
    "spindle-pedestal",
    "long-pinion-spindle",
    "angled-keeper",
    "round-gear-cover",
    "pawl",
    "catch-box",
    "small-pedestal-assembly",
]
REAL = ["dm1-oc-214.stp", "io1-cm-214.stp", "sg1-c5-214.stp", "tailturbine.stp", "component8.step"]


FEW = ["front", "top", "right", "iso", "aslant"]


def holds(shapes, part) -> None:
    for name, shares in verdict(shapes, part, FEW).items():
        assert min(shares) >= 0.995, f"{name}: {shares}"


@pytest.mark.parametrize("stem", DEMO)
def test_the_demo_parts_are_shown_as_rays_see_them(stem: str) -> None:
    path = demo_file(stem)
    holds([r.shape for r in _read_step(path, path.name)[0]], part_of(path))


@pytest.mark.parametrize("name", REAL)
def test_real_parts_are_shown_as_rays_see_them(name: str) -> None:
    path = real_file(name)
    holds([r.shape for r in _read_step(path, path.name)[0]], part_of(path))


@pytest.mark.parametrize("seed", [2, 9, 11, 16])
def test_parts_made_at_random_are_shown_as_rays_see_them(seed: int) -> None:
    shape = random_shape(seed)
    if shape is None:
        pytest.skip("the kernel makes no valid part of this seed")
    holds([shape], random_part(shape))


def test_the_judge_sees_a_broken_projection() -> None:
    """Hidden shown as visible, lines left out, visible shown as hidden: each must be found out."""
    path = demo_file("catch-box")
    samples = sample([r.shape for r in _read_step(path, path.name)[0]])
    part = part_of(path)
    curves = project(part, *VIEWS["iso"])
    assert min(judge(samples, part, curves, *VIEWS["iso"])) >= 0.995
    all_visible = [replace(c, visible=True) for c in curves]
    assert judge(samples, part, all_visible, *VIEWS["iso"])[2] < 0.9
    assert judge(samples, part, [c for c in curves if c.visible], *VIEWS["iso"])[1] < 0.9
    assert judge(samples, part, [replace(c, visible=False) for c in curves], *VIEWS["iso"])[0] < 0.9
    assert judge(samples, part, curves[::2], *VIEWS["iso"])[0] < 0.9
