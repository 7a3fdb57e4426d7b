"""Which levels of a column are shown, in which order, and which become the rest."""

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError, nearest
from grainstack.language import lowered, phrase, phrases
from grainstack.option_names import option
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.readers.nets import members, nets_by_column
from grainstack.records.variable import Level, LevelOrder, LevelRole, Variable
from grainstack.summary.figures.estimates import estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.order import OrderRequest, by_series, chosen, goes_by_size, ordered_levels, place_of, rule_meant
from grainstack.summary.statistics import STATISTICS, Linear
from grainstack.summary.summary_request import Figure, Purpose
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import REST, Dimension, Role, title_of, total_level


class ShownLevels(Struct, frozen=True):
    """A column of the request with the levels shown.

    Attributes:
        dimension: The column.
        places: For each level in natural order its place among those shown; -1 when it does not occur, and the number
            of levels shown when it is left out although shares count it.
        rest: What became of levels that are not shown one by one, in words; empty when all are.
    """

    dimension: Dimension
    places: Integers
    rest: str = ""


def levels_shown(
    totals: Accumulator, facts: ColumnFacts, order: OrderRequest, axis: int, inside: Integers
) -> ShownLevels:
    """The levels of one column of the request.

    Args:
        totals: All sums.
        facts: What is known of the columns.
        order: In which order levels are wanted, and how many.
        axis: Which column of the request.
        inside: The cells found that are in a band throughout.

    Raises:
        RequestError: The order names a level there is not, or a rest cannot be counted.
    """
    return _Shown(totals, facts, order, axis, inside).levels()


class _Shown:
    """The levels of one column on their way."""

    def __init__(
        self, totals: Accumulator, facts: ColumnFacts, order: OrderRequest, axis: int, inside: Integers
    ) -> None:
        request = totals.request
        name = request.dimensions[axis]
        self._totals, self._facts, self._order, self._axis = totals, facts, order, axis
        self._variable = facts.variables[name]
        self._natural = np.array(facts.level_places(name))[totals.keys[:, axis]]
        self._inside = inside
        self._first = name == request.by[0]
        self._wanted_nets = nets_by_column(request.net, request.dimensions).get(name, [])
        self._rest_place: int | None = None
        self._role = Role.SERIES if name == request.split else Role.PANEL if name == request.panel else Role.CATEGORY

    def levels(self) -> ShownLevels:
        variable, request, order = self._variable, self._totals.request, self._order
        rule = {Role.SERIES: order.split_order, Role.PANEL: order.panel_order}.get(self._role)
        if self._role is Role.CATEGORY:
            rule = order.rule_for(variable.name, {name: self._facts.variables[name].label for name in request.by})
        rule = rule_meant(variable, rule)
        series = by_series(rule) if self._first else None
        sizes = self._sizes(series)
        wanted, wording = ordered_levels(variable, series[0] if series else rule, sizes.tolist())
        if series:
            wording = phrase("{rule} by {what}", rule=wording, what=series[1])
        elif self._role is not Role.PANEL and goes_by_size(variable, rule):
            which = self._by_which(self._going_by(None))
            wording = phrase("{rule} by {what}", rule=wording, what=which) if which else wording
        left_out = self._facts.left_out.get(variable.name, frozenset())  # which are no empty bands between others
        levels_of = variable.levels
        wanted = tuple(n for n in wanted if not levels_of[n].is_net and levels_of[n].code not in left_out)
        met = self._met()
        met |= self._missing_times(met) if list(wanted) in (sorted(wanted), sorted(wanted, reverse=True)) else set()
        shown = _occurring(variable, wanted, met, keep_empty=self._facts.keep_empty)
        places = np.full(len(variable.levels), -1, dtype=np.int64)
        several = self._axis in self._totals.several
        rest: list[int] = []
        most = order.keep_top if self._first else order.split_keep_top if self._role is Role.SERIES else None
        if most is not None:
            aside = [place for place in shown if variable.levels[place].is_special]
            plain = [place for place in shown if place not in aside]
            kept, rest = _cut(plain, self._sizes(None) if series else sizes, most)
            shown = [place for place in shown if place in (*kept, *aside)]
        places[shown] = np.arange(len(shown))
        levels = chosen(variable.levels, shown)
        if rest and not order.drop_rest:
            if several:
                raise RequestError(
                    "Together the other answers would count a record several times.",
                    f"Leave them out: {option('drop_rest')}.",
                )
            request.check_adds_up(f"`{order.rest_name}`, all others together,")
            places[rest] = self._rest_place = len(levels)
            levels = (*levels, Level(REST, order.rest_name, role=LevelRole.REST))
        with_series = request.totals if request.series_totals is None else request.series_totals
        wanted_totals = {Role.CATEGORY: request.totals, Role.SERIES: with_series, Role.PANEL: request.total_panel}
        total = wanted_totals[self._role] and not several
        nets = self._nets(places, len(levels))
        levels = (*levels, *(level for level, _ in nets), *((total_level(),) if total else ()))
        if rest and order.drop_rest:
            places[rest] = len(levels)
        dimension = Dimension(
            self._role,
            variable.with_levels(levels, variable.order),
            wording,
            several,
            dropped=bool(rest) and order.drop_rest,
            nets=tuple(parts for _, parts in nets),
            all_levels=tuple(level for level in variable.levels if not level.is_net),
        )
        return ShownLevels(dimension, places, self._about_rest(shown, rest, most or 0))

    def _missing_times(self, met: set[int]) -> set[int]:
        """Times that no record has, between two that are shown: gaps along an axis."""
        variable = self._variable
        if self._role is not Role.CATEGORY or variable.order not in (LevelOrder.KNOWN, LevelOrder.NUMBERS):
            return set()
        codes = set(self._facts.coded[variable.name])
        read = [place for place, level in enumerate(variable.levels) if level.code in codes and not level.is_special]
        found: set[int] = set()
        for before, after in pairwise(read):
            if before in met and after in met:
                found |= set(range(before + 1, after))
        return found

    def _nets(self, places: Integers, plain: int) -> list[tuple[Level, tuple[int, ...]]]:
        """The levels of nets with the places of their parts among the levels shown.

        Args:
            places: Where each level in natural order is shown, negative where it is not met.
            plain: How many levels are shown so far.

        Raises:
            RequestError: A part is no level, or stands among those that are not shown one by one.
        """
        found: list[tuple[Level, tuple[int, ...]]] = []
        for net in self._wanted_nets:
            natural = members(net, self._variable)
            parts = sorted({int(places[place]) for place in natural if 0 <= places[place] < plain})
            if self._axis in self._totals.several:
                for place in _answer_net(self._variable, net.name):
                    places[place] = plain + len(found)
                    found.append((Level(net.name, net.name, role=LevelRole.NET), tuple(parts)))
                continue
            parts = sorted({int(places[place]) for place in natural if places[place] >= 0})
            last = {place for place in parts if place >= plain} | {
                place for place in parts if self._rest_place is not None and place == self._rest_place
            }
            if last:
                raise RequestError(
                    f"{option('net')} {net.name}: some of its levels are among those not shown one by one.",
                    f"Keep more with {option('keep_top')}, or leave the net out.",
                )
            if parts:
                found.append((Level(net.name, net.name, role=LevelRole.NET), tuple(parts)))
        return found

    def _about_rest(self, shown: list[int], rest: list[int], most: int) -> str:
        """What became of the levels beyond the largest, and that more were kept than asked for where sizes tie."""
        if not rest:
            return ""
        kept = sum(not self._variable.levels[place].is_special for place in shown)
        largest = phrase("{label}: the {most} largest", label=self._variable.label, most=most)
        largest += phrase(" ({kept} because of a tie)", kept=kept) if kept > most else ""
        records = int(
            self._totals.moments(None).records[self._inside][np.isin(self._natural[self._inside], rest)].sum()
        )
        if self._axis in self._totals.several:
            made_of = phrases("{n} answer", "{n} answers", records)
        else:
            made_of = phrases("{n} record", "{n} records", records)
        count = phrases("{n} smaller one", "{n} smaller ones", len(rest))
        count += "" if self._totals.request.small.hide_small else f" ({made_of})"
        if not self._order.drop_rest:
            return f"{largest}; {phrase('{count} together as {name}', count=count, name=self._order.rest_name)}"
        if self._totals.request.value:
            return f"{largest}; {phrase('{count} left out', count=count)}"
        return f"{largest}; {phrase('{count} left out but counted in every base', count=count)}"

    def _sizes(self, by_series: tuple[str, str] | None) -> Floats:
        """What largest first goes by: the first figure over each level, its figure in one series, or one beside them.

        Panels go by their records, or the weight of them.
        """
        totals, count = self._totals, len(self._variable.levels)
        request = totals.request
        beside = self._beside_named(request.split, by_series[1]) if by_series and request.split else None
        by_figure = by_series[1] if by_series and not request.split else None
        figures = [beside] if beside else self._going_by(by_figure)
        figure = figures[0]
        name = figure.statistic.name
        if by_series and request.split and not beside:
            axis = request.dimensions.index(request.split)
            series = np.array(self._facts.level_places(request.split))[totals.keys[:, axis]]
            wanted = self._series_named(request.split, by_series[1])
            only = self._inside[np.isin(series[self._inside], wanted)]
            by_level = name == "share" and request.base in (None, "category")
        else:
            only = self._inside
            by_level = False
        if self._role is Role.PANEL or (figure.measure is None and not by_level):
            once = not set(totals.outer_axes) & set(totals.several)
            if only is self._inside and totals.outer_keys is not None and once and self._axis not in totals.several:
                return self._respondents(totals.outer_keys, count)
            return totals.moments(None).at(only).regrouped(self._natural[only], count).weight
        everything = self._inside
        bases = self._natural[everything] if by_level else np.zeros(len(everything), dtype=np.int64)
        grouping = Grouping(
            inside=only,
            places=self._natural[only],
            count=count,
            base_inside=everything,
            base_places=bases,
            base_of=np.arange(count) if by_level else np.zeros(count, dtype=np.int64),
        )
        estimator = Estimator(totals, grouping)
        estimates = [estimated(figure, estimator).estimate for figure in figures]
        return np.asarray(estimates[0] if len(estimates) == 1 else np.nansum(estimates, axis=0))

    def _beside_named(self, split: str, name: str) -> Figure | None:
        """The figure beside the series that is called so, unless a series is."""
        if any(name in (level.label, level.code) for level in self._facts.variables[split].levels):
            return None
        return next((one for one in self._beside() if one.statistic.name == name.lower()), None)

    def _beside(self) -> list[Figure]:
        return [figure for figure in self._totals.request.figures if figure.purpose is Purpose.BESIDE]

    def _series_named(self, split: str, name: str) -> list[int]:
        """The places of the series of a name, or of the parts of the net of that name."""
        variable = self._facts.variables[split]
        nets = nets_by_column(self._totals.request.net, self._totals.request.dimensions).get(split, [])
        net = next((one for one in nets if one.name == name), None)
        if net is not None:
            return _answer_net(variable, name) or members(net, variable)
        also = [*(one.name for one in nets), *(one.statistic.name for one in self._beside())]
        return [place_of(variable, name, also=also)]

    def _met(self) -> set[int]:
        """The levels of records in the table, those of records that chose none of several answers among them."""
        met = set(self._natural[self._inside].tolist())
        if self._totals.outer_keys is None or self._axis in self._totals.several:
            return met
        only, levels = self._outer(self._totals.outer_keys)
        return met | set(levels[only].tolist())

    def _respondents(self, outer: Integers, count: int) -> Floats:
        """The records of each level, or the weight of them, where they stand in several cells of other columns."""
        only, levels = self._outer(outer)
        return self._totals.respondents.at(only).regrouped(levels[only], count).weight

    def _outer(self, outer: Integers) -> tuple[Integers, Integers]:
        """The outer cells that are in a band throughout, and the level of this column in each outer cell."""
        names, axes = self._totals.request.dimensions, self._totals.outer_axes
        inside = np.ones(len(outer), dtype=bool)
        for place, axis in enumerate(axes):
            lost = [level.is_no_band for level in self._facts.variables[names[axis]].levels]
            inside &= ~np.array(lost)[np.array(self._facts.level_places(names[axis]))[outer[:, place]]]
        levels = np.array(self._facts.level_places(names[self._axis]))[outer[:, axes.index(self._axis)]]
        return np.flatnonzero(inside), levels

    def _going_by(self, name: str | None) -> list[Figure]:
        """The figures that largest first goes by: the one named, all that can be added up, or the first.

        Raises:
            RequestError: No figure has this name.
        """
        figures = [figure for figure in self._totals.request.figures if figure.purpose is Purpose.SHOWN]
        if name is not None:
            names = {each: figure for figure in reversed(figures) for each in self._names_of(figure)}
            if name in names:
                return [names[name]]
            if len(figures) < 2:
                raise RequestError(
                    f"{option('order')} by {name} needs series.", f"Name their column with {option('split')} COLUMN."
                )
            raise RequestError(f"{option('order')}: there is no figure `{name}`.", nearest(name, names))
        if self._totals.request.base == "measures":  # by the whole of each bar
            return [replace(figure, statistic=STATISTICS["sum"]) for figure in figures]
        units = {self._facts.numbers[figure.measure].unit if figure.measure else "" for figure in figures}
        statistics = {figure.statistic.name for figure in figures}
        together = len(units) == len(statistics) == 1 and figures[0].statistic.linear is Linear.TOTAL
        return figures if together else figures[:1]

    def _names_of(self, figure: Figure) -> tuple[str, ...]:
        """How a figure may be called: by its measure where that tells it apart, or by its statistic."""
        figures = [one for one in self._totals.request.figures if one.purpose is Purpose.SHOWN]
        measure = (figure.measure, self._facts.numbers[figure.measure].label) if figure.measure else ()
        several = len({one.statistic.name for one in figures}) > 1
        return (*measure, *((figure.statistic.name,) if several else ()))

    def _by_which(self, figures: Sequence[Figure]) -> str:
        """Which of several figures an order goes by, in words; empty where there is one."""
        shown = [one for one in self._totals.request.figures if one.purpose is Purpose.SHOWN]
        if len(shown) < 2:
            return ""
        if len(figures) > 1:
            return phrase("all figures together")
        measure = self._facts.numbers[figures[0].measure] if figures[0].measure else None
        return lowered(title_of(figures[0], measure, phrase("records")))


def _answer_net(variable: Variable, name: str) -> list[int]:
    """The place of a net of several answers, which is read as an answer of its own; none if no record is in it."""
    return [place for place, level in enumerate(variable.levels) if level.is_net and level.label == name]


def _occurring(variable: Variable, wanted: tuple[int, ...], occurring: set[int], *, keep_empty: bool) -> list[int]:
    """Levels that occur; of bands all from the lowest to the highest that does; everything when that is wanted."""
    if keep_empty:
        return [place for place in wanted if not variable.levels[place].is_no_band]
    if variable.order is LevelOrder.BANDS:
        bands = {place for place in occurring if not variable.levels[place].is_special}
        occurring = occurring | (set(range(min(bands), max(bands) + 1)) if bands else set())
    return [place for place in wanted if place in occurring]


def _cut(shown: list[int], sizes: Floats, most: int) -> tuple[list[int], list[int]]:
    """The largest levels in their order, all of those that tie at the cut, and the rest."""
    if len(shown) <= most:
        return shown, []
    known = np.nan_to_num(sizes[shown], nan=-np.inf)
    least = np.sort(known)[::-1][most - 1]
    kept = {place for place, size in zip(shown, known.tolist(), strict=True) if size >= least}
    return [place for place in shown if place in kept], [place for place in shown if place not in kept]
