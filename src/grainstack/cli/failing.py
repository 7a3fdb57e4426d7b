"""The one place where a failure becomes a message and an exit code."""

import shlex
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from typing import TextIO

import typer

from grainstack.errors import GrainStackError
from grainstack.speech import Speech, worded

_INTERRUPTED = 130  # 128 and the number of the signal, as shells expect


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
        say_error(error)
        raise typer.Exit(error.exit_code) from None
    except KeyboardInterrupt:
        say("grainstack: interrupted; nothing was left half-written.")
        raise typer.Exit(_INTERRUPTED) from None
    except BrokenPipeError:
        sys.stderr.close()
        raise typer.Exit(0) from None


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


TYPED = Speech(field=_typed, kind=lambda name: f"grainstack {name}")


def say(text: str) -> None:
    """Writes a line to standard error, with fields named as they are typed; in a terminal it breaks at words."""
    print(wrapped(worded(text, TYPED), sys.stderr), file=sys.stderr)  # noqa: T201 - this is where a command speaks


def wrapped(text: str, stream: TextIO) -> str:
    """Text broken at words where it is read in a terminal; a file or another program gets whole lines."""
    if not stream.isatty():
        return text
    import shutil  # noqa: PLC0415 - see above
    import textwrap  # noqa: PLC0415

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
    sys.stdout.write(worded(text if text.endswith("\n") else text + "\n", TYPED))
    sys.stdout.flush()
