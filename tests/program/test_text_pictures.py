"""Pictures in the texts of a report: in every format, from the folder of the plan and from nowhere else."""

import io
import zipfile
from pathlib import Path

import pypdfium2
import pytest
from PIL import Image

from tests.program.conftest import Run

PLAN = """[records]
file = "passengers.csv"

[report]
title = "Quays"
formats = ["html", "docx", "pptx", "pdf"]

[[report.part]]
heading = "The quay"
text = "As seen from the pier: ![A red quay]({file})"
show = "wait"

[[table]]
name = "wait"
by = "route"
measure = "wait"
"""


def picture(color: str) -> bytes:
    buffer = io.BytesIO()
    Image.new("RGB", (60, 40), color).save(buffer, "PNG")
    return buffer.getvalue()


def test_a_picture_is_in_every_format(run: Run, folder: Path) -> None:
    (folder / "quay.png").write_bytes(picture("#ff0000"))
    (folder / "plan.toml").write_text(PLAN.replace("{file}", "quay.png"), "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    assert 'alt="A red quay"' in (folder / "out" / "report.html").read_text("utf-8")
    for ending, part in (("docx", "word/media/image1.png"), ("pptx", "ppt/media/image1.png")):
        with zipfile.ZipFile(folder / "out" / f"report.{ending}") as document:
            assert document.read(part) == picture("#ff0000")
    page = pypdfium2.PdfDocument(folder / "out" / "report.pdf")[0].render().to_pil()
    assert (255, 0, 0) in {color for _, color in page.convert("RGB").getcolors(1 << 20)}


def test_a_changed_picture_is_built_anew(run: Run, folder: Path) -> None:
    (folder / "quay.png").write_bytes(picture("#ff0000"))
    (folder / "plan.toml").write_text(PLAN.replace("{file}", "quay.png"), "utf-8")
    assert run("build", "plan.toml", "--out", "out").returncode == 0
    assert "report" in run("build", "plan.toml", "--out", "out").stderr.partition("Unchanged")[2]
    (folder / "quay.png").write_bytes(picture("#0000ff"))
    assert "Wrote out/report.html" in run("build", "plan.toml", "--out", "out").stderr


@pytest.mark.parametrize(
    ("file", "message"),
    [
        ("quay.svg", "is no PNG or JPEG"),
        ("none.png", "cannot be read"),
        ("../quay.png", "lies outside the folder of the plan"),
        ("https://pier.example/quay.png", "lies elsewhere"),
    ],
)
def test_other_pictures_are_refused(run: Run, folder: Path, file: str, message: str) -> None:
    (folder / "quay.svg").write_text("<svg/>", "utf-8")
    (folder.parent / "quay.png").write_bytes(picture("#ff0000"))
    (folder / "plan.toml").write_text(PLAN.replace("{file}", file), "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 2
    assert message in built.stderr
    assert not (folder / "out").exists()
