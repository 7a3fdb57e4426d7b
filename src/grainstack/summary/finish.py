"""From the sums of the cells found to the table that is shown: levels in order, a full grid, figures."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from grainstack.errors import RequestError, listed
from grainstack.records.found import Found
from grainstack.records.variable import NO_BAND, LevelOrder, Variable
from grainstack.summary.accumulator import Totals
from grainstack.summary.estimates import Sums, column
from grainstack.summary.grid import grid_of
from grainstack.summary.moments import Floats, Integers, Moments
from grainstack.summary.order import OrderRequest, chosen, ordered_levels
from grainstack.summary.provenance import NoBand, Origin, Provenance
from grainstack.summary.shape import shape_of
from grainstack.summary.table import Column, Dimension, Role, SummaryTable


class SeveralRowsError(RequestError):
    """Several rows stand for one cell of figures that are summed up already.

    Attributes:
        cell: For each column of the request, the label of the level where it happens.
    """

    def __init__(self, message: str, remedy: str, cell: dict[str, str]) -> None:
        super().__init__(message, remedy)
        self.cell = cell


def table_of(totals: Totals, found: Found, order: OrderRequest, origin: Origin) -> SummaryTable:
    """The table of everything an accumulator has seen.

    Args:
        totals: Its sums.
        found: What is known of the columns, and how the batches coded their levels.
        order: In which order levels stand.
        origin: Where the records came from.

    Raises:
        RequestError: No record is left to sum up, the order names a level there is not, or ready-made figures have
            several rows for a cell.
    """
    return _Finishing(totals, found, order, origin).table()


@dataclass(frozen=True, slots=True)
class _Cells:
    """The cells that are shown, and where the sums of the cells found belong among them.

    Attributes:
        dimensions: The columns with the levels shown.
        grid: The keys of the cells shown, shape (cells, dimensions).
        inside: Which of the cells found are shown, shape (found,).
        places: Where each of those belongs, shape (inside,).
    """

    dimensions: tuple[Dimension, ...]
    grid: Integers
    inside: Integers
    places: Integers


class _Finishing:
    """One table on its way from sums to figures."""

    def __init__(self, totals: Totals, found: Found, order: OrderRequest, origin: Origin) -> None:
        self._totals = totals
        self._request = totals.request
        self._found = found
        self._order = order
        self._origin = origin
        self._no_band: tuple[NoBand, ...] = ()

    def table(self) -> SummaryTable:
        """The finished table."""
        totals = self._totals
        if not len(totals.keys):
            raise RequestError(self._why_empty(), "Loosen the filters, or look at the columns: grainstack look.")
        cells = self._cells()
        self._check_ready_made(cells)
        counts = self._shown(totals.counts, cells)
        whole = self._whole(counts, cells)
        columns = []
        for figure in self._request.figures:
            if figure.measure is None:
                sums = Sums(counts, whole, None, self._origin.noun)
            else:
                measured = self._shown(totals.measures[figure.measure], cells)
                ready = self._ready_made_limits(cells)
                sums = Sums(measured, whole, self._found.numbers[figure.measure], self._origin.noun, ready)
            columns.append(column(figure, sums, self._request))
        shapes = {name: shape for name, values in totals.values.items() if (shape := shape_of(values))}
        return SummaryTable(
            cells.dimensions, cells.grid, tuple(columns), self._provenance(cells, columns, counts), shapes
        )

    def _cells(self) -> _Cells:
        """Levels in order, cells in no band set aside, and the full grid."""
        natural = self._totals.keys.copy()
        variables = [self._found.variables[name] for name in self._request.dimensions]
        for axis, name in enumerate(self._request.dimensions):
            natural[:, axis] = np.array(self._found.level_places(name))[natural[:, axis]]
        inside = np.flatnonzero(self._without_lost(natural, variables))
        if not len(inside):
            raise RequestError(
                f"No record falls in a band of {listed(f'`{item.label}`' for item in self._no_band)}.",
                "Choose other edges; `under` and `over` leave the outer bands open.",
            )
        keys = natural[inside]
        dimensions = []
        for axis, variable in enumerate(variables):
            dimension, places = self._dimension(variable, axis, natural[:, axis], inside)
            keys[:, axis] = places[keys[:, axis]]
            dimensions.append(dimension)
        grid, places = grid_of(keys, dimensions)
        return _Cells(tuple(dimensions), grid, inside, places)

    def _without_lost(self, natural: Integers, variables: Sequence[Variable]) -> Integers:
        """Which cells are in a band throughout; notes how many records are not, and why."""
        inside = np.ones(len(natural), dtype=bool)
        lost = []
        for axis, variable in enumerate(variables):
            if NO_BAND not in variable.levels:
                continue
            out = inside & (natural[:, axis] == variable.levels.index(NO_BAND))
            if out.any():
                records = int(self._totals.counts.records[out].sum())
                lost.append(NoBand(variable.in_sentence, records, variable.outside))
            inside &= ~out
        self._no_band = tuple(lost)
        return inside

    def _dimension(
        self, variable: Variable, axis: int, natural: Integers, inside: Integers
    ) -> tuple[Dimension, Integers]:
        """A column of the request with the levels shown, and for each level its place among them."""
        name = self._request.dimensions[axis]
        is_series = name == self._request.split
        several = axis in self._totals.several
        sizes = self._sizes(natural, len(variable.levels), by_estimate=not is_series).tolist()
        rule = self._order.split_order if is_series else self._order.order if axis == 0 else None
        wanted, said = ordered_levels(variable, rule, sizes)
        occurring = set(natural[inside].tolist())
        if self._found.keep_empty:
            shown = [place for place in wanted if variable.levels[place] != NO_BAND]
        elif variable.order is LevelOrder.BANDS:
            span = range(min(occurring), max(occurring) + 1)
            shown = [place for place in wanted if place in span]
        else:
            shown = [place for place in wanted if place in occurring]
        renumbered = np.full(len(variable.levels), -1, dtype=np.int64)
        renumbered[shown] = np.arange(len(shown))
        role = Role.SERIES if is_series else Role.CATEGORY
        shown_levels = chosen(variable.levels, shown)
        return Dimension(role, variable.with_levels(shown_levels, variable.order), said, several), renumbered

    def _sizes(self, places: Integers, count: int, *, by_estimate: bool) -> Floats:
        """What largest first goes by: the first figure over each level's records, or their weight."""
        figure = self._request.figures[0]
        if figure.measure is None or not by_estimate:
            return self._totals.counts.regrouped(places, count).weight
        sums = self._totals.measures[figure.measure].regrouped(places, count)
        if figure.statistic.additive:
            return sums.sum
        return sums.mean

    def _shown(self, moments: Moments, cells: _Cells) -> Moments:
        return moments.at(cells.inside).regrouped(cells.places, len(cells.grid))

    def _share_base(self, dimensions: Sequence[Dimension]) -> str:
        """What shares are shares of unless it was said: of each category when it is split, else of everything.

        Where the categories are several answers of one record, shares are of the respondents in each series.
        """
        if self._request.base:
            return self._request.base
        if not self._request.split:
            return "all"
        return "series" if any(d.several for d in dimensions if d.role is Role.CATEGORY) else "category"

    def _whole(self, counts: Moments, cells: _Cells) -> Moments:
        """For each cell shown, the sums of the base its share is taken of."""
        base = self._share_base(cells.dimensions)
        split = cells.dimensions[-1].role is Role.SERIES
        axes = {
            "category": range(len(cells.dimensions) - split),
            "series": range(len(cells.dimensions) - split, len(cells.dimensions)),
        }.get(base, range(0))
        groups = _groups(cells.grid[:, list(axes)])
        several = self._totals.several
        if self._totals.respondents is None or set(several) <= set(axes):
            return counts.regrouped(groups, int(groups.max()) + 1).at(groups)
        return self._respondents(cells, [axis for axis in axes if axis not in several])

    def _respondents(self, cells: _Cells, axes: Sequence[int]) -> Moments:
        """Each record that answered, once, grouped by the levels of these axes."""
        outer_keys, respondents = self._totals.respondents or (np.zeros((0, 0), dtype=np.int64), Moments())
        outer_axes = [axis for axis in range(len(cells.dimensions)) if axis not in self._totals.several]
        wanted = cells.grid[:, list(axes)]
        keys = np.zeros((len(outer_keys), len(axes)), dtype=np.int64)
        for place, axis in enumerate(axes):
            name = self._request.dimensions[axis]
            natural = np.array(self._found.level_places(name))[outer_keys[:, outer_axes.index(axis)]]
            codes = {level.code: n for n, level in enumerate(cells.dimensions[axis].levels)}
            levels = self._found.variables[name].levels
            keys[:, place] = [codes.get(levels[one].code, -1) for one in natural]
        both = _groups(np.concatenate([wanted, keys]))
        grouped = respondents.regrouped(both[len(wanted) :], int(both.max()) + 1)
        return grouped.at(both[: len(wanted)])

    def _check_ready_made(self, cells: _Cells) -> None:
        """Refuses several rows for one cell of figures that are summed up already."""
        if not self._request.value:
            return
        counts = self._shown(self._totals.counts, cells)
        if counts.records.max() <= 1:
            return
        cell = int(np.argmax(counts.records))
        levels = [d.levels[place] for d, place in zip(cells.dimensions, cells.grid[cell], strict=True)]
        named = {d.variable.name: level.label for d, level in zip(cells.dimensions, levels, strict=True)}
        said = ", ".join(f"{name} = {label}" for name, label in named.items())
        raise SeveralRowsError(
            f"{counts.records[cell]:,} rows stand for one bar ({said}): `{self._request.value}` is not summed up yet.",
            f"Add them up: --measure {self._request.value} --stat sum.",
            named,
        )

    def _ready_made_limits(self, cells: _Cells) -> tuple[Floats, Floats] | None:
        """The ready-made limits of ready-made figures."""
        request = self._request
        if request.error_size:
            size = _known_sum(self._shown(self._totals.measures[request.error_size], cells))
            middle = self._shown(self._totals.measures[str(request.value)], cells).sum
            return middle - size, middle + size
        if request.error_low and request.error_high:
            low, high = (self._shown(self._totals.measures[n], cells) for n in (request.error_low, request.error_high))
            return _known_sum(low), _known_sum(high)
        return None

    def _provenance(self, cells: _Cells, columns: Sequence[Column], counts: Moments) -> Provenance:
        labels = {name: variable.in_sentence for name, variable in self._found.variables.items()}
        measured = {item.figure.measure for item in columns}
        single = len(measured) == 1 and None not in measured
        unanswered = tuple(
            (labels.get(name) or self._found.numbers[name].in_sentence, count)
            for name, count in self._totals.unanswered.items()
            if name in labels or name in measured
        )
        if self._totals.respondents is not None:
            used = int(self._totals.respondents[1].records.sum()) - sum(item.records for item in self._no_band)
        else:
            used = int(columns[0].base.sum()) if single else int(counts.records.sum())
        shares = any(item.figure.statistic.name == "share" for item in columns)
        several = any(d.several for d in cells.dimensions)
        intervals = tuple(dict.fromkeys(item.interval for item in columns if item.interval))
        weight = self._request.weight
        return Provenance(
            self._origin,
            unanswered,
            self._no_band,
            used,
            f"Weighted by {weight}" if weight else "",
            self._base_sentence(cells.dimensions) if shares else "",
            intervals,
            shares and several,
        )

    def _base_sentence(self, dimensions: Sequence[Dimension]) -> str:
        base = self._share_base(dimensions)
        categories = " × ".join(d.variable.in_sentence for d in dimensions if d.role is Role.CATEGORY)
        whole = {"category": categories, "series": dimensions[-1].variable.in_sentence}.get(base, "")
        if any(d.several for d in dimensions):
            return f"Shares of the {self._origin.noun} that answered" + (f", within each {whole}" if whole else "")
        return f"Each {whole} adds to 100 %" if whole else "All shares together add to 100 %"

    def _why_empty(self) -> str:
        origin = self._origin
        if not origin.read:
            return f"{origin.source} holds no records."
        if origin.filtered == origin.read:
            return f"No record is left: all {origin.read:,} of {origin.source} were filtered away."
        lacking = [f"`{name}`" for name, count in self._totals.unanswered.items() if count]
        return f"No record of {origin.source} has an answer in {listed(lacking)}."


def _groups(keys: Integers) -> Integers:
    """For each row of keys the number of its group; one group when there are no keys."""
    if not keys.shape[1]:
        return np.zeros(len(keys), dtype=np.int64)
    return np.unique(keys, axis=0, return_inverse=True)[1].reshape(-1)


def _known_sum(moments: Moments) -> Floats:
    return np.where(moments.records > 0, moments.sum, np.nan)
