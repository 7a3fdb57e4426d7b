"""Reports as workbooks, presentations and pages: what they hold, where it leads, and the same bytes each time."""

import re
import shutil
import subprocess
from pathlib import Path
from typing import Any

import openpyxl
import pytest
from docx import Document
from pptx import Presentation
from pptx.util import Emu, Pt
from pypdf import PdfReader

from tests.program.conftest import Run, folder, run
from tests.program.test_report import ENTRIES, REPORT
from tests.soak import daily

__all__ = ["folder", "run"]

PLAN = ENTRIES + REPORT.replace('language = "en-GB"', 'language = "en-GB"\nFORMATS').replace(
    'formats = ["html", "md"]\n', ""
)


def _built(run: Run, folder: Path, ending: str, plan: str = PLAN, more: str = "") -> Path:
    (folder / "plan.toml").write_text(plan.replace("FORMATS", f'formats = "{ending}"\n{more}'), "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    return folder / f"out/report.{ending}"


@pytest.mark.soak
@pytest.mark.parametrize("ending", ["xlsx", "pptx", "pdf", "docx", "html", "md"])
def test_the_same_report_is_the_same_file(run: Run, folder: Path, ending: str) -> None:
    first = _built(run, folder, ending).read_bytes()
    (folder / f"out/report.{ending}").unlink()
    assert _built(run, folder, ending).read_bytes() == first


def test_a_workbook_has_contents_that_lead_to_every_table(run: Run, folder: Path) -> None:
    book = openpyxl.load_workbook(_built(run, folder, "xlsx"))
    assert book.sheetnames == [
        *("Contents", "wait", "wait figures", "tickets", "tickets figures", "seasons", "seasons figures")
    ]
    contents = book["Contents"]
    texts = [cell.value for cell in contents["A"] if cell.value]
    assert texts[:4] == [
        "Waiting & <tickets>",
        "First",
        "Some words and <script>alert(1)</script> a link.",
        "Mean waiting time by route",
    ]
    links = [cell.hyperlink.location for row in contents.iter_rows() for cell in row if cell.hyperlink]
    assert {link.split("!")[0].strip("'") for link in links} == set(book.sheetnames) - {"Contents"}


def test_names_of_sheets_are_short_and_no_two_alike(run: Run, folder: Path) -> None:
    plan = PLAN.replace('"wait"', '"how long the passengers of all routes waited 1"').replace(
        '"tickets"', '"How Long The Passengers Of All Routes Waited 2"'
    )
    plan = plan.replace("measure = ", 'measure = "wait" #')
    book = openpyxl.load_workbook(_built(run, folder, "xlsx", plan))
    assert len({name.lower() for name in book.sheetnames}) == len(book.sheetnames) == 7
    assert max(map(len, book.sheetnames)) <= 31


def _long() -> str:
    """The plan with a table of a hundred rows and more."""
    short = 'by = "season"\nsplit = ["ticket", "purpose"]\nstat = "share"'
    return PLAN.replace(short, 'by = ["route", "season", "ticket"]')


def _titles(deck: Any) -> list[str]:  # noqa: ANN401 - the library has no types
    return [slide.shapes.title.text for slide in deck.slides]


def test_a_presentation_has_a_chart_or_a_table_per_slide(run: Run, folder: Path) -> None:
    deck = Presentation(str(_built(run, folder, "pptx")))
    assert _titles(deck) == [
        *("Waiting & <tickets>", "First", "Mean waiting time by route"),
        *("Share of passengers by route and ticket", "Mean waiting time by route"),
        *("Second", "Share of passengers by season, ticket and purpose of travel"),
    ]
    for number in (2, 3, 4):
        pictures = [shape for shape in deck.slides[number].shapes if shape.shape_type == 13]
        assert len(pictures) == 1
        about = pictures[0]._element.nvPicPr.cNvPr  # noqa: SLF001 - the library has no word for it
        assert about.get("name") in ("wait", "tickets")
        assert len(about.get("descr")) > 20
        blip = pictures[0].image
        shape = pictures[0].width / pictures[0].height
        assert blip.size[0] / blip.size[1] == pytest.approx(shape, rel=0.01)  # never stretched
        assert pictures[0].top + pictures[0].height <= deck.slide_height
    table = next(shape for shape in deck.slides[6].shapes if shape.has_table).table
    assert [cell.text for cell in table.rows[0].cells if cell.text] == ["Ticket", "Purpose of travel"]
    assert [row.cells[0].text for row in list(table.rows)[2:]] == ["Spring", "Summer", "Autumn", "Winter"]
    notes = [shape.text_frame.text for shape in deck.slides[6].shapes if shape.has_text_frame]
    assert any("Base:" in note and note.endswith("A caption.") for note in notes)


def test_a_table_of_many_rows_goes_on_over_slides(run: Run, folder: Path) -> None:
    plan = _long()
    deck = Presentation(str(_built(run, folder, "pptx", plan)))
    tables = [shape.table for slide in deck.slides for shape in slide.shapes if shape.has_table]
    assert len(tables) > 2
    assert len({tuple(cell.text for cell in table.rows[0].cells) for table in tables}) == 1
    assert sum(len(list(table.rows)) - 1 for table in tables) > 100
    assert _titles(deck)[-1].endswith(f"({len(tables)})")


def test_a_template_gives_its_layouts_and_not_its_slides(run: Run, folder: Path) -> None:
    house = Presentation()
    house.slide_width, house.slide_height = Pt(800), Pt(450)
    house.slides.add_slide(house.slide_layouts[0]).shapes.title.text = "A slide of the template"
    house.save(str(folder / "house.pptx"))
    more = 'template = "house.pptx"\nlayouts = { chart = "Title and Content" }'
    deck = Presentation(str(_built(run, folder, "pptx", more=more)))
    assert "A slide of the template" not in _titles(deck)
    assert Emu(deck.slide_width or 0).pt == 800
    slide = deck.slides[2]
    assert slide.slide_layout.name == "Title and Content"
    room = next(one for one in slide.slide_layout.placeholders if one.placeholder_format.idx == 1)
    picture = next(shape for shape in slide.shapes if shape.shape_type == 13)
    assert picture.height == pytest.approx(room.height, abs=Pt(1))
    plan = PLAN.replace("FORMATS", f'formats = "pptx"\n{more.replace("Title and Content", "Nowhere")}')
    (folder / "plan.toml").write_text(plan, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 2
    assert "no layout `Nowhere`" in done.stderr
    (folder / "house.pptx").write_text("nothing", "utf-8")
    assert "is no PPTX" in run("build", "plan.toml").stderr


def test_pages_have_a_title_bookmarks_links_and_text_in_order(run: Run, folder: Path) -> None:
    part = '[[report.part]]\nheading = "{}"\ntext = "Words of {}."\nshow = "wait"\n'
    plan = PLAN + "".join(part.replace("{}", name) for name in ("Third", "Fourth", "Fifth"))
    reader: Any = PdfReader(_built(run, folder, "pdf", plan))
    assert reader.metadata.title == "Waiting & <tickets>"
    assert reader.trailer["/Root"]["/Lang"] == "en-GB"
    titles = [one["/Title"] for one in reader.outline if not isinstance(one, list)]
    assert titles == ["First", "Third", "Fourth", "Fifth"]
    inner = next(one for one in reader.outline if isinstance(one, list))
    assert [one["/Title"] for one in inner] == ["Second"]
    text = "\n".join(page.extract_text() for page in reader.pages)
    places = [text.rindex(words) for words in ("Words of Third.", "Words of Fourth.", "Words of Fifth.")]
    assert places == sorted(places)
    links = [one.get_object() for one in reader.pages[0]["/Annots"]]
    addresses = [one["/A"]["/URI"] for one in links if "/A" in one]
    assert set(addresses) == {"https://example.org"}
    targets = [reader.get_page_number(one["/Dest"][0].get_object()) for one in links if "/Dest" in one]
    for heading, target in zip(titles, targets, strict=True):
        assert heading in (reader.pages[target].extract_text() or "")
    numbers = re.findall(r"^\w+\s+\u2060?(\d+)$", reader.pages[0].extract_text(), re.MULTILINE)
    assert [int(one) - 1 for one in numbers[: len(targets)]] == targets


def test_every_row_of_charts_may_begin_a_page_and_paper_can_be_chosen(run: Run, folder: Path) -> None:
    plain = PdfReader(_built(run, folder, "pdf"))
    reader = PdfReader(_built(run, folder, "pdf", more='chart_pages = true\npaper = "letter"'))
    assert len(reader.pages) > len(plain.pages)
    assert (float(reader.pages[0].mediabox.width), float(reader.pages[0].mediabox.height)) == (612, 792)


def test_a_long_table_repeats_its_heading_on_each_page(run: Run, folder: Path) -> None:
    plan = _long()
    reader = PdfReader(_built(run, folder, "pdf", plan))
    with_heading = [page for page in reader.pages if re.search(r"Route\s+Season\s+Ticket", page.extract_text())]
    assert len(with_heading) >= 3


@pytest.mark.soak
@pytest.mark.skipif(shutil.which("soffice") is None, reason="LibreOffice is not installed")
@pytest.mark.parametrize("ending", ["pptx", "xlsx"])
def test_office_programs_open_it(run: Run, folder: Path, ending: str) -> None:
    path = _built(run, folder, ending)
    command = ["soffice", f"-env:UserInstallation=file://{folder}/office", "--headless", "--convert-to", "pdf"]
    subprocess.run([*command, "--outdir", str(folder), str(path)], check=True, capture_output=True, timeout=120)
    text = "\n".join(page.extract_text() for page in PdfReader(folder / "report.pdf").pages)
    assert "Waiting & <tickets>" in text
    assert "Base:" in text


SCALES = """[records]
file = "passengers.csv"

[[chart]]
name = "routes"
kind = "bar"
by = "route"
measure = "wait"

[[chart]]
name = "seasons"
kind = "dot"
by = "season"
measure = "wait"
no_advice = "hidden-shape"

[[chart]]
name = "spent"
kind = "bar"
by = "season"
measure = "spend"
value_range = "0,9"

[report]
MORE
[[report.part]]
show = [["routes", "seasons", "spent"]]
"""


def _ticks(page: str) -> list[list[str]]:
    """The figures along the value axis of each chart of a page."""
    charts = page.split("<svg ")[1:]
    return [re.findall(r'data-role="tick"[^>]*>([^<]*)<', chart) for chart in charts]


def test_charts_side_by_side_share_their_scale_or_are_told_about(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(SCALES.replace("MORE", ""), "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    told = [line for line in done.stderr.splitlines() if "unlike-scales" in line]
    assert len(told) == 1
    assert "routes from 0 to 25, seasons from" in told[0]
    assert "spent" not in told[0]
    first = _ticks((folder / "out/report.html").read_text("utf-8"))
    assert first[0] != first[1]
    (folder / "plan.toml").write_text(SCALES.replace("MORE", "") + "same_scale = true\n", "utf-8")
    done = run("build", "plan.toml")
    assert "unlike-scales" not in done.stderr
    same = _ticks((folder / "out/report.html").read_text("utf-8"))
    assert same[0] == same[1]
    assert same[2] == first[2]


def test_advice_on_a_report_can_be_silenced_and_a_wrong_name_is_told(run: Run, folder: Path) -> None:
    (folder / "plan.toml").write_text(SCALES.replace("MORE", 'no_advice = "unlike-scales"'), "utf-8")
    assert "unlike-scales" not in run("build", "plan.toml").stderr
    (folder / "plan.toml").write_text(SCALES.replace("MORE", 'no_advice = "unlike"'), "utf-8")
    assert "There is no advice `unlike`" in run("build", "plan.toml").stderr


@pytest.mark.parametrize("ending", daily(["html", "docx", "pdf", "md", "pptx", "xlsx"], ["html", "docx"]))
def test_an_appendix_tells_how_every_figure_was_made_and_of_what(run: Run, folder: Path, ending: str) -> None:
    path = _built(run, folder, ending, more="appendix = true")
    if ending == "pdf":
        text = "\n".join(page.extract_text() for page in PdfReader(path).pages)
    elif ending == "docx":
        text = "\n".join(one.text for one in Document(str(path)).paragraphs)
    elif ending == "pptx":
        frames = [
            shape.text_frame
            for slide in Presentation(str(path)).slides
            for shape in slide.shapes
            if shape.has_text_frame
        ]
        text = "\n".join(frame.text for frame in frames)
    elif ending == "xlsx":
        text = "\n".join(str(cell.value) for cell in openpyxl.load_workbook(path)["Contents"]["A"])
    else:
        text = path.read_text("utf-8")
    text = " ".join(text.split())
    assert "How the figures were made" in text
    assert "95 % confidence limits (Korn–Graubard)" in text
    assert "Mean waiting time by route of passengers.csv, weighted by weight" in text
    assert "passengers.csv, 191,841 bytes" in text
    assert "plan.toml, " in text
    assert "Grain Stack 0.1.0" in text


def _many(run: Run, folder: Path, ending: str) -> Path:
    """A report with a chart that can be drawn in a large size alone."""
    lines = "".join(f"A quite long name of category {number},{number}\n" for number in range(200))
    (folder / "many.csv").write_text(f"k,v\n{lines}", "utf-8")
    plan = '[records]\nfile = "many.csv"\n[[chart]]\nname = "a"\nkind = "bar"\nby = "k"\nmeasure = "v"\n'
    plan += 'size = "3000x2000px"\n'  # in which it can be drawn, as it cannot on a slide
    plan += '[report]\nformats = "FORM"\n[[report.part]]\nshow = "a"\n'
    (folder / "plan.toml").write_text(plan.replace("FORM", ending), "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    told = "stands there at" in done.stderr
    assert told == (ending != "html")  # a page is scrolled and enlarged
    return folder / f"out/report.{ending}"


@pytest.mark.soak
@pytest.mark.parametrize("ending", ["pdf", "docx", "html"])
def test_a_chart_that_needs_more_room_than_a_page_is_there_whole(run: Run, folder: Path, ending: str) -> None:
    path = _many(run, folder, ending)
    if ending == "pdf":
        text = "".join(page.extract_text() for page in PdfReader(path).pages)
        assert "name of category 199" in " ".join(text.split())
    assert path.stat().st_size > 10_000


def test_a_chart_that_needs_more_room_than_its_slide_is_whole_and_smaller(run: Run, folder: Path) -> None:
    deck = Presentation(str(_many(run, folder, "pptx")))
    picture = next(shape for shape in deck.slides[0].shapes if shape.shape_type == 13)
    wide, tall = picture.image.size
    assert picture.width / picture.height == pytest.approx(wide / tall, rel=0.01)
    assert picture.top + picture.height <= deck.slide_height
    assert picture.height < Pt(450)
    number = next(
        name for name in (part.partname for part in deck.slides[0].part.package.iter_parts()) if "drawing" in name
    )
    drawing = next(part for part in deck.slides[0].part.package.iter_parts() if part.partname == number).blob.decode()
    assert "A quite long name of category 199" in drawing
    size = [float(one) for one in re.findall(r'viewBox="0 0 ([\d.]+) ([\d.]+)"', drawing)[0]]
    bottoms = [float(y) for y in re.findall(r'<text x="[\d.]+" y="([\d.]+)"', drawing)]
    assert max(bottoms) <= size[1]


@pytest.mark.parametrize("ending", ["docx", "pptx", "xlsx", "html", "pdf"])
def test_nets_and_totals_are_set_apart(run: Run, folder: Path, ending: str) -> None:
    plan = """[records]
file = "passengers.csv"
[[table]]
name = "sums"
by = "route"
split = "season"
stat = "share"
net = ["season: Warm = Spring, Summer", "route: Near = Pell Isle, Osk Harbour"]
totals = true
[report]
FORMATS
[[report.part]]
show = "sums"
"""
    path = _built(run, folder, ending, plan)
    strong = _strong(path, ending)
    assert {"Near", "Vey Sands", "Pell Isle"} & strong == {"Near"}
    assert len(strong) > 8  # the figures of those rows and columns too


def _strong(path: Path, ending: str) -> set[str]:
    """The texts in bold of the table of a document, its heading aside."""
    if ending == "html":
        return set(re.findall(r'class="(?:figure )?sum">([^<]*)<', path.read_text("utf-8")))
    if ending == "pdf":
        found: list[tuple[str, str]] = []
        page = PdfReader(path).pages[0]
        page.extract_text(visitor_text=lambda text, _1, _2, font, _3: found.append((text.strip(), str(font))))
        return {text for text, font in found if "Semibold" in font and text}
    if ending == "xlsx":
        sheet = openpyxl.load_workbook(path)["sums"]
        return {str(cell.value) for row in sheet.iter_rows(min_row=2) for cell in row if cell.font.b}
    if ending == "docx":
        rows = Document(str(path)).tables[0].rows[1:]
        runs = [run for row in rows for cell in row.cells for run in cell.paragraphs[0].runs]
        return {run.text for run in runs if run.bold}
    shapes = [shape for slide in Presentation(str(path)).slides for shape in slide.shapes if shape.has_table]
    cells = [cell for shape in shapes for row in list(shape.table.rows)[1:] for cell in row.cells]
    return {cell.text for cell in cells if cell.text_frame.paragraphs[0].runs[0].font.bold}


def test_a_chart_that_fits_is_met_without_advice_on_its_size(run: Run, folder: Path) -> None:
    _built(run, folder, "pptx")
    (folder / "out/report.pptx").unlink()
    assert "stands there at" not in run("build", "plan.toml").stderr


def test_long_text_goes_on_on_further_slides(run: Run, folder: Path) -> None:
    words = "\n".join(f"- Point {number} of many, with some words to fill a line or two of it." for number in range(60))
    report = f'[report]\nFORMATS\n[[report.part]]\nheading = "Long"\ntext = """{words}"""\nshow = "wait"\n'
    deck = Presentation(str(_built(run, folder, "pptx", ENTRIES + report)))
    texts = [[shape.text_frame.text for shape in slide.shapes if shape.has_text_frame] for slide in deck.slides]
    of_words = [slide for slide in texts if slide[0].startswith("Long")]
    assert [slide[0] for slide in of_words][1:3] == ["Long (2)", "Long (3)"]
    points = [line for slide in of_words for line in slide[1].split("\n") if line]
    assert [int(line.split()[1]) for line in points] == list(range(60))
    tall = Emu(deck.slide_height or 0).pt
    assert all(len(slide[1].split("\n")) * 11 * 1.65 < tall for slide in of_words)
