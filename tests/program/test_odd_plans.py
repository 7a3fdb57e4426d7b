"""Plans and labels as nobody expects them: control characters, unknown characters, no parts, too many choices."""

import shutil
import signal
import subprocess
import sys
import time
from pathlib import Path

import pytest
from docx import Document
from pptx import Presentation

from tests.program.conftest import PROGRAM, Run

RECORDS = '[records]\nfile = "passengers.csv"\n\n'


@pytest.mark.parametrize("command", [[str(PROGRAM)], [sys.executable, "-m", "grainstack"]])
def test_the_version_is_told(command: list[str]) -> None:
    done = subprocess.run([*command, "--version"], capture_output=True, text=True, check=False)
    assert (done.returncode, done.stderr) == (0, "")
    assert done.stdout.startswith("grainstack ")


@pytest.mark.parametrize("after", [0.06, 0.1, 0.3])
def test_an_interrupt_ends_the_program_without_a_traceback(after: float, folder: Path) -> None:
    def usual() -> None:
        signal.signal(signal.SIGINT, signal.default_int_handler)

    with subprocess.Popen(
        [str(PROGRAM), "bar", "passengers.csv", "--by", "route", "--out", "x.pdf"],
        cwd=folder,
        stderr=subprocess.PIPE,
        text=True,
        preexec_fn=usual,  # noqa: PLW1509 - the suite itself may run where interrupts are ignored
    ) as process:
        time.sleep(after)
        process.send_signal(signal.SIGINT)
        said = process.communicate()[1]
    assert "Traceback" not in said or "grainstack/" not in said  # Python itself may still be starting


def test_control_characters_in_words_are_shown_and_stop_no_document(run: Run, folder: Path) -> None:
    plan = (
        RECORDS
        + '[report]\ntitle = "Con\\u0007trol"\nformats = ["docx", "pptx", "md"]\n\n'
        + '[[report.part]]\nheading = "A\\u0001b"\ntext = "te\\u0003xt"\nshow = "a"\n\n'
        + '[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\ntitle = "A\\u000bB"\nfootnote = "C\\u0001"\n'
    )
    (folder / "plan.toml").write_text(plan, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    assert "A\\x01b" in [one.text for one in Document(str(folder / "out" / "report.docx")).paragraphs]
    slides = Presentation(str(folder / "out" / "report.pptx")).slides
    assert any("A\\x0bB" in shape.text for slide in slides for shape in slide.shapes if shape.has_text_frame)


def test_a_character_that_no_font_has_is_a_box_and_advice(run: Run, folder: Path) -> None:
    (folder / "odd.csv").write_text("k,v\nx \U00013000,1\nz,3\n", "utf-8")  # a hieroglyph
    done = run("bar", "odd.csv", "--by", "k", "--measure", "v", "--stat", "sum", "--out", "a.svg", "--out", "a.pdf")
    assert done.returncode == 0, done.stderr
    assert "U+13000 EGYPTIAN HIEROGLYPH A001" in done.stderr
    assert (folder / "a.pdf").read_bytes().startswith(b"%PDF")


def test_a_report_without_parts_shows_every_entry_and_says_so(run: Run, folder: Path) -> None:
    charts = "".join(f'[[chart]]\nname = "{name}"\nkind = "bar"\nby = "{name}"\n\n' for name in ("season", "route"))
    (folder / "plan.toml").write_text(f'{RECORDS}[report]\nformats = ["md"]\n\n{charts}', "utf-8")
    done = run("build", "plan.toml")
    assert "[report] has no parts: it shows every entry, in the order of the plan." in done.stderr
    report = (folder / "out" / "report.md").read_text("utf-8")
    assert report.index("(season.png)") < report.index("(route.png)")


def test_too_many_choices_are_a_fault_of_the_check_too(run: Run, folder: Path) -> None:
    chart = '[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\nformats = ["html"]\nfilters = ["season", "ticket"]\n'
    (folder / "plan.toml").write_text(RECORDS + chart, "utf-8")
    done = run("check", "plan.toml")
    assert done.returncode == 2
    assert "filters would need 29 further charts" in done.stdout


def test_a_trace_holds_wherever_the_plan_and_its_style_are(
    run: Run, folder: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    font = Path(sys.modules["grainstack"].__path__[0]) / "chart" / "writing" / "font_files" / "DejaVuSans.ttf"
    shutil.copy(font, folder / "house.ttf")
    (folder / "house.toml").write_text('[fonts]\nregular = "house.ttf"\nsemibold = "house.ttf"\n', "utf-8")
    chart = '[[chart]]\nname = "a"\nkind = "bar"\nby = "route"\nstyle = "house.toml"\n'
    (folder / "plan.toml").write_text(RECORDS + chart, "utf-8")
    run("build", "plan.toml")
    elsewhere = tmp_path.parent / f"{tmp_path.name}-moved"
    shutil.copytree(folder, elsewhere)
    monkeypatch.chdir("/")
    assert run("trace", str(elsewhere / "out" / "a.png"), "--strict").returncode == 0


def test_markdown_shows_names_and_notes_as_they_are(run: Run, folder: Path) -> None:
    (folder / "odd.csv").write_text("a|b*,v\nx|y*,1\n<i>q_w_</i>,2\n", "utf-8")
    words = 'by = "a|b*"\nmeasure = "v"\nstat = "sum"\n'
    plan = '[records]\nfile = "odd.csv"\n\n[report]\nformats = ["md"]\n\n'
    plan += f'[[chart]]\nname = "a"\nkind = "bar"\n{words}\n[[table]]\nname = "t"\n{words}'
    (folder / "plan.toml").write_text(plan, "utf-8")
    assert run("build", "plan.toml").returncode == 0
    report = (folder / "out" / "report.md").read_text("utf-8")
    assert "highest: \\<i>q\\_w\\_\\</i> (2), lowest: x\\|y\\* (1)" in report
    assert "Order – a\\|b\\*: largest first." in report
