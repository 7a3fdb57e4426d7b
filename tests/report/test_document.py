"""Reports as documents: real headings, tables and fields, pictures with their text, the same bytes each time."""

import re
import shutil
import subprocess
import zipfile
from pathlib import Path
from typing import Any

import pytest
from docx import Document

from tests.program.conftest import Run, folder, run
from tests.program.test_report import ENTRIES, REPORT

__all__ = ["folder", "run"]

WORDS = (
    REPORT.replace('["html", "md"]', '"docx"')
    .replace("<script>alert(1)</script> ", "")
    .replace(
        'caption = "A caption."',
        'caption = "A caption."\n[[report.part]]\nheading = "Third"\ntext = """\n- one\n- **two**\n"""\n',
    )
)


def _built(run: Run, folder: Path, text: str = ENTRIES + WORDS) -> Path:
    (folder / "plan.toml").write_text(text, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    return folder / "out/report.docx"


def _texts(document: Any, style: str) -> list[str]:  # noqa: ANN401 - the library has no types
    return [paragraph.text for paragraph in document.paragraphs if paragraph.style.name == style]


def test_headings_lists_and_captions_have_styles_of_their_own(run: Run, folder: Path) -> None:
    document = Document(str(_built(run, folder)))
    assert _texts(document, "Title") == ["Waiting & <tickets>"]
    assert _texts(document, "Heading 1") == ["First", "Third"]
    assert _texts(document, "Heading 2") == ["Second"]
    assert _texts(document, "List Bullet") == ["one", "two"]
    assert [text.partition(". ")[2] for text in _texts(document, "Caption")] == ["A caption."]
    words = next(paragraph for paragraph in document.paragraphs if paragraph.text.startswith("Some "))
    assert [run.text for run in words.runs if run.italic] == ["words"]
    assert "a link (https://example.org)" in words.text
    bold = next(paragraph for paragraph in document.paragraphs if paragraph.text == "two")
    assert bold.runs[0].bold
    xml = document.element.xml
    assert 'w:instr="SEQ Figure' in xml
    assert 'w:instr="PAGE"' in document.sections[0].footer._element.xml  # noqa: SLF001 - fields have no other way


def test_contents_are_a_field_that_is_filled_in_already(run: Run, folder: Path) -> None:
    document = Document(str(_built(run, folder)))
    xml = document.element.xml
    assert xml.index('fldCharType="begin"') < xml.index("TOC ") < xml.index("separate") < xml.index('"end"')
    names = dict(re.findall(r'w:anchor="(\w+)"[^>]*>.*?<w:t[^>]*>(.*?)</w:t>', xml, re.DOTALL))
    assert list(names.values()) == ["First", "Second", "Third"]
    assert sorted(re.findall(r'bookmarkStart [^>]*w:name="(\w+)"', xml)) == sorted(names)


def test_lists_within_lists_stand_further_in(run: Run, folder: Path) -> None:
    text = WORDS.replace("- **two**", "- **two**\n  - inner")
    document = Document(str(_built(run, folder, ENTRIES + text)))
    assert _texts(document, "List Bullet 2") == ["inner"]


def test_tables_are_tables_with_a_heading_that_repeats(run: Run, folder: Path) -> None:
    rows = 'show = [["wait", "tickets"], ["tickets", "wait"], "seasons", "seasons"]'
    document = Document(str(_built(run, folder, ENTRIES + WORDS.replace('show = "seasons"', rows))))
    table = next(one for one in document.tables if len(one.rows) > 2)
    assert table.cell(1, 0).text == "Season"
    assert list(dict.fromkeys(cell.text for cell in table.rows[0].cells if cell.text)) == [
        "Ticket",
        "Purpose of travel",
    ]
    assert [row.cells[0].text for row in table.rows[2:]] == ["Spring", "Summer", "Autumn", "Winter"]
    assert table._tbl.xml.count("w:tblHeader") == 2  # noqa: SLF001 - the library has no word for it
    assert any(paragraph.text.startswith("Share of passengers. Base:") for paragraph in document.paragraphs)
    assert not re.search(r"</w:tbl>\s*<w:tbl>", document.element.xml)


def test_pictures_have_their_text_a_drawing_and_room(run: Run, folder: Path) -> None:
    path = _built(run, folder)
    document = Document(str(path))
    shapes = re.findall(r'<wp:docPr id="(\d+)" name="(\w+)" descr="([^"]+)"', document.element.xml)
    assert [name for _, name, _ in shapes] == ["wait", "tickets", "wait"]
    assert len({number for number, _, _ in shapes}) == 3
    assert all("Mean waiting time" in text or "Share of passengers" in text for *_, text in shapes)
    wide = [int(value) / 12700 for value in re.findall(r'<wp:extent cx="(\d+)"', document.element.xml)]
    section = document.sections[0]
    page, *margins = (int(one or 0) for one in (section.page_width, section.left_margin, section.right_margin))
    room = (page - sum(margins)) / 12700
    assert wide[0] == pytest.approx(room, abs=1)
    assert wide[1] == wide[2] < room / 2
    with zipfile.ZipFile(path) as packed:
        drawings = [name for name in packed.namelist() if name.endswith(".svg")]
        assert len(drawings) == document.element.xml.count("svgBlip r:embed") == 3
        assert all(packed.read(name).startswith(b"<svg") for name in drawings)


def test_the_same_report_is_the_same_file(run: Run, folder: Path) -> None:
    first = _built(run, folder).read_bytes()
    (folder / "out/report.docx").unlink()
    assert _built(run, folder).read_bytes() == first


def test_a_template_is_never_written_over(run: Run, folder: Path) -> None:
    house = folder / "house.docx"
    Document().save(str(house))
    before = house.read_bytes()
    named = WORDS.replace('language = "en-GB"', 'name = "house"\ntemplate = "house.docx"')
    (folder / "plan.toml").write_text(ENTRIES + named, "utf-8")
    done = run("build", "plan.toml", "--out", ".")
    assert done.returncode == 1
    assert "it is being read" in done.stderr
    assert house.read_bytes() == before


def test_a_template_gives_styles_and_not_its_text(run: Run, folder: Path) -> None:
    house = Document()
    house.add_paragraph("Text of the template")
    house.sections[0].header.paragraphs[0].text = "The house"
    house.styles["Heading 1"].font.name = "House Sans"
    house.save(str(folder / "house.docx"))
    text = ENTRIES + WORDS.replace('language = "en-GB"', 'language = "en-GB"\ntemplate = "house.docx"')
    path = _built(run, folder, text)
    document = Document(str(path))
    assert document.sections[0].header.paragraphs[0].text == "The house"
    assert document.styles["Heading 1"].font.name == "House Sans"
    assert not any("Text of the template" in paragraph.text for paragraph in document.paragraphs)
    before = path.read_bytes()
    house.sections[0].header.paragraphs[0].text = "The new house"
    house.save(str(folder / "house.docx"))
    assert _built(run, folder, text).read_bytes() != before
    (folder / "house.docx").write_text("no document", "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert "is no DOCX" in done.stderr


@pytest.mark.soak
@pytest.mark.skipif(
    shutil.which("soffice") is None, reason="LibreOffice is not installed (Debian's libreoffice-writer)"
)
def test_a_word_processor_opens_it(run: Run, folder: Path) -> None:
    from pypdf import PdfReader  # noqa: PLC0415 - used once

    path = _built(run, folder)
    command = [
        "soffice",
        f"-env:UserInstallation=file://{folder}/office",
        "--headless",
        "--convert-to",
        "pdf",
        "--outdir",
        str(folder),
        str(path),
    ]
    subprocess.run(command, check=True, capture_output=True, timeout=180)
    text = " ".join(page.extract_text() for page in PdfReader(folder / "report.pdf").pages)
    assert "Waiting & <tickets>" in text
    assert "Figure 1. A caption." in text
    assert "Purpose of travel" in text
