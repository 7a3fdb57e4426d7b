"""Command lines made from the options that the kinds have: bytes choose the kind, options and values."""

import io
import sys
from contextlib import chdir
from pathlib import Path
from unittest import mock

from grainstack.cli.failing import option_for
from grainstack.cli.main import run
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries

LEFT_OUT = frozenset(  # what is read and written, and where: chosen here
    ("file", "codebook", "out", "save_plan", "name", "query", "style", "template", "logo", "watch", "copy", "workers")
)
_VALUES = (
    *("route", "ticket", "age", "wait", "when", "facilities", "records", "file", "n", ""),
    *("0", "1", "2", "-1", "0.5", "90", "1e9", "nan", "10", "100", "app", "desk,web", "1,2", "auto", "none"),
    *("count", "share", "mean", "median", "sum", "p90", "largest-first", "reverse: codebook", "app=#cc0000", "#,##0.0"),
    *("age=10", "when=month", "route: 1, 2 -> North", "route: North = 1, 2", "which=age,wait", "x = age / wait"),
    *("age > 30", "route=1", "wait: mean", "0,100", "6cm x 4cm", "previous", "de", "stratum", "percent", "confidence"),
)
_COLUMNS = 6  # of the values are columns
_CHOICES = 128  # a byte below it means one of the values an option names, or a column where it takes one


def command_line(data: bytes) -> list[str]:
    """A command line.

    Args:
        data: One byte for the kind, and two for each option: which, and which value.
    """
    kind = kind_named(tuple(KINDS)[data[0] % len(KINDS)] if data else "table")
    options = [one for model in kind.models for one in entries(model) if one.name not in LEFT_OUT]
    found = [kind.name, "records.csv", "--by", _VALUES[data[1] % _COLUMNS] if len(data) > 1 else "route"]
    for which, value in zip(data[2::2], data[3::2], strict=False):
        entry = options[which % len(options)]
        found.append(option_for(entry.name))
        if entry.default is False:
            continue
        choices = entry.word.choices or (_VALUES[:_COLUMNS] if "COLUMN" in entry.word.metavar else ())
        found.append(choices[value % len(choices)] if choices and value < _CHOICES else _VALUES[value % len(_VALUES)])
    return found


def ended(arguments: list[str], folder: Path) -> tuple[int, str]:
    """Runs the program in a folder; its exit code, and what it told.

    Args:
        arguments: What is typed after its name.
        folder: Where.
    """
    output, told = io.BytesIO(), io.BytesIO()
    streams = [io.TextIOWrapper(buffer, "utf-8", write_through=True) for buffer in (output, told)]
    patched = mock.patch.multiple(sys, argv=["grainstack", *arguments], stdout=streams[0], stderr=streams[1])
    with chdir(folder), patched:
        code = run()
    return code, told.getvalue().decode()
