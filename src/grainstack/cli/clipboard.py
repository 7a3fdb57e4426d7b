"""The clipboard: what was made, put where another program can paste it."""

import os
import shutil
import subprocess
from typing import TYPE_CHECKING

from grainstack.cli.command_requests import CLIPBOARD_TYPES
from grainstack.cli.failing import say
from grainstack.errors import IdleError, OutputError, RequestError
from grainstack.making.kind import Product
from grainstack.option_names import option
from grainstack.report.documents.page import table_html
from grainstack.report.output_formats import outputs_of
from grainstack.report.print_request import table_printed

if TYPE_CHECKING:
    from grainstack.making.make import Made

_PLAIN = ("pbcopy", "clip")  # programs that take text alone
_PATIENCE = 10  # seconds that such a program has: it hands over a few hundred kilobytes


def check_clipboard(form: str, *, writes: bool) -> list[str]:
    """The command that takes something for the clipboard.

    Args:
        form: In which form.
        writes: Whether files are written too, so that the run is of use without a clipboard.

    Raises:
        RequestError: The system has no clipboard that takes it.
    """
    kind = CLIPBOARD_TYPES[form]
    commands = {
        "wl-copy": ["wl-copy", "--type", kind] if os.environ.get("WAYLAND_DISPLAY") else [],
        "xclip": ["xclip", "-selection", "clipboard", "-t", kind] if os.environ.get("DISPLAY") else [],
        **{name: [name] if kind == "text/plain" else [] for name in _PLAIN},
    }
    for name, command in commands.items():
        if command and shutil.which(name):
            return command
    kind_of_error = IdleError if writes else RequestError
    raise kind_of_error(
        f"{option('copy')}: there is no clipboard here that takes {form}.",
        f"Needed is a screen with wl-copy or xclip{', or pbcopy or clip' if form == 'tsv' else ''}; "
        f"or write a file with {option('out')}.",
    )


def copy(made: "Made", form: str, command: list[str]) -> None:
    """Puts what was made on the clipboard.

    Args:
        made: The chart or table.
        form: In which form.
        command: The command that takes it.

    Raises:
        OutputError: It does not take it.
    """
    try:
        quiet = subprocess.DEVNULL
        done = subprocess.run(  # noqa: PLW1510, S603 - one of four programs, found by its name; told below
            command, input=_content(made, form), stdout=quiet, stderr=quiet, timeout=_PATIENCE
        )
        failed = done.returncode != 0
    except (OSError, subprocess.TimeoutExpired):
        failed = True
    if failed:
        raise OutputError(f"{command[0]} did not take it for the clipboard.", f"Write a file with {option('out')}.")
    say(f"Copied as {form}.")


def _content(made: "Made", form: str) -> bytes:
    """What was made, in a form."""
    if made.kind.product is Product.CHART:
        return outputs_of(made, [f".{form}"]).contents[0]

    if form == "html":
        return "".join(map(table_html, table_printed(made))).encode()
    tables = table_printed(made)
    lines = [[cell.strip() for cell in row] for one in tables for row in (one.heading, *one.rows)]
    return "".join("\t".join(line) + "\n" for line in lines).encode()
