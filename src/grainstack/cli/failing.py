"""The one place where a failure becomes a message and an exit code."""

import sys
from collections.abc import Iterator
from contextlib import contextmanager

import typer

from grainstack.errors import GrainStackError

_INTERRUPTED = 130


@contextmanager
def reported(*, debug: bool) -> Iterator[None]:
    """Turns errors a person can mend into a message on standard error and an exit code.

    With `debug` they pass as they are, with their traceback.
    """
    try:
        yield
    except GrainStackError as error:
        if debug:
            raise
        say(f"grainstack: {error.message}")
        if error.remedy:
            say(f"  {error.remedy}")
        raise typer.Exit(error.exit_code) from None
    except KeyboardInterrupt:
        say("grainstack: interrupted; nothing was left half-written.")
        raise typer.Exit(_INTERRUPTED) from None
    except BrokenPipeError:
        sys.stderr.close()
        raise typer.Exit(0) from None


def say(text: str) -> None:
    """Writes a line to standard error."""
    print(text, file=sys.stderr)  # noqa: T201 - this is where a command speaks


def show(text: str) -> None:
    """Writes lines to standard output."""
    sys.stdout.write(text if text.endswith("\n") else text + "\n")
    sys.stdout.flush()
