"""`grainstack derive`: the records with columns added, for further work elsewhere."""

from grainstack.cli.failing import say
from grainstack.cli.records_out import records_target, write_to
from grainstack.making.outputs import plain_csv
from grainstack.records.request import RecordsRequest
from grainstack.requests import Requests
from grainstack.words import Request, switch, word


class DeriveOutput(Request, frozen=True):
    """What is added and where it goes."""

    labels: bool = switch("Add a column of labels for each column the codebook labels.", group="Output")
    out: str | None = word(
        None,
        "File to write; its ending picks the format: .csv, .parquet, .arrow or .jsonl.",
        group="Output",
        metavar="FILE",
    )
    plain_csv: bool = plain_csv()


MODELS = (RecordsRequest, DeriveOutput)


def run(requests: Requests) -> None:
    """Writes the records with bands, recodes or labels."""
    from grainstack.records.derive import Derived  # noqa: PLC0415 - a help page needs none of this
    from grainstack.records.opened import inputs_of, open_records  # noqa: PLC0415

    records: RecordsRequest = requests[RecordsRequest]
    output: DeriveOutput = requests[DeriveOutput]
    target = records_target(output.out, inputs_of(records), requests)
    opened = open_records(records)
    if opened.beside:
        say(f"Using the codebook {opened.beside}.")
    derived = Derived(records, opened.codebook, opened.source, labels=output.labels)
    write_to(target, derived, plain=output.plain_csv)
    for note in derived.notes:
        say(note)
    added = [name for name in derived.columns if name not in opened.source.columns]
    said = f" with {', '.join(added)} added" if added else ""
    say(f"Wrote {target}: {derived.kept:,} of {derived.read:,} records{said}.")
