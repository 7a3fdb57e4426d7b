"""Charts as the installed program draws them: every command, in the terminal and as files."""

import re
import xml.etree.ElementTree as ET
from pathlib import Path

import pytest

from grainstack.cli.commands import command_named
from grainstack.cli.failing import option_for
from grainstack.option_fields import Medium, entries
from tests.program.conftest import Run

SPACE = "{http://www.w3.org/2000/svg}"
WAIT = ("passengers.csv", "--by", "route", "--measure", "wait")
STAFF = ("bar", "passengers.csv", "--by", "route", "--split", "staff", "--layout", "diverging")
CHARTS = {
    "bar": ("bar", "passengers.csv", "--by", "route", "--split", "ticket"),
    "percent": ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "percent"),
    "single": ("bar", "passengers.csv", "--by", "ticket", "--layout", "percent"),
    "diverging": STAFF,
    "apart": (
        "bar",
        "passengers.csv",
        "--by",
        "route",
        "--split",
        "staff",
        "--layout",
        "diverging",
        "--neutral",
        "apart",
    ),
    "nested": ("bar", *WAIT, "--by", "season", "--error-bars", "confidence"),
    "panels": ("bar", "passengers.csv", "--by", "season", "--split", "ticket", "--panel", "route"),
    "statistics": ("bar", *WAIT, "--stat", "mean", "--stat", "median"),
    "letters": ("bar", *WAIT, "--letters"),
    "records": ("bar", *WAIT, "--show-records", "--error-bars", "range"),
    "second": ("bar", *WAIT, "--second-measure", "age"),
    "labels": ("bar", "passengers.csv", "--by", "route", "--label", "value, share"),
    "top": ("bar", "costs.csv", "--by", "item", "--measure", "amount", "--stat", "sum", "--keep-top", "5"),
    "german": ("bar", "costs.csv", "--by", "item", "--measure", "amount", "--stat", "sum", "--locale", "de"),
    "slide": ("bar", "passengers.csv", "--by", "route", "--style", "slide", "--highlight", "Dunmar"),
    "mono": ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--style", "mono"),
    "range": ("bar", *WAIT, "--value-range", "10,25", "--reference", "20=Target"),
    "dot": ("dot", *WAIT, "--error-bars", "confidence", "--letters"),
    "dots": ("dot", "passengers.csv", "--by", "route", "--split", "season", "--stat", "share"),
    "box": ("distribution", *WAIT),
    "points": ("distribution", *WAIT, "--form", "points"),
    "histogram": ("distribution", *WAIT, "--form", "histogram", "--band", "wait=5"),
    "overall": ("distribution", "passengers.csv", "--measure", "age", "--form", "histogram"),
    "pie": ("pie", "passengers.csv", "--by", "ticket"),
    "ring": ("pie", "passengers.csv", "--by", "ticket", "--ring", "--set-apart", "App", "--label", "share, count"),
    "pies": ("pie", "passengers.csv", "--by", "ticket", "--panel", "season"),
    "treemap": ("treemap", "costs.csv", "--by", "vessel", "--by", "department", "--measure", "amount"),
    "shaded": ("treemap", "costs.csv", "--by", "item", "--measure", "amount", "--color-by", "change"),
    "palettes": ("palettes",),
}


def marks(path: Path, role: str) -> list[ET.Element]:
    """The marks of a role in an SVG."""
    root = ET.fromstring(path.read_text("utf-8"))  # noqa: S314 - written by the program under test
    return [one for one in root.iter() if one.get("data-role") == role]


def words(path: Path, role: str) -> str:
    """Everything the texts of a role say."""
    return " ".join("".join(one.itertext()) for one in marks(path, role))


def for_terminal(command: tuple[str, ...]) -> list[str]:
    """The command without the options that only pictures have."""
    only = {option_for(entry.name): entry for model in command_named(command[0]).models for entry in entries(model)}
    kept: list[str] = []
    words = iter(command)
    for one in words:
        if one in only and only[one].word.medium is Medium.PICTURE:
            if only[one].type is not bool:
                next(words)
            continue
        kept.append(one)
    return kept


@pytest.mark.parametrize("name", CHARTS)
def test_every_chart_is_drawn_in_the_terminal_and_in_every_format(run: Run, folder: Path, name: str) -> None:
    command = CHARTS[name]
    shown = run(*for_terminal(command))
    assert shown.returncode == 0, shown.stderr
    assert len(shown.stdout.splitlines()) > 5
    if name != "palettes":
        assert max(len(line) for line in shown.stdout.splitlines()) <= 80
    outs = [part for ending in ("svg", "png", "pdf") for part in ("--out", f"c.{ending}")]
    done = run(*command, *outs)
    assert done.returncode == 0, done.stderr
    assert (folder / "c.png").read_bytes()[:8] == b"\x89PNG\r\n\x1a\n"
    assert (folder / "c.pdf").read_bytes()[:5] == b"%PDF-"
    content = (folder / "c.svg").read_text("utf-8")
    root = ET.fromstring(content)  # noqa: S314 - written by the program under test
    assert root.find(f"{SPACE}title") is not None
    described = root.find(f"{SPACE}desc")
    assert described is not None
    assert described.text
    again = run(*command, "--out", "d.svg")
    assert again.returncode == 0
    assert (folder / "d.svg").read_text("utf-8") == content


def test_swapping_gives_the_same_figures_the_other_way_round(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "stacked")
    run(*asked, "--out", "a.svg")
    run(*asked, "--swap", "--out", "b.svg")
    first = {(one.get("data-category"), one.get("data-series")) for one in marks(folder / "a.svg", "bar")}
    second = {(one.get("data-series"), one.get("data-category")) for one in marks(folder / "b.svg", "bar")}
    assert first == second
    assert words(folder / "b.svg", "title") == "Number of passengers by ticket and route"


def test_words_follow_the_layout(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "ticket")
    run(*asked, "--out", "a.svg")
    run(*asked, "--layout", "percent", "--out", "b.svg")
    assert words(folder / "a.svg", "title").startswith("Number of passengers")
    assert words(folder / "b.svg", "title").startswith("Share of passengers")
    assert "Each route adds to 100 %" in words(folder / "b.svg", "footnote")
    assert words(folder / "b.svg", "base").count("n = ") == 6
    assert words(folder / "a.svg", "base") == ""


def test_stacked_bars_carry_whiskers_on_their_total_only(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "ticket", "--layout", "stacked")
    assert run(*asked, "--error-bars", "confidence", "--out", "a.svg").returncode == 0
    whiskers = marks(folder / "a.svg", "whisker")
    assert len({one.get("data-category") for one in whiskers}) == 6
    assert {one.get("data-series") for one in whiskers} == {None}


def test_a_level_has_one_colour_in_every_chart(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--split", "ticket", "--by")
    run(*asked, "route", "--out", "a.svg")
    run(*asked, "season", "--only", "ticket=Agent,Website", "--out", "b.svg")
    run("pie", "passengers.csv", "--by", "ticket", "--out", "c.svg")
    levels = {"app", "web", "desk", "board", "agent"}
    seen: dict[str, set[str]] = {}
    for name, role in (("a", "bar"), ("b", "bar"), ("c", "slice")):
        for one in marks(folder / f"{name}.svg", role):
            level = str(one.get("data-category" if name == "c" else "data-series"))
            fill = str(one.get("fill"))
            if "*" not in "".join(one.itertext()) and "†" not in "".join(one.itertext()):
                seen.setdefault(level, set()).add(fill)
    assert {level: len(fills) for level, fills in seen.items()} == dict.fromkeys(seen, 1)
    assert {one.get("data-series") for one in marks(folder / "b.svg", "legend-swatch")} == {"agent", "web"}
    assert seen.keys() == levels


def test_rest_and_total_keep_the_whole(run: Run, folder: Path) -> None:
    ledger = ("table", "costs.csv", "--by", "item", "--measure", "amount", "--stat", "sum", "--totals")
    whole = run(*ledger, "--out", "a.csv")
    cut = run(*ledger, "--keep-top", "4", "--out", "b.csv")
    assert whole.returncode == cut.returncode == 0
    totals = [(folder / name).read_text().splitlines()[-1].split(",")[3] for name in ("a.csv", "b.csv")]
    assert totals[0] == totals[1]


@pytest.mark.parametrize(
    ("command", "said"),
    [
        (("pie", *WAIT, "--stat", "mean"), "A mean has no parts"),
        (("pie", "passengers.csv", "--by", "facilities"), "no parts of a whole"),
        (("pie", "passengers.csv", "--by", "ticket", "--split", "route"), "levels of one column"),
        (("pie", "costs.csv", "--by", "item", "--measure", "change", "--stat", "sum"), "a negative figure has no area"),
        (("pie", "passengers.csv", "--by", "ticket", "--set-apart", "Ap"), "Did you mean `App`"),
        (("treemap", "passengers.csv", "--by", "ticket", "--split", "route"), "nests columns"),
        (("treemap", *WAIT, "--stat", "median"), "no parts"),
        (
            ("treemap", "costs.csv", "--by", "item", "--measure", "amount", "--color-middle", "0", "--strict"),
            "--color-by",
        ),
        (("distribution", "passengers.csv", "--by", "route"), "of one number"),
        (("distribution", *WAIT, "--form", "histogram", "--band", "wait=0,5"), "leaves values out"),
        (("distribution", *WAIT, "--form", "violin"), "violin"),
        (("dot", *WAIT, "--layout", "stacked"), "dot has no --layout; bar has it"),
        (
            ("pie", "passengers.csv", "--by", "ticket", "--error-bars", "range"),
            "pie has no --error-bars; table, bar and dot have it",
        ),
        (("bar", *WAIT, "--stat", "mean", "--split", "ticket", "--layout", "percent"), "do not add up"),
        (("dot", "passengers.csv", "--by", "route", "--measure", "wait", "--measure", "spend"), "do not share an axis"),
        (("dot", *WAIT, "--stat", "mean", "--stat", "median", "--split", "ticket"), "series already"),
        (("bar", "passengers.csv", "--by", "route", "--show-records"), "--measure"),
        (("bar", "passengers.csv", "--by", "route", "--swap", "--strict"), "no --split"),
        ((*CHARTS["percent"], "--stat", "share", "--letters"), "stand beyond whole bars"),
        (("bar", *WAIT, "--second-stat", "sum", "--strict"), "makes no difference without --second-measure"),
        (
            ("treemap", "costs.csv", "--by", "item", "--measure", "amount", "--color-stat", "sum", "--strict"),
            "makes no difference without --color-by",
        ),
        (("bar", "passengers.csv", "--by", "route", "--highlight", "Dunmore"), "Did you mean `Dunmar`"),
        (("bar", "passengers.csv", "--by", "route", "--color", "Dunmar=greenish"), "is no colour"),
        (("bar", "passengers.csv", "--by", "route", "--locale", "zz_zz"), "--locale"),
        (("bar", "passengers.csv", "--by", "route", "--value-range", "5"), "two numbers"),
        (("bar", "passengers.csv", "--by", "facilities", "--by", "facilities"), "used twice"),
        (
            ("bar", "passengers.csv", "--by", "route", "--split", "facilities", "--layout", "stacked"),
            "no parts of a whole",
        ),
        (("palettes", "--out", "x.gif"), ".png"),
    ],
)
def test_what_cannot_be_drawn_is_said_in_one_message(
    run: Run, folder: Path, command: tuple[str, ...], said: str
) -> None:
    before = {item.name for item in folder.iterdir()}
    done = run(*command, *(() if "--out" in command else ("--out", "x.svg")))
    assert done.returncode == 2, done.stderr
    assert said.casefold() in done.stderr.casefold()
    assert "Traceback" not in done.stderr
    assert {item.name for item in folder.iterdir()} == before


def test_a_picture_of_any_kind_never_loads_matplotlib(run: Run, folder: Path) -> None:
    import subprocess  # noqa: PLC0415 - used once
    import sys  # noqa: PLC0415

    code = (
        "import sys; from grainstack.cli.main import app; app(sys.argv[1:], standalone_mode=False); "
        "print([name for name in ('matplotlib', 'pandas', 'babel') if name in sys.modules])"
    )
    assert run("look", "passengers.csv").returncode == 0
    for name in ("bar", "pie", "treemap", "box", "dot"):
        asked = [*CHARTS[name], "--out", "c.svg", "--out", "c.png"]
        done = subprocess.run(
            [sys.executable, "-c", code, *asked], cwd=folder, capture_output=True, text=True, check=True
        )
        assert done.stdout.splitlines()[-1] == "[]", name


def test_whisker_kinds_are_named_under_the_chart(run: Run, folder: Path) -> None:
    kinds = {
        "confidence": "95 % confidence limits",
        "standard-error": "One standard error either side",
        "standard-deviation": "One standard deviation of the records",
        "quartiles": "From the lower to the upper quartile",
        "range": "From the lowest to the highest value",
    }
    for kind, sentence in kinds.items():
        run("bar", *WAIT, "--error-bars", kind, "--out", "a.svg")
        assert sentence in words(folder / "a.svg", "footnote")
        assert len({one.get("data-category") for one in marks(folder / "a.svg", "whisker")}) == 6


def test_the_order_is_said_when_a_picture_is_written(run: Run) -> None:
    done = run("bar", "passengers.csv", "--by", "route", "--order", "largest-first", "--out", "a.svg")
    assert "Order – Route: largest first." in done.stderr


def test_years_of_a_ledger_are_not_added_up_unsaid(run: Run) -> None:
    asked = ("table", "crossings.csv", "--by", "route", "--measure", "revenue", "--stat", "sum")
    assert "the years 2023 to 2025 of `year` are added up" in run(*asked).stderr
    assert "added up" not in run(*asked, "--only", "year=2025").stderr
    assert "added up" not in run(*asked, "--split", "year").stderr


def test_help_lists_options_by_group(run: Run) -> None:
    done = run("bar", "--help", "all")
    headings = re.findall(r"^([A-Z][\w ]+):$", done.stdout, re.MULTILINE)
    for heading in (
        "Records",
        "Summary",
        "Survey design",
        "Layout and labels",
        "Colours",
        "Value axis",
        "Numbers",
        "Output",
    ):
        assert heading in headings
    for command in ("dot", "pie", "treemap", "distribution", "palettes"):
        assert run(command, "--help").returncode == 0


def test_no_answer_is_no_step_of_a_scale(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--split", "staff", "--missing", "show", "--out", "x.svg")
    for layout in ("percent", "diverging"):
        run(*asked, "--layout", layout)
        root = ET.fromstring((folder / "x.svg").read_text("utf-8"))  # noqa: S314 - our own output
        bars = [item for item in root if item.get("data-role") == "bar" and item.get("data-category") == "1"]
        fills = {item.get("data-series"): item.get("fill") for item in bars}
        red, green, blue = (int(str(fills["*no answer"])[place : place + 2], 16) for place in (1, 3, 5))
        assert max(red, green, blue) - min(red, green, blue) < 12  # a grey
        assert len(set(fills.values())) == 6
        places = {str(item.get("data-series")): float(str(item.get("x"))) for item in bars}
        assert places["*no answer"] == max(places.values())
    [total] = [float(item.text or "") for item in root if item.get("data-role") == "total" and item.get("x")][1:2]
    assert total == 63


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize(
    "asked",
    [
        ("kv.csv", "--by", "k", "--split", "s", "--value", "v", "--value-is", "count"),
        ("kv.csv", "--by", "k", "--split", "s", "--measure", "v", "--stat", "sum"),
        ("pq.csv", "--by", "k", "--measure", "p", "--measure", "q", "--stat", "sum"),
    ],
)
def test_percent_bars_of_sums_of_several_measures_and_of_given_values(
    run: Run, folder: Path, asked: tuple[str, ...]
) -> None:
    (folder / "kv.csv").write_text("k,s,v\na,x,10\na,y,30\nb,x,5\nb,y,5\n", "utf-8")
    (folder / "pq.csv").write_text("k,p,q\na,10,30\nb,5,5\n", "utf-8")
    done = run("bar", *asked, "--layout", "percent", "--out", "x.svg")
    assert done.returncode == 0, done.stderr
    assert sorted(words(folder / "x.svg", "value").split()) == ["25", "50", "50", "75"]
    note = words(folder / "x.svg", "footnote")
    assert "Each k adds to 100 %" in note
    assert "limits" not in note
    assert "*" not in note


@pytest.mark.usefixtures("bare")
@pytest.mark.parametrize("asked", [("--value", "v", "--value-is", "sum"), ("--measure", "v", "--stat", "sum")])
def test_negative_values_are_no_parts(run: Run, folder: Path, asked: tuple[str, ...]) -> None:
    (folder / "n.csv").write_text("k,s,v\na,x,-1\na,y,3\n", "utf-8")
    done = run("bar", "n.csv", "--by", "k", "--split", "s", *asked, "--layout", "percent")
    assert done.returncode == 2
    assert "Some sums of `v` are negative, so they have no share of a whole." in done.stderr


@pytest.mark.usefixtures("bare")
def test_measures_in_different_units_are_no_parts_of_one_whole(run: Run, folder: Path) -> None:
    (folder / "pq.csv").write_text("k,p,q\na,10,30\n", "utf-8")
    (folder / "codebook.toml").write_text('[variables.p]\nkind = "number"\nunit = "t"\n', "utf-8")
    asked = ("pq.csv", "--by", "k", "--measure", "p", "--measure", "q", "--stat", "sum", "--layout", "percent")
    assert "Measures in no unit and t add up to no whole." in run("bar", *asked).stderr


def test_no_answer_is_neutral_as_a_category_a_slice_and_a_tile(run: Run, folder: Path) -> None:
    for kind, role in (("bar", "bar"), ("pie", "slice"), ("treemap", "tile")):
        run(kind, "passengers.csv", "--by", "ticket", "--missing", "show", "--out", "x.svg")
        root = ET.fromstring((folder / "x.svg").read_text("utf-8"))  # noqa: S314 - our own output
        fills = {
            item.get("data-category"): item.get("fill")
            for item in root
            if item.get("data-role") == role and not item.tag.endswith("text")
        }
        assert fills.pop("*no answer") == "#c9ced2"
        assert len(fills) == 5
        assert "#c9ced2" not in fills.values()


def test_bars_beyond_the_axis_are_broken_and_say_their_figure(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--value-range", "0,15")
    for labels in ((), ("--label", "none")):
        run(*asked, *labels, "--out", "x.svg")
        text = (folder / "x.svg").read_text("utf-8")
        assert "Bars with a broken end reach beyond the axis." in text
        assert text.count('data-role="break"') == 2 * 4
        values = words(folder / "x.svg", "value")
        assert all(figure in values for figure in ("21.0", "22.2", "18.3", "20.6*"))
        shown = run(*asked, *labels).stdout
        assert shown.count("»") == 4
        assert "» 21.0" in shown
    whole = run("bar", "passengers.csv", "--by", "route", "--measure", "wait", "--value-range", "0,30").stdout
    assert "broken" not in whole
    dots = run("dot", "passengers.csv", "--by", "route", "--measure", "wait", "--value-range", "0,15").stdout
    assert "Dots at the edge" in dots


def test_boxes_of_small_bases_are_marked(run: Run, folder: Path) -> None:
    run("distribution", "passengers.csv", "--measure", "wait", "--by", "route", "--out", "x.svg")
    assert "n = 27*" in (folder / "x.svg").read_text("utf-8")


@pytest.mark.parametrize("kind", ["bar", "dot"])
def test_swap_exchanges_several_measures_with_the_categories(run: Run, folder: Path, kind: str) -> None:
    asked = (kind, "passengers.csv", "--by", "season", "--measure", "wait", "--stat", "mean", "--stat", "median")
    plain, swapped = (run(*asked, *more, "--out", f"{name}.svg") for more, name in (((), "p"), (("--swap",), "s")))
    assert (plain.returncode, swapped.returncode) == (0, 0)
    assert words(folder / "p.svg", "legend") == words(folder / "s.svg", "category")
    assert words(folder / "p.svg", "category") == words(folder / "s.svg", "legend")
    figures = [sorted(words(folder / f"{name}.svg", "value").split()) for name in "ps"]
    assert set(figures[1]) <= set(figures[0])
    assert len(figures[0]) == 8
    assert kind == "dot" or figures[0] == figures[1]  # dots that would overlap leave a figure out


def test_a_second_measure_on_a_small_base_has_a_sign_that_is_explained(run: Run, folder: Path) -> None:
    asked = ("bar", "passengers.csv", "--by", "route", "--second-measure", "wait")
    run(*asked, "--out", "x.svg")
    dots = list(marks(folder / "x.svg", "second-dot"))
    assert len({one.get("fill") for one in dots}) == 1
    assert "* base below 30" in words(folder / "x.svg", "footnote")
    lines = [line for line in run(*asked).stdout.splitlines() if "●" in line]
    assert [line.endswith("*") for line in lines if line.split()[0] in ("Vey", "Pell")] == [False, True]


@pytest.mark.parametrize("ring", [(), ("--ring",)])
def test_a_pie_of_nothing_says_so_beside_one_of_something(ring: tuple[str, ...], run: Run, folder: Path) -> None:
    (folder / "p.csv").write_text("p,k,v\na,x,1\na,y,2\nb,x,0\nb,y,0\n", "utf-8")
    asked = ("pie", "p.csv", "--by", "k", "--panel", "p", "--measure", "v", "--stat", "sum", *ring)
    done = run(*asked, "--out", "p.svg", "--out", "p.png")
    assert done.returncode == 0, done.stderr
    assert ">nothing above 0</text>" in (folder / "p.svg").read_text("utf-8")
    assert "b: nothing above 0" in (folder / "p.svg").read_text("utf-8")  # for those who listen
    assert "nothing above 0" in run(*asked[:10]).stdout


@pytest.mark.parametrize("more", [(), ("--hatch",), ("--outline",)])
def test_bars_of_a_histogram_are_parted_over_all_of_them(more: tuple[str, ...], run: Run, folder: Path) -> None:
    asked = ("distribution", "passengers.csv", "--measure", "wait", "--form", "histogram", *more)
    done = run(*asked, "--out", "h.svg")
    assert done.returncode == 0, done.stderr
    roles = re.findall(r'data-role="(bar|part)"', (folder / "h.svg").read_text("utf-8"))
    assert roles.count("bar") > 5
    assert roles == sorted(roles), "a bar that comes later would hide half of a line"
    assert ("part" in roles) is ("--outline" not in more)


@pytest.mark.parametrize(
    ("asked", "said"),
    [
        (("--dpi", "600"), "The usual size of 1280x800px at 600 pixels per inch (54.19 x 33.87 mm) is too small"),
        (("--size", "20x20px"), "--size 20x20px at 144 pixels per inch (3.528 x 3.528 mm) is too small"),
        (("--size", "20x20mm"), "--size 20x20mm is too small"),
    ],
)
def test_a_size_nobody_can_draw_is_told_as_it_is(asked: tuple[str, ...], said: str, run: Run, folder: Path) -> None:
    done = run("bar", "passengers.csv", "--by", "route", *asked, "--out", "x.png")
    assert done.returncode == 2
    assert said in done.stderr
    assert "None" not in done.stderr
    assert not (folder / "x.png").exists()
