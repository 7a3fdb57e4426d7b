"""Files that are drafted for a person to change."""

from pathlib import Path

from grainstack.cli.failing import say
from grainstack.plan.file.schema import line_for, write_beside
from grainstack.whole_files import write_whole


def write_drafted(target: Path, text: str, file: str, message: str) -> None:
    """Writes a drafted file, before it the schema beside it if the file names it, and says so.

    Args:
        target: The file.
        text: Its content.
        file: What it is, one of `FILES` of the schemas.
        message: What is said of it.

    Raises:
        OutputError: One of them cannot be written; then the file is not there either.
    """
    schema = write_beside(target, file) if text.startswith(line_for(file)) else None
    write_whole(target, text.encode())
    say(message)
    if schema:
        say(f"Wrote {schema}, by which editors complete and check {target.name}.")
