"""Calls from Python give what commands give: the same figures, bytes, refusals and advice."""

import csv
import inspect
import json
import re
import shlex
import subprocess
import sys
import xml.etree.ElementTree as ET
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any

import pandas as pd
import pyarrow as pa
import pytest

import grainstack as gs
from grainstack.api.functions import function_named, options_of
from grainstack.api.stubs import stubs
from grainstack.making.kinds import KINDS, kind_named
from tests.program.conftest import Run

CALLS: list[tuple[str, dict[str, Any]]] = [
    ("table", {"by": "route", "measure": "wait", "stat": ["mean", "median"]}),
    ("table", {"by": ["route"], "split": "season", "stat": "share", "base": "series", "letters": True}),
    ("table", {"by": "ticket", "banner": ["season", "route"]}),
    ("table", {"by": "facilities", "net": "facilities: Food = Café, Shop", "stat": "share", "no_design": True}),
    ("bar", {"by": "route", "measure": "wait", "order": "largest-first", "title": "Waits"}),
    ("bar", {"by": "route", "split": "ticket", "layout": "percent", "keep_top": 3}),
    ("dot", {"by": "route", "measure": "wait", "error_bars": "confidence"}),
    ("pie", {"by": "ticket"}),
    ("treemap", {"by": ["route", "ticket"]}),
    ("distribution", {"by": "route", "measure": "wait", "form": "box"}),
]


@pytest.fixture(autouse=True)
def _in_demo(folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(folder)


def typed(values: dict[str, Any]) -> Iterator[str]:
    for name, value in values.items():
        flag = f"--{name.replace('_', '-')}"
        for one in value if isinstance(value, list) else [value]:
            yield flag
            if one is not True:
                yield str(one)


@pytest.mark.parametrize(("name", "values"), CALLS)
def test_a_call_writes_the_bytes_of_its_command(folder: Path, name: str, values: dict[str, Any]) -> None:
    ending = ".csv" if name == "table" else ".svg"
    program = Path(sys.executable).parent / "grainstack"
    command = [str(program), name, "passengers.csv", *typed(values), "--out", f"command{ending}"]
    subprocess.run(command, check=True, capture_output=True)
    made = function_named(name)("passengers.csv", **values)
    made.save(f"call{ending}")
    assert (folder / f"call{ending}").read_bytes() == (folder / f"command{ending}").read_bytes()


@pytest.mark.parametrize(("name", "values"), CALLS)
def test_the_command_and_the_entry_it_names_make_the_same(
    folder: Path, run: Run, name: str, values: dict[str, Any]
) -> None:
    ending = ".csv" if name == "table" else ".svg"
    made = function_named(name)("passengers.csv", **values)
    made.save(f"call{ending}")
    done = run(*shlex.split(made.command)[1:], "--out", f"again{ending}")
    assert done.returncode == 0, done.stderr
    assert (folder / f"again{ending}").read_bytes() == (folder / f"call{ending}").read_bytes()
    (folder / "plan.toml").write_text(f'{made.entry}formats = ["{ending[1:]}"]\n', "utf-8")  # of its last section
    assert run("build", "plan.toml").returncode == 0
    (built,) = (folder / "out").glob(f"*{ending}")
    assert without_trace(built) == without_trace(folder / f"call{ending}")


def without_trace(file: Path) -> str:
    """A file but for what it says of the command or plan that made it."""
    return re.sub("<metadata>.*?</metadata>", "", file.read_text("utf-8"), flags=re.DOTALL)


def columns() -> dict[str, list[Any]]:
    rows = [("Dunmar", 12.0), ("Skerra", 5.5), ("Dunmar", 8.0), ("Vey", None), ("Skerra", 7.0)] * 9
    return {"route": [route for route, _ in rows], "wait": [wait for _, wait in rows]}


def test_tables_of_any_library_give_the_same_figures(folder: Path) -> None:
    table = columns()
    with (folder / "t.csv").open("w", newline="", encoding="utf-8") as file:
        csv.writer(file).writerows([table.keys(), *zip(*table.values(), strict=True)])
    wanted = gs.table("t.csv", by="route", measure="wait", codebook={}).figures
    for data in (table, pa.table(table), pd.DataFrame(table), pa.table(table).to_reader()):
        assert gs.table(data, by="route", measure="wait").figures == wanted


def test_ordered_categories_keep_their_order() -> None:
    sizes = pd.Categorical(["big", "small", "mid", "big"], categories=["small", "mid", "big"], ordered=True)
    frame = pd.DataFrame({"size": sizes})
    assert [row["size"] for row in gs.table(frame, by="size").figures] == ["small", "mid", "big"]
    frame.to_parquet("sizes.parquet")
    assert [row["size"] for row in gs.table("sizes.parquet", by="size", codebook={}).figures] == ["small", "mid", "big"]


def test_a_codebook_is_a_path_or_what_its_file_would_hold() -> None:
    book = {"variables": {"route": {"label": "Line", "levels": {"Dunmar": "To Dunmar"}}}}
    made = gs.table(columns(), by="route", codebook=book)
    assert made.figures[0]["route"] == "To Dunmar"
    assert "Line" in str(made)


def test_a_codebook_handed_over_counts_for_columns_worked_out_and_leaves_no_trace_of_another(folder: Path) -> None:
    (folder / "answers.csv").write_text("n,g\n1,a\n9,a\n", "utf-8")
    book = {"variables": {"n": {"missing": ["9"]}}}
    made = gs.table("answers.csv", by="g", compute="twice = n * 2", measure="twice", codebook=book)
    assert made.figures[0]["estimate"] == 2
    chart = gs.bar("answers.csv", by="g", codebook=book)
    chart.save("answers.svg")
    assert "codebook.toml" not in (folder / "answers.svg").read_text("utf-8")


def test_what_comes_back_shows_itself() -> None:
    made = gs.bar(columns(), by="route", measure="wait")
    svg = made._repr_svg_()
    assert svg is not None
    ET.fromstring(svg)  # noqa: S314 - our own output
    assert made._repr_html_() is None
    assert "image/svg+xml" in made._repr_mimebundle_()
    table = gs.table(columns(), by="route", measure="wait")
    assert "<table" in (table._repr_html_() or "")
    assert table.table.column("estimate").to_pylist() == [row["estimate"] for row in table.figures]
    assert pa.table(table).num_rows == len(table.figures)
    assert list(table.to_pandas()["route"]) == [row["route"] for row in table.figures]
    assert any("Base: 36 records" in fact for fact in table.facts)


@pytest.mark.parametrize(
    ("changes", "names"),
    [
        ({"by": "route", "measure": "wait"}, {"measure", "estimate"}),
        ({"by": "route", "measure": "wait", "design_figures": True}, {"effective_base", "design_effect"}),
        ({"by": ["route"], "banner": ["size"]}, {"question", "answer", "banner", "group"}),
        ({"by": "route", "split": "size", "stat": "share", "base": ["all", "series"]}, {"block"}),
    ],
)
def test_rows_table_and_file_hold_the_same_figures(folder: Path, changes: dict[str, Any], names: set[str]) -> None:
    made = gs.table(columns() | {"size": ["big", "small", "big", "mid", "small"] * 9}, **changes)
    rows = made.figures
    assert names <= set(rows[0])
    made.save("figures.json")
    assert json.loads((folder / "figures.json").read_text("utf-8"))["cells"] == rows
    joined = [{name: " ".join(one) if name == "flags" else one for name, one in row.items()} for row in rows]
    assert made.table.to_pylist() == joined


@pytest.mark.parametrize(
    ("data", "message"),
    [
        ({"a": ["x"] * 3, "b": ["y"] * 2}, "different lengths: `a` 3, `b` 2"),
        ({"a": ["x", 1, {}]}, "values of `a` are no column"),
        ({"a": 3}, "values of `a` are no column"),
    ],
)
def test_columns_that_are_no_table_are_refused(data: dict[str, Any], message: str) -> None:
    with pytest.raises(gs.Error, match=message):
        gs.table(data, by="a")


def test_a_change_gives_a_new_one() -> None:
    made = gs.bar(columns(), by="route", measure="wait", order="alphabetical")
    other = made.change(order="largest-first", title="Waits")
    assert made.figures[0]["route"] == "Dunmar"
    assert "--order largest-first" in other.command
    assert "--order alphabetical" in made.command
    assert "--order" not in other.change(order=None).command
    stream = gs.table(pa.table(columns()).to_reader(), by="route")
    assert stream.change(stat="share").figures[0]["estimate"] == pytest.approx(0.4)


def test_errors_are_those_of_the_command_with_arguments_for_options() -> None:
    with pytest.raises(gs.Error, match="no column `rute`") as refused:
        gs.bar(columns(), by="rute")
    assert "Did you mean `route`" in str(refused.value)
    with pytest.raises(gs.Error, match="stat"):
        gs.bar(columns(), by="route", stat="average")
    with pytest.raises(TypeError, match="no argument 'bye'"):
        gs.bar(columns(), bye="route")  # type: ignore[call-arg]
    with pytest.raises(gs.Error, match="cannot be read from a int"):
        gs.bar(3, by="route")  # type: ignore[arg-type]


def test_what_makes_no_difference_is_advice() -> None:
    made = gs.bar(columns(), by="route", legend="top")
    assert any(text.startswith("legend makes no difference") for text in made.advice)


def test_two_languages_at_once_do_not_mix() -> None:
    def said(language: str) -> str:
        return " ".join(gs.table(columns(), by="route", language=language).facts)

    with ThreadPoolExecutor(4) as pool:
        found = list(pool.map(said, ["en", "de"] * 8))
    assert all("Base" in text for text in found[::2])
    assert all("Basis" in text for text in found[1::2])


@pytest.mark.parametrize("name", KINDS)
def test_functions_are_described_by_their_options(name: str) -> None:
    function = getattr(gs, name)
    arguments = inspect.signature(function).parameters
    assert [one for one in arguments if one != "like"][2:] == list(options_of(kind_named(name)))
    assert all(f"{argument}: " in (function.__doc__ or "") for argument in arguments)


def test_the_stubs_are_those_of_the_models() -> None:
    stub = Path(gs.__file__).with_suffix(".pyi")
    assert stub.read_text("utf-8") == stubs(), "run `make generated`"


def test_the_import_loads_nothing_heavy() -> None:
    code = "import sys, grainstack; print(sorted({'numpy', 'pyarrow', 'msgspec', 'typer'} & set(sys.modules)))"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"


def test_the_lines_of_the_guide_work_as_they_stand(folder: Path) -> None:
    guide = Path(__file__).parents[2] / "docs" / "python.md"
    code = guide.read_text("utf-8").split("```python\n")[1].split("```")[0]
    exec(compile(code, "docs/python.md", "exec"), {})  # noqa: S102 - our own guide
    assert {"waits.svg", "waits.docx", "by-season.png"} <= {path.name for path in folder.iterdir()}
