"""`grainstack look`: what is in a file, and what to try next."""

import shutil
from dataclasses import dataclass

from grainstack.cli.failing import say, show
from grainstack.cli.options import Models
from grainstack.errors import RequestError
from grainstack.words import word


@dataclass(frozen=True, slots=True)
class LookRequest:
    """What of a file is shown."""

    file: str = ""
    rows: int = word(5, "How many of the first rows to show.", group="Look", metavar="N")

    def __post_init__(self) -> None:
        if self.rows < 0:
            raise RequestError(f"--rows {self.rows} is less than none.", "Use 0 to show no rows.")


MODELS = (LookRequest,)


def run(models: Models) -> None:
    """What is in the records, and what to try next."""
    from grainstack.records.scan import first_rows  # noqa: PLC0415 - a help page needs none of this
    from grainstack.records.sources import open_source  # noqa: PLC0415
    from grainstack.summary.profile import ColumnProfile  # noqa: PLC0415

    request: LookRequest = models[LookRequest]
    source = open_source(request.file)
    columns = [ColumnProfile(name) for name in source.columns]
    for batch in source.batches(source.columns):
        for column in columns:
            column.absorb(batch.column(column.name))
    for note in source.notes:
        say(note)
    profiles = [column.finish() for column in columns]
    records = columns[0].records
    show(f"{source.name}: {records:,} {'record' if records == 1 else 'records'}, {len(columns)} columns\n\n")
    if not records:
        return
    from grainstack.report.looked import columns_text, rows_text, suggestions  # noqa: PLC0415

    width = shutil.get_terminal_size((100, 24)).columns
    show(columns_text(profiles, records, width))
    if request.rows:
        show(f"\nFirst rows\n\n{rows_text(source.columns, first_rows(source, request.rows), width)}")
    tries = suggestions(request.file, profiles)
    if tries:
        show("\nTry next\n\n" + "\n".join(f"  {command}" for command in tries))
