"""DOCX, PPTX and XLSX are held to the schemas of OOXML by a validator of its own, which `.ci/run` installs."""

import json
import subprocess
from pathlib import Path

import pytest

from tests.program.conftest import Run, folder, run
from tests.program.test_report import ENTRIES, REPORT

pytestmark = pytest.mark.soak

__all__ = ["folder", "run"]

VALIDATOR = Path(__file__).parents[2] / ".ooxml/node_modules/.bin/ooxml-validator"
needs_validator = pytest.mark.skipif(not VALIDATOR.exists(), reason="the validator is not installed (see .ci/run)")
ENDINGS = ["docx", "pptx", "xlsx"]
MORE = """
[[table]]
name = "sums"
by = "route"
split = "season"
stat = "share"
net = ["season: Warm = Spring, Summer", "route: Near = Pell Isle, Osk Harbour"]
totals = true
letters = true

[[table]]
name = "listed"
by = ["route", "season"]
measure = "wait"
compare = "rest"
formats = "md"
"""
PARTS = """
[[report.part]]
heading = "<&> Lists"
text = "- one\\n  - inner & <so>\\n\\n1. first\\n2. `code`"
show = ["sums", "listed", ["wait", "tickets"]]
caption = "A second caption."
[[report.part]]
heading = "Deeper"
level = 4
show = "seasons"
"""


def faults(path: Path) -> list[str]:
    """What is wrong with a document; nothing where it keeps to its schemas."""
    done = subprocess.run([VALIDATOR, path], capture_output=True, text=True, check=False)
    told = json.loads(done.stdout)
    return [f"{one['path']} {one['xPath']}: {one['description']}" for one in told["errors"]]


@needs_validator
@pytest.mark.parametrize("ending", ENDINGS)
def test_a_report_keeps_to_its_schema(run: Run, folder: Path, ending: str) -> None:
    report = REPORT.replace('formats = ["html", "md"]', f'formats = "{ending}"\nappendix = true')
    (folder / "plan.toml").write_text(ENTRIES + MORE + report + PARTS, "utf-8")
    done = run("build", "plan.toml")
    assert done.returncode == 0, done.stderr
    assert faults(folder / f"out/report.{ending}") == []


@needs_validator
@pytest.mark.parametrize("ending", ENDINGS)
def test_a_report_in_a_house_template_keeps_to_it_too(run: Run, folder: Path, ending: str) -> None:
    run("topline", "passengers.csv", "--question", "wait", "--out", f"house.{ending}")
    asked = ["topline", "passengers.csv", "--split", "route", "--out", f"own.{ending}"]
    done = run(*asked, "--template", f"house.{ending}")
    if ending == "xlsx":
        assert done.returncode == 2
        done = run(*asked)
    assert done.returncode == 0, done.stderr
    assert faults(folder / f"own.{ending}") == []


@needs_validator
def test_a_table_as_a_workbook_keeps_to_it(run: Run, folder: Path) -> None:
    asked = [
        "table",
        "passengers.csv",
        "--by",
        "route",
        "--split",
        "ticket",
        "--stat",
        "share",
        "--totals",
        "--letters",
    ]
    done = run(*asked, "--out", "table.xlsx")
    assert done.returncode == 0, done.stderr
    assert faults(folder / "table.xlsx") == []


@needs_validator
def test_the_validator_finds_a_fault(run: Run, folder: Path) -> None:
    run("topline", "passengers.csv", "--question", "wait", "--out", "one.docx")
    import zipfile  # noqa: PLC0415 - here alone

    with zipfile.ZipFile(folder / "one.docx") as package, zipfile.ZipFile(folder / "bad.docx", "w") as broken:
        for name in package.namelist():
            content = package.read(name)
            broken.writestr(name, content.replace(b"<w:tblHeader/>", b'<w:tblHeader w:val="maybe"/>'))
    assert faults(folder / "bad.docx")
