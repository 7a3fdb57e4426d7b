"""The one place where a failure becomes a message and an exit code."""

import shlex
import shutil
import signal
import sys
import textwrap
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TextIO

import typer
from typer.exceptions import TyperException

from grainstack.errors import GrainStackError, OutputError, reason_of
from grainstack.option_names import Naming, worded
from grainstack.visible import visible_lines

_FAILED = 1
_LESS = "Keep fewer records, columns or levels, or use a machine with more."
_LONGEST = 200  # characters of what an unforeseen error says
_BY_SIGNAL = 128  # what shells expect a process ended by a signal to add to its number


class Ended(BaseException):
    """Somebody, or the system, asks the process to end; nothing but the outermost edge takes it for a failure.

    Args:
        number: The number of the signal.
    """

    def __init__(self, number: int = signal.SIGINT) -> None:
        super().__init__(number)
        self.number = number


@contextmanager
def reported(*, debug: bool) -> Iterator[None]:
    """Turns errors a person can mend into a message on standard error and an exit code.

    With `debug` they pass as they are, with their traceback.
    """
    try:
        yield
    except (KeyboardInterrupt, Ended) as end:
        raise typer.Exit(ended(end)) from None
    except BrokenPipeError:
        sys.stderr.close()
        raise typer.Exit(0) from None
    except (typer.Exit, typer.Abort, TyperException):
        raise
    except Exception as error:
        if debug:
            raise
        raise typer.Exit(_reported(error)) from None


def ended(end: BaseException) -> int:
    """Says that the run was ended from outside; gives the exit code that shells expect."""
    number = end.number if isinstance(end, Ended) else signal.SIGINT
    how = "interrupted" if number == signal.SIGINT else "ended"
    say(f"grainstack: {how}; nothing was left half-written.")
    return _BY_SIGNAL + number


def _reported(error: Exception) -> int:
    """Says what went wrong; gives the exit code."""
    if isinstance(error, GrainStackError):
        say_error(error)
        return error.exit_code
    if isinstance(error, MemoryError):
        say_error(GrainStackError("There is not enough memory for this.", _LESS))
    elif isinstance(error, RecursionError):
        what = "Something in what was asked, or in a file, is nested too deeply to be worked out."
        say_error(GrainStackError(what, "Write it with fewer brackets, or in steps."))
    elif isinstance(error, OSError) and isinstance(error.filename, str):
        what = f"{error.filename} cannot be used: {reason_of(error)}."
        say_error(GrainStackError(what, "See that it and its folder may be read and written, and try again."))
    else:
        say_unforeseen(error)
    return _FAILED


def say_unforeseen(error: Exception) -> None:
    """Says that something went wrong which nobody thought of, and how to have it mended."""
    first = str(error).strip().partition("\n")[0][:_LONGEST]
    say(f"grainstack: something went wrong that nobody foresaw: {type(error).__name__}{f': {first}' if first else ''}.")
    say("  No file was left half-written. It is a fault of the program: please report it with what `--debug` shows.")


def say_error(error: GrainStackError) -> None:
    """Says what went wrong, and below it what to do."""
    say(f"grainstack: {error.message}")
    if error.remedy:
        say(f"  {error.remedy}")


def option_for(name: str) -> str:
    """A field as it is typed: `keep_top` is `--keep-top`, `except_` is `--except`."""
    return "--" + name.rstrip("_").replace("_", "-")


def _typed(name: str, value: str | None) -> str:
    return option_for(name) if value is None else f"{option_for(name)} {shlex.quote(value)}"


TYPED = Naming(field=_typed, kind=lambda name: f"grainstack {name}")


def say(text: str) -> None:
    """Writes a line to standard error, with fields named as they are typed; in a terminal it breaks at words."""
    print(wrapped(visible_lines(worded(text, TYPED)), sys.stderr), file=sys.stderr)  # noqa: T201 - this is where a command speaks


def wrapped(text: str, stream: TextIO) -> str:
    """Text broken at words where it is read in a terminal; a file or another program gets whole lines."""
    if not stream.isatty():
        return text

    columns = shutil.get_terminal_size().columns
    lines = []
    for line in text.split("\n"):
        indent = line[: len(line) - len(line.lstrip())]
        lines += textwrap.wrap(
            line, columns, subsequent_indent=indent, break_long_words=False, break_on_hyphens=False
        ) or [""]
    return "\n".join(lines)


def show(text: str) -> None:
    """Writes lines to standard output, with fields named as they are typed."""
    try:
        sys.stdout.write(worded(text if text.endswith("\n") else text + "\n", TYPED))
        sys.stdout.flush()
    except BrokenPipeError:
        raise
    except OSError as reason:
        what = f"Cannot write to standard output: {reason.strerror or reason}."
        raise OutputError(what, "Write a file, or make room where the output goes.") from reason
