"""The `grainstack` command. Each of its commands is loaded only when it is called."""

import gc
import os
import shlex
import signal
import sys
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import typer
from typer.core import TyperGroup

from grainstack import __version__
from grainstack.cli.commands import COMMANDS, command_named
from grainstack.cli.failing import Ended, ended, say
from grainstack.cli.options import add_command
from grainstack.earlier_names import typed_now
from grainstack.errors import near_names
from grainstack.later import Later
from grainstack.other_words import command_meant

_REMOVE_KEPT_FILES = Later("records.sources.opening", "remove_kept_files")
_USAGE = 2  # the exit code of what was typed wrongly
_DEEPEST = 12_000  # calls within calls: of a condition with a thousand parts
_SETTINGS = {"help_option_names": ["--help"], "max_content_width": 110}


class Commands(TyperGroup):
    """The commands by their names, in the order people work."""

    _arguments: Sequence[str] = ()

    def list_commands(self, ctx: Any) -> list[str]:  # noqa: ANN401, ARG002 - Typer's classes are not public
        """Their names."""
        return list(COMMANDS)

    def resolve_command(self, ctx: Any, args: list[str]) -> Any:  # noqa: ANN401
        """The command that some arguments begin with, made for those that follow."""
        args = [*args[:1], *typed_now(args[1:])]
        self._arguments = args[1:]
        if args and args[0] not in COMMANDS and not args[0].startswith("-"):
            say(_unknown_command(args))
            raise typer.Exit(_USAGE)
        return super().resolve_command(ctx, args)

    def get_command(self, ctx: Any, cmd_name: str) -> Any:  # noqa: ANN401, ARG002
        """The command of a name, loaded now; None when there is none."""
        if cmd_name not in COMMANDS:
            return None
        alone = typer.Typer(add_completion=False, rich_markup_mode=None, context_settings=_SETTINGS)
        add_command(alone, command_named(cmd_name), self._arguments)
        return typer.main.get_command(alone)

    def format_commands(self, ctx: Any, formatter: Any) -> None:  # noqa: ANN401, ARG002
        """Lists the commands without loading them."""
        with formatter.section("Commands"):
            formatter.write_dl(list(COMMANDS.items()))


def _unknown_command(args: Sequence[str]) -> str:
    """What is meant by a command that is none, as it can be pasted."""
    meant = command_meant(args[0]) or next(iter(near_names(args[0], COMMANDS)), "")
    if not meant:
        return f"grainstack: there is no command {args[0]}. There are: {', '.join(COMMANDS)}."
    whole = shlex.join(["grainstack", *meant.split(), *args[1:]])
    return f"grainstack: there is no command {args[0]}. Did you mean:\n  {whole}"


app = typer.Typer(
    cls=Commands,
    no_args_is_help=True,
    add_completion=False,
    rich_markup_mode=None,
    pretty_exceptions_enable=False,
    context_settings=_SETTINGS | {"help_option_names": ["--help", "-h"]},
)


def _print_version(wanted: bool) -> None:  # noqa: FBT001 - as Typer calls it
    if wanted:
        typer.echo(f"grainstack {__version__}")
        raise typer.Exit


@app.callback()
def about(
    version: bool = typer.Option(  # noqa: FBT001 - its callback has ended the run
        False,  # noqa: FBT003
        "--version",
        help="Print the version and stop.",
        is_eager=True,
        callback=_print_version,
    ),
) -> None:
    """From categorical records to honest, report-ready charts."""


_LIBRARIES = {  # how libraries are to work, which they look up while they are loaded
    "OPENBLAS_NUM_THREADS": "1",  # figures do not depend on how many cores there are
    **({"ARROW_DEFAULT_MEMORY_POOL": "system"} if sys.platform == "linux" else {}),  # a quarter less memory, and faster
}


def main() -> None:
    """Runs the command line of this process.

    The process then ends at once: Arrow's read-ahead threads must not meet an interpreter that is half closed, and
    everything written has been closed by now.
    """
    _open_streams()
    for name, value in _LIBRARIES.items():
        os.environ.setdefault(name, value)
    sys.setrecursionlimit(_DEEPEST)
    gc.set_threshold(100_000)  # a run is short and makes few cycles: looking for them would cost a tenth of it
    signal.signal(signal.SIGTERM, _end)
    if signal.getsignal(signal.SIGINT) is not signal.SIG_IGN:  # as a job in the background has it
        signal.signal(signal.SIGINT, _end)
    try:
        code = run()
    except (KeyboardInterrupt, Ended) as end:  # while modules load, or after the command has ended
        code = ended(end)
    os._exit(code)


def _open_streams() -> None:
    """Sees to it that something can be said, whoever started the process: to nobody where a stream is closed.

    A terminal that knows few characters gets question marks for the others.
    """
    for name in ("stdout", "stderr"):
        stream = getattr(sys, name)
        if stream is None:
            setattr(sys, name, Path(os.devnull).open("w", encoding="utf-8"))  # noqa: SIM115 - lives as long as the process
        else:
            stream.reconfigure(errors="replace")


def _end(number: int, frame: object) -> None:
    """Ends the run where it is, so that whatever was being written is cleared away."""
    del frame
    raise Ended(number)


def run() -> int:
    """Does what the arguments of this process ask for, and gives the exit code."""
    code: int | str | None = 0
    try:
        app()
    except SystemExit as end:
        code = end.code
    if "grainstack.records.sources.opening" in sys.modules:
        _REMOVE_KEPT_FILES()
    if "multiprocessing.synchronize" in sys.modules:
        gc.collect()  # what workers waited on is given back, which the end of the process would not do
    with suppress(OSError, ValueError):  # a reader that went away, or a stream closed because of it
        sys.stdout.flush()
        sys.stderr.flush()
    return code if isinstance(code, int) else int(code is not None)
