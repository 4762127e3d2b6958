"""The projection against rays, on demo parts, real parts, and parts made at random."""

from __future__ import annotations

from dataclasses import replace

import pytest

from barequill.core import project
from barequill.core.reading.step import read_step
from tools.common import at_length, demo_file, part_of
from tools.truth import VIEWS, judge, random_part, random_shape, sample, verdict

from .conftest import real_file

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


FEW = at_length(["top", "aslant"], ["front", "top", "right", "iso", "aslant"])


def holds(shapes, part) -> None:
    for name, shares in verdict(shapes, part, FEW).items():
        assert min(shares.all()) >= 0.995, f"{name}: {shares}"


@pytest.mark.parametrize("stem", DEMO[:: at_length(2, 1)])
def test_the_demo_parts_are_shown_as_rays_see_them(stem: str) -> None:
    path = demo_file(stem)
    holds([r.shape for r in read_step(path, path.name)[0]], part_of(path))


@pytest.mark.parametrize("name", REAL[:: at_length(2, 1)])
def test_real_parts_are_shown_as_rays_see_them(name: str) -> None:
    path = real_file(name)
    holds([r.shape for r in read_step(path, path.name)[0]], part_of(path))


@pytest.mark.parametrize("seed", at_length([2, 11], [2, 9, 11, 16]))
def test_parts_made_at_random_are_shown_as_rays_see_them(seed: int) -> None:
    shape = random_shape(seed)
    if shape is None:
        pytest.skip("the kernel makes no valid part of this seed")
    holds([shape], random_part(shape))


def test_the_judge_sees_a_broken_projection() -> None:
    """Hidden shown as visible, lines left out, visible shown as hidden: each must be found out."""
    path = demo_file("catch-box")
    samples = sample([r.shape for r in read_step(path, path.name)[0]])
    part = part_of(path)
    view = VIEWS["iso"]
    curves = project(part, *view)
    assert min(judge(samples, part, curves, *view).all()) >= 0.995
    assert judge(samples, part, [replace(c, visible=True) for c in curves], *view).visible_true < 0.9
    assert judge(samples, part, [c for c in curves if c.visible], *view).hidden < 0.9
    none_seen = judge(samples, part, [replace(c, visible=False) for c in curves], *view)
    assert none_seen.visible < 0.9
    assert none_seen.hidden_true < 0.9
    assert none_seen.rim < 0.9
    halved = judge(samples, part, curves[::2], *view)
    assert halved.visible < 0.9 and halved.jumps < 0.9
    assert judge(samples, part, [c for c in curves if c.visible], *view).folds < 0.99
    assert none_seen.jumps < 0.1
    assert judge(samples, part, curves + curves[::3], *view).once < 0.95
