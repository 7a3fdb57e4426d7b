"""`grainstack look`: what is in a file, and what to try next."""

import shutil

from grainstack.cli.command_requests import LookRequest
from grainstack.cli.failing import say, show
from grainstack.language import phrase
from grainstack.records.opened import open_records
from grainstack.records.readers.column_readers import decimal_note
from grainstack.records.records_request import records_of
from grainstack.records.sample import columns_of_values
from grainstack.report.looked import columns_text, rows_text, suggestions
from grainstack.requests import Requests
from grainstack.summary.profile import profiled
from grainstack.visible import visible_lines


def run(requests: Requests) -> None:
    """What is in the records, and what to try next."""
    request: LookRequest = requests[LookRequest]
    opened = open_records(records_of(request))
    source, codebook = opened.source, opened.codebook
    if opened.beside:
        say(phrase("Using the codebook {file}.", file=opened.beside))
    decimal = codebook.decimal_in(source.decimal)
    columns, left_aside = columns_of_values(source)
    looked = profiled(columns, source.batches(columns), request.rows, decimal)
    count, profiles = looked.records, looked.profiles
    for note in (*source.notes, *((decimal_note(source.name),) if decimal == "," != codebook.decimal else ())):
        say(note)
    for sentence in left_aside:
        say(sentence)
    show(f"{source.name}: {count:,} {'record' if count == 1 else 'records'}, {len(profiles)} columns\n\n")
    if not count:
        return
    width = shutil.get_terminal_size((100, 24)).columns
    show(visible_lines(columns_text(profiles, codebook, count, width)))
    if request.rows:
        show(visible_lines(f"\nFirst rows\n\n{rows_text(columns, looked.rows, width)}"))
    tries = suggestions(request.file, profiles, codebook, source.head())
    if tries:
        show("\nTry next\n\n" + "\n".join(f"  {command}" for command in tries))
