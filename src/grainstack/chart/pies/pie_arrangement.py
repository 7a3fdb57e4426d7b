"""Slices in degrees: how large each is, in which order, and which stand apart."""

from collections.abc import Sequence
from itertools import pairwise

from msgspec import Struct

from grainstack.chart.cells import Cell, ChartCells, chart_cells
from grainstack.chart.pies.pie_request import PieRequest
from grainstack.errors import ChartError, RequestError, nearest
from grainstack.language import marked
from grainstack.option_names import command, option
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable

NOTHING = marked("nothing above 0")  # what a pie without slices says


class Slice(Struct, frozen=True):
    """One slice.

    Attributes:
        cell: Its figure.
        share: Its part of the whole pie.
        start: Where it begins, in degrees clockwise from twelve o'clock.
        end: Where it ends.
        apart: Whether it is set apart.
    """

    cell: Cell
    share: float
    start: float
    end: float
    apart: bool = False

    @property
    def middle(self) -> float:
        """The direction of its middle, in degrees."""
        return (self.start + self.end) / 2


class Pies(Struct, frozen=True):
    """The pies of a chart, one per panel.

    Attributes:
        cells: Their figures; the levels are the series.
        slices: The slices of each pie, clockwise.
        totals: The whole of each pie.
    """

    cells: ChartCells
    slices: tuple[tuple[Slice, ...], ...]
    totals: tuple[float, ...]


def arranged_pies(table: SummaryTable, request: PieRequest) -> Pies:
    """The slices of a table.

    Raises:
        ChartError: Figures that are no parts of a whole: negative, not additive, or of several answers.
        RequestError: A level to be set apart is not shown.
    """
    cells = chart_cells(table, single=True)
    check_parts(table, cells)
    unknown = [name for name in request.apart if name not in cells.series]
    if unknown:
        raise RequestError(f"{option('set_apart')}: no slice `{unknown[0]}`.", nearest(unknown[0], cells.series))
    pies, totals = [], []
    for panel in range(len(cells.panels)):
        stack = [cell for cell in cells.stack(panel, 0) if cell.known and cell.estimate > 0]
        total = sum(cell.estimate for cell in stack)
        totals.append(total)
        pies.append(_slices(stack, total, cells.series, request))
    if not any(totals):
        raise ChartError("All slices are zero.", f"Look at the table: {command('table')}.")
    return Pies(cells, tuple(pies), tuple(totals))


def check_parts(table: SummaryTable, cells: ChartCells) -> None:
    """Refuses figures that are no parts of a whole.

    Raises:
        ChartError: Says which and why.
    """
    statistic = cells.column.figure.statistic
    if not statistic.additive:
        raise ChartError(
            f"A {statistic.spoken} has no parts: the figures do not add up to that of the whole.",
            f"Draw bars or dots: {command('bar')}.",
        )
    several = [one.variable.label for one in table.dimensions if one.several]
    if several:
        raise ChartError(
            f"Several answers were possible on {several[0]}, so they are no parts of a whole.", "Draw bars."
        )
    negative = [cell for cell in cells.cells if cell.known and cell.estimate < 0]
    if negative:
        names = ", ".join(level.label for level in table.levels_of(negative[0].row))
        more = f" and {len(negative) - 1:,} more" if len(negative) > 1 else ""
        raise ChartError(f"{names}{more}: a negative figure has no area.", f"Draw bars: {command('bar')}.")


def nearly_equal(slices: Sequence[Slice]) -> bool:
    """Whether neighbouring slices are too alike to be told apart by eye: two of the largest within a twentieth."""
    shares = sorted((one.share for one in slices), reverse=True)[:4]
    pairs = pairwise(shares)
    return len(shares) > 2 and sum(small > large * 0.93 for large, small in pairs) >= 2


def _slices(stack: Sequence[Cell], total: float, names: Sequence[str], request: PieRequest) -> tuple[Slice, ...]:
    found = []
    start = request.turn
    for cell in stack:
        share = cell.estimate / total
        end = start + 360 * share
        found.append(Slice(cell, share, start, end, names[cell.series] in request.apart))
        start = end
    return tuple(found)


def pies_of(table: SummaryTable, requests: Requests) -> Pies:
    """The slices of a table as a request wants them; raises as `arranged_pies`."""
    return arranged_pies(table, requests[PieRequest])
