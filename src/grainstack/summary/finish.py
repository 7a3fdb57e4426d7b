"""From the sums of the cells found to the table that is shown."""

from collections.abc import Sequence
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt
from msgspec.structs import replace

from grainstack.errors import IdleError, RequestError
from grainstack.language import in_words, phrase
from grainstack.later import Later
from grainstack.option_names import command, option
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.variable import EVERYTHING
from grainstack.summary.changes_shown import changes_shown
from grainstack.summary.comparison.answers import associations_of_answers
from grainstack.summary.comparison.association import association_of, associations_in_words, pooled_association
from grainstack.summary.comparison.compared_cells import compared_lines, compared_role, plain_tables
from grainstack.summary.comparison.differences import compared
from grainstack.summary.comparison.tested import Association, Comparison
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.inference import Inference
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.ready_made import check_one_row_each, ready_made_limits
from grainstack.summary.figures.shape import CellShape, cell_shape_of, shape_of
from grainstack.summary.figures.table_columns import at_cells, certain, column_of, without_hidden
from grainstack.summary.levels.grid import rows_over_series
from grainstack.summary.levels.grouping import base_axes, base_of, joined
from grainstack.summary.levels.shown_cells import ShownCells, shown_cells
from grainstack.summary.order import OrderRequest
from grainstack.summary.provenance import Origin
from grainstack.summary.summary_request import Purpose, SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.table import Column, Flag, Role, SummaryTable
from grainstack.summary.table_provenance import provenance_of, why_empty

if TYPE_CHECKING:
    from grainstack.summary.figures.hiding import Hidden

_HIDDEN_FIGURES = Later("summary.figures.hiding", "hidden_figures")  # linear programmes, which few tables need
_MOST_SHAPES = 120  # cells; of more, nobody follows advice on each shape


def table_of(totals: Accumulator, facts: ColumnFacts, order: OrderRequest, origin: Origin) -> SummaryTable:
    """The table of everything an accumulator has seen.

    Args:
        totals: Its sums.
        facts: What is known of the columns, and what level places stand for.
        order: In which order levels stand.
        origin: Where the records came from.

    Raises:
        RequestError: No record is left to sum up, the order names a level there is not, ready-made figures have
            several rows for a cell, or what is asked cannot be worked out.
    """
    request = totals.request
    if not len(totals.keys):
        raise RequestError(why_empty(totals, origin), f"Loosen the filters, or look at the columns: {command('look')}.")
    cells = shown_cells(totals, facts, order)
    _check_measures_alike(request, facts)
    axes = base_axes(request, base_of(request, totals.several))
    strata = request.design.strata
    estimator = Estimator(totals, cells.grouping(axes), facts.design_labels(strata) if strata else ())
    check_one_row_each(cells, estimator)
    limits = ready_made_limits(estimator)
    rows, row_of = rows_over_series(cells.grid, cells.dimensions)
    made = []
    for figure in request.figures:
        beside = figure.purpose is Purpose.BESIDE
        over = estimator.regrouped(joined(estimator.grouping, rows)) if beside else estimator
        column, inference = column_of(figure, over, facts.numbers, origin.noun, limits)
        made.append((at_cells(column, row_of) if beside else column, inference))
    sure = _wholes(cells, axes)
    columns = [certain(column, sure) if _of_records(column) else column for column, _ in made]
    _check_limits(request, columns)
    if request.comparison.relative_to:
        shown = changes_shown(cells, made)
        provenance = provenance_of(totals, facts, origin, cells, shown.columns)
        return SummaryTable(
            shown.cells.dimensions,
            shown.cells.grid,
            shown.columns,
            provenance,
            trends=shown.trends,
            trends_along=shown.along,
        )
    comparison = _comparison(cells, made[0][1])
    associations = _associations(cells, estimator, origin)
    if comparison is not None and request.comparison.letters:
        columns[0] = replace(columns[0], letters=comparison.letters)
    left_out = []
    if request.small.hide_small:
        hidden: Hidden = _HIDDEN_FIGURES(cells.grid, cells.dimensions, columns, request, axes)
        columns = [without_hidden(column, hidden.cells, hidden.bases) for column in columns]
        out = columns[0].flags & Flag.HIDDEN > 0
        if comparison and not (comparison := comparison.without(out)):
            left_out.append(phrase("Differences are left out, as they would give figures away"))
        if associations and out.any():  # with the totals it tells the cells of a table of two by two
            associations = ()
            left_out.append(phrase("The test of association is left out, as it would give figures away"))
    tests = (*((comparison.words,) if comparison else ()), *associations_in_words(associations), *left_out)
    return SummaryTable(
        cells.dimensions,
        cells.grid,
        tuple(columns),
        replace(provenance_of(totals, facts, origin, cells, columns), tests=tests),
        {name: shape for name, values in totals.values.items() if (shape := shape_of(values))},
        comparison,
        associations,
        _values(estimator, columns) if request.keep_values else {},
        {} if request.small.hide_small else _cell_shapes(estimator),
    )


def _wholes(cells: ShownCells, axes: tuple[int, ...]) -> npt.NDArray[np.bool_]:
    """Which cells are the whole that they are a share of: their share is 1 in whatever sample, and no estimate.

    Args:
        cells: The cells.
        axes: The dimensions whose levels wholes have in common.
    """
    others = [axis for axis, one in enumerate(cells.dimensions) if axis not in axes and one.variable.name != EVERYTHING]
    dimensions = [cells.dimensions[axis] for axis in others]
    if not dimensions or any(one.total is None or one.several for one in dimensions):
        return np.zeros(len(cells.grid), dtype=bool)
    totals = np.array([one.total for one in dimensions], dtype=np.int64)
    return np.asarray((cells.grid[:, others] == totals).all(axis=1))


def _of_records(column: Column) -> bool:
    """Whether its figures are shares of records."""
    return column.figure.statistic.name == "share" and column.measure is None


def _check_measures_alike(request: SummaryRequest, facts: ColumnFacts) -> None:
    """Refuses measures in different units as parts of one whole.

    Raises:
        RequestError: Names the units.
    """
    units = {facts.numbers[name].unit for name in request.measure}
    if request.base == "measures" and len(units) > 1:
        named = " and ".join(sorted(unit or "no unit" for unit in units))
        raise RequestError(f"Measures in {named} add up to no whole.", "Show them apart.")


def _check_limits(request: SummaryRequest, columns: Sequence[Column]) -> None:
    """Refuses what was asked of limits where no figure has any.

    Raises:
        IdleError: Names what was asked.
    """
    spread = request.spread
    given = [name for name in spread.given() if spread.error_bars != "none"]
    if not given or request.comparison.wanted or any(column.interval or column.without_limits for column in columns):
        return
    if request.is_complete:
        raise IdleError(
            f"{option(given[0])} makes no difference: these figures are all there is and no estimates.",
            f"Leave it out{', or say that these records are a sample' if request.complete else ''}.",
        )
    raise IdleError(
        f"{option(given[0])} makes no difference: none of these figures has limits. A count or sum of records "
        "has no sampling error without a survey design.",
        f"Leave it out, or name a design ({option('weight')}, {option('cluster')}, {option('strata')}).",
    )


def _comparison(cells: ShownCells, figures: Inference) -> Comparison | None:
    """The tests of differences in the first figure, if they are wanted."""
    request = figures.estimator.request
    wanted = request.comparison.wanted
    if not wanted:
        return None

    several = [axis for axis, one in enumerate(cells.dimensions) if one.several]
    base = base_of(request, several) if figures.is_share else ""
    of_columns = request.comparison.of_columns
    between = Role.SERIES if of_columns else compared_role(cells, wanted, base)
    lines = compared_lines(cells, wanted, between, shares=base == ("series" if between is Role.SERIES else "category"))
    comparison = compared(figures, lines)
    if of_columns:
        return replace(comparison, of_series=True)
    if base != "series" or not cells.axes(Role.SERIES):
        return comparison
    group, answer = (
        in_words([cells.dimensions[axis].variable.in_sentence for axis in cells.axes(role)])
        for role in (Role.SERIES, Role.CATEGORY)
    )
    told = phrase("each {answer} compared between levels of {group}", answer=answer, group=group)
    if between is Role.CATEGORY:
        told = phrase("levels of {answer} compared within each {group}", answer=answer, group=group)
    return replace(comparison, words=f"{comparison.words}; {told}", of_series=between is Role.SERIES)


def _associations(cells: ShownCells, estimator: Estimator, origin: Origin) -> tuple[Association, ...]:
    """The tests of categories against series, if they are wanted: one in each panel, then one over all of them."""
    if not estimator.request.comparison.association:
        return ()
    design = estimator.request.design
    if origin.records is not None and (not design.is_complex or design.draws_records):
        raise RequestError(
            f"{option('association')} takes rows for independent, and here each of the {origin.noun} gives several.",
            f"Name the column they are numbered in: {option('cluster', 'COLUMN')}; or compare the figures: "
            f"{option('compare')}.",
        )
    if any(one.several for one in cells.dimensions):
        return associations_of_answers(cells, estimator)
    panels = [level.label for axis in cells.axes(Role.PANEL) for level in cells.dimensions[axis].levels]
    found = []
    for place, panel in enumerate(panels or [""]):
        grouping, rows, columns = plain_tables(cells, [place])
        found.append(association_of(estimator.regrouped(grouping), rows, columns, panel))
    if len(panels) > 1:
        grouping, rows, columns = plain_tables(cells, range(len(panels)))
        found.append(pooled_association(estimator.regrouped(grouping), len(panels), rows, columns))
    return tuple(found)


def _cell_shapes(estimator: Estimator) -> dict[str, tuple[CellShape | None, ...]]:
    """How each measure of means is distributed in each cell, for advice; nothing where many cells are shown."""
    kept, count = estimator.totals.values, estimator.grouping.count
    if count > _MOST_SHAPES:
        return {}
    means = {f.measure for f in estimator.request.figures if f.statistic.name == "mean" and f.measure}
    values = {name: estimator.values(name) for name in sorted(means & set(kept)) if kept[name].complete}
    return {name: tuple(cell_shape_of(one.of_cell(cell)) for cell in range(count)) for name, one in values.items()}


def _values(estimator: Estimator, columns: Sequence[Column]) -> dict[str, tuple[Counted, ...]]:
    """The values of each measure, cell by cell; none of a cell that is left out."""
    out = np.any([column.flags & Flag.HIDDEN > 0 for column in columns], axis=0)
    nothing = (np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0))
    found = {name: estimator.values(name) for name in estimator.request.measure}
    return {
        name: tuple(nothing if out[cell] else values.of_cell(cell) for cell in range(estimator.grouping.count))
        for name, values in found.items()
    }
