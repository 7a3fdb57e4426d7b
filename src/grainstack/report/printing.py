"""What every printed table is made of: how it is asked for, its cells, and figures that line up."""

from collections.abc import Iterable, Sequence

from msgspec import Struct, field

from grainstack.chart.writing.character_columns import columns_wide
from grainstack.chart.writing.figures import Figures
from grainstack.chart.writing.signs import signs_of
from grainstack.language import phrase
from grainstack.summary.table import Column, Dimension, Flag, SummaryTable


class PrintRequest(Struct, frozen=True):
    """How a table is printed.

    Attributes:
        limits: Whether the limits of split figures are wanted.
        design_figures: Whether standard error, effective base, design and weighting effect are wanted.
        add_up: Whether shares are rounded so that they add to 100 %.
        least: The base below which figures are flagged.
        in_cell: What a cell of split figures holds, such as `share (count)`; empty for the figure alone.
        columns: The width there is, in characters; None where there is no end of it.
    """

    limits: bool = False
    design_figures: bool = False
    add_up: bool = False
    least: int = 30
    in_cell: str = ""
    columns: int | None = None


class Printed(Struct, frozen=True):
    """A table as text.

    Attributes:
        heading: Title of each column.
        rows: The cells.
        right: For each column, whether it is aligned to the right.
        notes: The lines under the table.
        above: What stands over the heading: the column where it starts, and the words.
        title: What stands over everything.
        sum_rows: The places of rows that hold nets or totals, or bases of the others, which documents set apart.
        sum_columns: The places of columns that do.
    """

    heading: tuple[str, ...]
    rows: tuple[tuple[str, ...], ...]
    right: tuple[bool, ...]
    notes: tuple[str, ...] = ()
    above: tuple[tuple[int, str], ...] = field(default=())
    title: str = ""
    sum_rows: frozenset[int] = frozenset()
    sum_columns: frozenset[int] = frozenset()

    def is_apart(self, row: int, column: int) -> bool:
        """Whether a cell is set apart.

        Args:
            row: Its row; -1 for the heading.
            column: Its column.
        """
        return row in self.sum_rows or column in self.sum_columns


def lined_up(numbers: Sequence[str], tails: Sequence[str]) -> list[str]:
    """Figures whose digits stand under each other, whatever marks and letters follow.

    Args:
        numbers: The figures.
        tails: What follows each.
    """
    wide, behind = (max(map(columns_wide, texts), default=0) for texts in (numbers, tails))
    return [
        " " * (wide - columns_wide(number)) + number + tail + " " * (behind - columns_wide(tail))
        for number, tail in zip(numbers, tails, strict=True)
    ]


def figure_and_marks(column: Column, cell: int, figures: Figures) -> tuple[str, str]:
    """The figure of a cell, and its marks; a dash where it has none, and the mark alone where it is left out."""
    flags = Flag(int(column.flags[cell]))
    if Flag.HIDDEN in flags:
        return signs_of(flags), ""
    return figures.text(cell) or "–", signs_of(flags)


def flagged(column: Column, cell: int, figures: Figures) -> str:
    """The figure of a cell with its marks."""
    return "".join(figure_and_marks(column, cell, figures))


def limits_title(column: Column) -> str:
    """What the limits of a column are called over a column of their own: `95 % limits`."""
    return phrase("from – to") if column.level is None else phrase("{level} % limits", level=column.level)


def limits_text(low: float, high: float, figures: Figures) -> str:
    """Two limits as one text; empty where there are none."""
    first, last = figures.number(low), figures.number(high)
    if not (first or last):
        return ""
    apart = any(sign in first + last for sign in "−+×<")
    return phrase("{low} to {high}", low=first, high=last) if apart else f"{first}–{last}"


def titled(column: Column) -> str:
    """What a column holds, with its unit."""
    return f"{column.title} ({column.unit})" if column.unit else column.title


def with_nets(dimension: Dimension) -> list[int]:
    """The places of levels with each net behind the last of its parts."""
    behind: dict[int, list[int]] = {}
    for net, parts in enumerate(dimension.nets):
        behind.setdefault(max(parts, default=dimension.plain - 1), []).append(dimension.plain + net)
    places = [place for one in range(dimension.plain) for place in (one, *behind.get(one, ()))]
    return places if dimension.total is None else [*places, dimension.total]


def in_reading_order(table: SummaryTable, step: int) -> list[int]:
    """The rows of a table, `step` cells each, with those of nets under the last of their parts."""
    ranks = [{place: rank for rank, place in enumerate(with_nets(one))} for one in table.dimensions]
    keys = [tuple(rank[place] for rank, place in zip(ranks, key, strict=True)) for key in table.keys[::step].tolist()]
    return sorted(range(len(keys)), key=keys.__getitem__)


def once(rows: Iterable[Sequence[str]], labels: int) -> list[list[str]]:
    """Rows in which the outer ones of nested labels are written where they change only.

    Args:
        rows: The rows.
        labels: How many columns of labels they start with; the last of these always stands.
    """
    found: list[list[str]] = []
    before: Sequence[str] = ()
    for row in rows:
        same = 0
        while same < labels - 1 and list(before[: same + 1]) == list(row[: same + 1]):
            same += 1
        found.append([*("" for _ in range(same)), *row[same:]])
        before = row
    return found
