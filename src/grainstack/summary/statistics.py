"""The statistics that can be asked for, and what is true of each."""

from dataclasses import dataclass

from grainstack.errors import RequestError, listed, nearest


@dataclass(frozen=True, slots=True)
class Statistic:
    """One way to sum up the records of a cell.

    Attributes:
        name: As typed after `--stat`.
        measured: Whether it needs a measure.
        additive: Whether the figures of parts add up to the figure of the whole, so that they may be stacked.
        words: How it is written before the measure's label: `Mean`, `Total`.
    """

    name: str
    measured: bool
    additive: bool
    words: str


STATISTICS = {
    statistic.name: statistic
    for statistic in (
        Statistic("count", measured=False, additive=True, words="Number"),
        Statistic("share", measured=False, additive=True, words="Share"),
        Statistic("sum", measured=True, additive=True, words="Total"),
        Statistic("mean", measured=True, additive=False, words="Mean"),
    )
}


def statistic_named(name: str) -> Statistic:
    """The statistic of this name.

    Raises:
        RequestError: There is none.
    """
    if name not in STATISTICS:
        raise RequestError(f"There is no statistic `{name}`.", nearest(name, STATISTICS) or listed(STATISTICS))
    return STATISTICS[name]
