"""What is wanted of a summary besides its figures: design, spread, comparison, and care with small bases."""

from dataclasses import dataclass

from grainstack.errors import RequestError
from grainstack.words import switch, word

ERROR_BARS = ("confidence", "standard-error", "standard-deviation", "quartiles", "range", "none")
INTERVALS = ("auto", "wilson", "exact", "t", "design", "order-statistics", "woodruff", "bootstrap")


@dataclass(frozen=True, slots=True)
class DesignRequest:
    """The survey design; what is not named here may stand in the codebook.

    Raises:
        RequestError: A scale or rule without what it belongs to.
    """

    weight: str | None = word(None, "How many people a record stands for.", group="Survey design", metavar="COLUMN")
    strata: str | None = word(
        None, "The groups that were sampled on their own.", group="Survey design", metavar="COLUMN"
    )
    cluster: str | None = word(None, "The units that were drawn.", group="Survey design", metavar="COLUMN")
    population: str | None = word(
        None,
        "How many units there are in the stratum, for the finite population correction.",
        group="Survey design",
        metavar="COLUMN",
    )
    replicates: str | None = word(
        None,
        "Columns of replicate weights: a list or a pattern such as rep_*.",
        group="Survey design",
        metavar="COLUMNS",
    )
    replicate_scale: float | None = word(
        None,
        "What the squared differences of the replicates are multiplied by; 1/R without it.",
        group="Survey design",
        metavar="NUMBER",
    )
    single_cluster: str = word(
        "error",
        "What to do with a stratum of one cluster.",
        group="Survey design",
        metavar="HOW",
        choices=("error", "centred"),
    )
    no_design: bool = switch("Leave the design of the codebook aside.", group="Survey design")
    design_figures: bool = switch("Give the effective base and the design effect.", group="Survey design")

    def __post_init__(self) -> None:
        if self.replicate_scale is not None and self.replicate_scale <= 0:
            raise RequestError(f"--replicate-scale {self.replicate_scale:g} must be above 0.", "")
        if self.replicates and (self.strata or self.cluster or self.population):
            raise RequestError(
                "Replicate weights carry the design in themselves.", "Leave --strata, --cluster and --population out."
            )

    @property
    def is_complex(self) -> bool:
        """Whether records were not simply drawn one by one with equal chances."""
        return any((self.weight, self.strata, self.cluster, self.population, self.replicates))


@dataclass(frozen=True, slots=True)
class SpreadRequest:
    """Which limits are given with each figure.

    Raises:
        RequestError: A level, number of repeats or seed that makes no sense.
    """

    error_bars: str | None = word(
        None, "Which spread to give with each figure.", group="Limits", metavar="KIND", choices=ERROR_BARS
    )
    level: float = word(95.0, "Confidence level in percent.", group="Limits", metavar="PERCENT")
    interval: str = word(
        "auto", "How confidence limits are worked out.", group="Limits", metavar="HOW", choices=INTERVALS
    )
    repeats: int = word(1000, "Repeats of the bootstrap.", group="Limits", metavar="N")
    seed: int = word(1, "Seed of the bootstrap: the same seed gives the same limits.", group="Limits", metavar="N")

    def __post_init__(self) -> None:
        if not 50 <= self.level < 100:
            raise RequestError(f"--level {self.level:g} is not a confidence level.", "Choose one from 50 to 99.9.")
        if not 50 <= self.repeats <= 100_000:
            raise RequestError(f"--repeats {self.repeats} is out of range.", "Choose 50 to 100,000; 1,000 is usual.")
        if self.seed < 0:
            raise RequestError(f"--seed {self.seed} must not be negative.", "")

    @property
    def confident(self) -> bool:
        """Whether confidence limits are wanted."""
        return self.error_bars in (None, "confidence")

    @property
    def wanted(self) -> bool:
        """Whether any limits are wanted."""
        return self.error_bars != "none"


@dataclass(frozen=True, slots=True)
class ComparisonRequest:
    """What is compared with what.

    Raises:
        RequestError: Letters of something that is not compared pair by pair.
    """

    compare: str | None = word(
        None,
        "Compare pairs of categories, each with the rest, or each with one LEVEL.",
        group="Comparison",
        metavar="pairs|rest|LEVEL",
    )
    letters: bool = switch("Give comparison letters: categories that share one do not differ.", group="Comparison")
    association: bool = switch("Test whether categories and series have to do with each other.", group="Comparison")

    def __post_init__(self) -> None:
        if self.letters and self.compare not in (None, "pairs"):
            raise RequestError("--letters needs every pair compared.", "Use --compare pairs.")
        if self.letters and self.compare is None:
            object.__setattr__(self, "compare", "pairs")


@dataclass(frozen=True, slots=True)
class SmallBaseRequest:
    """What becomes of figures that rest on few records.

    Raises:
        RequestError: A limit below 1.
    """

    min_base: int | None = word(
        None,
        "Flag figures that rest on fewer records; with --hide-small leave them out.",
        group="Small bases",
        metavar="N",
    )
    hide_small: bool = switch(
        "Leave out figures on small bases, and those from which they could be worked out.", group="Small bases"
    )
    add_up: bool = switch("Round shares so that they add to 100 %.", group="Small bases")

    def __post_init__(self) -> None:
        if self.min_base is not None and self.min_base < 1:
            raise RequestError(f"--min-base {self.min_base} is below 1.", "Choose the smallest base to be shown.")
