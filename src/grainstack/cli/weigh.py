"""`grainstack weigh`: weights with which records stand for known totals."""

from pathlib import Path

from grainstack.cli.command_requests import WeighRequest
from grainstack.cli.failing import say, show
from grainstack.cli.records_out import records_target, write_to
from grainstack.making.weighing import weigh_records
from grainstack.records.opened import inputs_of, open_records
from grainstack.records.request import RecordsRequest
from grainstack.report.weighed import weighing_text
from grainstack.requests import Requests


def run(requests: Requests) -> None:
    """Writes the records with weights that meet known totals."""
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
