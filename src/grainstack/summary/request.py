"""What is to be summarised, by what, and how."""

from dataclasses import dataclass

from grainstack.errors import RequestError
from grainstack.summary.statistics import Statistic, statistic_named
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
        _check_measures(self)

    @property
    def dimensions(self) -> tuple[str, ...]:
        """The columns that make up a cell: categories from the outermost, then the split."""
        return (*self.by, *((self.split,) if self.split else ()))

    @property
    def statistics(self) -> tuple[Statistic, ...]:
        """What is asked for; a count, or the mean of a measure, when nothing was said."""
        return tuple(statistic_named(name) for name in self.stat or (("mean",) if self.measure else ("count",)))

    @property
    def figures(self) -> tuple[Figure, ...]:
        """Every statistic with every measure it needs."""
        return tuple(
            Figure(statistic, measure)
            for statistic in self.statistics
            for measure in (self.measure if statistic.measured else (None,))
        )

    @property
    def share_base(self) -> str:
        """What shares are shares of: each category when it is split, else everything."""
        return self.base or ("category" if self.split else "all")


def _check_measures(request: SummaryRequest) -> None:
    measured = [statistic.name for statistic in request.statistics if statistic.measured]
    if measured and not request.measure:
        raise RequestError(f"--stat {measured[0]} needs a number to sum up.", "Name its column with --measure COLUMN.")
    if request.measure and not measured:
        names = " and ".join(statistic.name for statistic in request.statistics)
        raise RequestError(
            f"--measure {request.measure[0]} has no part in a {names}.",
            "Add --stat mean or --stat sum, or leave it out.",
        )
