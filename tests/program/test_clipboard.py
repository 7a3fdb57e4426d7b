"""The clipboard: what was made goes to the program that keeps it, or it is said why not."""

from pathlib import Path

import pytest

from tests.program.conftest import Run

KEEPS = '#!/bin/sh\nprintf "%s\\n" "$*" > "{folder}/asked"\ncat > "{folder}/kept"\n'


@pytest.fixture
def clipboard(folder: Path, monkeypatch: pytest.MonkeyPatch) -> Path:
    """A program that keeps what it is given in a file."""
    programs = folder / "programs"
    programs.mkdir()
    (programs / "xclip").write_text(KEEPS.format(folder=folder), "utf-8")
    (programs / "xclip").chmod(0o755)
    monkeypatch.setenv("PATH", f"{programs}:/usr/bin:/bin")
    monkeypatch.setenv("DISPLAY", ":9")
    monkeypatch.delenv("WAYLAND_DISPLAY", raising=False)
    return folder


@pytest.mark.parametrize(
    ("form", "kind", "begins"), [("png", "image/png", b"\x89PNG"), ("svg", "image/svg+xml", b"<svg")]
)
def test_a_chart_is_copied_as_a_picture(run: Run, clipboard: Path, form: str, kind: str, begins: bytes) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--copy", form)
    assert done.returncode == 0, done.stderr
    assert f"Copied as {form}." in done.stderr
    assert done.stdout == ""
    assert kind in (clipboard / "asked").read_text("utf-8")
    assert (clipboard / "kept").read_bytes().startswith(begins)


def test_a_table_is_copied_for_documents_and_for_spreadsheets(run: Run, clipboard: Path) -> None:
    asked = ["table", "passengers.csv", "--by", "route", "--split", "season", "--stat", "share"]
    assert run(*asked, "--copy", "html").returncode == 0
    text = (clipboard / "kept").read_text("utf-8")
    assert '<th scope="row">Dunmar</th>' in text
    assert run(*asked, "--copy", "tsv", "--out", "t.csv").returncode == 0
    rows = [line.split("\t") for line in (clipboard / "kept").read_text("utf-8").splitlines()]
    assert rows[0] == ["Route", "Spring", "Summer", "Autumn", "Winter", "n"]
    assert len(rows) == 7
    assert (clipboard / "t.csv").is_file()


def test_where_there_is_none_it_is_said_before_anything_is_made(
    run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("PATH", str(folder))
    done = run("bar", "passengers.csv", "--by", "route", "--copy", "png", "--save-plan", "p.toml")
    assert done.returncode == 2
    assert "no clipboard here that takes png" in done.stderr
    assert not (folder / "p.toml").exists()


def test_a_form_that_does_not_suit_it_and_a_clipboard_that_fails_are_told(run: Run, clipboard: Path) -> None:
    done = run("table", "passengers.csv", "--by", "route", "--copy", "png")
    assert done.returncode == 2
    assert "Choose html or tsv" in done.stderr
    (clipboard / "programs/xclip").write_text("#!/bin/sh\nexit 1\n", "utf-8")
    done = run("bar", "passengers.csv", "--by", "route", "--copy", "png")
    assert done.returncode == 1
    assert "did not take it" in done.stderr


def test_files_are_written_where_there_is_no_clipboard(run: Run, folder: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    for name in ("DISPLAY", "WAYLAND_DISPLAY"):
        monkeypatch.delenv(name, raising=False)
    asked = ("bar", "passengers.csv", "--by", "route", "--copy", "png")
    done = run(*asked, "--out", "x.svg")
    assert done.returncode == 0
    assert "No effect: --copy: there is no clipboard here that takes png." in done.stderr
    assert (folder / "x.svg").exists()
    assert run(*asked).returncode == 2
    assert run(*asked, "--out", "y.svg", "--strict").returncode == 2
    assert not (folder / "y.svg").exists()
