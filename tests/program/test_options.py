"""Options: one definition each, the same words in every command."""

import shlex

import pytest

from grainstack.cli.commands import COMMANDS, command_named
from grainstack.cli.failing import option_for
from grainstack.option_fields import Entry, Request, Word, entries, names_in, switch, word
from grainstack.requests import filled
from grainstack.summary.options import SmallBaseRequest
from grainstack.summary.order import OrderRequest
from tests.program.conftest import Run


def options(name: str) -> list[Entry]:
    return [entry for model in command_named(name).models for entry in entries(model)]


@pytest.mark.parametrize("name", list(COMMANDS))
def test_no_command_has_an_option_twice(name: str) -> None:
    found = [option_for(entry.name) for entry in options(name)]
    assert len(set(found)) == len(found)


@pytest.mark.parametrize("name", list(COMMANDS))
def test_every_option_is_explained_and_stands_under_a_heading(name: str) -> None:
    for entry in options(name):
        assert entry.word.help.endswith((".", "…")) or entry.word.help.endswith(('"', "none", ")")), entry
        assert entry.word.group, entry
        if entry.type is not bool:
            assert entry.word.metavar, entry


def test_the_same_option_is_defined_in_one_place() -> None:
    definitions: dict[str, set[Word]] = {}
    for name in COMMANDS:
        for entry in options(name):
            definitions.setdefault(option_for(entry.name), set()).add(entry.word)
    several = {option for option, words in definitions.items() if len(words) > 1}
    assert several <= {
        "--only",
        "--out",
        "--codebook",
        "--sheet",
        "--header-row",
        "--header-lines",
        "--query",
        "--allow-large",
        "--label",
        "--panel-columns",
        "--split",
        "--title",
        "--save-plan",
    }


def test_every_model_is_born_from_its_defaults_and_explained() -> None:
    for name in COMMANDS:
        for model in command_named(name).models:
            assert model().given() == ()
            assert model.__doc__


@pytest.mark.parametrize("name", list(COMMANDS))
def test_help_names_every_option(run: Run, name: str) -> None:
    done = run(name, "--help", "all")
    assert done.returncode == 0
    for entry in options(name):
        assert option_for(entry.name) in done.stdout


def test_help_has_a_line_for_each_heading_and_a_page_of_its_own_for_each(run: Run) -> None:
    page = run("bar", "--help").stdout
    assert all(option_for(entry.name) in page for entry in options("bar"))
    assert len(page.splitlines()) < 60
    colours = run("bar", "--help", "colour").stdout
    assert "--palette NAME" in colours
    assert "--weight" not in colours
    for topic in ("weights", "--strata", "survey design"):
        assert "--cluster COLUMN" in run("bar", "--help", *topic.split()).stdout
    assert "There is no heading qwe." in run("bar", "--help", "qwe").stdout


def test_choices_are_checked_before_anything_is_read(run: Run) -> None:
    done = run("bar", "nowhere.csv", "--by", "route", "--layout", "piled")
    assert done.returncode == 2
    assert "stacked, grouped, percent, diverging" in done.stderr


def test_words_become_options() -> None:
    class Model(Request, frozen=True):
        keep_top: int | None = word(None, "How many.", group="G", metavar="N")
        except_: tuple[str, ...] = word((), "Not these.", group="G", metavar="L")
        dry: bool = switch("Only say.", group="G")

    assert [option_for(entry.name) for entry in entries(Model)] == ["--keep-top", "--except", "--dry"]


@pytest.mark.parametrize(
    ("text", "names"), [("a, b", ("a", "b")), ('"a, b", c', ("a, b", "c")), (" a ", ("a",)), ("", ()), (",,", ())]
)
def test_lists_of_names_are_read_as_people_write_them(text: str, names: tuple[str, ...]) -> None:
    assert names_in(text) == names


@pytest.mark.soak
@pytest.mark.parametrize("name", list(COMMANDS))
def test_short_help_fits_a_screen_and_its_examples_run(run: Run, name: str) -> None:
    done = run(name, "-h")
    assert done.returncode == 0
    lines = done.stdout.splitlines()
    assert len(lines) <= 36
    assert max(map(len, lines)) <= 80
    assert f"All options: grainstack {name} --help" in lines[-1]
    for example in command_named(name).examples if name != "edit" else ():  # which goes on until it is interrupted
        made = run(*shlex.split(example))
        assert made.returncode == 0, made.stderr


def test_what_does_not_belong_to_a_request_is_a_fault_of_the_program() -> None:
    requests = filled((OrderRequest,), {"order": "alphabetical"})
    with pytest.raises(KeyError, match="SmallBaseRequest"):
        requests[SmallBaseRequest]
    assert requests.usual(SmallBaseRequest) == SmallBaseRequest()
    with pytest.raises(KeyError, match="odrer"):
        filled((OrderRequest,), {"odrer": "alphabetical"})


@pytest.mark.parametrize(
    ("typed", "message"),
    [
        (("--legend", "none", "--out", "x.svg"), "--legend makes no difference: there are no series to name."),
        (("--direction", "horizontal"), "--direction makes no difference in a terminal."),
        (("--second-stat", "sum"), "--second-stat makes no difference without --second-measure."),
    ],
)
def test_what_makes_no_difference_is_told_and_stops_nothing(run: Run, typed: tuple[str, ...], message: str) -> None:
    asked = ("bar", "passengers.csv", "--by", "route")
    done = run(*asked, *typed)
    assert done.returncode == 0
    assert f"No effect: {message}" in done.stderr
    strict = run(*asked, *typed, "--strict")
    assert strict.returncode == 2
    assert message in strict.stderr


def test_nested_categories_have_each_an_order_of_its_own(run: Run) -> None:
    asked = ("table", "passengers.csv", "--by", "season", "--by", "route", "--measure", "wait")

    def names(order: str) -> list[str]:
        text = run(*asked, "--order", order).stdout
        known = ("Winter", "Spring", "Dunmar", "Lower Tarn")
        return [name for line in text.splitlines() for name in known if name in line]

    assert names("season: Winter, Spring")[0] == "Winter"
    natural, turned = names("route: codebook"), names("Route: reverse; season: codebook")
    assert [name for name in natural if name in ("Winter", "Spring")] == ["Spring", "Winter"]
    assert natural.index("Dunmar") < natural.index("Lower Tarn")
    assert turned.index("Lower Tarn") < turned.index("Dunmar")
    mixed = run(*asked, "--order", "route: reverse; Winter")
    assert mixed.returncode == 2
    assert "each part is for a column of its own" in mixed.stderr
