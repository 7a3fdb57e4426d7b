"""The statistics that can be asked for, and what is true of each."""

import re
from dataclasses import dataclass

from grainstack.errors import RequestError, nearest

_PERCENTILE = re.compile(r"p(\d{1,2}(\.\d+)?)")


@dataclass(frozen=True, slots=True)
class Statistic:
    """One way to sum up the records of a cell.

    Attributes:
        name: As typed after `--stat`.
        measured: Whether it needs a measure.
        additive: Whether the figures of parts add up to the figure of the whole, so that they may be stacked.
        words: How it is written before the measure's label: `Mean`, `Total`.
        quantile: Which quantile it is, from 0 to 1; None when it is none.
    """

    name: str
    measured: bool
    additive: bool
    words: str
    quantile: float | None = None


STATISTICS = {
    statistic.name: statistic
    for statistic in (
        Statistic("count", measured=False, additive=True, words="Number"),
        Statistic("share", measured=False, additive=True, words="Share"),
        Statistic("sum", measured=True, additive=True, words="Total"),
        Statistic("mean", measured=True, additive=False, words="Mean"),
        Statistic("median", measured=True, additive=False, words="Median", quantile=0.5),
        Statistic("min", measured=True, additive=False, words="Lowest"),
        Statistic("max", measured=True, additive=False, words="Highest"),
        Statistic("sd", measured=True, additive=False, words="Standard deviation of"),
        Statistic("variance", measured=True, additive=False, words="Variance of"),
        Statistic("iqr", measured=True, additive=False, words="Quartile range of"),
        Statistic("distinct", measured=True, additive=False, words="Different values of"),
        Statistic("rate", measured=True, additive=False, words="Rate of"),
        Statistic("value", measured=True, additive=True, words=""),
    )
}


def statistic_named(name: str) -> Statistic:
    """The statistic of this name.

    Raises:
        RequestError: There is none.
    """
    match = _PERCENTILE.fullmatch(name)
    if match and 0 < float(match[1]) < 100:
        ordinal = _ordinal(match[1])
        return Statistic(
            name, measured=True, additive=False, words=f"{ordinal} percentile of", quantile=float(match[1]) / 100
        )
    known = [known_name for known_name in STATISTICS if known_name != "value"]
    if name not in known:
        raise RequestError(f"There is no statistic `{name}`.", nearest(name, [*known, "p75"]))
    return STATISTICS[name]


def _ordinal(number: str) -> str:
    if "." in number:
        return f"{number}th"
    last = {"1": "st", "2": "nd", "3": "rd"}.get(number[-1], "th")
    return f"{int(number)}{'th' if number[-2:] in ('11', '12', '13') else last}"
