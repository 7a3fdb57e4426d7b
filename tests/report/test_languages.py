"""Reports in other languages: nothing of them stays in English, and they say in which language they are."""

import re
import zipfile
from html import unescape
from io import BytesIO
from pathlib import Path
from typing import Any, cast

import openpyxl
import pytest
from docx import Document
from msgspec.structs import replace
from pypdf import PdfReader

from grainstack.cli.build import known_formats
from grainstack.making.make import read_into
from grainstack.plan.building.alone import report_alone
from grainstack.plan.file.reading import plan_from
from grainstack.report.documents.writing import report_in
from tests.making.test_every_language import MADE_UP, words_left
from tests.program.conftest import Run, folder, run
from tests.program.test_report import ENTRIES, REPORT
from tests.report.test_ooxml_schemas import MORE, PARTS
from tests.soak import daily

__all__ = ["folder", "run"]

ENDINGS = ["html", "md", "docx", "pptx", "pdf", "xlsx"]


def _text_of(content: bytes, ending: str) -> str:
    """Everything that a reader of a document sees or hears."""
    if ending in ("html", "md"):
        shown = re.sub(r"<(style|script).*?</\1>|<meta[^>]*>", " ", content.decode(), flags=re.DOTALL)
        words = " ".join(re.findall(r'aria-label="([^"]*)"', shown))
        return unescape(re.sub(r"<[^>]*>", " ", shown)) + unescape(words)
    if ending == "pdf":
        text = "\n".join(page.extract_text() for page in PdfReader(BytesIO(content)).pages)
        return text.replace("\u2060", "").replace("-\n", "-")  # a digest may go on in the next line
    if ending == "xlsx":
        book = openpyxl.load_workbook(BytesIO(content))
        for_machines = (MADE_UP.translate(" figures"), MADE_UP.translate(" differences"))
        sheets = [sheet for sheet in book if not sheet.title.endswith(for_machines)]
        cells = [str(cell.value) for sheet in sheets for row in sheet.iter_rows() for cell in row if cell.value]
        return "\n".join([*book.sheetnames, *cells])
    with zipfile.ZipFile(BytesIO(content)) as package:
        parts = [
            package.read(name).decode() for name in package.namelist() if re.search(r"(document|slide\d+)\.xml$", name)
        ]
    described = [text for part in parts for text in re.findall(r'descr="([^"]*)"', part)]
    return unescape(
        "\n".join([*described, *(text for part in parts for text in re.findall(r"<[aw]:t(?: [^>]*)?>([^<]*)<", part))])
    )


@pytest.mark.parametrize("ending", daily(ENDINGS, ["docx", "html"]))
def test_every_document_speaks_the_language(folder: Path, ending: str) -> None:
    report = REPORT.replace('formats = ["html", "md"]', f'formats = "{ending}"\nappendix = true')
    text = ENTRIES + MORE + report + PARTS
    plan = plan_from(text, folder / "plan.toml", known_formats())
    plan.check()
    done = report_alone(replace(plan, language=cast("Any", MADE_UP)), read_into, report_in)
    known = text + "".join(path.read_text("utf-8") for path in (folder / "codebook.toml", folder / "passengers.csv"))
    shown = re.sub(r"\b[0-9a-f]+(-[0-9a-f]+)\b|\b[a-f]{2,3}\b", "", _text_of(done.outputs.contents[0], ending))
    assert not words_left(shown, f"{known} passengers Grain Stack codebook plan toml")  # digests and letters aside


def test_a_report_is_in_the_language_of_its_entries(run: Run, folder: Path) -> None:
    report = REPORT.replace('language = "en-GB"\n', "").replace('["html", "md"]', '["html", "docx", "pdf"]')
    (folder / "plan.toml").write_text('[defaults]\nlanguage = "de"\n' + ENTRIES + report, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    page = (folder / "out/report.html").read_text("utf-8")
    assert '<html lang="de">' in page
    assert "Basis: " in page
    assert "Save as" not in re.sub(r"<script.*?</script>|data-words=\"[^\"]*\"", "", page, flags=re.DOTALL)
    assert "Als SVG speichern" in page
    document = Document(str(folder / "out/report.docx"))
    assert document.core_properties.language == "de"
    assert any(paragraph.text.startswith("Abbildung ") for paragraph in document.paragraphs)
    assert str(PdfReader(folder / "out/report.pdf").root_object["/Lang"]) == "de"


def test_entries_are_in_the_language_of_their_report(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(ENTRIES + REPORT.replace("en-GB", "de-AT"), "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    page = (folder / "out/report.html").read_text("utf-8")
    assert '<html lang="de-AT">' in page
    assert "Basis: " in page
    assert "Base: " not in page


def test_a_report_in_a_language_without_a_catalogue_says_so_to_browsers_alone(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(ENTRIES + REPORT.replace("en-GB", "fr"), "utf-8")
    assert run("build", "plan.toml").returncode == 0
    page = (folder / "out/report.html").read_text("utf-8")
    assert '<html lang="fr">' in page
    assert "Base: " in page


def test_a_plan_has_one_language(run: Run, folder: Path) -> None:
    mixed = ENTRIES.replace('name = "wait"', 'name = "wait"\nlanguage = "de"', 1)
    (folder / "plan.toml").write_text(mixed, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert "this is in en, and plan.toml, line" in done.stderr
    assert not (folder / "out").exists()
    (folder / "plan.toml").write_text('[defaults]\nlanguage = "de"\n' + ENTRIES + REPORT, "utf-8")
    done = run("build", "plan.toml")
    assert (done.returncode, "report" in done.stderr) == (2, True)


def test_a_topline_is_in_a_language(run: Run, folder: Path) -> None:
    asked = ["topline", "passengers.csv", "--question", "wait", "--language", "de"]
    done = run(*asked, "--out", "top.html", "--save-plan", "t.toml")
    assert done.returncode == 0, done.stderr
    page = (folder / "top.html").read_text("utf-8")
    assert "<h1>Grundauszählung von passengers.csv</h1>" in page
    assert "im Mittel" in page
    assert run("build", "t.toml").returncode == 0
    assert (folder / "out/report.html").read_text("utf-8").count("im Mittel") == page.count("im Mittel")


def test_all_of_a_topline_speaks_the_language(run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("grainstack.language.language_named", lambda _: MADE_UP)
    done = run("topline", "passengers.csv", "--split", "season", "--language", "de", "--out", "top.html")
    assert done.returncode == 0, done.stderr
    known = "".join(path.read_text("utf-8") for path in (folder / "codebook.toml", folder / "passengers.csv"))
    left = words_left(_text_of((folder / "top.html").read_bytes(), "html"), f"{known} passengers")
    assert not [word for word in left if not re.fullmatch("[a-f]+|[A-H]+", word)]  # letters aside
