"""`grainstack table`: figures in aligned columns, or as a file."""

from dataclasses import dataclass
from pathlib import Path

from grainstack.cli.failing import say, show
from grainstack.cli.options import Models
from grainstack.records.request import RecordsRequest
from grainstack.report.request import MessagesRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.request import SummaryRequest
from grainstack.summary.wishes import ComparisonRequest, DesignRequest, SmallBaseRequest, SpreadRequest
from grainstack.words import word

ENDINGS = (".csv", ".json", ".md")


@dataclass(frozen=True, slots=True)
class TableOutput:
    """Where a table goes."""

    out: tuple[str, ...] = word(
        (), "Write a file; its ending picks the format: .csv, .json or .md. Repeatable.", group="Output", metavar="FILE"
    )


MODELS = (
    *(RecordsRequest, SummaryRequest, DesignRequest, SpreadRequest, ComparisonRequest, SmallBaseRequest),
    *(OrderRequest, TableOutput, MessagesRequest),
)


def run(models: Models) -> None:
    """Figures as a table, with limits and bases."""
    from grainstack.cli.reading import advise, inputs_of, table_for  # noqa: PLC0415 - a help page needs none of this
    from grainstack.output import check_targets, write_whole  # noqa: PLC0415
    from grainstack.report.cells import as_csv, as_json  # noqa: PLC0415
    from grainstack.report.printed import Wishes, as_markdown, as_text, printed  # noqa: PLC0415
    from grainstack.summary.small import SMALL_BASE  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    summary: SummaryRequest = models[SummaryRequest]
    targets = [Path(name) for name in models[TableOutput].out]
    check_targets(targets, inputs_of(records), ENDINGS)
    table = table_for(records, summary, models[OrderRequest])
    advise(table, records, models[MessagesRequest])
    small, design = summary.small, summary.design
    wishes = Wishes(
        limits=summary.spread.error_bars not in (None, "none"),
        design_figures=design.design_figures,
        add_up=small.add_up,
        least=small.min_base or SMALL_BASE,
    )
    content = printed(table, wishes)
    if not targets:
        show(as_text(content))
    for target in targets:
        ending = target.suffix.lower()
        written = {".csv": as_csv, ".json": as_json}.get(ending)
        whole = written(table, design_figures=design.design_figures) if written else as_markdown(content)
        write_whole(target, whole)
        say(f"Wrote {target}.")
