"""Bars in data units: which slot each stands in, and from where to where it reaches."""

from collections.abc import Sequence
from math import isnan, nan

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.bars.bar_request import LUMPED, BarRequest, check_axes_apart, single_bar
from grainstack.chart.bars.diverging import Sides, sides_of
from grainstack.chart.cells import Cell, ChartCells, best_last, chart_cells
from grainstack.chart.look.measures import ROUNDING
from grainstack.errors import ChartError, RequestError
from grainstack.option_names import command, option
from grainstack.requests import Requests
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import Column, SummaryTable

SIMPLE = "simple"


_TWO_SIDES = 2  # series: one on each, so that nothing is added up


class Bar(Struct, frozen=True):
    """One bar or segment.

    Attributes:
        cell: The figure it shows.
        lane: Its place among neighbours in the slot, 0 when it has none.
        start: The value it begins at.
        end: The value it reaches.
        low: Lower end of its whisker on the value axis, NaN without one.
        high: Upper end.
        reach_low: The lowest value anything at the bar reaches: its ends, its whisker, its records.
        reach_high: The highest.
    """

    cell: Cell
    lane: int
    start: float
    end: float
    low: float = nan
    high: float = nan
    reach_low: float = nan
    reach_high: float = nan

    @property
    def whisker(self) -> bool:
        """Whether it carries a whisker."""
        return not (isnan(self.low) or isnan(self.high))

    @property
    def down(self) -> bool:
        """Whether it grows to the low side."""
        return self.end < self.start


class Total(Struct, frozen=True):
    """A figure written at the end of a stack.

    Attributes:
        panel: The panel it stands in.
        slot: The category it belongs to.
        amount: The figure; of one side for diverging bars.
        at: The value it is written beyond.
        down: Whether that is on the low side.
        low: Lower end of the whisker of the total, NaN without one.
        high: Upper end.
    """

    panel: int
    slot: int
    amount: float
    at: float
    down: bool = False
    low: float = nan
    high: float = nan


class BarArrangement(Struct, frozen=True):
    """All bars of a chart.

    Attributes:
        cells: The figures.
        layout: `simple`, `grouped`, `stacked`, `percent` or `diverging`.
        bars: In painting order.
        lanes: How many neighbours a slot holds.
        low: The lowest value drawn, at most 0.
        high: The highest value drawn, at least 0.
        totals: What is written at the ends of stacks.
        sides: For diverging bars, which way each series points.
        apart: For diverging bars, the value at which series set apart start; NaN when there are none.
        beside: Bars of other figures of the same table, each on an axis of its own.
    """

    cells: ChartCells
    layout: str
    bars: tuple[Bar, ...]
    lanes: int
    low: float
    high: float
    totals: tuple[Total, ...] = ()
    sides: Sides | None = None
    apart: float = nan
    beside: tuple["BarArrangement", ...] = ()

    @property
    def every(self) -> tuple["BarArrangement", ...]:
        """It and the bars of other figures."""
        return (self, *self.beside)

    @property
    def table(self) -> SummaryTable:
        """The table of all figures."""
        first, *others = (one.cells.table.shown for one in self.every)
        rest = [column for column in self.cells.table.columns if column not in first]
        return replace(self.cells.table, columns=(*first, *(column for one in others for column in one), *rest))

    @property
    def stacked(self) -> bool:
        """Whether bars stand end to end."""
        return self.layout in LUMPED


def arranged_bars(table: SummaryTable, request: BarRequest, *, single: bool = False) -> BarArrangement:
    """The bars of a table.

    Args:
        table: The table.
        request: Their layout.
        single: Whether the levels of the one category column are the segments of a single bar.

    Raises:
        ChartError: Figures that do not add up are to be stacked, or there is nothing to draw.
        RequestError: A layout without series, or sides that cannot be told.
    """
    if _needs_axes_of_their_own(table):
        others = [column for column in table.columns if column not in table.shown]
        tables = [replace(table, columns=(column, *others)) for column in table.shown]
        first, *beside = (arranged_bars(one, request, single=single) for one in tables)
        return replace(first, beside=tuple(beside))
    cells = chart_cells(table, single=single, swapped=request.swap)
    layout = _checked_layout(request.layout, cells)
    if not any(cell.known for cell in cells.cells):
        raise ChartError("No category has a figure to draw.", f"Look at the table: {command('table')}.")
    if request.gap is not None and not (layout == "grouped" and cells.count > 1):
        raise RequestError(
            f"{option('gap')} is between neighbours, and there are none.",
            f"Use {option('layout', 'grouped')} with series.",
        )
    if layout == "diverging":
        if cells.dimension is not None and cells.dimension.variable.good_end == "first" and not request.opposite:
            cells = best_last(cells)
        return _diverging(cells, sides_of(cells, request))
    return _stacked(cells, layout) if layout in LUMPED else _side_by_side(cells, layout, request)


def _needs_axes_of_their_own(table: SummaryTable) -> bool:
    """Whether several figures cannot be series on one axis: they are split already, or have different units."""
    shown = table.shown
    return len(shown) > 1 and (table.series is not None or len({column.unit for column in shown}) > 1)


def check_same_unit(columns: Sequence[Column]) -> None:
    """Refuses figures on one axis that are not measured alike.

    Raises:
        ChartError: They have different units.
    """
    units = {column.unit for column in columns}
    if len(units) > 1:
        listed = " and ".join(sorted(unit or "no unit" for unit in units))
        raise ChartError(
            f"Figures with {listed} do not share an axis.",
            f"Draw them apart, or one of them with {option('second_measure')}.",
        )


def _checked_layout(layout: str | None, cells: ChartCells) -> str:
    check_same_unit(cells.columns)
    statistics = [column.figure.statistic for column in cells.columns]
    if not cells.series:
        if layout:
            raise RequestError(
                f"{option('layout')} {layout} needs series.", f"Name their column with {option('split')} COLUMN."
            )
        return SIMPLE
    layout = layout or _usual_layout(cells)
    if layout != "grouped" and any(column.letters for column in cells.columns):
        raise RequestError("Comparison letters stand beyond whole bars.", f"Use {option('layout', 'grouped')}.")
    if layout == "grouped":
        return layout
    two_sides = layout == "diverging" and len(cells.series) == _TWO_SIDES  # one on each side: nothing is added up
    if not two_sides and cells.table.provenance.given and any(cell.has_spread for cell in cells.cells):
        raise ChartError(
            "Parts of a bar carry no ready-made limits.", f"Use {option('layout', 'grouped')}, or leave them out."
        )
    if not two_sides and any(not statistic.additive for statistic in statistics):
        name = next(statistic.spoken for statistic in statistics if not statistic.additive)
        raise ChartError(
            f"A {name} cannot be {layout}: the figures of the parts do not add up to that of the whole.",
            f"Use {option('layout', 'grouped')}{', or show two series only' if layout == 'diverging' else ''}.",
        )
    if cells.dimension and cells.dimension.several:
        raise ChartError(
            "Answers of which a record may have several are no parts of a whole.", f"Use {option('layout', 'grouped')}."
        )
    if layout == "percent" and not whole_bars(cells):
        raise ChartError(
            "These figures do not add to 100 % in each bar.",
            f"Use {option('base', 'category')}, or {option('layout', 'stacked')} or grouped.",
        )
    return layout


def _usual_layout(cells: ChartCells) -> str:
    """The layout where none was asked for: parts of a whole are stacked, everything else stands side by side."""
    alone = cells.dimension is None or cells.dimension.several or any(column.letters for column in cells.columns)
    lumped = {"share": "percent", "count": "stacked", "sum": "stacked"}
    layout = "grouped" if alone else lumped.get(cells.column.figure.statistic.name, "grouped")
    return "grouped" if layout == "percent" and not whole_bars(cells) else layout


def whole_bars(cells: ChartCells) -> bool:
    """Whether figures are shares that make a whole in every bar.

    Args:
        cells: The figures.
    """
    if cells.column.figure.statistic.name != "share":
        return False
    stacks = (cells.stack(panel, slot) for panel in range(len(cells.panels)) for slot in range(len(cells.slots)))
    sums = [sum(cell.estimate for cell in stack if cell.known) for stack in stacks if any(c.known for c in stack)]
    hidden = any(not cell.known for cell in cells.cells)
    return all(abs(total - 1) < ROUNDING or not total or (hidden and total < 1) for total in sums)


def _side_by_side(cells: ChartCells, layout: str, request: BarRequest) -> BarArrangement:
    reaches = _record_reach(cells) if request.show_records else {}
    bars = []
    for cell in cells.cells:
        end = cell.estimate if cell.known else 0.0
        ends = [0.0, end, *((cell.low, cell.high) if cell.has_spread else ()), *reaches.get(cell.row, ())]
        bars.append(Bar(cell, cell.series, 0.0, end, cell.low, cell.high, min(ends), max(ends)))
    return BarArrangement(
        cells,
        layout,
        tuple(bars),
        cells.count,
        min(bar.reach_low for bar in bars),
        max(bar.reach_high for bar in bars),
    )


def _record_reach(cells: ChartCells) -> dict[int, tuple[float, float]]:
    """The lowest and highest record of each row of the table."""
    [values] = cells.table.values.values()
    return {row: (float(one[0][0]), float(one[0][-1])) for row, one in enumerate(values) if len(one[0])}


def _stacked(cells: ChartCells, layout: str) -> BarArrangement:
    """Segments end to end; negative ones grow the other way from zero."""
    bars: list[Bar] = []
    totals: list[Total] = []
    percent = layout == "percent"
    for panel in range(len(cells.panels)):
        for slot in range(len(cells.slots)):
            above = below = 0.0
            stack = cells.stack(panel, slot)
            for cell in stack:
                size = cell.estimate if cell.known else 0.0
                start = above if size >= 0 else below
                end = start + size
                above, below = (end, below) if size >= 0 else (above, end)
                low, high = nan, nan
                if percent and cell.has_spread and (cell is not stack[-1] or start == 0):  # the end of all is no figure
                    low, high = start + cell.low, start + cell.high
                bars.append(Bar(cell, 0, start, end, low, high, min(start, end), max(start, end)))
            if not percent and any(cell.known for cell in stack):
                totals.append(_total(cells, panel, slot, above, below))
    values = [0.0, *(value for bar in bars for value in (bar.start, bar.end))]
    values += [value for total in totals for value in (total.low, total.high) if not isnan(value)]
    high = 1.0 if percent else max(values)
    return BarArrangement(cells, layout, tuple(bars), 1, min(values), high, tuple(totals))


def _total(cells: ChartCells, panel: int, slot: int, above: float, below: float) -> Total:
    own = cells.total(panel, slot)
    low, high = (own.low, own.high) if own and own.has_spread else (nan, nan)
    down = above == 0 and below < 0
    at = below if down else max(above, high) if not isnan(high) else above
    return Total(panel, slot, above + below, at, down, low, high)


def _diverging(cells: ChartCells, sides: Sides) -> BarArrangement:
    """Bars from one zero line to both sides; neutral ones straddle it, or stand apart behind the longest bar.

    Segments are laid in the order of the series: on the opposite side the first series is outermost.
    """
    if any(cell.known and cell.estimate < 0 for cell in cells.cells):
        raise ChartError(
            "Negative figures have no side of their own in a diverging chart.", f"Use {option('layout', 'grouped')}."
        )
    stacks = [cells.stack(p, s) for p in range(len(cells.panels)) for s in range(len(cells.slots))]
    left, middle, right = (
        [n for n, way in enumerate(sides.ways) if way == side and n not in sides.apart] for side in (-1, 0, 1)
    )
    bars: list[Bar] = []
    totals: list[Total] = []
    for stack in stacks:
        half = sum(_size(stack[place]) for place in middle) / 2
        opposite = _laid([stack[place] for place in reversed(left)], -half, -1, limits=True)
        straddling = _laid([stack[place] for place in middle], -half, 1)
        onward = _laid([stack[place] for place in right], half, 1, limits=True)
        bars += [*opposite, *straddling, *onward]
        if any(cell.known for cell in stack):
            at = stack[0].panel, stack[0].slot
            ends = (opposite[-1].reach_low if opposite else -half), (onward[-1].reach_high if onward else half)
            totals.append(Total(*at, sum(_size(stack[place]) for place in left), ends[0], down=True))
            totals.append(Total(*at, sum(_size(stack[place]) for place in right), ends[1]))
    low = min((total.at for total in totals), default=0.0)
    high = max((total.at for total in totals), default=0.0)
    apart = high + 0.12 * (high - low or 1.0) if sides.apart else nan
    if sides.apart:
        bars += [bar for stack in stacks for bar in _laid([stack[place] for place in sides.apart], apart, 1)]
    return BarArrangement(cells, "diverging", tuple(bars), 1, low, high, tuple(totals), sides, apart)


def _laid(cells: Sequence[Cell], start: float, way: int, *, limits: bool = False) -> list[Bar]:
    """Segments one after the other from a value on, to the high side or, with a way of -1, to the low one.

    Args:
        cells: The segments, the inner ones first.
        start: Where the first begins.
        way: To which side they go.
        limits: Whether their outer ends carry whiskers.
    """
    bars = []
    for cell in cells:
        end = start + way * _size(cell)
        low, high = nan, nan
        if limits and cell.has_spread:
            low, high = sorted((start + way * cell.low, start + way * cell.high))
        reaches = [value for value in (start, end, low, high) if not isnan(value)]
        bars.append(Bar(cell, 0, start, end, low, high, min(reaches), max(reaches)))
        start = end
    return bars


def _size(cell: Cell) -> float:
    return cell.estimate if cell.known else 0.0


def bars_of(table: SummaryTable, requests: Requests) -> BarArrangement:
    """The bars of a table as a request wants them.

    Raises:
        ChartError: As `arranged_bars`; RequestError likewise.
    """
    bars = requests[BarRequest]
    arrangement = arranged_bars(table, bars, single=single_bar(requests[SummaryRequest], bars))
    if arrangement.layout == "diverging" and len(arrangement.cells.series) > _TWO_SIDES:
        requests[SummaryRequest].check_adds_up(option("layout", "diverging"))
    if arrangement.beside:
        check_axes_apart(requests)
    return arrangement
