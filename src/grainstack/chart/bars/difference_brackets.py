"""Brackets from one bar to another, with how much they differ and the p-value of that, from the tests of the table."""

from collections.abc import Sequence
from itertools import permutations

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.bars.bar_arrangement import Bar, BarArrangement
from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.frame.plane import Box
from grainstack.chart.frame.plot_needs import Plots
from grainstack.chart.look.measures import CAP_HEIGHT, FIGURE_LINE
from grainstack.chart.look.palette import MUTED
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Anchor, Area, Dot, Image, Key, Line, Mark, MarkRole, Rect, Sector, Text
from grainstack.chart.writing.figures import Figures
from grainstack.chart.writing.numbers import PERCENT, p_value_text
from grainstack.chart.writing.text import width
from grainstack.errors import RequestError, nearest
from grainstack.language import phrase
from grainstack.option_fields import names_in
from grainstack.option_names import option

_LEG = 0.5  # gaps: how far the ends of a bracket reach towards their bars
_CLEAR = 0.9  # gaps: between a bracket's ends and what stands under them
_TEXT_OFF = 0.95  # gaps: between a bracket and its text, whose letters hang a little below their line
_INSET = 0.4  # gaps: brackets that meet at a bar do not touch
_TEXT_WIDER = 0.25  # slots: how far a text may be wider than its bracket at either end, where room is set aside
_UNDER = (MarkRole.BAR, MarkRole.WHISKER, MarkRole.VALUE, MarkRole.LETTER, MarkRole.RECORD, MarkRole.SECOND_DOT)


class DifferenceBracket(Struct, frozen=True):
    """One bracket.

    Attributes:
        first: The key of the bar that is named first.
        second: That of the other.
        panel: The panel in which they stand.
        span: From where to where it runs along the categories, in slots.
        text: How much the second is above the first, and the p-value.
        words: The same for readers who cannot see it.
    """

    first: Key
    second: Key
    panel: int
    span: tuple[float, float]
    text: str
    words: str


def difference_brackets_of(
    arrangement: BarArrangement, wanted: Sequence[str], figures: Figures
) -> tuple[DifferenceBracket, ...]:
    """The brackets that are asked for, those between near bars first.

    Args:
        arrangement: The bars.
        wanted: For each bracket the names of levels, of which two differ between its bars.
        figures: How figures are written.

    Raises:
        RequestError: Bars that are not shown, or not compared with each other.
    """
    found: list[DifferenceBracket] = []
    cells = arrangement.cells
    for text in wanted:
        mine = [
            one for pair in _pairs(text, arrangement) if (one := _bracket(*pair, cells, figures, arrangement.lanes))
        ]
        if not mine:
            raise RequestError(
                f"{option('bracket')} {text}: these bars are not compared with each other here.", _compared_here(cells)
            )
        found += mine
    return tuple(sorted(found, key=lambda one: one.span[1] - one.span[0]))


def _compared_here(cells: ChartCells) -> str:
    """Which bars are compared with each other."""
    tested = cells.table.comparison
    pair = next((one for one in tested.differences if one.other is not None), None) if tested else None
    if pair is None or pair.other is None:
        return f"Compare them: {option('compare', 'pairs')}."
    both = zip(cells.table.levels_of(pair.cell), cells.table.levels_of(pair.other), cells.table.dimensions, strict=True)
    column = next(dimension.variable.label for one, other, dimension in both if one != other)
    return f"Compared are levels of {column}: name two of them, or exchange {option('by')} and {option('split')}."


def _pairs(text: str, arrangement: BarArrangement) -> list[tuple[Bar, Bar]]:
    """The bars that differ in one column only, by two levels that are named; all other levels named are theirs."""
    names, cells = names_in(text), arrangement.cells
    levels = {id(bar): _levels(bar.cell, cells) for bar in arrangement.bars if bar.cell.known}
    every = dict.fromkeys(level for one in levels.values() for level in one if level)
    unknown = next((name for name in names if name not in every), None)
    if unknown or len(names) < 2:
        raise RequestError(
            f"{option('bracket')} {text}: no bar of `{unknown}` is shown."
            if unknown
            else f"{option('bracket')} {text} names one level, and a bracket goes from one bar to another.",
            nearest(unknown, list(every)) if unknown else "Write it like 'Spring, Summer'.",
        )
    fewest = len(set(names)) - 1  # all levels that are named are of one bar, but for one of the other's own
    named = [bar for bar in arrangement.bars if len(set(names).intersection(levels.get(id(bar), ()))) >= fewest]
    pairs = []
    for one, other in permutations(named, 2):
        mine, its = levels[id(one)], levels[id(other)]
        apart = [(a, b) for a, b in zip(mine, its, strict=True) if a != b]
        if len(apart) != 1 or one.cell.panel != other.cell.panel or not set(apart[0]) <= set(names):
            continue
        if names.index(apart[0][0]) < names.index(apart[0][1]) and set(names) <= {*mine, *its}:
            pairs.append((one, other))
    if not pairs:
        raise RequestError(
            f"{option('bracket')} {text}: no two bars differ by two of these levels alone.",
            "Name two levels of one column, and those of the others that both bars have.",
        )
    return pairs


def _levels(cell: Cell, cells: ChartCells) -> tuple[str, ...]:
    """The labels of a cell, column by column; one that there is not is empty."""
    series = cells.series[cell.series] if cells.series else ""
    return (cells.panels[cell.panel], *cells.slots[cell.slot].labels, series)


def _bracket(one: Bar, other: Bar, cells: ChartCells, figures: Figures, lanes: int) -> DifferenceBracket | None:
    """The bracket of two bars; None where their difference was not tested."""
    comparison = cells.table.comparison
    for tested in comparison.differences if comparison else ():
        rows = (tested.cell, tested.other)
        if rows not in ((one.cell.row, other.cell.row), (other.cell.row, one.cell.row)):
            continue
        estimate = tested.estimate if rows[0] == other.cell.row else -tested.estimate
        signed = replace(figures.style, signed=True)
        amount = f"{signed(estimate)} {figures.unit}".strip()
        if cells.column.is_share:  # a difference of shares is told in points, never in percent
            amount = f"{replace(signed, scale=PERCENT, pattern='')(estimate)} {phrase('points')}"
        p_value = p_value_text(tested.adjusted)
        text = f"{amount}, p {p_value if p_value.startswith('<') else f'= {p_value}'}"
        words = phrase("{one} less {other}: {text}.", one=cells.name(other.cell), other=cells.name(one.cell), text=text)
        start, end = sorted(bar.cell.slot + bar.lane / lanes for bar in (one, other))
        return DifferenceBracket(cells.key(one.cell), cells.key(other.cell), one.cell.panel, (start, end), text, words)
    return None


def room_for_brackets(brackets: Sequence[DifferenceBracket], style: Style, *, horizontal: bool) -> float:
    """The room they take at most beyond all that stands at bars, in points: one over the other in each panel.

    Args:
        brackets: The brackets.
        style: Sizes.
        horizontal: Whether bars lie, so that texts stand beside brackets.
    """
    size = max((width(one.text, style.value) for one in brackets), default=0.0) if horizontal else style.value
    return _levels_of(brackets) * (size * (1 if horizontal else FIGURE_LINE) + style.gap * (_LEG + _CLEAR + _TEXT_OFF))


def _levels_of(brackets: Sequence[DifferenceBracket]) -> int:
    """How many brackets stand over each other at most."""
    levels: list[list[DifferenceBracket]] = []
    for one in brackets:
        free = next((level for level in levels if not any(_meet(one, other) for other in level)), None)
        if free is None:
            levels.append([one])
        else:
            free.append(one)
    return len(levels)


def _meet(one: DifferenceBracket, other: DifferenceBracket) -> bool:
    reach = min(one.span[1], other.span[1]) - max(one.span[0], other.span[0])
    return one.panel == other.panel and reach + 2 * _TEXT_WIDER > 0


def difference_marks(
    brackets: Sequence[DifferenceBracket], marks: Sequence[Mark], plots: Plots, style: Style
) -> list[Mark]:
    """The brackets with their texts, each just beyond what stands between its bars; one without room is left out.

    Args:
        brackets: The brackets, those between near bars first.
        marks: What stands in the plots.
        plots: Where the bars lie.
        style: Sizes.
    """
    bars = {mark.key: mark for mark in marks if isinstance(mark, Rect) and mark.role is MarkRole.BAR}
    taken = [_box(mark) for mark in marks if mark.role in _UNDER and not isinstance(mark, Area | Image | Sector)]
    found: list[Line | Text] = []
    for one in brackets:
        first, second = bars.get(one.first), bars.get(one.second)
        if first is None or second is None:
            continue
        place = _Place(first, second, one, plots, style)
        drawn = place.marks(taken)
        found += drawn
        taken += map(_box, drawn)
    return [*found]


class _Place:
    """One bracket on its way to its place."""

    def __init__(self, first: Rect, second: Rect, one: DifferenceBracket, plots: Plots, style: Style) -> None:
        self._one, self._style = one, style
        self._plane = plots.planes[one.panel]
        self._lying = plots.horizontal
        start, end = sorted(map(self._middle, (first, second)))
        self._ends = (start + style.gap * _INSET, end - style.gap * _INSET)
        self._wide = width(one.text, style.value)

    def _middle(self, bar: Rect) -> float:
        return bar.y + bar.height / 2 if self._lying else bar.x + bar.width / 2

    def marks(self, taken: Sequence[Box]) -> list[Line | Text]:
        """It with its text; nothing where it would leave the plot."""
        return self._beside(taken) if self._lying else self._above(taken)

    def _above(self, taken: Sequence[Box]) -> list[Line | Text]:
        style, frame = self._style, self._plane.frame
        start, end = self._ends
        left = min(max((start + end - self._wide) / 2, frame.left), frame.right - self._wide)
        reach = (min(start, left), max(end, left + self._wide))
        under = [box.top for box in taken if box.left < reach[1] and box.right > reach[0] and box.top >= frame.top]
        foot = min(under, default=frame.bottom) - style.gap * _CLEAR
        y = foot - style.gap * _LEG
        if y - style.gap * _TEXT_OFF - style.value * CAP_HEIGHT < frame.top:
            return []
        lines = [(start, y, end, y), (start, y, start, foot), (end, y, end, foot)]
        return self._drawn(lines, left, y - style.gap * _TEXT_OFF)

    def _beside(self, taken: Sequence[Box]) -> list[Line | Text]:
        style, frame = self._style, self._plane.frame
        start, end = self._ends
        half = style.value * FIGURE_LINE / 2
        reach = (min(start, (start + end) / 2 - half), max(end, (start + end) / 2 + half))
        within = [box.right for box in taken if box.top < reach[1] and box.bottom > reach[0]]
        foot = max(within, default=frame.left) + style.gap * _CLEAR
        x = foot + style.gap * _LEG
        if x + style.gap * _TEXT_OFF + self._wide > frame.right:
            return []
        lines = [(x, start, x, end), (x, start, foot, start), (x, end, foot, end)]
        return self._drawn(lines, x + style.gap * _TEXT_OFF, (start + end) / 2 + style.value * CAP_HEIGHT / 2)

    def _drawn(self, lines: Sequence[tuple[float, float, float, float]], x: float, y: float) -> list[Line | Text]:
        one, style = self._one, self._style
        between = (*one.first.category, *one.first.series, *one.second.category, *one.second.series)
        key = Key(one.first.panel, between, ("*bracket",))
        drawn: list[Line | Text] = [Line(*line, MUTED, style.grid * 1.2, MarkRole.BRACKET, key) for line in lines]
        text = Text(x, y, one.text, style.value, self._wide, MUTED, MarkRole.DIFFERENCE, anchor=Anchor.START, key=key)
        return [*drawn, text]


def _box(mark: Text | Line | Dot | Rect) -> Box:
    """The room of a mark."""
    if isinstance(mark, Text):
        return Box(*mark.box)
    if isinstance(mark, Line):
        (left, right), (top, bottom) = sorted((mark.x1, mark.x2)), sorted((mark.y1, mark.y2))
        return Box(left, top, right, bottom)
    if isinstance(mark, Dot):
        return Box(mark.x - mark.radius, mark.y - mark.radius, mark.x + mark.radius, mark.y + mark.radius)
    return Box(mark.x, mark.y, mark.x + mark.width, mark.y + mark.height)
