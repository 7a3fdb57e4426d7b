"""The `[defaults]` of a codebook count for every option of every command, unless something else is typed."""

from pathlib import Path
from typing import Any

import pytest
from msgspec.structs import replace

from grainstack.cli.commands import COMMANDS, command_named
from grainstack.cli.defaults import run_with_defaults
from grainstack.errors import RequestError
from grainstack.option_fields import Entry, entries
from grainstack.requests import Requests, filled
from grainstack.summary.options import SpreadRequest
from tests.making.test_every_option import TRIES
from tests.program.conftest import Run

TYPED_ONLY = ("file", "codebook", "out", "save_plan", "name", "like")
OPTIONS = sorted(
    {
        (command, entry.name)
        for command in COMMANDS
        for model in command_named(command).models
        for entry in entries(model)
        if not command_named(command).without_defaults
        and entry.name not in TYPED_ONLY
        and any(e.name == "codebook" for e in entries(command_named(command).models[0]))
    }
)
VALUES: dict[str, Any] = {
    "rows": 3,
    "labels": True,
    "account": True,
    "no_advice": ("hidden-shape",),
    "target": ("season: Spring=1",),
    "lowest": 0.5,
    "highest": 2.0,
    "weight_name": "w",
    "engine": "dask",
    "scheduler": "tcp://127.0.0.1:9",
    "explain": True,
    "leave_out": ("wait",),
    "question": ("wait",),
    "ask": True,
    "decisions": "decided.toml",
    "template": "house.docx",
    "copy": "png",
    "open_": True,
}


def _entry(command: str, name: str) -> Entry:
    return next(one for model in command_named(command).models for one in entries(model) if one.name == name)


def _value(name: str) -> Any:  # noqa: ANN401
    return VALUES[name] if name in VALUES else TRIES[name][0][1][name]


def _toml(value: object) -> str:
    if isinstance(value, tuple):
        return f"[{', '.join(_toml(item) for item in value)}]"
    return str(value).lower() if isinstance(value, bool) else f"'''{value}'''" if isinstance(value, str) else str(value)


def _asked(folder: Path, command: str, defaults: str, **typed: Any) -> Requests:  # noqa: ANN401
    """What a command is asked for, by what is typed and the defaults of a codebook."""
    codebook = folder / "other.toml"
    codebook.write_text(f"[defaults]\n{defaults}\n", "utf-8")
    asked: list[Requests] = []
    capturing = replace(command_named(command), run=asked.append)
    run_with_defaults(
        capturing, {"file": ("passengers.csv",), "codebook": str(codebook), **typed}, wanted=True, strict=False
    )
    return asked[0]


@pytest.mark.parametrize("command", sorted({command for command, _ in OPTIONS}))
def test_every_option_of_a_command_can_be_a_default(folder: Path, command: str) -> None:
    typed = {"file": ("passengers.csv",), "codebook": str(folder / "other.toml")}
    for name in (name for one, name in OPTIONS if one == command):
        value = _value(name)
        if _entry(command, name).type == tuple[str, ...] and isinstance(value, str):
            value = (value,)
        try:
            expected = filled(command_named(command).models, {**typed, name: value})
        except RequestError:
            continue  # it belongs to another option of the same model
        assert list(_asked(folder, command, f"{name.rstrip('_')} = {_toml(value)}")) == list(expected), name


@pytest.mark.parametrize("command", sorted({command for command, _ in OPTIONS}))
def test_what_is_typed_goes_before_a_default(folder: Path, command: str) -> None:
    for name in (name for one, name in OPTIONS if one == command):
        default = _entry(command, name).default
        if name not in ("error_low", "error_high", "engine", "scheduler"):  # one needs the other
            asked = _asked(folder, command, f"{name.rstrip('_')} = {_toml(_value(name))}", **{name: default})
            assert all(name not in model.given() for model in asked), name


@pytest.mark.parametrize("wrong", ["2026-01-01", "{ a = 1 }", "[[1]]", "nan"])
def test_a_default_that_cannot_be_names_its_line(run: Run, folder: Path, wrong: str) -> None:
    for name in sorted({name for _, name in OPTIONS}):
        kinds = [_entry(command, one).type for command, one in OPTIONS if one == name]
        if wrong == "nan" and (str in kinds or (str | None) in kinds or tuple[str, ...] in kinds):
            continue  # is text
        (folder / "codebook.toml").write_text(f"\n[defaults]\n{name.rstrip('_')} = {wrong}\n", "utf-8")
        finished = run("look", "passengers.csv")
        assert (finished.returncode, finished.stdout) == (1, ""), name
        assert "line 3" in finished.stderr, name


def test_defaults_of_one_command_go_before_those_of_all(folder: Path) -> None:
    text = "confidence = 90\n[defaults.bar]\nconfidence = 80"
    levels = [_asked(folder, kind, text)[SpreadRequest].confidence for kind in ("bar", "dot")]
    assert levels == [80, 90]


def test_a_default_that_this_request_cannot_use_is_left_aside_and_said(run: Run, folder: Path) -> None:
    plain = run("bar", "passengers.csv", "--by", "route", "--measure", "wait")
    book = folder / "codebook.toml"
    book.write_text(
        book.read_text("utf-8") + '\n[defaults]\nlayout = "percent"\nlegend = "top"\nrepeats = 200\n', "utf-8"
    )
    finished = run("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--out", "x.svg")
    assert "Default --layout of codebook.toml left aside: A mean cannot be percent" in finished.stderr
    assert "--legend" not in finished.stderr, "it would merely make no difference"
    assert "--repeats" not in finished.stderr
    assert run("bar", "passengers.csv", "--by", "route", "--measure", "wait").stdout == plain.stdout
    assert (folder / "x.svg").exists()


def test_defaults_that_count_are_said_and_can_be_left_aside(run: Run, folder: Path) -> None:
    plain = run("table", "passengers.csv", "--by", "route", "--measure", "wait")
    book = folder / "codebook.toml"
    book.write_text(book.read_text("utf-8") + "\n[defaults]\nlevel = 80\n", "utf-8")
    finished = run("table", "passengers.csv", "--by", "route", "--measure", "wait")
    assert "Defaults of codebook.toml: --confidence 80" in finished.stderr
    assert "80 % confidence limits" in finished.stdout
    assert run("table", "passengers.csv", "--by", "route", "--measure", "wait", "--no-defaults").stdout == plain.stdout


def test_an_option_that_there_is_not_names_the_nearest(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").write_text('[defaults]\nsze = "1x1"\n[defaults.pie]\nlayout = "percent"\n', "utf-8")
    assert "line 2: there is no option `sze`.\n  Did you mean `size`" in run("look", "passengers.csv").stderr
    (folder / "codebook.toml").write_text('[defaults.pie]\nlayout = "percent"\n', "utf-8")
    assert "pie has no option `layout`" in run("bar", "passengers.csv", "--by", "route").stderr
    (folder / "codebook.toml").write_text('[defaults]\nout = "a.png"\n', "utf-8")
    assert "typed each time" in run("bar", "passengers.csv", "--by", "route").stderr


def test_what_fails_for_another_reason_still_fails(run: Run, folder: Path) -> None:
    (folder / "codebook.toml").write_text("[defaults]\nlevel = 80\n", "utf-8")
    finished = run("bar", "passengers.csv", "--by", "rout")
    assert finished.returncode == 2
    assert "Did you mean `route`" in finished.stderr
