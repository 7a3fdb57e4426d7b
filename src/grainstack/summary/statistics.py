"""The statistics that can be asked for, and what is true of each."""

from dataclasses import dataclass

from grainstack.errors import RequestError, nearest


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
        Statistic("value", measured=True, additive=True, words=""),
    )
}


def statistic_named(name: str) -> Statistic:
    """The statistic of this name.

    Raises:
        RequestError: There is none.
    """
    known = [known_name for known_name in STATISTICS if known_name != "value"]
    if name not in known:
        raise RequestError(f"There is no statistic `{name}`.", nearest(name, known))
    return STATISTICS[name]
