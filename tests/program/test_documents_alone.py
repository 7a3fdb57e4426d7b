"""One chart or table as a document, a presentation or a workbook of its own."""

from pathlib import Path

import openpyxl
import pytest
from docx import Document
from pptx import Presentation

from tests.program.conftest import Run

CHART = ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--title", "Waiting on the quay")
TABLE = ("table", "passengers.csv", "--by", "route", "--measure", "wait")


@pytest.mark.parametrize("shown", [CHART, TABLE])
def test_it_is_the_whole_of_a_document(run: Run, folder: Path, shown: tuple[str, ...]) -> None:
    names = ["a.docx", "a.pptx", "a.xlsx"]
    outs = [word for name in names for word in ("--out", name)]
    done = run(*shown, *outs)
    assert done.returncode == 0, done.stderr
    first = [(folder / name).read_bytes() for name in names]
    assert run(*shown, *outs).returncode == 0
    assert [(folder / name).read_bytes() for name in names] == first
    document, [slide] = Document(str(folder / "a.docx")), Presentation(str(folder / "a.pptx")).slides
    book = openpyxl.load_workbook(folder / "a.xlsx")
    if shown == CHART:
        assert [shape.type for shape in document.inline_shapes]
        assert slide.shapes.title.text == "Waiting on the quay"
        assert any(shape.shape_type == 13 for shape in slide.shapes)
    else:
        [table] = document.tables
        assert table.cell(0, 0).text == "Route"
        assert any(shape.has_table for shape in slide.shapes)
    assert "22.2" in {
        f"{cell.value:.1f}" for sheet in book for row in sheet for cell in row if cell.data_type == "n" and cell.value
    }


def test_a_plan_writes_documents_too(run: Run, folder: Path) -> None:
    plan = (
        '[records]\nfile = "passengers.csv"\n\n[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\nformats = ["docx"]\n'
    )
    (folder / "plan.toml").write_text(plan, "utf-8")
    built = run("build", "plan.toml", "--out", "out")
    assert built.returncode == 0, built.stderr
    assert len(Document(str(folder / "out" / "a.docx")).inline_shapes) == 1
