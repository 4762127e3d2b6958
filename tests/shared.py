"""What several test files use: acts over HTTP, documents to begin with, figures that are known."""

from __future__ import annotations

import io
import math
import time

import numpy as np
import pytest
from flask.testing import FlaskClient

from barequill.core.acts.cut_view import CutPoint, CutView
from barequill.core.drawing import (
    Dimension,
    Drawing,
    PartUse,
    PrincipalView,
    ProjectedView,
    SectionView,
    Sheet,
    View,
)
from barequill.core.drawing.operations import (
    AddViews,
    SetField,
    apply,
)
from tools.common import AT_LENGTH
from tools.sheets import DrawnPart

long = pytest.mark.skipif(not AT_LENGTH, reason="takes long: make proof tries it")
"""Marks a test of what others try in part."""


def bring(client: FlaskClient, name: str, data: bytes) -> dict:
    """Bring a part file and wait for its end."""
    answer = client.post("/api/parts", data={"file": (io.BytesIO(data), name)})
    if answer.status_code != 202:
        return answer.get_json()
    job = answer.get_json()
    for _ in range(600):
        job = client.get(f"/api/jobs/{job['id']}").get_json()
        if job["state"] != "working":
            return job
        time.sleep(0.05)
    raise AssertionError("the job never ended")


def act(client, state: dict, **what) -> dict:
    answer = client.post(f"/api/drawings/{state['id']}/acts", json={"edit": state["edit"], "act": what})
    assert answer.status_code == 200, answer.get_json()
    return answer.get_json()


HALF = math.sqrt(0.5)
SQUARE = np.array([[1, 0], [1, 1], [0, 1], [-1, 1], [-1, 0], [-1, -1], [0, -1], [1, -1], [1, 0]], float)
FRAME = np.array([[0.6, 0.8, 0], [-0.8, 0.6, 0], [0, 0, 1]])
TILTED = np.array([[2, 2, -1], [-1, 2, 2], [2, -1, 2]]) / 3
CIRCLE_KNOTS = np.array([0, 0, 0, 1, 1, 2, 2, 3, 3, 4, 4, 4], float)


CIRCLE_WEIGHTS = np.array([1, HALF, 1, HALF, 1, HALF, 1, HALF, 1])


def circle_poles(radius: float, centre, frame=TILTED) -> np.ndarray:
    return np.asarray(centre) + radius * SQUARE @ frame[:2]


SUMMARY = {"name": "Pawl", "number": "WL-205", "bodies": [{"material": "Steel C45"}]}


def base() -> Drawing:
    return Drawing(parts=[PartUse(key="k1", name="Pawl", number="WL-205")], sheets=[Sheet(id="s1")])


def title(text: str):
    return lambda drawing: SetField(field="title", value=text)


def view(number: int, parent: str | None = None, look: str = "front") -> View:
    common = {"id": f"v{number}", "part": "k1", "place": (100.0 + 60 * (number - 1), 100)}
    if parent is not None:
        return ProjectedView(parent=parent, look=look, **common)
    return PrincipalView(toward=(0, -1, 0), up=(0, 0, 1), look=look, **common)


def two_views() -> Drawing:
    return apply(base(), AddViews(sheet="s1", views=[view(1), view(2, "v1", "left")]))


def dimension(number: int, on: str = "v1") -> Dimension:
    return Dimension(id=f"d{number}", on=on, measure="length", anchors=[{"ref": "E1", "at": "line"}])


def lengths(curves, visible: bool) -> float:
    return sum(c.curve.length() for c in curves if c.visible == visible)


def kinds(curves, visible: bool) -> list[str]:
    return sorted(c.curve.name for c in curves if c.visible == visible)


def section(acting: DrawnPart, points, to, **more) -> tuple[Drawing, SectionView]:
    """The drawing with a section along a line through places of its front view, each sheet mm from the view's place."""
    view = acting.placed_view("front").view
    x, y = view.place
    clicks = [CutPoint(x=x + p[0], y=y + p[1], **(p[2] if len(p) > 2 else {})) for p in points]
    act = CutView(view=view.id, points=clicks, to=(x + to[0], y + to[1]), **more)
    drawing = apply(acting.drawing, act.plan(acting.drawing, acting.acts))
    return drawing, drawing.front_sheet.views[-1]


COVER_AREA = 2 * (62 * 12 + (36 + 33.5) / 2 * 14 - 18 * 18 - 20 * 8) - 2 * 2 - 2 * (6.6 * 6 + 11 * 6)
