"""The statistics that can be asked for, and what is true of each."""

import re
from enum import Enum, Flag, auto

from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError, nearest
from grainstack.language import marked, phrase
from grainstack.option_names import option
from grainstack.other_words import value_meant

_ENDINGS = {"1": "st", "2": "nd", "3": "rd"}  # of ordinals
_PERCENTILE = re.compile(r"p(\d{1,2}(\.\d+)?)")


class NeededSums(Flag):
    """What is kept of each cell for a statistic, beyond its moments: records, Σw, Σwx and squares."""

    MOMENTS = 0
    EXTREMES = auto()  # the lowest and the highest value
    VALUES = auto()  # every different value


class Linear(Enum):
    """How a statistic is made of sums over drawn units, which is what a design's spread is worked out from."""

    TOTAL = auto()  # Σw or Σwx
    RATIO = auto()  # Σwx / Σw, or / Σwy
    SHARE = auto()  # a total over the total of its base


class Unit(Enum):
    """The unit of a statistic, given its measure's."""

    OF_MEASURE = auto()
    SQUARED = auto()
    NONE = auto()


class Statistic(Struct, frozen=True):
    """One way to sum up the records of a cell.

    Attributes:
        name: As typed after `--stat`.
        measured: Whether it needs a measure.
        additive: Whether the figures of parts add up to the figure of the whole, so that they may be stacked.
        words: What its figures are called, in English, of `{what}`, a measure or records; empty where they go by the
            measure's label.
        alone: What it is called alone, in English.
        percent: Which percentile it is.
        quantile: Which quantile it is, from 0 to 1; None when it is none.
        kept: What it is worked out from.
        linear: How it is made of sums over drawn units; None when it is not.
        sampled: Whether few records make it unsure, so that small bases are marked.
        unit: Its unit.
        called: What it is called in a sentence, where that is not its name.
    """

    name: str
    measured: bool
    additive: bool
    words: str
    quantile: float | None = None
    kept: NeededSums = NeededSums.MOMENTS
    linear: Linear | None = None
    sampled: bool = True
    unit: Unit = Unit.OF_MEASURE
    called: str = ""
    alone: str = ""
    percent: str = ""

    def title(self, what: str) -> str:
        """What its figures are called: `Mean waiting time`.

        Args:
            what: The measure, or the records, as they stand within a sentence.
        """
        return phrase(self.words, what=what, number=self.percent, ordinal=_ordinal(self.percent))

    @property
    def name_in_words(self) -> str:
        """What it is called by itself: `Mean`."""
        return phrase(self.alone, number=self.percent, ordinal=_ordinal(self.percent))

    @property
    def spoken(self) -> str:
        """What it is called in a sentence."""
        return self.called or self.name


STATISTICS = {
    statistic.name: statistic
    for statistic in (
        Statistic(
            "count",
            measured=False,
            additive=True,
            words=marked("Number of {what}"),
            alone=marked("Number"),
            linear=Linear.TOTAL,
            sampled=False,
        ),
        Statistic(
            "share",
            measured=False,
            additive=True,
            words=marked("Share of {what}"),
            alone=marked("Share"),
            linear=Linear.SHARE,
        ),
        Statistic(
            "sum",
            measured=True,
            additive=True,
            words=marked("Total {what}"),
            alone=marked("Total"),
            linear=Linear.TOTAL,
            sampled=False,
        ),
        Statistic(
            "mean",
            measured=True,
            additive=False,
            words=marked("Mean {what}"),
            alone=marked("Mean"),
            linear=Linear.RATIO,
        ),
        Statistic(
            "median",
            measured=True,
            additive=False,
            words=marked("Median {what}"),
            alone=marked("Median"),
            quantile=0.5,
            kept=NeededSums.VALUES,
        ),
        Statistic(
            "min",
            measured=True,
            additive=False,
            words=marked("Lowest {what}"),
            alone=marked("Lowest"),
            kept=NeededSums.EXTREMES,
            sampled=False,
        ),
        Statistic(
            "max",
            measured=True,
            additive=False,
            words=marked("Highest {what}"),
            alone=marked("Highest"),
            kept=NeededSums.EXTREMES,
            sampled=False,
        ),
        Statistic(
            "sd",
            measured=True,
            additive=False,
            words=marked("Standard deviation of {what}"),
            alone=marked("Standard deviation"),
        ),
        Statistic(
            "variance",
            measured=True,
            additive=False,
            words=marked("Variance of {what}"),
            alone=marked("Variance"),
            unit=Unit.SQUARED,
        ),
        Statistic(
            "iqr",
            measured=True,
            additive=False,
            words=marked("Quartile range of {what}"),
            alone=marked("Quartile range"),
            kept=NeededSums.VALUES,
        ),
        Statistic(
            "distinct",
            measured=True,
            additive=False,
            words=marked("Different values of {what}"),
            alone=marked("Different values"),
            kept=NeededSums.VALUES,
            unit=Unit.NONE,
        ),
        Statistic(
            "rate",
            measured=True,
            additive=False,
            words=marked("Rate of {what}"),
            alone=marked("Rate"),
            linear=Linear.RATIO,
        ),
        Statistic("value", measured=True, additive=True, words="", sampled=False),
    )
}


GIVEN_AS = ("count", "sum", "share", "mean", "other")  # what ready-made figures may be
_ADD_UP = GIVEN_AS[:3]
POOLED = ("mean", "share")  # of so many records each, these have a mean together


def given_value(given_as: str | None) -> Statistic:
    """The statistic of ready-made figures.

    Args:
        given_as: What they are, one of `GIVEN_AS`; None where that was not said.
    """
    called = f"given {given_as}" if given_as in ("mean", "share") else "given figure"
    return replace(STATISTICS["value"], additive=given_as is None or given_as in _ADD_UP, called=called)


def pooled_value(given_as: str | None) -> Statistic:
    """The statistic of ready-made figures of so many records each: their mean, which for shares is one again.

    Args:
        given_as: What they are, one of `POOLED`.
    """
    return replace(STATISTICS["mean"], words="", called="given share") if given_as == "share" else STATISTICS["mean"]


def names_to_ask_for() -> list[str]:
    """The statistics that have a name of their own; ready-made figures are asked for in another way."""
    return [name for name in STATISTICS if name != "value"]


def statistic_named(name: str) -> Statistic:
    """The statistic of this name.

    Raises:
        RequestError: There is none.
    """
    match = _PERCENTILE.fullmatch(name)
    if match and 0 < float(match[1]) < 100:
        return Statistic(
            name,
            measured=True,
            additive=False,
            words=marked("{ordinal} percentile of {what}"),
            alone=marked("{ordinal} percentile"),
            percent=match[1].lstrip("0") or "0",
            quantile=float(match[1]) / 100,
            kept=NeededSums.VALUES,
        )
    known = names_to_ask_for()
    if name not in known:
        meant = value_meant("stat", name, known)
        remedy = f"`{meant}` is that here: {option('stat', meant)}." if meant else nearest(name, [*known, "p75"])
        raise RequestError(f"There is no statistic `{name}`.", remedy)
    return STATISTICS[name]


def _ordinal(number: str) -> str:
    last = "th" if "." in number or number[-2:] in ("11", "12", "13") else _ENDINGS.get(number[-1:], "th")
    return f"{number}{last}"
