"""PDFs for archives, judged by a validator that is not ours, and prints at true size, measured on what is printed."""

from __future__ import annotations

import hashlib
import io
import json
import re
import shutil
import subprocess
from pathlib import Path

import numpy as np
import pikepdf
import pypdfium2
import pytest
from PIL import ImageCms

from barequill.core.errors import UserError
from barequill.core.writers import write_pdf
from barequill.core.writers.archive import archived, colour_profile, with_sources
from barequill.core.writers.printing import print_plan, printed
from tools.common import DEMO_PARTS
from tools.sheets import DrawnPart

from .commanding import run

JARS = [
    Path("/usr/share/java") / f"{name}.jar"
    for name in (
        "preflight",
        "pdfbox2",
        "xmpbox",
        "fontbox2",
        "commons-logging",
        "commons-io",
        "javax.activation",
        "jaxb-api",
    )
]
JUDGE = shutil.which("java") is not None and all(j.exists() for j in JARS)


@pytest.fixture(scope="module")
def sheet() -> bytes:
    drawn = DrawnPart("spindle-pedestal", fields={"title": "Ped & <stal>", "creator": "R. Oåke", "date": "2026-11-20"})
    return write_pdf([drawn.ink(drawn.drawing)])


def test_an_archive_holds_what_it_was_made_of_and_says_of_itself_what_its_sheet_does(sheet: bytes) -> None:
    parts = {"part-a.step": b"ISO-10303-21;\n" * 400}
    made = with_sources(sheet, b'{"sheets": []}', parts)
    assert made == with_sources(sheet, b'{"sheets": []}', parts)
    with pikepdf.open(io.BytesIO(made)) as found:
        assert {n: f.get_file().read_bytes() for n, f in found.attachments.items()} == {
            "drawing.json": b'{"sheets": []}',
            **parts,
        }
        for spec in found.Root.AF:
            inner = spec.EF.F
            assert spec.AFRelationship == "/Source" and str(spec.UF) in found.attachments
            assert bytes(inner.Params.CheckSum) == hashlib.md5(inner.read_bytes(), usedforsecurity=False).digest()
        assert str(found.docinfo["/CreationDate"]) == "D:20261120000000Z"
        with found.open_metadata() as said:
            assert (said.pdfa_status, said["dc:title"], said["dc:creator"]) == (
                "3B",
                "WL-201 Ped & <stal>",
                ["R. Oåke"],
            )
            assert said["xmp:CreateDate"] == "2026-11-20T00:00:00Z"
            assert said["xmp:CreatorTool"] == str(found.docinfo["/Creator"])
    before, after = (pypdfium2.PdfDocument(x)[0].render(scale=1).to_numpy() for x in (sheet, made))
    assert np.array_equal(before, after)


def test_its_colours_are_those_of_another_profile_of_the_same_name() -> None:
    """A grey and two colours through both to a third space come out alike."""
    own, other = ImageCms.ImageCmsProfile(io.BytesIO(colour_profile())), ImageCms.createProfile("sRGB")
    lab = ImageCms.createProfile("LAB")
    from PIL import Image

    patch = Image.new("RGB", (3, 1))
    patch.putdata([(128, 128, 128), (200, 40, 30), (20, 90, 220)])
    seen = [
        np.asarray(ImageCms.applyTransform(patch, ImageCms.buildTransform(p, lab, "RGB", "LAB")), int)
        for p in (own, other)
    ]
    assert np.abs(seen[0] - seen[1]).max() <= 1


@pytest.mark.skipif(
    not JUDGE,
    reason="the validator is not installed: apt-get install default-jre-headless libpdfbox2-java libactivation-java libjaxb-api-java",
)
def test_a_validator_of_others_finds_no_fault(sheet: bytes, tmp_path: Path) -> None:
    """It knows part 1, which has all rules of part 3 but those of files within and of transparency; a spoilt one it refuses."""
    path = tmp_path / "sheet.pdf"

    def judged(data: bytes) -> str:
        path.write_bytes(data)
        call = ["java", "-cp", ":".join(map(str, JARS)), "org.apache.pdfbox.preflight.Validator_A1b", str(path)]
        return subprocess.run(call, capture_output=True, text=True, timeout=120).stdout

    assert "is a valid PDF/A-1b file" in judged(archived(sheet, part=1))
    assert "not a valid" in judged(sheet)


def test_the_command_line_writes_archives(tmp_path: Path) -> None:
    part = DEMO_PARTS / "pawl.step"
    out = tmp_path / "pawl.pdf"
    assert run("draw", str(part), "--archive", "-o", str(out)).returncode == 0
    with pikepdf.open(out) as found:
        assert found.attachments["pawl.step"].get_file().read_bytes() == part.read_bytes()
        assert json.loads(found.attachments["drawing.json"].get_file().read_bytes())["sheets"]
    assert run("draw", str(part), "--archive", "-o", str(tmp_path / "pawl.svg")).returncode == 2


A2, A3, A4 = (594.0, 420.0), (420.0, 297.0), (210.0, 297.0)


def test_sheets_lie_on_paper_at_true_size_and_what_is_too_large_is_told() -> None:
    plan = print_plan([A3, A4], "A3")
    assert plan.pages == ((420, 297), (297, 420)) and not plan.warnings
    assert (plan.laid[1].x, plan.laid[1].y) == (43.5, 61.5)
    small = print_plan([A3, A4], "a4")
    assert len(small.warnings) == 1 and "Sheet 1 is 420 × 297 mm" in small.warnings[0] and "A3" in small.warnings[0]
    roll = print_plan([A2, A3, A4], "roll 610")
    # A2 and A3 turned would take more of the roll, or not: 420, 297 and 210 along it
    assert [s.turned for s in roll.laid] == [False, False, True] and not roll.warnings
    ((width, length),) = roll.pages
    assert (width, length) == (610, 10 + 420 + 10 + 297 + 10 + 210 + 10)
    assert [round(s.y) for s in roll.laid] == [length - 10 - 420, length - 20 - 420 - 297, 10]
    assert "wider than the roll" in print_plan([(841.0, 1189.0)], "roll 610").warnings[0]
    assert len(print_plan([A2] * 20, "roll 610").pages) == 2
    for ill in ("A9", "roll", "roll 9", "30x40", "../x"):
        with pytest.raises(UserError):
            print_plan([A3], ill)


@pytest.mark.parametrize("on", ["", "A2", "roll 610", "roll 330"])
def test_what_is_printed_measures_what_the_sheet_says(on: str, sheet: bytes) -> None:
    """The frame, from border to border, and the bar, in pixels of a tenth of a millimetre."""
    drawn = pypdfium2.PdfDocument(sheet)[0]
    size = tuple(round(v / 72 * 25.4, 3) for v in drawn.get_size())
    made = printed(sheet, print_plan([size], on), bar=True)
    with pikepdf.open(io.BytesIO(made)) as found:
        assert found.Root.ViewerPreferences.PrintScaling == "/None"
    bare = printed(sheet, print_plan([size], on), bar=False)
    scale = 254 / 72
    dark, without = (pypdfium2.PdfDocument(x)[0].render(scale=scale).to_numpy().min(axis=2) < 128 for x in (made, bare))
    turned = print_plan([size], on).laid[0].turned
    rows, columns = np.flatnonzero(without.mean(axis=1) > 0.2), np.flatnonzero(without.mean(axis=0) > 0.2)
    # what is about the fields of the frame stands 15 mm from the left edge, 5 from the others
    wide, high = (size[1] - 10, size[0] - 20) if turned else (size[0] - 20, size[1] - 10)
    assert columns[-1] - columns[0] == pytest.approx(10 * wide, abs=12)
    assert rows[-1] - rows[0] == pytest.approx(10 * high, abs=12)
    places = np.argwhere(dark & ~without)
    bar = np.ptp(places[:, 1 if turned else 0])
    assert bar == pytest.approx(1000, abs=6)
    assert re.search(rb"/Rule", made) and not re.search(rb"/Rule", bare)
