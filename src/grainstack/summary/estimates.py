"""From sums to figures: one function per statistic, each giving a column of the table."""

from dataclasses import dataclass, replace

import numpy as np
import numpy.typing as npt

from grainstack.records.variable import Variable
from grainstack.summary.intervals import student, wilson
from grainstack.summary.moments import Floats, Integers, Moments
from grainstack.summary.request import Figure, SummaryRequest
from grainstack.summary.table import Column, Flag

SMALL_BASE = 30


@dataclass(frozen=True, slots=True)
class Sums:
    """What a figure is worked out from.

    Attributes:
        cells: Sums of the cells shown, for this figure's measure.
        whole: Sums of the base each cell's share is taken of, shape like `cells`.
        measure: What is known of the measure.
        noun: What is counted, in the plural.
        limits: Ready-made lower and upper limits of ready-made figures, shape (cells,) each.
    """

    cells: Moments
    whole: Moments
    measure: Variable | None
    noun: str = "records"
    limits: tuple[Floats, Floats] | None = None


def column(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    """The figures of one statistic, with the spread the request asks for."""
    worked_out = {"count": _count, "share": _share, "sum": _sum, "mean": _mean, "value": _value}[figure.statistic.name]
    return worked_out(figure, sums, request)


def _count(figure: Figure, sums: Sums, _request: SummaryRequest) -> Column:
    return _plain(figure, sums, sums.cells.weight)


def _sum(figure: Figure, sums: Sums, _request: SummaryRequest) -> Column:
    return _plain(figure, sums, sums.cells.sum)


def _plain(figure: Figure, sums: Sums, estimate: Floats) -> Column:
    """A count or sum of records: a census of what was recorded, without sampling error."""
    nothing = np.full(len(estimate), np.nan)
    records = sums.cells.records
    flags = np.zeros(len(estimate), dtype=np.uint8)
    return Column(figure, sums.measure, sums.noun, estimate, nothing, nothing, nothing, records, records, flags, "")


def _value(figure: Figure, sums: Sums, _request: SummaryRequest) -> Column:
    """Figures as they were read, with their ready-made limits."""
    plain = _plain(figure, sums, np.where(sums.cells.records > 0, sums.cells.sum, np.nan))
    if sums.limits is None:
        return plain
    return replace(plain, low=sums.limits[0], high=sums.limits[1], interval="Limits as given in the records")


def _share(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    """Σwδ / Σw over the base; base n is that of the base, not of the cell."""
    base = sums.whole.weight
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = sums.cells.weight / base
        error = np.sqrt(estimate * (1 - estimate) / base)
    low, high = wilson(sums.cells.weight, base, request.level)
    flags = _share_flags(estimate, low, high, sums.whole.records)
    words = f"{request.level:g} % confidence limits (Wilson score)"
    bases = sums.whole.records, sums.cells.records
    confident = Column(figure, None, sums.noun, estimate, low, high, error, *bases, flags, words)
    return _with_spread(confident, request, np.sqrt(base))


def _mean(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    cells = sums.cells
    records = cells.records.astype(float)
    few = records < 2
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = cells.mean
        deviation = np.where(few, np.nan, np.sqrt(cells.squares / cells.weight * records / (records - 1)))
        error = deviation / np.sqrt(records)
    low, high = (np.full(len(records), np.nan),) * 2
    if request.error_bars in (None, "confidence"):
        low, high = student(estimate, error, records - 1, request.level)
    flags = np.where(few & (records > 0), Flag.NO_INTERVAL, 0).astype(np.uint8)
    words = f"{request.level:g} % confidence limits of the mean (Student's t)"
    bases = cells.records, cells.records
    confident = Column(figure, sums.measure, sums.noun, estimate, low, high, error, *bases, flags, words)
    return _with_spread(confident, request, np.sqrt(records))


def _with_spread(confident: Column, request: SummaryRequest, root_n: Floats) -> Column:
    """The column with the kind of limits that was asked for in place of confidence limits."""
    if request.error_bars in (None, "confidence"):
        return confident
    nothing = np.full(len(confident.estimate), np.nan)
    if request.error_bars == "none":
        return replace(confident, low=nothing, high=nothing, interval="")
    if request.error_bars == "standard-error":
        reach, words = confident.standard_error, "Limits: one standard error either side"
    else:
        reach, words = confident.standard_error * root_n, "Limits: one standard deviation either side"
    return replace(confident, low=confident.estimate - reach, high=confident.estimate + reach, interval=words)


def _share_flags(share: Floats, low: Floats, high: Floats, base: Integers) -> npt.NDArray[np.uint8]:
    """The published presentation standard for proportions (Parker et al. 2017)."""
    width = high - low
    wide = (width > 0.30) | ((width > 0.05) & (width > 1.30 * share))
    small = (base > 0) & (base < SMALL_BASE)
    return (np.where(small, Flag.SMALL_BASE, 0) | np.where(wide & ~small, Flag.WIDE_INTERVAL, 0)).astype(np.uint8)
