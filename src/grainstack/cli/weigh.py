"""`grainstack weigh`: weights with which records stand for known totals."""

from math import inf
from pathlib import Path

from grainstack.cli.failing import say, show
from grainstack.cli.records_out import records_target, write_to
from grainstack.making.outputs import plain_csv
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import WeightRequest
from grainstack.words import Request, word


class WeighRequest(Request, frozen=True):
    """What weights are to add to.

    Raises:
        RequestError: Bounds that leave no room for the starting weights.
    """

    target: tuple[str, ...] = word(
        (),
        "Known totals: 'route: Pell Isle=5400, Dunmar=3100', or a CSV file (variable,level,total, or columns and a "
        "total); repeatable. Shares that add to 100 are taken of the starting weights.",
        group="Weights",
        metavar="TOTALS|FILE",
    )
    lowest: float | None = word(
        None,
        "The least a starting weight may be multiplied by, totals being equal.",
        group="Weights",
        metavar="N",
        within=(0.0, 0.999),
        needs=("highest",),
    )
    highest: float | None = word(
        None,
        "The most a starting weight may be multiplied by.",
        group="Weights",
        metavar="N",
        within=(1.001, inf),
        needs=("lowest",),
    )
    weight_name: str = word("weight_calibrated", "What the new column is called.", group="Weights", metavar="NAME")
    out: str | None = word(
        None,
        "File to write; its ending picks the format: .csv, .parquet, .arrow or .jsonl.",
        group="Output",
        metavar="FILE",
    )
    plain_csv: bool = plain_csv()


MODELS = (RecordsRequest, WeightRequest, WeighRequest)


def run(requests: Requests) -> None:
    """Writes the records with weights that meet known totals."""
    from grainstack.making.weighing import weigh_records  # noqa: PLC0415 - a help page needs none of this
    from grainstack.records.opened import inputs_of, open_records  # noqa: PLC0415
    from grainstack.report.weighed import weighing_text  # noqa: PLC0415

    requests.check()
    records, asked = requests[RecordsRequest], requests[WeighRequest]
    inputs = [*inputs_of(records), *(Path(text) for text in asked.target if text.casefold().endswith(".csv"))]
    target = records_target(asked.out, inputs, requests)
    opened = open_records(records)
    if opened.beside:
        say(f"Using the codebook {opened.beside}.")
    bounds = (asked.lowest, asked.highest) if asked.lowest is not None and asked.highest is not None else None
    weighing, derived = weigh_records(requests, opened, asked.target, bounds, asked.weight_name)
    write_to(target, derived, plain=asked.plain_csv)
    show(weighing_text(weighing))
    say(f"Wrote {target}: {derived.kept:,} of {derived.read:,} records with {asked.weight_name} added.")
