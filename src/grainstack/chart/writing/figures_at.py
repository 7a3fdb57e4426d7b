"""What is written at each bar: its figure, and whatever else was asked for, in one form for every chart."""

from collections.abc import Callable, Sequence

from msgspec.structs import replace

from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.chart_requests import NumbersRequest, WordsRequest
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.chart.writing.numbers import given_style, number_style
from grainstack.chart.writing.signs import drawn_signs
from grainstack.language import lowered, phrase
from grainstack.requests import Requests
from grainstack.summary.options import RoundingRequest
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Column, Flag

_At = tuple[int, int, int, tuple[str, ...] | None]  # row, column and series of a cell, and what is written of it


class FiguresAt:
    """The texts of figures.

    Args:
        cells: The figures.
        request: How numbers are written and rounded.
        labels: What is written at each mark, in order.
    """

    def __init__(self, cells: ChartCells, request: Requests, labels: Sequence[str]) -> None:
        self._cells = cells
        self.kinds = tuple(labels)
        self._words = request[WordsRequest]
        self._written: dict[_At, str] = {}  # a picture is drafted several times
        add_up, numbers = request.usual(RoundingRequest).add_up, request[NumbersRequest]
        self.figures: list[Figures] = [figures_of(c, add_up=add_up, numbers=numbers) for c in cells.columns]
        if len({(column.unit, column.figure.statistic.name) for column in cells.columns}) == 1:
            self.figures = _written_alike(self.figures, cells)
        plain = NumbersRequest(locale=numbers.locale)  # a pattern is for the figure written first
        self._extra = {
            kind: figures_of(column, add_up=add_up, numbers=numbers if kind in labels[:1] else plain)
            for kind in ("share", "count")
            if (column := cells.table.column_for(Purpose.LABEL, kind)) is not None
        }

    @property
    def first(self) -> Figures:
        """How the first figure is written."""
        return self.figures[0]

    def signs(self, flags: Flag) -> str:
        """The signs of a flagged figure."""
        return drawn_signs(flags, self._words)

    @property
    def scale(self) -> float:
        """What figures are multiplied by on their axis: 100 for shares."""
        return 100.0 if self._cells.column.is_share else self.first.style.scale

    def text(self, cell: Cell) -> str:
        """The figure of a cell as a tip says it, whatever is written at its bar: unit, limits, base and letters too."""
        return self._once(cell, None, self._text)

    def _text(self, cell: Cell) -> str:
        column, figures = self._cells.columns[cell.column], self.figures[cell.column]
        text = figures.text(cell.row)
        unit = figures.unit if cell.known else ""
        unit = "" if unit == "%" and "%" in text else unit
        parts = [f"{text}{self.signs(cell.flags)}{f' {unit}' if unit else ''}"]
        if column.interval:
            low, high = (figures.number(float(limits[cell.row])) for limits in (column.low, column.high))
            if low or high:
                parts.append(phrase("limits {low} to {high}", low=low or "…", high=high or "…"))
        if column.figure.statistic.name not in ("count", "value"):  # a count is its own base
            parts.append(phrase("n = {base}", base=cell.base_in_words))
        parts += [phrase("letters {letters}", letters=cell.letters)] if cell.letters else []
        return ", ".join(parts)

    def label(self, cell: Cell, kinds: Sequence[str] | None = None) -> str:
        """What is written at a cell's bar: the first thing asked for, the others in brackets; then its signs."""
        shown = self.kinds if kinds is None else tuple(kinds)
        return self._once(cell, shown, lambda one: self._label(one, shown))

    def _once(self, cell: Cell, kinds: tuple[str, ...] | None, write: Callable[[Cell], str]) -> str:
        """What is written of a cell, worked out the first time."""
        key = (cell.row, cell.column, cell.series, kinds)
        if key not in self._written:
            self._written[key] = write(cell)
        return self._written[key]

    def _label(self, cell: Cell, kinds: tuple[str, ...]) -> str:
        if not cell.known:
            return (self.signs(cell.flags & Flag.HIDDEN) or "–") if kinds else ""
        parts = [self._part(kind, cell, alone=len(kinds) == 1) for kind in kinds]
        if not parts:
            return ""
        signs = self.signs(cell.flags)
        if kinds[0] == "name" and len(parts) > 1:  # a name and its figure are read as one
            parts = [f"{parts[0]} {parts[1]}", *parts[2:]]
        rest = f" ({', '.join(parts[1:])})" if len(parts) > 1 else ""
        return f"{parts[0]}{signs}{rest}"

    def note(self) -> str:
        """What figures in brackets are; empty when there are none."""
        titles = {kind: column.title for kind in self.kinds if (column := self._column(kind))}
        titles["base"] = phrase("base")
        bracketed = self.kinds[2 if self.kinds[:1] == ("name",) else 1 :]
        names = ", ".join(lowered(titles[kind]) for kind in bracketed if kind in titles)
        return phrase("In brackets: {figures}.", figures=names) if names else ""

    def _column(self, kind: str) -> Column | None:
        """The figure behind a kind of label."""
        return self._cells.table.column_for(Purpose.LABEL, kind) or (
            None if kind in ("base", "name") else self._cells.column
        )

    def _part(self, kind: str, cell: Cell, *, alone: bool) -> str:
        if kind == "name":
            return self._cells.series[cell.series] if self._cells.series else self._cells.slots[cell.slot].label
        if kind == "base":
            return phrase("n = {base}", base=cell.base_in_words) if alone else cell.base_in_words
        if kind in self._extra:
            text = self._extra[kind].text(cell.row)
            return f"{text} %" if kind == "share" and text else text or "–"
        text = self.figures[cell.column].text(cell.row)
        if kind == "share" and not alone:
            return f"{text} %"
        return text


def without_names(labels: Sequence[str]) -> tuple[str, ...]:
    """What is written at a mark beside which its name stands already, as in a terminal."""
    return tuple(kind for kind in labels if kind != "name")


def _written_alike(figures: Sequence[Figures], cells: ChartCells) -> list[Figures]:
    """Figures of one statistic in several measures, with the decimals that suit all of them."""
    share, scale = cells.column.is_share, figures[0].style.scale
    known = [value * (1 if share else scale) for column in cells.columns for value in column.estimate.tolist()]
    given = cells.column.figure.statistic.name == "value" and not share
    style = given_style(known) if given else number_style(known, share=share)
    alike = {"decimals": style.decimals, "power": style.power, "own": style.own}
    return [replace(one, style=replace(one.style, **alike)) for one in figures]
