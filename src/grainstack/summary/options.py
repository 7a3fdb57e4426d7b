"""What is wanted of a summary besides its figures: design, spread, comparison, and care with small bases."""

from math import inf

from grainstack.errors import IdleError, RequestError
from grainstack.language import LANGUAGES
from grainstack.option_fields import Request, switch, word
from grainstack.option_names import option

ERROR_BARS = ("confidence", "standard-error", "standard-deviation", "quartiles", "range", "none")
OF_VALUES = ("standard-deviation", "quartiles", "range")  # the ones that tell of the values, not of the figure
REPLICATE_METHODS = ("jk1", "jkn", "brr", "fay", "bootstrap")
CHANGES = ("difference", "percent", "index", "ratio")
INTERVALS = ("auto", "wilson", "exact", "t", "design", "order-statistics", "woodruff", "bootstrap")


class WeightRequest(Request, frozen=True):
    """What each record stands for; what is not named here may stand in the codebook."""

    weight: str | None = word(
        None, "How many people a record stands for.", group="Survey design", metavar="COLUMN", decides=True
    )
    no_design: bool = switch("Leave the design of the codebook aside.", group="Survey design")


class DesignRequest(WeightRequest, frozen=True):
    """The survey design; what is not named here may stand in the codebook.

    Attributes:
        scales: What the squared difference of each replicate is multiplied by, once that is known.
        calibrated: The columns whose known totals the weights were made to meet; several where they were met together.

    Raises:
        RequestError: A scale or rule without what it belongs to.
    """

    strata: str | None = word(
        None, "The groups that were sampled on their own.", group="Survey design", metavar="COLUMN", decides=True
    )
    cluster: tuple[str, ...] = word(
        (),
        "The units that were drawn; repeat for units drawn within them, outer first.",
        group="Survey design",
        metavar="COLUMN",
        decides=True,
    )
    population: tuple[str, ...] = word(
        (),
        "How many units there are in the stratum, for the finite population correction; repeat for what was drawn "
        "within them.",
        group="Survey design",
        metavar="COLUMN",
        decides=True,
    )
    replicates: str | None = word(
        None,
        "Columns of replicate weights: a list or a pattern such as rep_*.",
        group="Survey design",
        metavar="COLUMNS",
        decides=True,
    )
    replicate_method: str | None = word(
        None,
        "How the replicate weights were made.",
        group="Survey design",
        metavar="HOW",
        choices=REPLICATE_METHODS,
    )
    replicate_scale: str | None = word(
        None,
        "What the squared differences of the replicates are multiplied by: a number, a list with one for each, or a "
        "file of them.",
        group="Survey design",
        metavar="NUMBERS",
    )
    fay_coefficient: float | None = word(
        None,
        f"With {option('replicate_method', 'fay')}: by how much weights were perturbed.",
        group="Survey design",
        metavar="NUMBER",
        within=(0.0, 0.99),
    )
    replicate_center: str = word(
        "sample",
        "What replicates are compared with: the figure of the whole sample, or their own mean.",
        group="Survey design",
        metavar="WHAT",
        choices=("sample", "mean"),
    )
    degrees: float | None = word(
        None,
        "Degrees of freedom of the replicate weights.",
        group="Survey design",
        metavar="N",
        within=(1, inf),
    )
    single_cluster: str = word(
        "error",
        "What to do with a stratum of one cluster.",
        group="Survey design",
        metavar="HOW",
        choices=("error", "centred"),
    )

    scales: tuple[float, ...] = ()
    calibrated: tuple[tuple[str, ...], ...] = ()

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        _check_stages(self)
        if self.replicates and self.population:
            raise RequestError("Replicate weights carry the population sizes in themselves.", "Leave them out.")
        if self.fay_coefficient is not None and self.replicate_method not in (None, "fay"):
            raise IdleError(
                f"{option('fay_coefficient')} belongs to {option('replicate_method', 'fay')}.", "Leave one of them out."
            )

    @property
    def is_complex(self) -> bool:
        """Whether records were not simply drawn one by one with equal chances."""
        return any((self.weight, self.strata, self.cluster, self.population, self.replicates))

    @property
    def draws_records(self) -> bool:
        """Whether the last units drawn are single records."""
        return len(self.population) > len(self.cluster) or not self.cluster

    @property
    def counts_half_samples(self) -> bool:
        """Whether replicates are half samples of strata that are not named."""
        return self.replicate_method in ("brr", "fay") and not self.strata and self.degrees is None


def _check_stages(design: DesignRequest) -> None:
    """Refuses stages of drawing that can play no part.

    Raises:
        RequestError: Names the option.
    """
    staged = (design.cluster, design.population)
    twice = next((name for names in staged for name in names if names.count(name) > 1), None)
    if twice:
        raise RequestError(f"`{twice}` is named for two stages.", "Each stage has a column of its own.")
    clusters, sizes = len(design.cluster), len(design.population)
    if clusters > 1 and sizes < clusters and not design.replicates:
        raise RequestError(
            f"{option('cluster')} {design.cluster[max(sizes, 1)]}: what was drawn within clusters counts only where "
            "population sizes are known.",
            f"Name them with {option('population')}, once for each stage, or leave the inner clusters out.",
        )
    if sizes > clusters + 1:
        raise RequestError(
            f"{option('population')} {design.population[clusters + 1]}: there are {clusters + 1} stages and {sizes} "
            "population sizes.",
            f"Name what was drawn at each stage with {option('cluster')}.",
        )


class SpreadRequest(Request, frozen=True):
    """Which limits are given with each figure.

    Raises:
        RequestError: A level, number of repeats or seed that makes no sense.
    """

    error_bars: str | None = word(
        None, "Which spread to give with each figure.", group="Limits", metavar="KIND", choices=ERROR_BARS
    )
    confidence: float = word(
        95.0, "Confidence level in percent.", group="Limits", metavar="PERCENT", within=(50.0, 99.99)
    )
    interval: str = word(
        "auto", "How confidence limits are worked out.", group="Limits", metavar="HOW", choices=INTERVALS
    )
    repeats: int = word(1000, "Repeats of the bootstrap.", group="Limits", metavar="N", within=(50, 100_000))
    seed: int = word(
        1,
        "Seed of the bootstrap: the same seed gives the same limits.",
        group="Limits",
        metavar="N",
        within=(0, inf),
    )

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.interval != "bootstrap":
            idle = [name for name in ("repeats", "seed") if name in self.given()]
            if idle:
                raise IdleError(
                    f"{option(idle[0])} belongs to the bootstrap.",
                    f"Add {option('interval', 'bootstrap')}, or leave it out.",
                )

    @property
    def confident(self) -> bool:
        """Whether confidence limits are wanted."""
        return self.error_bars in (None, "confidence")

    @property
    def wanted(self) -> bool:
        """Whether any limits are wanted."""
        return self.error_bars != "none"


class ComparisonRequest(Request, frozen=True):
    """What is compared with what.

    Attributes:
        of_columns: Whether each column has a letter, which stands at the higher figures that differ from its own.
        looser_level: A second confidence level in percent, at which letters are small; None for one level.

    Raises:
        RequestError: Letters of something that is not compared pair by pair.
    """

    compare: str | None = word(
        None,
        "Compare groups in pairs, each with the rest, or each with one LEVEL; or the answers within each group.",
        group="Comparison",
        metavar="pairs|answers|rest|LEVEL",
    )
    letters: bool = switch(
        "Give comparison letters: between groups that share one no difference was found.", group="Comparison"
    )
    family: str = word(
        "row",
        "Which tests are adjusted together: those of one row of the answer, all of the table, or none.",
        group="Comparison",
        metavar="WHAT",
        choices=("row", "table", "none"),
        needs=("compare", "letters"),
    )
    relative_to: str | None = word(
        None,
        "Give the change from the level before, the same of the year before, the first or one LEVEL, in place of the "
        "figures.",
        group="Comparison",
        metavar="previous|same-last-year|first|LEVEL",
    )
    along: str | None = word(
        None,
        "The column along which change is seen; the one that runs by itself if not given.",
        group="Comparison",
        metavar="COLUMN",
        needs=("relative_to",),
        decides=True,
    )
    as_: str = word(
        "difference",
        "How a change is told.",
        group="Comparison",
        metavar="HOW",
        choices=CHANGES,
        needs=("relative_to",),
    )
    association: bool = switch("Test whether categories and series have to do with each other.", group="Comparison")
    of_columns: bool = False
    looser_level: float | None = None

    def __post_init__(self) -> None:
        Request.__post_init__(self)
        if self.letters and self.compare not in (None, "pairs", "answers"):
            raise RequestError(f"{option('letters')} needs every pair compared.", f"Use {option('compare', 'pairs')}.")

        if self.relative_to and (self.compare or self.letters or self.association):
            raise RequestError(
                f"{option(self.named)} tests figures, and {option('relative_to')} shows how they change.",
                "Leave one of them out: changes have limits of their own.",
            )

    @property
    def wanted(self) -> str | None:
        """What is compared: `pairs`, `answers`, `rest`, the level all others are compared with, or None."""
        return self.compare or ("pairs" if self.letters else None)

    @property
    def named(self) -> str:
        """The option that asks for a test."""
        return "compare" if self.compare else "letters" if self.letters else "association"

    @property
    def in_pairs(self) -> bool:
        """Whether every pair is compared."""
        return self.wanted in ("pairs", "answers")


class SmallBaseRequest(Request, frozen=True):
    """What becomes of figures that rest on few records."""

    min_base: int | None = word(
        None,
        f"Flag figures that rest on fewer records (n), such as 50; with {option('hide_small')} leave them out.",
        group="Small bases",
        metavar="N",
        within=(1, inf),
    )
    hide_small: bool = switch(
        "Leave out figures on small bases, and those from which they could be worked out.", group="Small bases"
    )


class RoundingRequest(Request, frozen=True):
    """How figures are rounded together."""

    add_up: bool = switch("Round shares so that they add to 100 %.", group="Numbers")


class LanguageRequest(Request, frozen=True):
    """The language of what the program writes."""

    language: str | None = word(
        None,
        "Language of titles, notes, the words of axes and the signs of numbers; en if not given.",
        group="Language",
        metavar="NAME",
        choices=LANGUAGES,
    )
