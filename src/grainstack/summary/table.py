"""The table every figure is read from: on the terminal, in a file, as a bar's length and as its label."""

from enum import IntFlag, StrEnum

import numpy as np
import numpy.typing as npt
from msgspec import Struct, field

from grainstack.language import lowered, phrase, with_signs
from grainstack.records.variable import Level, LevelRole, Variable
from grainstack.summary.comparison.tested import Association, Comparison, Trend
from grainstack.summary.figures.quantiles import Counted
from grainstack.summary.figures.shape import CellShape, Shape
from grainstack.summary.provenance import Provenance
from grainstack.summary.statistics import Linear, Unit
from grainstack.summary.summary_request import Figure, Purpose
from grainstack.summary.sums.exact import Floats, Integers

UNKNOWN_BASE = -1  # stands for a base that is left out with its figure
REST = "\x00rest"


class Role(StrEnum):
    """What a column of the request does in a table or chart."""

    PANEL = "panel"
    CATEGORY = "category"
    SERIES = "series"


class Flag(IntFlag):
    """Why a figure should not be taken as solid."""

    SMALL_BASE = 1
    WIDE_INTERVAL = 2
    NO_INTERVAL = 4
    HIDDEN = 8
    FEW_DEGREES = 16

    def words(self) -> list[str]:
        """The flags set, as written in files: `small-base`."""
        return [str(flag.name).lower().replace("_", "-") for flag in Flag if flag in self]


class ChangeKind(StrEnum):
    """How a change is told."""

    DIFFERENCE = "difference"
    PERCENT = "percent"
    INDEX = "index"
    RATIO = "ratio"


class Change(Struct, frozen=True):
    """What figures tell in place of their level.

    Attributes:
        kind: How.
        since: What they are compared with: `2024`, or `the year before`.
        until: The one level that is compared with it; empty where there are several.
        by_step: Whether each is compared with the level before it.
        of_share: Whether they are shares, whose differences are points.
    """

    kind: ChangeKind
    since: str
    by_step: bool
    of_share: bool = False
    until: str = ""

    def title(self, figure: str) -> str:
        """What the changes of a figure are called."""
        inner = lowered(figure)
        if self.kind is ChangeKind.INDEX:
            return phrase("Index of {figure} ({since} = 100)", figure=inner, since=self.since)
        if self.kind is ChangeKind.RATIO:
            return phrase("{figure}, as a ratio to {since}", figure=figure, since=self.since)
        facts = {"figure": inner, "since": self.since, "until": self.until}
        if self.kind is ChangeKind.PERCENT and self.until:
            return phrase("Percent change in {figure} from {since} to {until}", **facts)
        if self.kind is ChangeKind.PERCENT:
            return phrase("Percent change in {figure} from {since}", **facts)
        if self.until:
            return phrase("Change in {figure} from {since} to {until}", **facts)
        return phrase("Change in {figure} from {since}", **facts)

    def unit(self, unit: str) -> str:
        """The unit of the changes of figures in a unit."""
        if self.kind is ChangeKind.DIFFERENCE:
            return phrase("points") if self.in_points else unit
        return "%" if self.kind is ChangeKind.PERCENT else ""

    @property
    def in_points(self) -> bool:
        """Whether it is a difference of shares, which is told in points."""
        return self.of_share and self.kind is ChangeKind.DIFFERENCE

    @property
    def signed(self) -> bool:
        """Whether a rise is written with a plus."""
        return self.kind in (ChangeKind.DIFFERENCE, ChangeKind.PERCENT)


def total_level() -> Level:
    """The level that stands for all others together."""
    return Level("\x00all", phrase("All"), role=LevelRole.TOTAL)


class Dimension(Struct, frozen=True):
    """A column of the request with the levels that are shown, in their order.

    Attributes:
        role: What it does.
        variable: The column; its levels stand in the order shown, the total last where totals are wanted.
        ordered_by: The rule that order follows, in words.
        several: Whether a record may have several of its levels.
        dropped: Whether levels are left out that shares count all the same.
        nets: The places of the levels that each net adds together; nets stand behind all plain levels.
        all_levels: Every level the column has, shown or not, in natural order: what colours go by.
        color_order: Codes in the order in which they are given colours, where other charts give them the same; empty
            for a chart alone.
    """

    role: Role
    variable: Variable
    ordered_by: str
    several: bool = False
    dropped: bool = False
    nets: tuple[tuple[int, ...], ...] = ()
    all_levels: tuple[Level, ...] = ()
    color_order: tuple[str, ...] = ()

    @property
    def levels(self) -> tuple[Level, ...]:
        """The levels shown: plain ones, then nets, then the total."""
        return self.variable.levels

    @property
    def total(self) -> int | None:
        """The place of the total; None where there is none."""
        return len(self.levels) - 1 if self.levels and self.levels[-1].is_total else None

    @property
    def plain(self) -> int:
        """How many levels are neither nets nor the total."""
        return len(self.levels) - len(self.nets) - (self.total is not None)

    def natural_places(self) -> list[int]:
        """The places of the plain levels in natural order, however they are drawn; unknown ones last."""
        order = {level.key: place for place, level in enumerate(self.all_levels)}
        return sorted(range(self.plain), key=lambda place: order.get(self.levels[place].key, len(order)))

    def parts(self, place: int) -> range | tuple[int, ...] | None:
        """The levels whose figures add up to those of a level; None where all do.

        Answers of which a record may have several add up to none of their nets.
        """
        if place == self.total:
            return None
        if self.several:
            return range(place, place + 1)
        return self.nets[place - self.plain] if place >= self.plain else range(place, place + 1)


def base_in_words(base: int) -> str:
    """A number of records; `…` where it must not be shown."""
    return "…" if base == UNKNOWN_BASE else with_signs(f"{base:,}")


def title_of(figure: Figure, measure: Variable | None, noun: str) -> str:
    """What a figure is, in words.

    Args:
        figure: The statistic and measure.
        measure: What is known of the measure; None where the statistic has none.
        noun: What is counted, in the plural.
    """
    statistic = figure.statistic
    if measure is None:
        return statistic.title(noun)
    if statistic.linear is Linear.SHARE:
        return phrase("Share of total {measures}", measures=measure.in_sentence)
    return statistic.title(measure.in_sentence) if statistic.words else measure.label


class Column(Struct, frozen=True):
    """One figure for every cell; all arrays have shape (cells,).

    Attributes:
        figure: The statistic and measure.
        measure: What is known of the measure; None where the statistic has none.
        per: What is known of the column a rate is taken of; None for any other statistic.
        noun: What is counted, in the plural.
        estimate: The figures, unrounded; NaN where a cell has none.
        low: Lower limits of the interval; NaN where there is none.
        high: Upper limits.
        standard_error: Standard errors; NaN where there is none.
        base: Records with an answer that the figure rests on, never weighted; for a share, those of its whole.
            `UNKNOWN_BASE` where it must not be shown.
        records: Records in the cell itself, never weighted.
        effective_base: The base divided by the design effect; equal to the base without weights or design.
        design_effect: What the design multiplies the variance by; NaN where that is not known.
        weighting_effect: What unequal weights alone multiply it by; NaN without weights.
        degrees: Degrees of freedom of the limits; NaN where they have none.
        flags: `Flag` values.
        interval: What the limits are, in words; empty when there are none.
        level: The confidence level they have in percent; None where they have none.
        by_student: Whether they go by Student's t.
        weighted_base: What the weights of the records of its base add up to; NaN without weights.
        without_limits: Why none of its figures has limits that were asked for, in words; empty where some have.
        whole: For shares, the number of the whole each is taken of.
        letters: Comparison letters; empty when there are none.
        change: What the figures tell in place of their level; None where they are levels.
    """

    figure: Figure
    measure: Variable | None
    noun: str
    estimate: Floats
    low: Floats
    high: Floats
    standard_error: Floats
    base: Integers
    records: Integers
    effective_base: Floats
    design_effect: Floats
    weighting_effect: Floats
    degrees: Floats
    flags: npt.NDArray[np.uint8]
    interval: str
    whole: Integers
    letters: tuple[str, ...] = ()
    per: Variable | None = None
    change: Change | None = None
    level: float | None = None
    by_student: bool = False
    without_limits: str = ""
    weighted_base: Floats = field(default_factory=lambda: np.zeros(0))

    @property
    def title(self) -> str:
        """What the column holds: `Mean waiting time`, `Number of passengers`."""
        title = title_of(self.figure, self.measure, self.noun)
        title = phrase("{figure} per {other}", figure=title, other=self.per.in_sentence) if self.per else title
        return title if self.change is None else self.change.title(title)

    @property
    def is_share(self) -> bool:
        """Whether its figures are shares between 0 and 1."""
        return self.figure.statistic.linear is Linear.SHARE

    @property
    def unit(self) -> str:
        """The unit of its figures, `%` for shares; may be empty."""
        return self._level_unit if self.change is None else self.change.unit(self._level_unit)

    @property
    def _level_unit(self) -> str:
        unit = self.figure.statistic.unit
        if self.is_share:
            return "%"
        if unit is Unit.NONE or self.measure is None:
            return ""
        if self.per and self.per.unit:
            return f"{self.measure.unit or self.measure.in_sentence} / {self.per.unit}"
        return f"{self.measure.unit}²" if self.measure.unit and unit is Unit.SQUARED else self.measure.unit


class SummaryTable(Struct, frozen=True):
    """Cells and their figures.

    Attributes:
        dimensions: The columns that make up a cell: panel, categories from the outermost, then the series.
        keys: Places in each dimension's levels, shape (cells, dimensions), sorted.
        columns: The figures, in the order asked for.
        provenance: How they were worked out, from which records.
        shapes: How each measure is distributed, where that is known.
        trends: Slopes along levels that run from low to high, where change is shown.
        trends_along: The column they go along.
        comparison: Tested differences, where they are wanted.
        associations: The tests of independence, where they are wanted: one for each panel or answer, then any over all.
        cell_shapes: How each measure of a mean is distributed in every cell, where that is known.
        values: For each measure the different values of every cell with their records and weights, where wanted.
    """

    dimensions: tuple[Dimension, ...]
    keys: Integers
    columns: tuple[Column, ...]
    provenance: Provenance
    shapes: dict[str, Shape] = field(default_factory=dict)
    comparison: Comparison | None = None
    associations: tuple[Association, ...] = ()
    values: dict[str, tuple[Counted, ...]] = field(default_factory=dict)
    cell_shapes: dict[str, tuple[CellShape | None, ...]] = field(default_factory=dict)
    trends: tuple[Trend, ...] = ()
    trends_along: Dimension | None = None

    @property
    def shown(self) -> tuple[Column, ...]:
        """The figures that were asked for, without those for labels only."""
        return tuple(column for column in self.columns if column.figure.purpose is Purpose.SHOWN)

    def column_for(self, purpose: Purpose, statistic: str | None = None) -> Column | None:
        """The first figure worked out for a purpose."""
        fitting = (c for c in self.columns if c.figure.purpose is purpose)
        return next((c for c in fitting if statistic in (None, c.figure.statistic.name)), None)

    @property
    def panel(self) -> Dimension | None:
        """The dimension of the panels, if there are any."""
        return next((dimension for dimension in self.dimensions if dimension.role is Role.PANEL), None)

    @property
    def categories(self) -> tuple[Dimension, ...]:
        """The dimensions of the categories, outermost first."""
        return tuple(dimension for dimension in self.dimensions if dimension.role is Role.CATEGORY)

    @property
    def series(self) -> Dimension | None:
        """The dimension of the series, if the table is split."""
        return next((dimension for dimension in self.dimensions if dimension.role is Role.SERIES), None)

    def levels_of(self, cell: int) -> tuple[Level, ...]:
        """The level of each dimension a cell stands for."""
        return tuple(dimension.levels[place] for dimension, place in zip(self.dimensions, self.keys[cell], strict=True))
