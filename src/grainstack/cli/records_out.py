"""Records that a command writes: into which file, and what is said of it."""

from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.cli.failing import say
from grainstack.endings import RECORD_ENDINGS
from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.report.records_file import write_records
from grainstack.requests import Requests
from grainstack.whole_files import check_targets, streamed

if TYPE_CHECKING:
    from grainstack.records.derive import Derived


def records_target(out: str | None, inputs: list[Path], requests: Requests) -> Path:
    """The file that records go to.

    Args:
        out: What was named.
        inputs: Files that are read, which nothing may write.
        requests: What was asked, of which some may concern CSV alone.

    Raises:
        RequestError: No file was named, or one that cannot be written.
    """
    if out is None:
        raise RequestError(
            "No file to write was named.", f"Name it with {option('out')} FILE ({', '.join(RECORD_ENDINGS)})."
        )
    target = Path(out)
    check_targets([target], inputs, RECORD_ENDINGS)
    requests.check_formats([target.suffix.lower().lstrip(".")])
    return target


def write_to(target: Path, derived: "Derived", *, plain: bool) -> None:
    """Writes records, and says which texts were kept from being run as formulas.

    Args:
        target: The file.
        derived: The records.
        plain: Whether text goes into CSV as it is.
    """
    with streamed(target) as file:
        guarded = write_records(derived, target.suffix.lower(), file, plain=plain)
    if guarded:
        say(
            f"Spreadsheets would run {guarded:,} {'text' if guarded == 1 else 'texts'} as formulas: an apostrophe "
            f"stands before each. {option('plain_csv')} leaves them as they are."
        )
