"""`grainstack demo`: the made-up data, and every table and chart with the command that makes it."""

import shlex
from contextlib import chdir, redirect_stderr, redirect_stdout
from importlib.resources import files
from io import StringIO
from pathlib import Path

import typer

from grainstack.cli.command_requests import DemoRequest
from grainstack.cli.failing import show
from grainstack.cli.main import app
from grainstack.endings import PICTURE_ENDINGS
from grainstack.requests import Requests
from grainstack.whole_files import make_folder, write_whole

TOUR = (
    (
        "What is in the file? The codebook.toml beside it gives labels and missing codes.",
        "look passengers.csv --rows 3",
    ),
    (
        "How many passengers bought their ticket where? Weighted, as the codebook says.",
        "table passengers.csv --by ticket",
    ),
    ("The same as a chart in the terminal, largest first.", "bar passengers.csv --by ticket --order largest-first"),
    (
        "… and as pictures for a report; the ending picks the format.",
        """bar passengers.csv --by ticket --stat share --order largest-first
        --out tickets.svg --out tickets.png --out tickets.pdf""",
    ),
    (
        "Does the way of buying differ by route? Each bar adds to 100 %, with its base.",
        """bar passengers.csv --by route --split ticket --layout percent --out tickets_by_route.png
        --title "How passengers bought their ticket, by route"
        --subtitle "Share of passengers (%), 2025 sailing survey" """,
    ),
    (
        "How long do people wait? Means with their 95 % limits.",
        "table passengers.csv --by route --measure wait --stat mean",
    ),
    (
        "The same drawn; the whiskers are explained under the chart.",
        "bar passengers.csv --by route --measure wait --error-bars confidence --order largest-first --out wait.png",
    ),
    ("Age in the bands of the codebook.", "bar passengers.csv --by age --split ticket --layout percent --out age.png"),
    (
        "A question with several answers: shares of those who answered it.",
        "bar passengers.csv --by facilities --stat share --order largest-first --out facilities.png",
    ),
    (
        "Opinions of those who travel for work, with every record accounted for.",
        """table passengers.csv --by route --split cleanliness --stat share --where "purpose = 'Work' and wait < 60"
        --account""",
    ),
    (
        "Opinions lean to one side or the other: the middle straddles the line, both sides are summed at their ends.",
        """bar passengers.csv --by route --split staff --layout diverging --out staff.png
        --title "What passengers think of the staff" --subtitle "Share of passengers (%)" """,
    ),
    (
        "Three questions with the same answers as one chart, with a net and the means beside it.",
        """bar passengers.csv --items opinion=cleanliness,staff,punctuality --layout diverging --stat share --stat mean
        --net "answer: Satisfied = Good, Very good" --order "largest-first: Satisfied" --out opinions.png
        --title "What passengers think" --subtitle "Share of passengers (%), and mean from 1 to 5" """,
    ),
    (
        "This year against last year, with limits that take the sailings of both years into account.",
        """bar passengers_2024.csv passengers.csv --by route --split file --measure wait --relative-to previous
        --error-bars confidence --out wait_change.png""",
    ),
    (
        "How the takings of each route grow: an index with 2023 as 100.",
        "table crossings.csv --by route --split year --measure revenue --stat sum --relative-to first --as index",
    ),
    (
        "Two questions side by side, to hand over: shares with how many they are of, and letters.",
        "table passengers.csv --by route --split ticket --split season --stat share --letters",
    ),
    (
        "Seasons within routes: nested categories, outer first.",
        "bar passengers.csv --by route --by season --measure wait --error-bars confidence --out wait_by_season.png",
    ),
    (
        "One small chart per season, on the same scale.",
        "bar passengers.csv --by route --split ticket --layout percent --panel season --out tickets_by_season.png",
    ),
    (
        "Money and crossings in one picture, each with its own axis.",
        """bar crossings.csv --by month --measure revenue --stat sum --only year=2025
        --show-in thousands --second-measure crossings --second-stat sum --out revenue_and_crossings.png""",
    ),
    (
        "The seven largest items; all others become one, so nothing is lost.",
        """bar costs.csv --by item --measure amount --stat sum --keep-top 7 --order largest-first --label "value, share"
        --show-in thousands --out items.png""",
    ),
    (
        "The same means as dots with letters: between routes that share one no difference was found.",
        "dot passengers.csv --by route --measure wait --error-bars confidence --letters --out wait_dots.png",
    ),
    (
        "What lies behind those means? One is pulled up by a few long waits, one lies between two peaks.",
        "distribution passengers.csv --measure wait --by route --out wait_boxes.png",
    ),
    (
        "The two peaks, plain to see.",
        "distribution passengers.csv --measure wait --by route --form histogram --only 'route=Pell Isle,Lower Tarn'",
    ),
    ("Parts of a whole.", "pie passengers.csv --by ticket --ring --out tickets_ring.png"),
    (
        "Costs down to the single item, coloured by their change on last year.",
        "treemap costs.csv --by department --by item --measure amount --color-by change --out costs_treemap.png",
    ),
    ("Every palette, and how colour-blind readers see it.", "palettes --out palettes.png"),
    (
        "Which routes differ in waiting time? Between those that share a letter no difference was found.",
        "table passengers.csv --by route --measure wait --letters",
    ),
    (
        "Is the way of buying associated with the route? Tested with the survey's design.",
        "table passengers.csv --by route --split ticket --stat share --totals --association",
    ),
    (
        "For further work elsewhere: unrounded, one row per cell.",
        "table passengers.csv --by route --split ticket --stat share --out shares.csv",
    ),
    (
        "A ledger that is summed up already: the program notices.",
        "table crossings.csv --by route --split vehicle",
    ),
    (
        "Added up, as it advised.",
        "table crossings.csv --by route --split vehicle --measure revenue --stat sum --only year=2025",
    ),
    (
        "One column per year becomes one bar per year.",
        """bar crossings_wide.csv --to-long "year,vehicles=2023,2024,2025" --by route --split year --value vehicles
        --out years.png""",
    ),
    (
        "Money by department, one vessel left out.",
        """bar costs.csv --by department --measure amount --stat sum --except "vessel=Little Vey" --out costs.png""",
    ),
    (
        "Weights with which the records stand for what was counted at the gates, by route and by season.",
        "weigh passengers.csv --target targets.csv --out passengers_weighed.csv",
    ),
    (
        "The records with bands and labels added, for further work elsewhere.",
        "derive passengers.csv --band age=10 --labels --out passengers_labelled.csv",
    ),
    ("All that goes into the report, kept in a plan and made in one go.", "build plan.toml"),
    (
        "The same in German: the codebook gives the labels, and everything written follows.",
        "build plan_de.toml --out bericht",
    ),
    ("Check one of its charts for problems.", "check plan.toml --only wait_by_season"),
    ("A ledger of two years: the figures of the one, then of the other …", "build plan.toml --only revenue --out 2025"),
    ("… made of the same plan …", "build plan.toml --only revenue --out 2024 --param year=2024"),
    ("… and what differs between them.", "changes 2024 2025"),
)


WORTH_KNOWING = (  # the first words of the ten commands of the tour that are shown
    "look passengers.csv",
    "table passengers.csv --by ticket",
    "bar passengers.csv --by ticket --stat share",
    "bar passengers.csv --by route --split ticket",
    "bar passengers.csv --by route --measure wait",
    "table passengers.csv --by route --split ticket --split season",
    "distribution passengers.csv",
    "weigh passengers.csv",
    "build plan.toml",
    "changes 2024 2025",
)


def run(requests: Requests) -> None:
    """Writes demo data and all that can be made of it."""
    request: DemoRequest = requests[DemoRequest]
    folder = Path(request.folder)
    _write_data(folder)
    for _, command in TOUR:
        _run_in(folder, shlex.split(command))
    show(f"Ten commands worth knowing; they work in {folder}, where all of it is made already.\n\n")
    for begins in WORTH_KNOWING:
        about, command = next(one for one in TOUR if " ".join(one[1].split()).startswith(begins))
        show(f"# {about}\n$ grainstack {' '.join(command.split())}\n\n")
    pictures = sum(1 for one in folder.rglob("*") if one.suffix in PICTURE_ENDINGS)
    show(f"{pictures} pictures are in {folder}, tables beside them; the report, also as DOCX, PPTX and XLSX:")
    show(f"  {folder / 'out' / 'report.html'}\n  {folder / 'out' / 'report.pdf'}")


def _write_data(folder: Path) -> None:

    make_folder(folder)
    for item in files("grainstack.demo").joinpath("data").iterdir():
        write_whole(folder / item.name, item.read_bytes())


def _run_in(folder: Path, arguments: list[str]) -> None:
    """Runs one of our own commands inside the folder; what it says is heard only if it fails.

    Raises:
        Exit: It failed.
    """
    heard = StringIO()
    with chdir(folder), redirect_stdout(heard), redirect_stderr(heard):
        code = app(arguments, standalone_mode=False)
    if code:
        show(heard.getvalue())
        raise typer.Exit(code)
