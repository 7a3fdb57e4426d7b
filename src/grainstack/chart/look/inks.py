"""Which ink each figure of a chart has: by its series, else by its category."""

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.colors_request import RAMPS, CategoryColorsRequest, ColorsRequest
from grainstack.chart.look.color import PAPER, is_between, over
from grainstack.chart.look.coloring import HATCHES, Ink, check_names, inks_of_series, recolored
from grainstack.chart.look.palette import PALE, colors_in, firm
from grainstack.chart.look.style import Style
from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.requests import Requests

_FAINT = 0.42  # opacity of what is not highlighted: pale enough to step back, strong enough to tell colours apart


class Inks:
    """The inks of one chart.

    Args:
        cells: Its figures.
        request: What was asked for.
        style: The palettes to choose from.
        ways: For a diverging chart, which way each series points.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """

    def __init__(self, cells: ChartCells, request: Requests, style: Style, ways: tuple[int, ...] | None = None) -> None:
        colors = request[ColorsRequest]
        self._cells = cells
        self._colors = colors
        names = [slot.label for slot in cells.slots]
        check_names(colors, [*cells.series, *names])
        if colors.one_color and not cells.series:
            raise RequestError(
                f"{option('one_color')} is for series, and there are none.",
                f"Name their column with {option('split')}, or a colour with {option('color')}.",
            )
        series: tuple[Ink, ...] = ()
        if cells.series:
            series = inks_of_series(cells.dimension, cells.count, colors, style, sides=ways)
        self.series = recolored(series, cells.series, colors)
        each = request.usual(CategoryColorsRequest).color_by_category
        if each and cells.series:
            raise RequestError(
                f"{option('color_by_category')} is for bars without series, and here these have the colours.",
                "Leave it out.",
            )
        categories = self._each_category(style) if each else self._of_categories(style)
        if style.slender:
            categories = [Ink(firm(ink.fill), ink.hatch) for ink in categories]
        self._categories = recolored(categories, names, colors)
        self._faded = set() if not colors.highlighted else {n for n in names if n not in colors.highlighted}
        if not any(name in names for name in colors.highlighted):
            self._faded = set()

    def of(self, cell: Cell) -> Ink:
        """The ink of a figure."""
        if not self.series:
            return self._categories[cell.slot]
        ink = self.series[cell.series]
        faded = self._cells.slots[cell.slot].label in self._faded and ink.fill != PALE
        return Ink(over(ink.fill, PAPER, _FAINT), ink.hatch) if faded else ink

    def is_broken(self, cell: Cell) -> bool:
        """Whether a figure that is not solid has a broken outline: in a chart of one series its colour stays free."""
        return not self.series and bool(cell.flags) and cell.known

    def ground(self, ink: Ink) -> str:
        """The colour text stands on in a mark of this ink."""
        return over(ink.fill, PAPER, self._colors.opacity) if self._colors.opacity < 1 else ink.fill

    def under_text(self, ink: Ink) -> str:
        """The colour behind text on a mark of this ink: paper where it has a plain plate of its own.

        It has one on a pattern, and on the middle tones on which neither white nor ink is read.
        """
        ground = self.ground(ink)
        return PAPER if ink.hatch or is_between(ground) else ground

    def _each_category(self, style: Style) -> list[Ink]:
        """A colour of its own for each category: as series have them."""
        dimension = self._cells.table.categories[-1]
        inks = inks_of_series(dimension, len(dimension.levels), self._colors, style)
        by_key = {level.key: ink for level, ink in zip(dimension.levels, inks, strict=True)}
        plain = Ink(PALE)
        return [by_key.get(slot.codes[-1], plain) if slot.codes else plain for slot in self._cells.slots]

    def _of_categories(self, style: Style) -> list[Ink]:
        name = self._colors.palette or style.nominal
        named = colors_in(name)
        fill = named[len(named) * 3 // 5] if name in RAMPS else named[0]
        hatch = HATCHES[1] if self._colors.patterned else ""
        levels = self._cells.table.categories[-1].levels
        by_key = {level.key: level for level in levels}
        inks = []
        for slot in self._cells.slots:
            level = by_key.get(slot.codes[-1]) if slot.codes else None
            own = PALE if level and level.is_special else level.color if level and level.color else fill
            inks.append(Ink(own, hatch))
        return inks
