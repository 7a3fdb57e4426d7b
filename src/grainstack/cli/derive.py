"""`grainstack derive`: the records with columns added, for further work elsewhere."""

from grainstack.cli.command_requests import DeriveOutput
from grainstack.cli.failing import say
from grainstack.cli.records_out import records_target, write_to
from grainstack.language import phrase
from grainstack.records.derive import Derived
from grainstack.records.opened import inputs_of, open_records
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests


def run(requests: Requests) -> None:
    """Writes the records with bands, recodes or labels."""
    records: RecordsRequest = requests[RecordsRequest]
    output: DeriveOutput = requests[DeriveOutput]
    target = records_target(output.out, inputs_of(records), requests)
    opened = open_records(records)
    if opened.beside:
        say(phrase("Using the codebook {file}.", file=opened.beside))
    derived = Derived(records, opened.codebook, opened.source, labels=output.labels)
    write_to(target, derived, plain=output.plain_csv)
    for note in derived.notes:
        say(note)
    added = [name for name in derived.columns if name not in opened.source.columns]
    with_added = f" with {', '.join(added)} added" if added else ""
    say(f"Wrote {target}: {derived.kept:,} of {derived.read:,} records{with_added}.")
