"""Files that are drafted for a person to change."""

from pathlib import Path

from grainstack.cli.failing import say
from grainstack.plan.file.schema import write_with_schema


def write_drafted(target: Path, text: str, file: str, message: str) -> None:
    """Writes a drafted file with the schema beside it, and says so.

    Args:
        target: The file.
        text: Its content.
        file: What it is, one of `FILES` of the schemas.
        message: What is said of it.

    Raises:
        OutputError: One of them cannot be written; then the file is not there either.
    """
    of_schema = write_with_schema(target, text, file)
    for sentence in (message, *of_schema):
        say(sentence)
