"""`grainstack look`: what is in a file, and what to try next."""

import shutil
from math import inf

from grainstack.cli.failing import say, show
from grainstack.records.request import computed_columns, large_files, records_of
from grainstack.requests import Requests
from grainstack.visible import visible_lines
from grainstack.words import Request, word


class LookRequest(Request, frozen=True):
    """What of a file is shown."""

    file: tuple[str, ...] = ()
    codebook: str | None = word(
        None, "Codebook to apply; a codebook.toml beside the records is found by itself.", group="Look", metavar="FILE"
    )
    sheet: str | None = word(None, "The sheet of a spreadsheet file.", group="Look", metavar="NAME")
    header_row: int | None = word(
        None, "The row of a spreadsheet that names the columns.", group="Look", metavar="N", within=(1, inf)
    )
    query: str | None = word(None, "Rows of a database.", group="Look", metavar="SQL")
    allow_large: bool = large_files("Look")
    compute: tuple[str, ...] = computed_columns()
    rows: int = word(5, "How many of the first rows to show.", group="Look", metavar="N", within=(0, 1_000_000))


MODELS = (LookRequest,)


def run(requests: Requests) -> None:
    """What is in the records, and what to try next."""
    from grainstack.records.opened import open_records  # noqa: PLC0415 - a help page needs none of this
    from grainstack.records.readers.columns import decimal_note  # noqa: PLC0415
    from grainstack.report.looked import columns_text, rows_text, suggestions  # noqa: PLC0415
    from grainstack.summary.profile import profiled  # noqa: PLC0415

    request: LookRequest = requests[LookRequest]
    opened = open_records(records_of(request))
    source, codebook = opened.source, opened.codebook
    if opened.beside:
        say(f"Using the codebook {opened.beside}.")
    decimal = codebook.decimal_in(source.decimal)
    looked = profiled(source.columns, source.batches(source.columns), request.rows, decimal)
    count, profiles = looked.records, looked.profiles
    for note in (*source.notes, *((decimal_note(source.name),) if decimal != codebook.decimal else ())):
        say(note)
    show(f"{source.name}: {count:,} {'record' if count == 1 else 'records'}, {len(profiles)} columns\n\n")
    if not count:
        return
    width = shutil.get_terminal_size((100, 24)).columns
    show(visible_lines(columns_text(profiles, codebook, count, width)))
    if request.rows:
        show(visible_lines(f"\nFirst rows\n\n{rows_text(source.columns, looked.rows, width)}"))
    tries = suggestions(request.file, profiles, codebook)
    if tries:
        show("\nTry next\n\n" + "\n".join(f"  {command}" for command in tries))
