"""What is to be summarised, by what, and how."""

from dataclasses import dataclass

from grainstack.errors import RequestError
from grainstack.summary.statistics import STATISTICS, Statistic, statistic_named
from grainstack.words import word

_GROUP = "Summary"
BASES = ("category", "series", "panel", "all")
ERROR_BARS = ("confidence", "standard-error", "standard-deviation", "none")


@dataclass(frozen=True, slots=True)
class Figure:
    """One statistic of one measure (or of none): what a column of a table holds."""

    statistic: Statistic
    measure: str | None


@dataclass(frozen=True, slots=True)
class SummaryRequest:
    """A valid request: one that exists needs no further checking.

    Raises:
        RequestError: No categories, a column used twice, an unknown statistic, or a measure that is missing or idle.
    """

    by: tuple[str, ...] = word(
        (), "Column of the categories; repeat for nested ones, outer first.", group=_GROUP, metavar="COLUMN"
    )
    split: str | None = word(None, "Column of the series inside a category.", group=_GROUP, metavar="COLUMN")
    measure: tuple[str, ...] = word((), "Column of the number to sum up; repeatable.", group=_GROUP, metavar="COLUMN")
    stat: tuple[str, ...] = word(
        (),
        "count, share, sum or mean; repeatable. Without it: count, or mean of a measure.",
        group=_GROUP,
        metavar="STAT",
    )
    base: str | None = word(
        None, "What a share is a share of: the bars of what add to 100 %.", group=_GROUP, metavar="WHAT", choices=BASES
    )
    error_bars: str | None = word(
        None, "Which spread to give with each figure.", group=_GROUP, metavar="KIND", choices=ERROR_BARS
    )
    value: str | None = word(
        None, "Numbers that are summed up already: one row per bar, drawn as they are.", group=_GROUP, metavar="COLUMN"
    )
    error_size: str | None = word(
        None, "Ready-made spread of --value: half the length of its whisker.", group=_GROUP, metavar="COLUMN"
    )
    error_low: str | None = word(None, "Ready-made lower limit of --value.", group=_GROUP, metavar="COLUMN")
    error_high: str | None = word(None, "Ready-made upper limit of --value.", group=_GROUP, metavar="COLUMN")
    times: str | None = word(
        None,
        "How many records a row stands for; not a survey weight: it raises the base.",
        group=_GROUP,
        metavar="COLUMN",
    )
    weight: str | None = word(
        None, "How many people a record stands for; none switches the codebook's off.", group=_GROUP, metavar="COLUMN"
    )
    level: float = word(95.0, "Confidence level in percent.", group=_GROUP, metavar="PERCENT")

    def __post_init__(self) -> None:
        if not self.by:
            raise RequestError("No categories were named.", "Name their column with --by COLUMN.")
        twice = [name for name in self.dimensions if self.dimensions.count(name) > 1]
        if twice:
            raise RequestError(f"`{twice[0]}` is used twice.", "Each of --by and --split needs a column of its own.")
        if not 50 <= self.level < 100:
            raise RequestError(f"--level {self.level:g} is not a confidence level.", "Choose one from 50 to 99.9.")
        if self.base == "series" and not self.split:
            raise RequestError("--base series needs series.", "Name their column with --split COLUMN.")
        _check_value(self)
        _check_measures(self)

    @property
    def dimensions(self) -> tuple[str, ...]:
        """The columns that make up a cell: categories from the outermost, then the split."""
        return (*self.by, *((self.split,) if self.split else ()))

    @property
    def measures(self) -> tuple[str, ...]:
        """Every column read as a number to sum up, ready-made limits included."""
        ready = (self.value, self.error_size, self.error_low, self.error_high)
        return tuple(dict.fromkeys([*self.measure, *(name for name in ready if name)]))

    @property
    def statistics(self) -> tuple[Statistic, ...]:
        """What is asked for; a count, or the mean of a measure, when nothing was said."""
        if self.value:
            return (STATISTICS["value"],)
        return tuple(statistic_named(name) for name in self.stat or (("mean",) if self.measure else ("count",)))

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every statistic with every measure it needs."""
        return tuple(
            Figure(statistic, measure)
            for statistic in self.statistics
            for measure in ((self.value,) if self.value else self.measure if statistic.measured else (None,))
        )


def _check_value(request: SummaryRequest) -> None:
    limits = [name for name in ("error_size", "error_low", "error_high") if getattr(request, name)]
    options = ", ".join("--" + name.replace("_", "-") for name in limits)
    if limits and not request.value:
        raise RequestError(f"{options} belongs to ready-made figures.", "Name their column with --value COLUMN.")
    if "error_size" in limits and len(limits) > 1:
        raise RequestError("--error-size and --error-low/--error-high say the same twice.", "Leave one of them out.")
    if len(limits) == 1 and "error_size" not in limits:
        raise RequestError(f"{options} needs its counterpart.", "Give both --error-low and --error-high.")
    if request.value and (request.measure or request.stat):
        raise RequestError(
            "--value draws figures as they are, so --measure and --stat have no part.", "Leave them out."
        )


def _check_measures(request: SummaryRequest) -> None:
    if request.value:
        return
    measured = [statistic.name for statistic in request.statistics if statistic.measured]
    if measured and not request.measure:
        raise RequestError(f"--stat {measured[0]} needs a number to sum up.", "Name its column with --measure COLUMN.")
    if request.measure and not measured:
        names = " and ".join(statistic.name for statistic in request.statistics)
        raise RequestError(
            f"--measure {request.measure[0]} has no part in a {names}.",
            "Add --stat mean or --stat sum, or leave it out.",
        )
