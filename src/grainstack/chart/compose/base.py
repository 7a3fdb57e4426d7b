"""What every chart of values by category shares: page, plots, legend, words; a chart adds its own marks."""

from abc import ABC, abstractmethod

from grainstack.chart.alt import alt_text
from grainstack.chart.arrange.cells import Cell, ChartCells
from grainstack.chart.coloring import Ink
from grainstack.chart.compose.categories import Category
from grainstack.chart.compose.clear import cleared
from grainstack.chart.compose.figures_at import FiguresAt
from grainstack.chart.compose.geometry import Box, Plane
from grainstack.chart.compose.inks import Inks
from grainstack.chart.compose.labels import ValueLabel
from grainstack.chart.compose.legend import Legend
from grainstack.chart.compose.loose import direct_names, inside_legend
from grainstack.chart.compose.page import page_of
from grainstack.chart.compose.plots import Beyond, PlotNeeds, Plots, grid_of_panels, panel_style, settled_plots
from grainstack.chart.compose.second import second_color, second_marks, second_needs
from grainstack.chart.compose.values import AxisNeeds, reference_marks
from grainstack.chart.request import ChartRequest
from grainstack.chart.scene import Key, Mark, Scene
from grainstack.chart.style import style_named
from grainstack.chart.wording import Words, words_for


class CategoryChart(ABC):
    """One chart while it is being composed.

    Args:
        cells: Its figures.
        request: Direction, labels, words, colours and size.
        kind: What it is called in the text for readers who cannot see it.
        ways: For a diverging chart, which way each series points.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """

    def __init__(
        self, cells: ChartCells, request: ChartRequest, kind: str, ways: tuple[int, ...] | None = None
    ) -> None:
        self._cells = cells
        self._request = request
        self._kind = kind
        self._size = request.picture.points
        self._page_style = style_named(request.picture.style).for_size(*self._size)
        self._style = self._page_style
        self._figures = FiguresAt(cells, request)
        self._second = second_needs(cells)
        self._kinds = request.bars.labels if request.bars.label != "value" or not self._second else ()
        self._inks = Inks(cells, request.colors, self._page_style, ways)
        self._second_color = second_color({self._inks.of(cell).fill for cell in cells.cells})
        self._words: Words | None = None

    def scene(self) -> Scene:
        """The finished scene."""
        least = self._request.small.min_base or 30
        words = words_for(self._cells.table, self._request.words, self._request.numbers, self._notes(), least)
        self._words = words
        page = page_of(words, self._page_style, self._size)
        shape = grid_of_panels(len(self._cells.panels), self._request.bars.panel_columns, page.body)
        self._style = panel_style(self._page_style, *shape)
        wanted = self._request.words.legend
        place = {"auto": "top", "direct": "top", "inside": "none"}.get(wanted, wanted)
        marks, plots = self._drawn(page.body, place)
        if wanted == "inside" and self._cells.series:
            legend = inside_legend(self._legend(place), plots, marks, self._page_style)
            if legend is None:
                marks, plots = self._drawn(page.body, "top")
            else:
                marks += legend
        elif wanted == "direct":
            marks = direct_names(self._cells.series, plots, marks, self._page_style, self._size[0])
        alt = alt_text(self._kind, self._cells.table, self._cells.column, words.title, self._figures.first)
        everything = cleared(self._size, [*page.marks, *marks])
        return Scene(*self._size, everything, alt, words.title)

    @abstractmethod
    def _notes(self) -> list[str]:
        """Sentences for the footnote besides those of the table."""

    @abstractmethod
    def _axis(self) -> AxisNeeds:
        """What the value axis has to show."""

    @abstractmethod
    def _beyond(self, labels: list[ValueLabel]) -> list[Beyond]:
        """What stands beyond values."""

    @abstractmethod
    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:
        """The marks within the plots."""

    def _fits(self, labels: list[ValueLabel], plots: Plots) -> bool:  # noqa: ARG002 - a chart may look at both
        """Whether labels can be written in these plots."""
        return True

    @property
    def _lying(self) -> bool:
        """Whether horizontal bars are preferred."""
        return False

    @property
    def _with_bases(self) -> bool:
        """Whether each category's base stands under its label."""
        return self._cells.column.figure.statistic.name not in ("count", "sum", "value", "share")

    def _behind(self, plane: Plane) -> list[Mark]:  # noqa: ARG002 - most charts add nothing
        """Marks under everything else of a plot."""
        return []

    def _drawn(self, body: Box, legend: str) -> tuple[list[Mark], Plots]:
        """All marks inside the body, and where the plots lie."""
        labels = self._labels()
        plots = self._laid_out(labels, legend, body)
        if self._kinds and not self._fits(labels, plots):
            self._kinds = ()  # no type is small enough to write figures side by side: none, and more ticks instead
            labels = self._labels()
            plots = self._laid_out(labels, legend, body)
        marks: list[Mark] = [mark for plane in plots.planes for mark in self._behind(plane)]
        marks += [*plots.behind, *self._marks(plots, labels)]
        if self._second:
            marks += second_marks(self._cells, self._second, plots, self._style, self._second_color)
        marks += [mark for plane in plots.planes for mark in reference_marks(self._axis(), plane, self._style)]
        return [*marks, *plots.around], plots

    def _laid_out(self, labels: list[ValueLabel], legend: str, body: Box) -> Plots:
        cells, bars, words = self._cells, self._request.bars, self._words
        needs = PlotNeeds(
            categories=self._categories(),
            places=tuple(slot.place for slot in cells.slots),
            span=cells.span,
            axis=self._axis(),
            panels=cells.panels,
            panel_columns=bars.panel_columns,
            second=self._second,
            second_color=self._second_color,
            second_title=words.second_title if words else "",
            from_zero=self._request.second.second_range == "from-zero",
            beyond=tuple(self._beyond(labels)),
            direction=bars.direction,
            lying=self._lying,
            dense=any(label.content for label in labels),
            value_title=words.value_title if words else "",
            category_title=words.category_title if words else "",
            legend=self._legend(legend),
        )
        return settled_plots(needs, body, self._page_style, self._page_style.margin)

    def _legend(self, place: str) -> Legend:
        names, inks = self._cells.series, self._inks.series
        grounds_of = tuple(Ink(self._inks.ground(ink), ink.hatch) for ink in inks)
        return Legend(names, grounds_of, place)

    def _categories(self) -> tuple[Category, ...]:
        cells = self._cells
        shown = self._with_bases and len(cells.panels) == 1 and "base" not in self._kinds
        found = []
        for place, slot in enumerate(cells.slots):
            base = f"n = {cells.stack(0, place)[0].base:,}" if shown else ""
            found.append(Category(slot.label, base, slot.outer, slot.group))
        return tuple(found)

    def _labels(self) -> list[ValueLabel]:
        return [self._label(cell) for cell in self._cells.cells]

    def _label(self, cell: Cell) -> ValueLabel:
        content = self._figures.label(cell, self._kinds)
        ground = self._inks.ground(self._inks.of(cell))
        return ValueLabel(content, self._key(cell), ground, cell.letters, self._style.value)

    def _key(self, cell: Cell) -> Key:
        series = self._cells.series[cell.series] if self._cells.series else ""
        return Key(self._cells.panels[cell.panel], self._cells.slots[cell.slot].name, series)
