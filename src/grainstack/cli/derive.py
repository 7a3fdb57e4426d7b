"""`grainstack derive`: the records with columns added, for further work elsewhere."""

from dataclasses import dataclass
from pathlib import Path

from grainstack.cli.failing import say
from grainstack.cli.options import Models
from grainstack.errors import RequestError
from grainstack.records.request import RecordsRequest
from grainstack.words import switch, word

ENDINGS = (".arrow", ".csv", ".jsonl", ".parquet")


@dataclass(frozen=True, slots=True)
class DeriveOutput:
    """What is added and where it goes."""

    labels: bool = switch("Add a column of labels for each column the codebook labels.", group="Output")
    out: str | None = word(
        None,
        "File to write; its ending picks the format: .csv, .parquet, .arrow or .jsonl.",
        group="Output",
        metavar="FILE",
    )


MODELS = (RecordsRequest, DeriveOutput)


def run(models: Models) -> None:
    """Writes the records with bands, recodes or labels."""
    from grainstack.cli.reading import inputs_of, opened  # noqa: PLC0415 - a help page needs none of this
    from grainstack.output import check_targets, streamed  # noqa: PLC0415
    from grainstack.records.derive import Derived  # noqa: PLC0415
    from grainstack.report.records_file import write_records  # noqa: PLC0415

    records: RecordsRequest = models[RecordsRequest]
    output: DeriveOutput = models[DeriveOutput]
    if output.out is None:
        raise RequestError("No file to write was named.", f"Name it with --out FILE ({', '.join(ENDINGS)}).")
    target = Path(output.out)
    check_targets([target], inputs_of(records), ENDINGS)
    source, codebook = opened(records)
    derived = Derived(records, codebook, source, labels=output.labels)
    with streamed(target) as file:
        write_records(derived, target.suffix.lower(), file)
    for note in derived.notes:
        say(note)
    added = [name for name in derived.columns if name not in source.columns]
    said = f" with {', '.join(added)} added" if added else ""
    say(f"Wrote {target}: {derived.kept:,} of {derived.read:,} records{said}.")
