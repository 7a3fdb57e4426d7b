"""What people type is answered by what they mean: options, values and commands, each with one that works."""

import re
import shlex
from pathlib import Path

import pytest

from grainstack.cli.commands import COMMANDS, command_named
from grainstack.option_fields import entries
from grainstack.other_words import every_meaning
from grainstack.summary.order import RULES
from grainstack.summary.statistics import names_to_ask_for
from tests.program.conftest import Run
from tests.soak import daily

INTENTS = [
    line.split(" | ") for line in Path(__file__).with_name("intents.txt").read_text("utf-8").splitlines()
]  # what somebody wants, and the command that does it for passengers by route
OPENS = ("--open", "--copy", "--save-plan", "--out", "--decimal")  # these need a screen, or other files
NAMES = (
    "--like",
    "--band",
    "--times",
    "--value",
    "--error-size",
    "--replicates",
    "--population",
    "--to-long",
    "--sheet",
)  # these name what only other records have
COMMANDS_MEANT = [
    answer
    for answer in dict.fromkeys(answer for _, answer in INTENTS if answer != "style")
    for _, *typed in [shlex.split(answer)]
    if not set(typed) & set(OPENS) and not (len(typed) == 1 and typed[0] in NAMES)
]
FIRST_COMMANDS = Path(__file__).with_name("first_commands.txt").read_text("utf-8").splitlines()


@pytest.mark.parametrize(("words", "answer"), INTENTS)
def test_an_intent_finds_its_option(words: str, answer: str, run: Run) -> None:
    done = run("find", words)
    assert done.returncode == 0, done.stderr
    option = next((word for word in shlex.split(answer) if word.startswith("--")), "--style")
    if answer in ("style", "bar --no-defaults"):  # met by a sentence
        assert option in done.stdout
    else:
        assert any(re.match(rf"{option}\b", line) for line in done.stdout.splitlines()), done.stdout


@pytest.mark.parametrize("answer", daily(COMMANDS_MEANT, COMMANDS_MEANT[::8]))
def test_an_intent_is_drawn(answer: str, run: Run) -> None:
    command, *typed = shlex.split(answer)
    by = [] if "--by" in typed and command != "table" else ["--by", "route"]
    done = run(command, "passengers.csv", *by, *typed, "--out", "x.json" if command == "table" else "x.svg")
    assert done.returncode == 0, done.stderr


@pytest.mark.parametrize(
    "typed",
    [
        ["--horizontal"],
        ["--flip"],
        ["--sort", "desc"],
        ["--top", "3"],
        ["--average", "--measure", "wait"],
        ["--no-legend", "--split", "ticket"],
        ["--stacked", "--split", "ticket"],
        ["--y-limits", "0", "900"],
        ["--color-by", "ticket"],
        ["--data-labels"],
        ["--width=800"],
    ],
)
def test_an_unknown_option_is_answered_with_a_command_that_works(typed: list[str], run: Run) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--out", "x.svg", *typed)
    assert done.returncode == 2
    command = done.stderr.strip().splitlines()[-1].strip()
    assert command.startswith("grainstack bar passengers.csv --by route --out x.svg ")
    assert run(*shlex.split(command)[1:]).returncode == 0, command


def test_a_word_of_nobody_is_answered_with_the_nearest_option(run: Run) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--title-text", "x")
    assert done.returncode == 2
    assert "--title" in done.stderr


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        (("--error-bars", "ci", "--measure", "wait"), "confidence"),
        (("--layout", "side-by-side", "--split", "ticket"), "grouped"),
        (("--stat", "avg", "--measure", "wait"), "mean"),
    ],
)
def test_an_unknown_value_is_answered_with_the_one_meant(typed: tuple[str, ...], meant: str, run: Run) -> None:
    done = run("bar", "passengers.csv", "--by", "route", *typed)
    assert done.returncode != 0
    assert f"`{meant}`" in done.stderr


def test_an_unknown_command_is_answered_with_one_that_works(run: Run) -> None:
    done = run("histogram", "passengers.csv", "--by", "route", "--measure", "wait")
    command = done.stderr.strip().splitlines()[-1].strip()
    assert command == "grainstack distribution --form histogram passengers.csv --by route --measure wait"
    assert run(*shlex.split(command)[1:]).returncode == 0
    assert "grainstack bar passengers.csv" in run("barr", "passengers.csv").stderr


def test_every_meaning_is_an_option_value_or_command_there_is() -> None:
    every = [entry for name in COMMANDS for model in command_named(name).models for entry in entries(model)]
    choices: dict[str, set[str]] = {}  # of each option, in any command; nothing where a command takes any value
    for entry in every:
        choices.setdefault("--" + entry.name.rstrip("_").replace("_", "-"), set()).update(entry.word.choices or [""])
    choices |= {"--stat": set(names_to_ask_for()), "--order": set(RULES)}  # which take columns and figures as well
    for here, words in every_meaning():
        assert words == [word.lower() for word in words]
        first, *rest = here.split()
        if first == "grainstack":
            assert rest[0] in COMMANDS
            continue
        assert first in choices, here
        if rest and rest[0] != "…" and "" not in choices[first]:
            assert rest[0] in choices[first], here


@pytest.mark.parametrize(
    ("unknown", "answer"),
    [
        ("--second", "--second-measure wait"),
        ("--splitt", "--split wait"),
        ("--measur", "--measure wait"),
        ("--frobnicate", "grainstack find frobnicate"),
    ],
)
def test_an_option_spelt_wrongly_is_answered_with_one_that_is(run: Run, unknown: str, answer: str) -> None:
    done = run("bar", "passengers.csv", "--by", "route", unknown, "wait")
    assert done.returncode == 2
    assert f"there is no {unknown}." in done.stderr
    assert done.stderr.rstrip().endswith(answer)


def check_first_commands(run: Run, commands: list[str], most_refused: int) -> None:
    refused = []
    for command in commands:
        done = run(*shlex.split(command)[1:])
        if done.returncode != 0:
            refused.append(command)
            assert re.search(r"grainstack \w+|--\w+ \w+|Choose from", done.stderr), done.stderr
    assert len(refused) <= most_refused, refused


def test_first_commands_of_a_new_user_work_or_name_one_that_does(run: Run) -> None:
    check_first_commands(run, FIRST_COMMANDS[:34], 3)


@pytest.mark.soak
def test_so_do_those_that_come_later_and_write_documents(run: Run) -> None:
    check_first_commands(run, FIRST_COMMANDS, 3)


def test_orders_in_other_words_are_orders(run: Run) -> None:
    asked = ("table", "passengers.csv", "--by", "route")
    for typed, meant in (("desc", "largest-first"), ("asc", "smallest-first"), ("alpha", "alphabetical")):
        assert run(*asked, "--order", typed).stdout == run(*asked, "--order", meant).stdout
    percent = run("bar", "passengers.csv", "--by", "route", "--label", "percent")
    assert "`percent` is that here: --label share." in percent.stderr
