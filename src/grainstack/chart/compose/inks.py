"""Which ink each figure of a chart has: by its series, else by its category; paler where it should not be trusted."""

from grainstack.chart.arrange.cells import Cell, ChartCells
from grainstack.chart.coloring import HATCHES, Ink, check_names, inks_of_series, recolored
from grainstack.chart.palette import NAMED, PALE, PAPER, RAMPS, over
from grainstack.chart.style import Style
from grainstack.chart.wishes import ColorsRequest
from grainstack.summary.table import REST

_FAINT = 0.42


class Inks:
    """The inks of one chart.

    Args:
        cells: Its figures.
        wishes: What was asked for.
        style: The palettes to choose from.
        ways: For a diverging chart, which way each series points.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """

    def __init__(
        self, cells: ChartCells, wishes: ColorsRequest, style: Style, ways: tuple[int, ...] | None = None
    ) -> None:
        self._cells = cells
        self._wishes = wishes
        names = [slot.label for slot in cells.slots]
        check_names(wishes, [*cells.series, *names])
        series = inks_of_series(cells.dimension, cells.count, wishes, style, sides=ways) if cells.series else ()
        self.series = recolored(series, cells.series, wishes)
        self._categories = recolored(self._of_categories(style), names, wishes)
        self._faded = set() if not wishes.highlighted else {n for n in names if n not in wishes.highlighted}
        if not any(name in names for name in wishes.highlighted):
            self._faded = set()

    def of(self, cell: Cell) -> Ink:
        """The ink of a figure."""
        if not self.series:
            ink = self._categories[cell.slot]
            return Ink(PALE, ink.hatch) if cell.flags and cell.known else ink
        ink = self.series[cell.series]
        faint = bool(cell.flags) or self._cells.slots[cell.slot].label in self._faded
        return Ink(over(ink.fill, PAPER, _FAINT), ink.hatch) if faint and ink.fill != PALE else ink

    def ground(self, ink: Ink) -> str:
        """The colour text stands on in a mark of this ink."""
        return over(ink.fill, PAPER, self._wishes.opacity) if self._wishes.opacity < 1 else ink.fill

    def _of_categories(self, style: Style) -> list[Ink]:
        name = self._wishes.palette or style.nominal
        colors = NAMED[name]
        fill = colors[len(colors) * 3 // 5] if name in RAMPS else colors[0]
        hatch = HATCHES[1] if self._wishes.hatch else ""
        levels = self._cells.table.categories[-1].levels
        by_label = {level.label: level for level in levels}
        inks = []
        for slot in self._cells.slots:
            level = by_label.get(slot.label)
            own = PALE if level and level.code == REST else level.color if level and level.color else fill
            inks.append(Ink(own, hatch))
        return inks
