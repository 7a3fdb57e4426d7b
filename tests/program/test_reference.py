"""Reference pages and schemas say what the program does: they are made of it, and checked against it here."""

import json
import re
import shlex
import tomllib
from pathlib import Path
from typing import Any

import pytest
from jsonschema import Draft7Validator

from grainstack.chart.look.style_file import SECTIONS, TOP, style_text
from grainstack.chart.picture_request import STYLES
from grainstack.cli.reference import pages, schemas
from grainstack.plan.file.schema import FILES, FOLDER
from grainstack.records.codebook.codebook import Design
from grainstack.records.codebook.keys import DESIGN
from tests.program.conftest import Run
from tests.program.test_plan import ASKED

DOCS = Path(__file__).parents[2] / "docs"
AGAIN = "make them again: make generated"


def test_pages_and_schemas_are_current() -> None:
    for name, text in pages().items():
        assert (DOCS / "reference" / name).read_text("utf-8") == text, AGAIN
    for name, text in schemas().items():
        assert (FOLDER / name).read_text("utf-8") == text, AGAIN


def _validator(file: str) -> Draft7Validator:
    schema = json.loads((FOLDER / f"{file}.schema.json").read_text("utf-8"))
    Draft7Validator.check_schema(schema)
    return Draft7Validator(schema)


def _faults(file: str, text: str) -> list[str]:
    return [str(error.message) for error in _validator(file).iter_errors(tomllib.loads(text))]


def test_what_the_program_takes_the_schemas_take(folder: Path) -> None:
    assert _faults("plan", (folder / "plan.toml").read_text("utf-8")) == []
    assert _faults("codebook", (folder / "codebook.toml").read_text("utf-8")) == []
    for name in STYLES:
        assert _faults("style", style_text(name)) == []
    guide = (DOCS / "plan.md").read_text("utf-8").partition("```toml\n")[2].partition("```")[0]
    assert _faults("plan", guide) == []


@pytest.mark.parametrize("name", ASKED)
def test_what_is_kept_fits_the_schema_that_is_written_beside_it(run: Run, folder: Path, name: str) -> None:
    command, ending = ASKED[name]
    assert run(*command, "--out", f"one.{ending}", "--save-plan", "kept.toml").returncode == 0
    text = (folder / "kept.toml").read_text("utf-8")
    assert text.startswith("#:schema plan.schema.json\n")
    assert (folder / "plan.schema.json").read_bytes() == (FOLDER / "plan.schema.json").read_bytes()
    assert _faults("plan", text) == []


WRONG: dict[str, tuple[str, str]] = {
    "a section there is not": ("plan", "[recrods]\n"),
    "a key there is not": ("plan", '[[chart]]\nkind = "bar"\nbye = "route"\n'),
    "a word of another kind": ("plan", '[[chart]]\nkind = "bar"\nring = true\n'),
    "a kind there is not": ("plan", '[[chart]]\nkind = "bra"\n'),
    "a choice there is not": ("plan", '[[chart]]\nkind = "bar"\nlayout = "percnt"\n'),
    "a number that is too large": ("plan", '[[chart]]\nkind = "bar"\nlevel = 100000\n'),
    "a text where a switch is": ("plan", '[[chart]]\nkind = "bar"\ntotals = "yes"\n'),
    "a default there is not": ("plan", '[defaults]\nlocle = "de"\n'),
    "advice there is not": ("plan", '[defaults]\nno_advice = "all"\n'),
    "a colour where a size is": ("style", '[type]\ntitle = "#123456"\n'),
    "type too small": ("style", "[type]\ntitle = 2\n"),
    "a key of a style": ("style", "[type]\ntitel = 12\n"),
    "a kind of column": ("codebook", '[variables.a]\nkind = "categroy"\n'),
    "a range of one": ("codebook", "[variables.a]\nrange = [1]\n"),
    "a key of a level": ("codebook", '[variables.a.levels]\n1 = { lable = "x" }\n'),
}


@pytest.mark.soak
@pytest.mark.parametrize("name", WRONG)
def test_what_the_program_refuses_the_schemas_refuse(run: Run, folder: Path, name: str) -> None:
    file, text = WRONG[name]
    assert _faults(file, text)
    (folder / f"{file}.toml").write_text(text, "utf-8")
    command = ("build", "plan.toml") if file == "plan" else ("bar", "passengers.csv", "--by", "route", "--out", "x.svg")
    assert run(*command).returncode != 0


def test_drafted_files_name_their_schema_and_fit_it(run: Run, folder: Path) -> None:
    assert run("codebook", "costs.csv", "--out", "mine.toml").returncode == 0
    assert run("palettes", "--style", "print", "--style-draft", "mine_style.toml").returncode == 0
    for file, drafted in (("codebook", "mine.toml"), ("style", "mine_style.toml")):
        text = (folder / drafted).read_text("utf-8")
        assert text.startswith(f"#:schema {file}.schema.json\n")
        assert (folder / f"{file}.schema.json").is_file()
        assert _faults(file, text) == []


def test_every_key_that_is_read_is_explained() -> None:
    assert set(DESIGN) == set(Design.__struct_fields__)
    helps = [setting.key.help for keys in (TOP, *SECTIONS.values()) for setting in keys.values()]
    assert all(text.endswith(".") for text in helps)
    assert len(FILES) == len(schemas()) == 3


def test_a_plan_that_is_there_gets_no_schema(run: Run, folder: Path) -> None:
    run("bar", "passengers.csv", "--by", "route", "--out", "x.svg", "--save-plan", "plan.toml")
    assert not (folder / "plan.schema.json").exists()


def test_all_kinds_of_what_a_schema_says_are_plain_json() -> None:
    def plain(value: Any) -> bool:  # noqa: ANN401 - JSON
        if isinstance(value, dict):
            return all(isinstance(key, str) and plain(one) for key, one in value.items())
        return all(map(plain, value)) if isinstance(value, list) else isinstance(value, str | int | float | bool)

    assert all(plain(json.loads(text)) for text in schemas().values())


def test_every_screenshot_is_shown_and_there_are_fewer_than_twenty() -> None:
    made = set(re.findall(r"\b(\w+\.png)", (DOCS / "screenshots.sh").read_text("utf-8")))
    files = {path.name for path in (DOCS / "screenshots").iterdir()}
    for page in (DOCS.parent / "README.md", DOCS / "gallery.md"):
        assert set(re.findall(r"screenshots/(\w+\.png)", page.read_text("utf-8"))) == files, page.name
    assert files <= made
    assert len(files) < 20


def test_the_first_lines_of_the_readme_work_as_they_stand(run: Run) -> None:
    first = (DOCS.parent / "README.md").read_text("utf-8").split("```sh\n")[1].split("```")[0]
    for line in first.splitlines():
        done = run(*shlex.split(line, comments=True)[1:])
        assert done.returncode == 0, done.stderr


def test_a_schema_of_somebody_else_is_left_alone(run: Run, folder: Path) -> None:
    theirs = folder / "plan.schema.json"
    theirs.write_text("{}", "utf-8")
    assert run("bar", "passengers.csv", "--by", "route", "--out", "x.svg", "--save-plan", "new.toml").returncode == 0
    assert theirs.read_text("utf-8") == "{}"


@pytest.mark.parametrize("file", FILES)
def test_a_schema_names_fields_as_its_file_does(file: str) -> None:
    text = (FOLDER / f"{file}.schema.json").read_text("utf-8")
    assert not re.search(r"\\u00[01][0-9a-f]", text), "a token that nobody can read"
