"""`grainstack build`: every table and chart of a plan, its records read once."""

from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.cli.failing import say, show
from grainstack.cli.options import Positional
from grainstack.errors import OutputError, RequestError
from grainstack.quick import dataclass
from grainstack.requests import Requests
from grainstack.speech import option, worded
from grainstack.words import Request, switch, word

if TYPE_CHECKING:
    from grainstack.plan.build import Built
    from grainstack.plan.plan_file import Plan, PlanEntry


@dataclass(frozen=True, slots=True)
class BuildRequest(Request):
    """A plan file, and what is to be made of it.

    Raises:
        RequestError: A param that is not written `name=value`.
    """

    plan: str = ""
    only: tuple[str, ...] = word((), "Make this entry only; repeatable.", group="Plan", metavar="NAME")
    param: tuple[str, ...] = word(
        (), "A value for a param of the plan; repeatable.", group="Plan", metavar="NAME=VALUE"
    )
    list: bool = switch("Show entries and params, and make nothing.", group="Plan")
    out: str | None = word(
        None, "The folder for what is made; `out` beside the plan.", group="Output", metavar="FOLDER"
    )
    allow: tuple[str, ...] = word(
        (), "A database or network address the plan may read; repeatable.", group="Plan", metavar="ADDRESS"
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        for text in self.param:
            if "=" not in text:
                raise RequestError(f"{option('param')} {text} has no value.", "Write it like year=2026.")

    @property
    def params(self) -> dict[str, str]:
        """The params typed, by name."""
        return {text.partition("=")[0].strip(): text.partition("=")[2].strip() for text in self.param}


MODELS = (BuildRequest,)
POSITIONAL = Positional("plan", "The plan file.")


def run(requests: Requests) -> None:
    """Makes every table and chart of a plan, in the formats it names."""
    from grainstack.making.kind import Product  # noqa: PLC0415 - a help page needs none of it
    from grainstack.paint.formats import PICTURE_ENDINGS  # noqa: PLC0415
    from grainstack.plan.build import built, chosen  # noqa: PLC0415
    from grainstack.plan.plan_file import read_plan  # noqa: PLC0415
    from grainstack.report.formats import TABLE_ENDINGS  # noqa: PLC0415

    asked: BuildRequest = requests[BuildRequest]
    endings = {Product.TABLE: TABLE_ENDINGS, Product.CHART: PICTURE_ENDINGS}
    formats = {product: tuple(ending.lstrip(".") for ending in of_it) for product, of_it in endings.items()}
    plan = read_plan(Path(asked.plan), formats, asked.params)
    if asked.list:
        show(_listed(plan))
        return
    entries = chosen(plan, asked.only, asked.allow)
    folder = Path(asked.out) if asked.out else plan.path.parent / "out"
    targets = {entry.name: _targets(folder, entry) for entry in entries}
    made = built(plan, entries)
    folder.mkdir(parents=True, exist_ok=True)
    for one in made:
        for line in _written(one, targets[one.entry.name]):
            say(line)


def _listed(plan: "Plan") -> str:
    """The params and entries of a plan, a line each."""
    lines = [f"{name} = {value!r}  (param)" for name, value in plan.params.items()]
    lines += [f"{one.name}: {one.kind.name}, {', '.join(one.formats)}" for one in plan.entries]
    return "\n".join(lines)


def _targets(folder: Path, entry: "PlanEntry") -> list[Path]:
    """The files of an entry, none of which leads out of the folder.

    Raises:
        OutputError: One would.
    """
    targets = [folder / f"{entry.name}.{ending}" for ending in entry.formats]
    for target in targets:
        if target.resolve().parent != folder.resolve():
            raise OutputError(f"{target} leads out of {folder}.", "Remove the link there, or name another folder.")
    return targets


def _written(one: "Built", targets: list[Path]) -> list[str]:
    """Writes what was made, and gives what is to be said of it."""
    from grainstack.plan.speech import PLANNED  # noqa: PLC0415 - loaded by then

    advice = list(one.made.advice)
    if one.scene is None:
        from grainstack.output import write_whole  # noqa: PLC0415 - loaded by then
        from grainstack.report.formats import table_as  # noqa: PLC0415

        for target in targets:
            write_whole(target, table_as(target.suffix, one.made))
    else:
        from grainstack.chart.frame.left_out import advice_on_room  # noqa: PLC0415 - loaded by then
        from grainstack.chart.picture_request import PictureRequest  # noqa: PLC0415
        from grainstack.paint.formats import write_pictures  # noqa: PLC0415

        write_pictures(one.scene, targets, one.made.requests[PictureRequest].dpi)
        advice += advice_on_room(one.scene)
    lines = [f"Wrote {target}." for target in targets]
    return lines + [worded(f"{one.entry.name}: {text}", PLANNED) for text in map(str, advice)]
