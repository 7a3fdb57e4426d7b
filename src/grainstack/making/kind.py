"""A kind of table or chart, as a value: what it is asked for, and each step from its request to its picture."""

from collections.abc import Callable, Mapping, Sequence
from enum import StrEnum
from typing import TYPE_CHECKING, Any

from msgspec import Struct

from grainstack.advice import Advice
from grainstack.option_fields import Request
from grainstack.requests import Requests

if TYPE_CHECKING:
    from grainstack.chart.scene import Scene
    from grainstack.chart.terminal.screen import Screen
    from grainstack.summary.table import SummaryTable

Arrangement = Any  # each kind has its own; only its own steps look at it


class Product(StrEnum):
    """What is made of a kind."""

    TABLE = "table"
    CHART = "chart"


class Kind(Struct, frozen=True):
    """A kind of table or chart.

    The steps are functions of values: none of them reads a file or prints. Those that arrange and draw are loaded
    when they are called.

    Attributes:
        name: What it is called, as a command and in a plan.
        summary: What it is, in a line.
        product: Whether it gives a table or a chart.
        models: What it can be asked for.
        settle: Turns what was asked into what is summed up and drawn; raises `RequestError` where that cannot be.
        arrange: What goes where, in data units; raises `ChartError` where the figures cannot be drawn like that.
        picture: The arrangement in points.
        rows: The arrangement in character columns, for so many of them.
        advise: What an analyst should know of such a chart.
        repeated: Options that may be given several times here, though one of each is summed up at a time.
        most_used: The options that the short help shows, in the order people reach for them.
        examples: What it shows besides, made for the demo data.
        quiet: Advice on the table that goes without saying here.
        behind: What it shows besides the figures of its table, as rows; None where that is all.
        shapes: About how many marks stand for one figure.
    """

    name: str
    summary: str
    product: Product
    models: tuple[type[Request], ...]
    settle: Callable[[Requests], Requests]
    arrange: "Callable[[SummaryTable, Requests], Arrangement]"
    picture: "Callable[[Arrangement, Requests], Scene]"
    rows: "Callable[[Arrangement, Requests, int], Screen]"
    advise: "Callable[[Arrangement, Requests], list[Advice]]"
    most_used: tuple[str, ...] = ("by", "measure", "stat", "title", "out")
    examples: tuple[str, ...] = ()
    quiet: tuple[str, ...] = ()
    repeated: tuple[str, ...] = ()
    behind: "Callable[[Arrangement, Requests], Sequence[Mapping[str, tuple[str | float, str]]]] | None" = None
    shapes: int = 1


class Outputs(Struct, frozen=True):
    """A table or chart in some formats.

    Attributes:
        contents: The bytes, in the order of the formats asked for.
        advice: What only drawing it tells.
    """

    contents: tuple[bytes, ...]
    advice: tuple[Advice, ...] = ()
