"""The commands, in the order people work: what each is called, what it does, and where it is found."""

from functools import partial
from importlib import import_module
from typing import TYPE_CHECKING

from grainstack.making.kinds import KINDS

if TYPE_CHECKING:
    from grainstack.cli.options import Command

COMMANDS = {
    "look": "What is in the records, and what to try next.",
    "codebook": "Drafts a codebook, or checks one.",
    "derive": "Writes the records with bands, recodes or labels.",
    **KINDS,
    "topline": "Every question in one document, with charts and tables.",
    "build": "Every table and chart of a plan.",
    "check": "What is to be known of a plan before it is built.",
    "changes": "What is different between two builds.",
    "trace": "Where a picture or document comes from, and whether that still gives it.",
    "weigh": "Weights with which the records stand for known totals.",
    "palettes": "All palettes, and how they look to colour-blind readers.",
    "demo": "Writes demo data and all that can be made of it.",
}


def command_named(name: str) -> "Command":
    """The command of a name, one of `COMMANDS`; that of a kind is made of what the kind can be asked for."""
    from grainstack.cli.options import RECORDS, Command  # noqa: PLC0415 - the list of commands needs none of it

    if name not in KINDS:
        module = import_module(f"grainstack.cli.{name}")
        return Command(name, module.MODELS, module.run, getattr(module, "POSITIONAL", RECORDS))
    from grainstack.cli.kinds import models_of, run_kind  # noqa: PLC0415 - as above
    from grainstack.making.kinds import kind_named  # noqa: PLC0415

    kind = kind_named(name)
    return Command(name, models_of(kind), partial(run_kind, kind), about=kind.summary, repeated=kind.repeated)
