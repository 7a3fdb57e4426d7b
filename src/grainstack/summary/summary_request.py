"""What is to be summed up, by what, and how."""

from collections.abc import Collection
from enum import StrEnum

from msgspec import Struct, field
from msgspec.structs import force_setattr, replace

from grainstack.errors import IdleError, RequestError
from grainstack.option_fields import Request, switch, word
from grainstack.option_names import option
from grainstack.records.readers.nets import nets_by_column
from grainstack.records.variable import EVERYTHING
from grainstack.summary.options import OF_VALUES, ComparisonRequest, DesignRequest, SmallBaseRequest, SpreadRequest
from grainstack.summary.statistics import (
    GIVEN_AS,
    POOLED,
    Linear,
    Statistic,
    given_value,
    names_to_ask_for,
    pooled_value,
    statistic_named,
)

_GROUP = "Summary"
BASES = ("category", "series", "panel", "all", "measures")


class Purpose(StrEnum):
    """What a figure is worked out for."""

    SHOWN = "shown"
    LABEL = "label"
    SECOND = "second"
    BESIDE = "beside"


class Figure(Struct, frozen=True):
    """One statistic of one measure (or of none): what a column of a table holds.

    Attributes:
        statistic: The statistic.
        measure: The column summed up; None where only records are counted.
        per: The column a rate is taken of; None for any other statistic.
        purpose: Whether it is what the table shows, stands in labels only, is a second measure, or stands beside the
            others as a figure of all series together.
    """

    statistic: Statistic
    measure: str | None
    per: str | None = None
    purpose: Purpose = Purpose.SHOWN


class SummaryRequest(Request, frozen=True):
    """A valid request: one that exists needs no further checking.

    Attributes:
        design: The survey design.
        spread: Which limits are wanted, and how they are worked out.
        comparison: What is compared with what.
        small: What becomes of figures that rest on few records.
        series_totals: Whether totals are wanted over the series; None for where all totals are wanted.
        also: Figures a chart needs besides those it shows.
        keep_values: Whether the values of each measure are wanted cell by cell.
        beside: Whether figures of the column it is split by are of all series together: in each they would say nothing.

    Raises:
        RequestError: No categories, a column used twice, an unknown statistic, or options that contradict each other.
    """

    by: tuple[str, ...] = word(
        (EVERYTHING,), "Column of the categories; repeat for nested ones, outer first.", group=_GROUP, metavar="COLUMN"
    )
    split: str | None = word(None, "Column of the series inside a category.", group=_GROUP, metavar="COLUMN")
    panel: str | None = word(None, "Column with one small table or chart per level.", group=_GROUP, metavar="COLUMN")
    measure: tuple[str, ...] = word((), "Column of the number to sum up; repeatable.", group=_GROUP, metavar="COLUMN")
    stat: tuple[str, ...] = word(
        (),
        f"{', '.join(names_to_ask_for())} or p75 (any pNN); repeatable. Without it: count, or mean of a measure.",
        group=_GROUP,
        metavar="STAT",
    )
    per: str | None = word(
        None,
        f"With {option('stat', 'rate')}: the column whose sum the measure's sum is divided by.",
        group=_GROUP,
        metavar="COLUMN",
        decides=True,
    )
    base: str | None = word(
        None,
        "What a share is a share of, and so what adds to 100 %: category for the series in each bar.",
        group=_GROUP,
        metavar="WHAT",
        choices=BASES,
    )
    totals: bool = switch(
        "Add all categories together, and all series, as a level of their own.", group=_GROUP, decides=True
    )
    total_panel: bool = switch(
        "One more panel, with the records of all panels together.", group=_GROUP, needs=("panel",), decides=True
    )
    net: tuple[str, ...] = word(
        (),
        "Levels added together, shown beside their parts: 'staff: Satisfied = Good, Very good'; repeatable.",
        group=_GROUP,
        metavar="'COLUMN: NAME = A, B'",
        decides=True,
    )
    times: str | None = word(
        None,
        "How many records a row stands for, such as a frequency table's n; no survey weight: it raises the base.",
        group=_GROUP,
        metavar="COLUMN",
        decides=True,
    )
    value: str | None = word(
        None,
        "Numbers that are summed up already: one row per bar, drawn as they are.",
        group=_GROUP,
        metavar="COLUMN",
        decides=True,
    )
    value_is: str | None = word(
        None,
        f"What {option('value')} holds: whether parts add up depends on it.",
        group=_GROUP,
        metavar="WHAT",
        choices=GIVEN_AS,
        needs=("value",),
        decides=True,
    )
    error_size: str | None = word(
        None,
        f"Ready-made spread of {option('value')}: half the length of its whisker.",
        group=_GROUP,
        metavar="COLUMN",
        decides=True,
    )
    error_low: str | None = word(
        None, f"Ready-made lower limit of {option('value')}.", group=_GROUP, metavar="COLUMN", decides=True
    )
    error_high: str | None = word(
        None, f"Ready-made upper limit of {option('value')}.", group=_GROUP, metavar="COLUMN", decides=True
    )
    complete: bool = switch(
        "The records are all there are and no sample: no sampling error, no marks of small bases.", group="Limits"
    )
    design: DesignRequest = field(default_factory=DesignRequest)
    spread: SpreadRequest = field(default_factory=SpreadRequest)
    comparison: ComparisonRequest = field(default_factory=ComparisonRequest)
    small: SmallBaseRequest = field(default_factory=SmallBaseRequest)
    series_totals: bool | None = None
    also: tuple[Figure, ...] = ()
    keep_values: bool = False
    beside: bool = False

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if not self.by:
            force_setattr(self, "by", (EVERYTHING,))
        twice = [name for name in self.dimensions if self.dimensions.count(name) > 1]
        if twice:
            raise RequestError(
                f"`{twice[0]}` is used twice.",
                f"Each of {option('by')}, {option('split')} and {option('panel')} needs its own column.",
            )
        for name, request in (("measure", self.measure), ("stat", [one.name for one in self.statistics])):
            again = next((one for one in request if request.count(one) > 1), None)
            if again is not None:
                raise RequestError(f"{option(name, again)} is asked for twice.", "Name it once.")
        if self.base == "series" and not self.split:
            raise RequestError(
                f"{option('base', 'series')} needs series.", f"Name their column with {option('split')} COLUMN."
            )
        _check_value(self)
        nets_by_column(self.net, self.dimensions)
        if self.totals:
            self.check_adds_up("A total")
        if self.net:
            self.check_adds_up("A net")
        if "share" in self.names:
            self.check_adds_up("A share")
        _check_measures(self)
        _check_limits(self)
        _check_comparison(self)

    @property
    def dimensions(self) -> tuple[str, ...]:
        """The columns that make up a cell: the panel, categories from the outermost, then the split."""
        return (*((self.panel,) if self.panel else ()), *self.by, *((self.split,) if self.split else ()))

    @property
    def measures(self) -> tuple[str, ...]:
        """Every column read as a number to sum up, ready-made limits included."""
        ready = (self.value, self.error_size, self.error_low, self.error_high)
        also = (name for figure in self.also for name in (figure.measure, figure.per))
        return tuple(dict.fromkeys([*self.measure, *(name for name in (self.per, *ready, *also) if name)]))

    @property
    def summed(self) -> tuple[str, ...]:
        """The measures figures are made of."""
        return tuple(dict.fromkeys([*self.measure, *(figure.measure for figure in self.also if figure.measure)]))

    @property
    def statistics(self) -> tuple[Statistic, ...]:
        """What is asked for; a count, or the mean of a measure, when nothing was said."""
        if self.value and not self.stat:
            return (pooled_value(self.value_is) if self.pools_values else given_value(self.value_is),)
        return tuple(statistic_named(name) for name in self.stat or (("mean",) if self.measure else ("count",)))

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every statistic with every measure it needs; a share beside a sum, or alone, is one of sums."""
        figures = []
        measured = (self.value,) if self.value else self.measure
        of_sum = bool(measured) and (self.names == {"share"} or "sum" in self.names)
        for statistic in self.statistics:
            sums = statistic.measured or (statistic.linear is Linear.SHARE and of_sum)
            measures: tuple[str | None, ...] = measured if sums else (None,)
            per = self.per if statistic.name == "rate" else None
            figures += [Figure(statistic, measure, per) for measure in measures]
        beside = [one for one in figures if self.beside and one.measure == self.split]
        if len(beside) < len(figures):
            figures = [replace(one, purpose=Purpose.BESIDE) if one in beside else one for one in figures]
        return (*figures, *self.also)

    @property
    def pools_values(self) -> bool:
        """Whether given figures are means of so many records each, so that those of several rows have one mean."""
        return bool(self.value and self.times) and self.value_is in POOLED

    @property
    def pools_shares(self) -> bool:
        """Whether given figures are shares of so many records each: then these tell how sure each is."""
        return self.pools_values and self.value_is == "share"

    @property
    def is_complete(self) -> bool:
        """Whether figures are all there is and no estimates.

        So are given values, parts of several measures, and rows that stand for many records unless limits or tests of
        them are asked for.
        """
        tested = self.comparison.wanted or self.comparison.association
        totalled = bool(self.times) and not (self.spread.given() or tested)
        given = bool(self.value) and not (self.pools_shares and self.spread.given())
        return self.complete or given or self.base == "measures" or totalled

    @property
    def given_limits(self) -> tuple[str, ...]:
        """The fields that name ready-made limits."""
        return tuple(name for name in ("error_size", "error_low", "error_high") if getattr(self, name))

    def check_adds_up(self, what: str) -> None:
        """Refuses to put ready-made figures together where nobody said that they add up.

        Args:
            what: What is wanted of them, as the subject of a sentence.

        Raises:
            RequestError: They do not, or it was not said what they are.
        """
        if not self.value or self.pools_values or (given_value(self.value_is).additive and self.value_is):
            return
        if self.value_is is None:
            raise RequestError(
                f"{what} needs figures that add up, and nobody said what those of `{self.value}` are.",
                f"Add {option('value_is', 'count')}, sum or share if they add up, mean or other if not.",
            )
        name = given_value(self.value_is).spoken
        raise RequestError(
            f"{what} needs figures that add up; a {name} does not.", "Draw them side by side, or leave this out."
        )

    def check_no_nets(self, what: str, columns: Collection[str]) -> None:
        """Refuses nets where they would be drawn among their own parts.

        Args:
            what: What is drawn, as in `A pie`.
            columns: The columns whose levels are drawn side by side there.

        Raises:
            RequestError: Names the net.
        """
        for column, nets in nets_by_column(self.net, self.dimensions).items():
            if column in columns:
                raise RequestError(
                    f"{what} has no place for the net {nets[0].name}: it would be counted beside its own parts.",
                    f"Use bars or a table, or merge the levels: {option('recode')}.",
                )

    @property
    def needs_errors(self) -> bool:
        """Whether standard errors are needed: for limits, for tests, or to mark shares that are unsure."""
        tested = self.comparison.wanted or self.comparison.association
        return not self.is_complete and bool(self.spread.wanted or tested or "share" in self.names)

    @property
    def names(self) -> set[str]:
        """The names of the statistics asked for."""
        return {statistic.name for statistic in self.statistics}


def _check_value(request: SummaryRequest) -> None:
    limits = request.given_limits
    options = ", ".join(map(option, limits))
    if limits and not request.value:
        raise IdleError(
            f"{options} belongs to ready-made figures.", f"Name their column with {option('value')} COLUMN."
        )
    if request.value and request.spread.error_bars in OF_VALUES:
        raise RequestError(
            f"{option('error_bars')} {request.spread.error_bars} needs the values behind a figure, and those of "
            f"{option('value')} are ready-made.",
            f"Name their limits with {option('error_size')}, or {option('error_low')} and {option('error_high')}.",
        )
    if "error_size" in limits and len(limits) > 1:
        raise RequestError(
            f"{option('error_size')} and {option('error_low')}/{option('error_high')} say the same twice.",
            "Leave one of them out.",
        )
    if len(limits) == 1 and "error_size" not in limits:
        raise RequestError(
            f"{options} needs its counterpart.", f"Give both {option('error_low')} and {option('error_high')}."
        )
    if request.value and (request.measure or request.stat not in ((), ("share",))):
        raise RequestError(
            f"{option('value')} takes figures as they are, or their shares: {option('measure')} and other statistics "
            "have no part.",
            "Leave them out.",
        )
    if limits and request.stat:
        raise RequestError(f"{options} belongs to the figures, not to their shares.", "Leave them out.")


def _check_measures(request: SummaryRequest) -> None:
    if request.base == "measures" and (request.names != {"share"} or len(request.measure) < 2):
        raise RequestError(
            f"{option('base', 'measures')} is for shares of several measures.",
            f"Name them with {option('measure')} and add {option('stat', 'share')}.",
        )
    if request.value:
        return
    measured = [statistic.name for statistic in request.statistics if statistic.measured]
    if measured and not request.measure:
        raise RequestError(
            f"{option('stat')} {measured[0]} needs a number to sum up.",
            f"Name its column with {option('measure')} COLUMN.",
        )
    if request.measure and not measured and request.names != {"share"}:
        names = " and ".join(statistic.name for statistic in request.statistics)
        raise RequestError(
            f"{option('measure')} {request.measure[0]} has no part in a {names}.",
            f"Add {option('stat', 'mean')} or {option('stat', 'sum')}, or leave it out.",
        )
    if "rate" in request.names and not request.per:
        raise RequestError(
            f"{option('stat', 'rate')} needs a column to divide by.", f"Name it with {option('per')} COLUMN."
        )
    if request.per and "rate" not in request.names:
        raise IdleError(
            f"{option('per')} belongs to rates.", f"Add {option('stat', 'rate')}, or leave {option('per')} out."
        )


def _check_limits(request: SummaryRequest) -> None:
    extremes = request.names & {"min", "max"}
    if extremes and (request.spread.error_bars == "confidence" or request.spread.interval != "auto"):
        raise RequestError(
            f"There is no interval for a {min(extremes)}: it is one record's value, and resampling can only shrink it.",
            f"Leave {option('error_bars')} and {option('interval')} out, or choose another statistic such as p95.",
        )


def _check_comparison(request: SummaryRequest) -> None:
    comparison = request.comparison
    if comparison.association and (not request.split or len(request.by) > 1):
        raise RequestError(
            f"{option('association')} is between two columns.",
            f"Name one with {option('by')} and the other with {option('split')}.",
        )
    if comparison.association and {one.name for one in request.statistics} - {"count", "share"}:
        raise RequestError(
            f"{option('association')} is between the records of two columns, and not between {min(request.names)}s.",
            f"Show counts or shares, or test the figures with {option('compare')}.",
        )
    if (request.is_complete or request.value) and (comparison.wanted or comparison.association):
        wanted = comparison.named
        raise RequestError(
            f"{option(wanted)} tests estimates; these figures are all there is.",
            f"Leave {option(wanted)} out{', or say that these records are a sample' if request.complete else ''}.",
        )
    if comparison.relative_to and request.small.hide_small:
        raise RequestError(
            f"{option('hide_small')}: a change would give a figure away that is left out.",
            f"Leave {option('relative_to')} or {option('hide_small')} out.",
        )
    if comparison.relative_to and (request.value and request.given_limits):
        raise RequestError("Ready-made limits are of the figures, not of their changes.", "Leave them out.")
    if not comparison.wanted:
        return
    wrong = {one.name for one in request.statistics if one.linear not in (Linear.RATIO, Linear.SHARE)}
    if wrong or len(request.figures) - len(request.also) > 1:
        said = f"a {min(wrong)}" if wrong else "several figures at once"
        raise RequestError(
            f"{option(comparison.named)} does not test {said}.",
            f"Test one mean, share or rate: {option('measure', 'COLUMN')}, or {option('stat', 'share')}.",
        )
    if request.spread.interval == "bootstrap":
        raise RequestError(
            f"{option(comparison.named)} uses tests, not the bootstrap.",
            f"Leave {option('interval')} out.",
        )
