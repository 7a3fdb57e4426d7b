"""`grainstack weigh`: weights with which records stand for known totals."""

from pathlib import Path

from grainstack.chart.writing.numbers import written
from grainstack.cli.command_requests import WeighRequest
from grainstack.cli.failing import say, show
from grainstack.cli.records_out import records_target, write_to
from grainstack.language import phrase
from grainstack.making.weighing import weigh_records
from grainstack.records.opened import inputs_of, open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.report.printed import aligned
from grainstack.report.printing import once
from grainstack.requests import Requests
from grainstack.weighing.weighing import Weighing


def run(requests: Requests) -> None:
    """Writes the records with weights that meet known totals."""
    requests.check()
    records, request = requests[RecordsRequest], requests[WeighRequest]
    inputs = [*inputs_of(records), *(Path(text) for text in request.target if text.casefold().endswith(".csv"))]
    target = records_target(request.out, inputs, requests)
    opened = open_records(records)
    if opened.beside:
        say(phrase("Using the codebook {file}.", file=opened.beside))
    bounds = (request.lowest, request.highest) if request.lowest is not None and request.highest is not None else None
    weighing, derived = weigh_records(requests, opened, request.target, bounds, request.weight_name)
    write_to(target, derived, plain=request.plain_csv)
    show(weighing_text(weighing))
    say(f"Wrote {target}: {derived.kept:,} of {derived.read:,} records with {request.weight_name} added.")


def weighing_text(weighing: Weighing) -> str:
    """Each known total with its records and weights, and what the new weights are like."""
    rows = []
    for one in weighing.groups:
        weights = [written(value, 0) for value in (one.before, one.total)]
        rows.append((one.target, one.level, f"{one.records:,}", *weights, written(one.factor, 3)))
    heading = ("target", "level", "n", "weight before", "total", "factor")
    table = aligned([heading, *once(rows, 2)], (False, False, True, True, True, True))
    low, high = min(weighing.factors.values()), max(weighing.factors.values())
    how = (
        "Post-stratified" if len({one.target for one in weighing.groups}) == 1 else f"Raked in {weighing.rounds} rounds"
    )
    shares = " Targets were taken as shares of the starting weights." if weighing.shares else ""
    return (
        f"{table}\n\n{how}; every total is met. Starting weights are multiplied by {low:.3f} to {high:.3f}. "
        f"Weighting effect (Kish): {weighing.kish[0]:.2f} before, {weighing.kish[1]:.2f} after.{shares}"
    )
