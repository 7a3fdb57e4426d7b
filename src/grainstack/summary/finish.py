"""From the sums of the cells found to the table that is shown: levels in order, a full grid, figures."""

from collections.abc import Sequence
from dataclasses import replace
from functools import reduce
from typing import TYPE_CHECKING

import numpy as np
import numpy.typing as npt

from grainstack.errors import IdleError, RequestError, listed
from grainstack.quick import dataclass
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.variable import EVERYTHING, NO_BAND
from grainstack.speech import command, option
from grainstack.summary.figures.columns import column_of, without_hidden
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.shape import CellShape, cell_shape_of, shape_of
from grainstack.summary.figures.small import SMALL_BASE
from grainstack.summary.levels.bases import base_axes, base_of
from grainstack.summary.levels.grid import grid_of, grouping_of, lines_along
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.levels.levels_shown import levels_shown
from grainstack.summary.order import OrderRequest, place_of
from grainstack.summary.provenance import NoBand, Origin, Provenance, Sampling
from grainstack.summary.request import Purpose
from grainstack.summary.statistics import GIVEN_AS
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.design import Pair
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import ALL, Column, Dimension, Flag, Role, SummaryTable

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
    return _Finishing(totals, facts, order, origin).table()


if TYPE_CHECKING:
    from grainstack.summary.figures.hiding import Hidden

_GIVEN: dict[str | None, str] = {name: name for name in GIVEN_AS if name != "other"}


@dataclass(frozen=True, slots=True)
class _Cells:
    """The cells that are shown.

    Attributes:
        dimensions: The columns with the levels shown.
        grid: Their keys, shape (cells, dimensions).
        keys: The keys of the cells found that are in a band throughout, shape (found, dimensions).
        found: Their numbers, shape (found,).
        places: For each column, where each level in natural order stands.
        rest: What became of levels that are not shown one by one, in words.
    """

    dimensions: tuple[Dimension, ...]
    grid: Integers
    keys: Integers
    found: Integers
    places: tuple[Integers, ...]
    rest: str

    @property
    def totals(self) -> list[int | None]:
        """For each dimension the place of its total; None when it has none."""
        return [len(d.levels) - 1 if ALL in d.levels else None for d in self.dimensions]

    def axes(self, *roles: Role) -> list[int]:
        """The dimensions that do one of these things."""
        return [axis for axis, d in enumerate(self.dimensions) if d.role in roles]


class _Finishing:
    """One table on its way from sums to figures."""

    def __init__(self, totals: Accumulator, facts: ColumnFacts, order: OrderRequest, origin: Origin) -> None:
        self._totals = totals
        self._request = totals.request
        self._facts = facts
        self._order = order
        self._origin = origin
        self._no_band: tuple[NoBand, ...] = ()

    def table(self) -> SummaryTable:
        """The finished table."""
        totals, request = self._totals, self._request
        if not len(totals.keys):
            raise RequestError(self._why_empty(), f"Loosen the filters, or look at the columns: {command('look')}.")
        cells = self._cells()
        base = base_of(request, totals.several)
        self._check_measures_alike()
        estimator = Estimator(totals, self._grouping(cells, base), self._strata_names())
        self._check_ready_made(cells, estimator)
        columns: list[Column] = []
        estimates = []
        for figure in request.figures:
            known, ready_made = self._facts.numbers, self._ready_made(estimator)
            column, estimated = column_of(figure, estimator, known, self._origin.noun, ready_made)
            columns.append(column)
            estimates.append(estimated)
        self._check_limits(columns)
        comparison = association = None
        if request.comparison.compare:
            from grainstack.summary.comparison.differences import compared  # noqa: PLC0415 - few tables are tested

            lines = self._compared_lines(cells)
            references = [self._reference(cells, line) for line in lines]
            comparison = compared(request.figures[0], estimator, estimates[0], lines, references)
            columns[0] = replace(columns[0], letters=comparison.letters if request.comparison.letters else ())
        if request.comparison.association:
            from grainstack.summary.comparison.association import association_of  # noqa: PLC0415 - few tables are tested

            association = association_of(*self._plain_table(cells))
        if request.small.hide_small:
            hidden = self._hidden(cells, columns, base_axes(request, base))
            columns = [without_hidden(column, hidden.cells, hidden.bases) for column in columns]
            comparison = None if comparison is None else comparison.without(hidden.cells)
        shapes = {name: shape for name, values in totals.values.items() if (shape := shape_of(values))}
        tests = [comparison.words] if comparison else []
        tests += [association.words] if association else []
        provenance = self._provenance(cells, columns, base, "; ".join(tests))
        values = self._values(estimator, columns) if request.keep_values else {}
        return SummaryTable(
            cells.dimensions,
            cells.grid,
            tuple(columns),
            provenance,
            shapes,
            comparison,
            association,
            values,
            {} if request.small.hide_small else self._cell_shapes(estimator),
        )

    def _check_measures_alike(self) -> None:
        """Refuses measures in different units as parts of one whole.

        Raises:
            RequestError: Names the units.
        """
        units = {self._facts.numbers[name].unit for name in self._request.measure}
        if self._request.base == "measures" and len(units) > 1:
            named = " and ".join(sorted(unit or "no unit" for unit in units))
            raise RequestError(f"Measures in {named} add up to no whole.", "Show them apart.")

    def _check_limits(self, columns: Sequence[Column]) -> None:
        """Refuses what was said of limits where no figure has any.

        Raises:
            RequestError: Names what was said.
        """
        spread = self._request.spread
        given = [name for name in spread.given() if spread.error_bars != "none"]
        if given and not self._request.comparison.compare and not any(column.interval for column in columns):
            if self._request.is_complete:
                raise IdleError(
                    f"{option(given[0])} makes no difference: these figures are all there is and no estimates.",
                    f"Leave it out{', or say that these records are a sample' if self._request.complete else ''}.",
                )
            raise IdleError(
                f"{option(given[0])} makes no difference: none of these figures has limits. A count or sum of records "
                "has no sampling error without a survey design.",
                f"Leave it out, or name a design ({option('weight')}, {option('cluster')}, {option('strata')}).",
            )

    def _cell_shapes(self, estimator: Estimator) -> dict[str, tuple[CellShape | None, ...]]:
        """How the measures of means are distributed in each cell, for advice; only where few cells are shown."""
        means = {f.measure for f in self._request.figures if f.statistic.name == "mean" and f.measure}
        if estimator.grouping.count > _MOST_SHAPES:
            return {}
        found = {}
        for name in sorted(means & set(self._totals.values)):
            if self._totals.values[name].complete:
                values = estimator.values(name)
                found[name] = tuple(cell_shape_of(values.of_cell(cell)) for cell in range(estimator.grouping.count))
        return found

    def _values(self, estimator: Estimator, columns: Sequence[Column]) -> dict[str, tuple[Counted, ...]]:
        """The values of each measure, cell by cell; none of a cell that is left out."""
        found = {name: estimator.values(name) for name in self._request.measure}
        out = np.any([column.flags & Flag.HIDDEN > 0 for column in columns], axis=0)
        nothing = (np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0))
        return {
            name: tuple(nothing if out[cell] else values.of_cell(cell) for cell in range(estimator.grouping.count))
            for name, values in found.items()
        }

    def _cells(self) -> _Cells:
        """Levels in order, cells in no band set aside, and the full grid."""
        names = self._request.dimensions
        natural = self._totals.keys.copy()
        for axis, name in enumerate(names):
            natural[:, axis] = np.array(self._facts.level_places(name))[natural[:, axis]]
        inside = np.flatnonzero(self._without_lost(natural))
        if not len(inside):
            raise RequestError(
                f"No record falls in a band of {listed(f'`{item.label}`' for item in self._no_band)}.",
                "Choose other edges; `under` and `over` leave the outer bands open.",
            )
        shown = [levels_shown(self._totals, self._facts, self._order, axis, inside) for axis in range(len(names))]
        keys = np.column_stack([one.places[natural[inside, axis]] for axis, one in enumerate(shown)])
        dimensions = tuple(one.dimension for one in shown)
        met = np.concatenate([keys, self._of_nothing([one.places for one in shown], dimensions)])
        visible = (met < [len(dimension.levels) for dimension in dimensions]).all(axis=1)
        grid = grid_of(met[visible], dimensions)
        rest = "; ".join(one.rest for one in shown if one.rest)
        return _Cells(dimensions, grid, keys, inside, tuple(one.places for one in shown), rest)

    def _without_lost(self, natural: Integers) -> npt.NDArray[np.bool_]:
        """Which cells are in a band throughout; notes how many records are not, and why."""
        inside = np.ones(len(natural), dtype=bool)
        lost = []
        for axis, name in enumerate(self._request.dimensions):
            variable = self._facts.variables[name]
            if NO_BAND not in variable.levels:
                continue
            out = inside & (natural[:, axis] == variable.levels.index(NO_BAND))
            if self._totals.lost[name]:
                lost.append(NoBand(variable.in_sentence, self._totals.lost[name], variable.outside))
            inside &= ~out
        self._no_band = tuple(lost)
        return inside

    def _grouping(self, cells: _Cells, base: str) -> Grouping:
        axes = base_axes(self._request, base)
        grouping = grouping_of(cells.keys, cells.found, cells.grid, cells.dimensions, axes)
        several = self._totals.several
        if self._totals.outer_keys is None or set(several) <= set(axes):
            return grouping
        return self._of_respondents(cells, grouping, axes)

    def _of_respondents(self, cells: _Cells, grouping: Grouping, axes: Sequence[int]) -> Grouping:
        """The grouping with bases made of respondents, each counted once."""
        keys = self._outer_places(cells.places)
        inside = (keys >= 0).all(axis=1)
        bases = grouping_of(keys[inside], np.flatnonzero(inside), cells.grid, cells.dimensions, axes)
        return replace(
            grouping,
            base_inside=bases.base_inside,
            base_places=bases.base_places,
            base_of=bases.base_of,
            of_respondents=True,
        )

    def _outer_places(self, places: Sequence[Integers]) -> Integers:
        """The places of outer cells among the levels shown, shape (outer cells, dimensions); 0 on other axes."""
        outer = self._totals.outer_keys
        if outer is None:
            return np.zeros((0, len(places)), dtype=np.int64)
        keys = np.zeros((len(outer), len(places)), dtype=np.int64)
        for place, axis in enumerate(self._totals.outer_axes):
            natural = np.array(self._facts.level_places(self._request.dimensions[axis]))[outer[:, place]]
            keys[:, axis] = places[axis][natural]
        return keys

    def _of_nothing(self, places: Sequence[Integers], dimensions: Sequence[Dimension]) -> Integers:
        """The categories of records that chose none of several answers and so are in no cell."""
        keys = self._outer_places(places)
        if any(one.several for one in dimensions if one.role is Role.CATEGORY):
            return keys[:0]
        return keys[(keys >= 0).all(axis=1)]

    def _strata_names(self) -> tuple[str, ...]:
        strata = self._request.design.strata
        if not strata:
            return ()
        return self._facts.design_labels(strata)

    def _compared_lines(self, cells: _Cells) -> list[Integers]:
        """The cells compared with each other: those of one series and panel, totals left aside."""
        totals = np.array([-1 if total is None else total for total in cells.totals])
        lines = lines_along(cells.grid, cells.axes(Role.CATEGORY), cells.totals)
        return [line for line in lines if len(line) and (cells.grid[line[0]] != totals).all()]

    def _reference(self, cells: _Cells, line: Integers) -> int | None:
        """The cell of a line that all others are compared with."""
        compare = self._request.comparison.compare
        if compare in ("pairs", "rest"):
            return None
        axis = cells.axes(Role.CATEGORY)[-1]
        place = place_of(cells.dimensions[axis].variable, str(compare), also=("pairs", "rest"))
        return next((int(cell) for cell in line if cells.grid[cell, axis] == place), None)

    def _plain_table(self, cells: _Cells) -> tuple[Estimator, int, int]:
        """The counts of categories by series, without totals and panels, with one base."""
        axes = cells.axes(Role.CATEGORY, Role.SERIES)
        counts = [len(cells.dimensions[axis].levels) - (ALL in cells.dimensions[axis].levels) for axis in axes]
        grid = np.array([(row, column) for row in range(counts[0]) for column in range(counts[1])], dtype=np.int64)
        dimensions = [cells.dimensions[axis] for axis in axes]
        plain = [
            replace(d, variable=replace(d.variable, levels=d.levels[:n]))
            for d, n in zip(dimensions, counts, strict=True)
        ]
        grouping = grouping_of(cells.keys[:, axes], cells.found, grid, plain, ())
        return Estimator(self._totals, grouping, self._strata_names()), counts[0], counts[1]

    def _hidden(self, cells: _Cells, columns: Sequence[Column], axes: Sequence[int]) -> "Hidden":
        """What is left out of the table, because it rests on few records or would give such figures away."""
        from grainstack.summary.figures.hiding import hidden_cells  # noqa: PLC0415 - few tables hide anything

        least = self._request.small.min_base or SMALL_BASE
        different = {column.records.tobytes(): column.records for column in columns}
        shares = any(column.is_share for column in columns)
        known = axes if shares else None
        found = [hidden_cells(cells.grid, cells.dimensions, records, least, known) for records in different.values()]
        return reduce(lambda one, other: one.and_also(other), found)

    def _check_ready_made(self, cells: _Cells, estimator: Estimator) -> None:
        """Refuses several rows for one cell of figures that are summed up already."""
        if not self._request.value:
            return
        records = estimator.moments(None).records
        totals = [(axis, total) for axis, total in enumerate(cells.totals) if total is not None]
        candidates = np.flatnonzero(records > 1).tolist()
        rests = [(axis, n) for axis, d in enumerate(cells.dimensions) for n, one in enumerate(d.levels) if one.is_rest]
        put_together = [*totals, *rests]
        several = [cell for cell in candidates if all(cells.grid[cell, axis] != place for axis, place in put_together)]
        if not several:
            return
        cell = int(several[int(np.argmax(records[several]))])
        levels = [d.levels[place] for d, place in zip(cells.dimensions, cells.grid[cell], strict=True)]
        named = [(d.variable.name, level.label) for d, level in zip(cells.dimensions, levels, strict=True)]
        where = ", ".join(f"{name} = {label}" for name, label in named if name != EVERYTHING)
        place = f" ({where})" if where else ""
        raise RequestError(
            f"{records[cell]:,} rows stand for one bar{place}: `{self._request.value}` is not summed up yet.",
            f"Add them up: {option('measure')} {self._request.value} {option('stat')} sum."
            f"{self._told_apart(cell, estimator)}",
        )

    def _told_apart(self, cell: int, estimator: Estimator) -> str:
        """In which columns the rows of a cell differ, and what to do about it."""
        grouping, rows = estimator.grouping, self._totals.rows
        inside = grouping.inside[grouping.places == cell].tolist()
        differing = rows.differing(inside) if rows is not None else []
        if not differing:
            return ""
        return f" They differ in {listed(differing)}: choose one level with {option('only')}, or split by it."

    def _ready_made(self, estimator: Estimator) -> tuple[Floats, Floats] | None:
        """The ready-made limits of ready-made figures."""
        request = self._request

        def known(name: str) -> Floats:
            moments = estimator.moments(name)
            return np.where(moments.records == 1, moments.sum, np.nan)  # a sum of limits is no limit

        if request.error_size and request.value:
            return known(request.value) - known(request.error_size), known(request.value) + known(request.error_size)
        if request.error_low and request.error_high:
            return known(request.error_low), known(request.error_high)
        return None

    def _provenance(self, cells: _Cells, columns: Sequence[Column], base: str, tests: str) -> Provenance:
        labels = {name: variable.in_sentence for name, variable in self._facts.variables.items()}
        shares = any(item.figure.statistic.name == "share" for item in columns)
        columns = [item for item in columns if item.figure.purpose is Purpose.SHOWN]
        pairs = {(item.figure.measure, item.figure.per) for item in columns}
        counted = next(iter(pairs)) if len(pairs) == 1 and (None, None) not in pairs else None
        by = [d.variable.in_sentence for d in cells.dimensions if d.variable.name != EVERYTHING]
        out = sum(int((item.flags & Flag.HIDDEN > 0).sum()) for item in columns)
        return Provenance(
            origin=self._origin,
            statistics=f"{', '.join(dict.fromkeys(item.title for item in columns))}{f' by {listed(by)}' if by else ''}",
            unanswered=tuple(
                (labels[name], count) for name, count in self._totals.unanswered.items() if name != EVERYTHING
            ),
            unmeasured=self._unmeasured(counted, {name for pair in pairs for name in pair if name}),
            apart=counted is not None,
            no_band=self._no_band,
            used=self._totals.used.get(counted, 0),
            sampling=self._sampling(),
            base=self._base_sentence(cells, base) if shares else "",
            intervals=_intervals_in_words(columns),
            tests=tests,
            rest=cells.rest,
            hidden=self._hidden_in_words(out),
            several=shares and any(d.several for d in cells.dimensions),
            owners=self._totals.owners.get(counted) if self._totals.owners else None,
            given=_GIVEN.get(self._request.value_is, "value") if self._request.value else "",
            weightless=self._totals.weightless,
        )

    def _unmeasured(self, counted: Pair | None, measured: set[str]) -> tuple[tuple[str, int], ...]:
        """Measures with how many of the records lack a number; for a rate those that lack the second one only."""
        used, numbers = self._totals.used, self._facts.numbers
        everything = used.get(None, 0)
        lacking = {name: everything - used.get((name, None), 0) for name in self._request.measures if name in measured}
        if counted is not None and counted[1]:
            lacking[counted[1]] = used.get((counted[0], None), 0) - used.get(counted, 0)
        return tuple((numbers[name].in_sentence, count) for name, count in lacking.items())

    def _hidden_in_words(self, count: int) -> str:
        """How many figures were left out, and why."""
        if not count:
            return ""
        least = self._request.small.min_base or SMALL_BASE
        figures = "1 figure is" if count == 1 else f"{count:,} figures are"
        return f"{figures} left out: those on fewer than {least} records, and those that would give them away"

    def _sampling(self) -> Sampling:
        design, sums = self._request.design, self._totals.design
        replicates = len(self._totals.wanted.replicates)
        if replicates or sums is None or not (design.strata or design.cluster):
            corrected = bool(design.population) and sums is not None
            return Sampling(design.weight or "", replicates, corrected=corrected)
        drawn = np.bincount(sums.units.keys[:, 0], None if design.cluster else sums.seen)
        return Sampling(
            design.weight or "",
            cluster=design.cluster or "",
            clusters=len(sums.units) if design.cluster else 0,
            strata=design.strata or "",
            stratum_count=len(np.unique(sums.units.keys[:, 0])),
            corrected=bool(design.population),
            centred=int((drawn == 1).sum()) if design.single_cluster == "centred" else 0,
        )

    def _base_sentence(self, cells: _Cells, base: str) -> str:
        """What shares are shares of, and whether those shown add up to it."""
        roles = {"category": (Role.CATEGORY,), "series": (Role.SERIES,), "measures": (Role.CATEGORY, Role.SERIES)}
        named = [dimension for dimension in cells.dimensions if dimension.variable.name != EVERYTHING]
        inner = [one.variable.in_sentence for one in named if one.role in roles.get(base, ())]
        outer = [one.variable.in_sentence for one in named if one.role is Role.PANEL and base != "all"]
        whole = " × ".join(inner or outer)
        within = f"Within each {outer[0]}, each" if inner and outer else "Each"
        if any(d.several for d in cells.dimensions):
            return f"Shares of the {self._origin.noun} that answered" + (
                f", within each {' × '.join([*outer, *inner])}" if whole else ""
            )
        of_base = {cells.dimensions[axis].role for axis in base_axes(self._request, base)}
        cut = {one.role for one in cells.dimensions if one.cut}
        if self._order.drop_rest and cut - of_base and base != "measures":
            return f"Shares of {f'each {whole}' if whole else f'all {self._origin.noun}'}, those left out included"
        return f"{within} {whole} adds to 100 %" if whole else "All shares together add to 100 %"

    def _why_empty(self) -> str:
        origin = self._origin
        if not origin.read:
            return f"{origin.source} holds no records."
        if origin.filtered == origin.read:
            return f"No record is left: all {origin.read:,} of {origin.source} were filtered away."
        lacking = [f"`{name}`" for name, count in self._totals.unanswered.items() if count]
        return f"No record of {origin.source} has an answer in {listed(lacking)}."


def _intervals_in_words(columns: Sequence[Column]) -> tuple[str, ...]:
    """What the limits of each figure are; whose they are is said where they differ or some figures have none."""
    titles: dict[str, list[str]] = {}
    for column in columns:
        titles.setdefault(column.interval, []).append(column.title)
    if len(titles) < 2:
        return tuple(interval for interval in titles if interval)
    return tuple(f"{', '.join(dict.fromkeys(whose))}: {interval}" for interval, whose in titles.items() if interval)
