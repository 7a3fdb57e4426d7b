"""Figures in texts: looked up in the very table that is shown, and written as it writes them."""

from collections.abc import Iterator, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.writing.figures import Figures, figures_of
from grainstack.errors import RequestError, listed, nearest
from grainstack.making.make import Made
from grainstack.plan.file.plan import PlanError
from grainstack.plan.file.references import Reference, reference, references_in, with_figures
from grainstack.plan.file.report import Part, Report
from grainstack.records.filters.time_levels import LATEST, in_time, is_time_level, named_in_time
from grainstack.report.printing import limits_text
from grainstack.summary.options import RoundingRequest
from grainstack.summary.table import UNKNOWN_BASE, Column, Dimension, Flag, SummaryTable, base_in_words


def quoted(report: Report, made: Mapping[str, Made]) -> Report:
    """A report with figures in the place of the references of its texts.

    Args:
        report: The report.
        made: What its references name, by the names of entries.

    Raises:
        PlanError: References to figures there are not; all of them, each with its place.
    """
    figures: dict[str, str] = {}
    faults = []
    for text in dict.fromkeys(one for part in report.texts for one in references_in(part)):
        try:
            figures[text] = _figure(reference(text), made)
        except RequestError as error:
            faults.append(
                f"{report.places.get(text, 'report')}: {{{{{text}}}}}: {error.message} {error.remedy}".rstrip()
            )
    if faults:
        raise PlanError(faults[0], "", faults)

    def put(text: str) -> str:
        return with_figures(text, figures)

    def with_them(part: Part) -> Part:
        return replace(part, heading=put(part.heading), text=put(part.text), caption=put(part.caption))

    return replace(report, title=put(report.title), parts=tuple(map(with_them, report.parts)))


def _figure(named: Reference, made: Mapping[str, Made]) -> str:
    """What stands in the place of a reference.

    Raises:
        RequestError: There is no such figure.
    """
    if named.entry not in made:
        raise RequestError(f"There is no entry `{named.entry}`.", nearest(named.entry, list(made)))
    one = made[named.entry]
    if named.of_figure == "level":
        return _level_named(one.table, named.levels)
    failures = []
    for _, table in one.tables:
        try:
            found = _Found(_column(table, named.figure), _cell(table, named.levels))
        except RequestError as error:
            failures.append(error)
            continue
        return found.text(named, add_up=one.requests[RoundingRequest].add_up)
    raise failures[0]


def _level_named(table: SummaryTable, levels: Sequence[tuple[str, str]]) -> str:
    """The label of the level that a reference names.

    Raises:
        RequestError: It names none, or several.
    """
    if len(levels) != 1:
        raise RequestError("Of a level its name is written.", "Name one: {{entry: level, latest}}.")
    ((column, level),) = levels
    fitting = list(_places(table, column, level))
    if len(fitting) != 1:
        raise _no_level(table, column, level, [axis for axis, _ in fitting])
    ((axis, place),) = fitting
    return table.dimensions[axis].levels[place].label


def _column(table: SummaryTable, figure: str) -> Column:
    """The column of a figure, named by its statistic, its measure or both; the only one where none is named.

    Raises:
        RequestError: There is no such column, or there are several.
    """
    named = [_names_of(column) for column in table.shown]
    every = [names[-1] for names in named]
    fitting = [column for column, names in zip(table.shown, named, strict=True) if figure in ("", *names)]
    if len(fitting) == 1:
        return fitting[0]
    if fitting:
        what = f"`{figure}` may be several of its figures" if figure else "It has several figures"
        raise RequestError(f"{what}.", f"Name one: {listed(every, joint=' or ')}.")
    raise RequestError(f"It has no figure `{figure}`.", nearest(figure, every))


def _names_of(column: Column) -> tuple[str, ...]:
    """What a column may be called; its whole name comes last."""
    statistic = column.figure.statistic.name
    if column.measure is None:
        return (statistic,)
    measures = dict.fromkeys((column.measure.label, column.measure.name))
    return (*measures, statistic, *(f"{statistic} {measure}" for measure in measures))


def _cell(table: SummaryTable, levels: Sequence[tuple[str, str]]) -> int:
    """The cell of some levels; a dimension that none names stands at its total, or at its only level.

    Raises:
        RequestError: There is no such level, one could be of several columns, or a column has to be named.
    """
    places: dict[int, int] = {}
    for column, level in levels:
        fitting = list(_places(table, column, level))
        if len(fitting) != 1:
            raise _no_level(table, column, level, [axis for axis, _ in fitting])
        (axis, place) = fitting[0]
        if axis in places:
            raise RequestError(f"{table.dimensions[axis].variable.name} is named twice.", "Name one level of each.")
        places[axis] = place
    for axis, dimension in enumerate(table.dimensions):
        if axis not in places:
            places[axis] = _unnamed(dimension)
    key, keys = [places[axis] for axis in range(len(table.dimensions))], table.keys.tolist()
    if key not in keys:
        raise RequestError("No record has these levels together.", "Name others.")
    return int(keys.index(key))


def _places(table: SummaryTable, column: str, level: str) -> Iterator[tuple[int, int]]:
    """Dimension and place of each level of a name, a label before a code."""
    for axis, dimension in enumerate(table.dimensions):
        variable = dimension.variable
        if column and column not in (variable.name, variable.label):
            continue
        labels, codes = [one.label for one in dimension.levels], [one.code for one in dimension.levels]
        if level in labels:
            yield axis, labels.index(level)
        elif level in codes:
            yield axis, codes.index(level)
        elif is_time_level(level) and (place := _place_in_time(dimension, level)) is not None:
            yield axis, place


def _place_in_time(dimension: Dimension, name: str) -> int | None:
    """The place of the level that `latest` or `previous` names; None where the levels are no times, nor ordered."""
    plain = dimension.levels[: dimension.plain]
    rising = [plain[place] for place in dimension.natural_places()]
    levels, ordered = in_time(rising, ordered=dimension.variable.is_ordered)
    if not ordered:
        return None
    (label, *others) = named_in_time([name], dimension.variable.name, levels, ordered=True)
    if others:
        raise RequestError(f"`{name}` names several levels.", f"Write {LATEST}, or name one of {listed(others)}.")
    return [level.label for level in plain].index(label)


def _no_level(table: SummaryTable, column: str, level: str, axes: Sequence[int]) -> RequestError:
    """What is wrong with a level that is none, or one of several columns."""
    names = [dimension.variable.name for dimension in table.dimensions]
    if axes:
        return RequestError(
            f"`{level}` is a level of {listed([names[axis] for axis in axes])}.", f"Write {names[axes[0]]}={level}."
        )
    if column and column not in (*names, *(dimension.variable.label for dimension in table.dimensions)):
        return RequestError(f"It is not by `{column}`.", nearest(column, names))
    of_it = [dimension for dimension in table.dimensions if column in ("", dimension.variable.name)]
    labels = [one.label for dimension in of_it or table.dimensions for one in dimension.levels]
    return RequestError(f"It has no level `{level}`.", nearest(level, labels))


def _unnamed(dimension: Dimension) -> int:
    """Where a dimension that is not named stands.

    Raises:
        RequestError: It has several levels and no total.
    """
    if dimension.total is not None:
        return dimension.total
    if len(dimension.levels) == 1:
        return 0
    name, first = dimension.variable.name, dimension.levels[0].label
    raise RequestError(f"It does not say which level of {name}.", f"Name one, as in {name}={first}.")


class _Found(Struct, frozen=True):
    """A figure of a table.

    Attributes:
        column: Its column.
        cell: Its cell.
    """

    column: Column
    cell: int

    def text(self, named: Reference, *, add_up: bool) -> str:
        """What a reference to it becomes.

        Raises:
            RequestError: It is hidden, or there is none.
        """
        column, cell = self.column, self.cell
        if Flag.HIDDEN in Flag(int(column.flags[cell])):
            raise RequestError("The figure must not be shown: it rests on too few records.", "Name another.")
        if named.of_figure == "base" and int(column.base[cell]) == UNKNOWN_BASE:
            raise RequestError("Its base must not be shown: it would give figures away.", "Name another.")
        if named.of_figure == "base":
            return base_in_words(int(column.base[cell]))
        figures = figures_of(column, add_up=add_up, numbers=NumbersRequest(format=named.pattern or None))
        unit = "\N{NO-BREAK SPACE}%" if column.is_share and not named.pattern and column.change is None else ""
        text = self._written(named.of_figure, figures)
        if not text:
            raise RequestError("There is no such figure here.", self._why(named.of_figure))
        return text + unit

    def _written(self, of_figure: str, figures: Figures) -> str:
        column, cell = self.column, self.cell
        if of_figure == "limits":
            return limits_text(float(column.low[cell]), float(column.high[cell]), figures)
        if of_figure:
            values = {"low": column.low, "high": column.high, "error": column.standard_error}[of_figure]
            return figures.number(float(values[cell]))
        return figures.text(cell)

    def _why(self, of_figure: str) -> str:
        """Why a figure is missing, as far as that can be told."""
        return "Ask the entry for error_bars." if of_figure in ("low", "high", "limits") else "Name another."
