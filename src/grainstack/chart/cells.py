"""The cells of a table as a chart sees them: panels, categories in their groups, and series."""

from math import isnan
from typing import TYPE_CHECKING

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.marks import Key
from grainstack.summary.table import Column, Dimension, Flag, SummaryTable, base_in_words

if TYPE_CHECKING:
    from grainstack.records.variable import Level

GROUP_GAP = 0.7  # slots: groups are seen apart, bars of one group together


class Slot(Struct, frozen=True):
    """One category of the chart.

    Attributes:
        labels: The labels of its levels, outermost first; a single empty one where there are no categories.
        place: Where it stands, in slots from the first, gaps between groups counted.
        group: The number of its group of nested categories.
        codes: What tells it apart whatever its labels are: the keys of its levels, outermost first.
        rest: Whether it holds all the small ones together.
        total: Whether it is the total of all others.
    """

    labels: tuple[str, ...]
    place: float
    group: int
    codes: tuple[str, ...] = ()
    rest: bool = False
    total: bool = False

    @property
    def label(self) -> str:
        """Its own label."""
        return self.labels[-1]

    @property
    def outer(self) -> str:
        """The label of its group; empty where categories are not nested."""
        return " · ".join(self.labels[:-1])

    @property
    def name(self) -> str:
        """All its labels."""
        return " · ".join(self.labels)


class Cell(Struct, frozen=True):
    """One figure of the chart.

    Attributes:
        row: Its place in the table.
        column: Which of the table's figures it shows.
        panel: The panel it stands in; likewise `slot` and `series`.
        estimate: The figure; NaN where there is none.
        low: Lower end of its spread; NaN without one.
        high: Upper end.
        base: Records it rests on.
        flags: Why it should not be taken as solid.
        letters: Comparison letters.
    """

    row: int
    column: int
    panel: int
    slot: int
    series: int
    estimate: float
    low: float
    high: float
    base: int
    flags: Flag
    letters: str

    @property
    def known(self) -> bool:
        """Whether it has a figure."""
        return not isnan(self.estimate)

    @property
    def base_in_words(self) -> str:
        """The records it rests on; `…` where that must not be shown."""
        return base_in_words(self.base)

    @property
    def has_spread(self) -> bool:
        """Whether it has a whisker."""
        return not (isnan(self.low) or isnan(self.high))


class ChartCells(Struct, frozen=True):
    """All figures of a chart.

    Attributes:
        table: Where they come from.
        columns: The figures shown; several are series.
        panels: Titles of the panels; a single empty one without panels.
        slots: The categories, in order.
        series: Labels of the series; empty when there are none.
        dimension: The column of the series; None where figures are the series or there are none.
        series_codes: What tells the series apart whatever their labels are.
        panel_codes: The same of the panels; a single empty one without panels.
        cells: Panel by panel, slot by slot, series by series.
        totals: Over all series, panel by panel, slot by slot; empty where they were not summed up.
    """

    table: SummaryTable
    columns: tuple[Column, ...]
    panels: tuple[str, ...]
    slots: tuple[Slot, ...]
    series: tuple[str, ...]
    dimension: Dimension | None
    series_codes: tuple[str, ...]
    panel_codes: tuple[str, ...]
    cells: tuple[Cell, ...]
    totals: tuple[Cell, ...] = ()

    @property
    def column(self) -> Column:
        """The first figure."""
        return self.columns[0]

    @property
    def count(self) -> int:
        """How many cells a slot has: one per series."""
        return max(len(self.series), 1)

    @property
    def span(self) -> float:
        """The length of the category axis in slots."""
        return self.slots[-1].place + 1

    def key(self, cell: Cell) -> Key:
        """Which figure a mark of this cell shows."""
        panel, category = self._panel_part(cell.panel), self.slots[cell.slot].codes
        if not self.series_codes:
            return Key(panel, category)
        series = (self.series_codes[cell.series],)
        return Key(panel, category, series) if category else Key(panel, series)

    def series_key(self, series: int) -> Key:
        """Which series a mark belongs to; where the one category column is cut into segments, which category."""
        code = (self.series_codes[series],)
        return Key(series=code) if self.slots[0].codes else Key(category=code)

    def slot_key(self, panel: int, slot: int, series: tuple[str, ...] = ()) -> Key:
        """Which category a mark belongs to, and for marks that are no level, what they are."""
        return Key(self._panel_part(panel), self.slots[slot].codes, series)

    def _panel_part(self, panel: int) -> tuple[str, ...]:
        code = self.panel_codes[panel]
        return (code,) if code else ()

    def name(self, cell: Cell) -> str:
        """The labels of a cell as a reader knows them: panel, category and series."""
        series = self.series[cell.series] if self.series else ""
        parts = (self.panels[cell.panel], self.slots[cell.slot].name, series)
        return ", ".join(part for part in parts if part)

    def stack(self, panel: int, slot: int) -> tuple[Cell, ...]:
        """The cells of one slot in the order of the series."""
        start = (panel * len(self.slots) + slot) * self.count
        return self.cells[start : start + self.count]

    def total(self, panel: int, slot: int) -> Cell | None:
        """The figure of one slot over all series."""
        return self.totals[panel * len(self.slots) + slot] if self.totals else None


def chart_cells(table: SummaryTable, *, single: bool = False, swapped: bool = False) -> ChartCells:
    """The cells of a table as a chart sees them.

    Args:
        table: The table; its columns are series where several are shown.
        single: Whether the levels of its one category column are the series of a single bar.
        swapped: Whether figures are the categories, and the levels of the category column the series; where a single
            one is shown, there is nothing to swap.
    """
    columns = table.shown
    if swapped and len(columns) > 1:
        return _swapped(table)
    dimension = table.categories[0] if single else table.series
    per_slot = len(dimension.levels) if dimension else 1
    panels, panel_codes = _panels(table)
    per_panel = len(table.keys) // len(panels)
    slots = (Slot(("",), 0.0, 0),) if single else _slots(table, per_panel, per_slot)
    names, codes = _figures(columns) if dimension is None and len(columns) > 1 else _series(dimension)
    cells: list[Cell] = []
    totals: list[Cell] = []
    for panel in range(len(panels)):
        for slot in range(len(slots)):
            first = panel * per_panel + slot * per_slot
            if dimension is None:
                for place, column in enumerate(columns):
                    cells.append(_cell(column, place, first, (panel, slot, place)))
                continue
            for place, level in enumerate(dimension.levels):
                cell = _cell(columns[0], 0, first + place, (panel, slot, place))
                if not level.is_net:
                    (totals if level.is_total else cells).append(cell)
    return ChartCells(table, columns, panels, slots, names, dimension, codes, panel_codes, tuple(cells), tuple(totals))


def best_last(cells: ChartCells) -> ChartCells:
    """The cells with the steps of their series in the opposite order; what is no step stays where it is.

    Args:
        cells: The figures, whose series are the levels of a column.
    """
    dimension = cells.dimension
    if dimension is None:
        return cells
    steps = [place for place in range(cells.count) if not dimension.levels[place].is_special]
    order = list(range(cells.count))
    for place, other in zip(steps, reversed(steps), strict=True):
        order[place] = other
    stacks = (cells.cells[start : start + cells.count] for start in range(0, len(cells.cells), cells.count))
    levels = (*(dimension.levels[place] for place in order), *dimension.levels[cells.count :])
    return replace(
        cells,
        series=tuple(cells.series[place] for place in order),
        series_codes=tuple(cells.series_codes[place] for place in order),
        cells=tuple(replace(stack[other], series=place) for stack in stacks for place, other in enumerate(order)),
        dimension=replace(dimension, variable=replace(dimension.variable, levels=levels, good="last")),
    )


def _swapped(table: SummaryTable) -> ChartCells:
    """Figures as categories, and the levels of the one category column as series."""
    columns, dimension = table.shown, table.categories[0]
    (names, codes), (series, series_codes) = _figures(columns), _series(dimension)
    panels, panel_codes = _panels(table)
    slots = tuple(Slot((name,), float(place), 0, (codes[place],)) for place, name in enumerate(names))
    cells = [
        _cell(column, slot, panel * len(dimension.levels) + place, (panel, slot, place))
        for panel in range(len(panels))
        for slot, column in enumerate(columns)
        for place in range(len(series))
    ]
    return ChartCells(table, columns, panels, slots, series, dimension, series_codes, panel_codes, tuple(cells))


def _panels(table: SummaryTable) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The labels and keys of the panels; one without either where there is no panel column."""
    levels = table.panel.levels if table.panel else ()
    return tuple(level.label for level in levels) or ("",), tuple(level.key for level in levels) or ("",)


def _series(dimension: Dimension | None) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The labels and keys of the levels of a column, without the total."""
    levels = [level for level in dimension.levels if not (level.is_total or level.is_net)] if dimension else []
    return tuple(level.label for level in levels), tuple(level.key for level in levels)


def _figures(columns: tuple[Column, ...]) -> tuple[tuple[str, ...], tuple[str, ...]]:
    """The titles and keys of several figures."""
    keys = (f"{column.figure.statistic.name}:{column.figure.measure or ''}" for column in columns)
    return _titles(columns), tuple(keys)


def _cell(column: Column, number: int, row: int, place: tuple[int, int, int]) -> Cell:
    return Cell(
        row,
        number,
        *place,
        float(column.estimate[row]),
        float(column.low[row]),
        float(column.high[row]),
        int(column.base[row]),
        Flag(int(column.flags[row])),
        column.letters[row] if column.letters else "",
    )


def _slots(table: SummaryTable, rows: int, step: int) -> tuple[Slot, ...]:
    """The categories with their places; a change of an outer level opens a gap."""
    first = 1 if table.panel else 0
    count = len(table.categories)
    slots: list[Slot] = []
    before: tuple[Level, ...] = ()
    for row in range(0, rows, step):
        levels = table.levels_of(row)[first : first + count]
        place, group = (slots[-1].place + 1, slots[-1].group) if slots else (0.0, 0)
        if slots and levels[:-1] != before:
            place, group = place + GROUP_GAP, group + 1
        before = levels[:-1]
        labels = tuple("" if level.is_total and level is not levels[-1] else level.label for level in levels)
        codes = tuple(level.key for level in levels)
        slots.append(Slot(labels, place, group, codes, levels[-1].is_rest, levels[-1].is_total))
    return tuple(slots)


def _titles(columns: tuple[Column, ...]) -> tuple[str, ...]:
    """What tells figures apart: their statistic, their measure, or both."""
    statistics = {column.figure.statistic.name for column in columns}
    measures = {column.figure.measure for column in columns}
    if len(statistics) == 1:
        return tuple(column.measure.label if column.measure else column.title for column in columns)
    if len(measures) == 1:
        return tuple(column.figure.statistic.name_in_words for column in columns)
    return tuple(column.title for column in columns)
