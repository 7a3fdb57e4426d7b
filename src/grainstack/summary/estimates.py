"""From sums to figures: one function per statistic, each giving a column of the table."""

from dataclasses import dataclass

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
    """

    cells: Moments
    whole: Moments
    measure: Variable | None


def column(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    """The figures of one statistic, with the spread the request asks for."""
    worked_out = {"count": _count, "share": _share, "sum": _sum, "mean": _mean}[figure.statistic.name]
    return worked_out(figure, sums, request)


def _count(figure: Figure, sums: Sums, _request: SummaryRequest) -> Column:
    return _plain(figure, sums, sums.cells.weight)


def _sum(figure: Figure, sums: Sums, _request: SummaryRequest) -> Column:
    return _plain(figure, sums, sums.cells.sum)


def _plain(figure: Figure, sums: Sums, estimate: Floats) -> Column:
    """A count or sum of records: a census of what was recorded, without sampling error."""
    nothing = np.full(len(estimate), np.nan)
    flags = np.zeros(len(estimate), dtype=np.uint8)
    return Column(figure, sums.measure, estimate, nothing, nothing, nothing, sums.cells.records, flags, "")


def _share(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    """Σwδ / Σw over the base; base n is that of the base, not of the cell."""
    base = sums.whole.weight
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = sums.cells.weight / base
        error = np.sqrt(estimate * (1 - estimate) / base)
    low, high = wilson(sums.cells.weight, base, request.level)
    flags = _share_flags(estimate, low, high, sums.whole.records)
    words = f"{request.level:g} % confidence limits (Wilson score)"
    return _with_spread(
        Column(figure, None, estimate, low, high, error, sums.whole.records, flags, words), request, np.sqrt(base)
    )


def _mean(figure: Figure, sums: Sums, request: SummaryRequest) -> Column:
    cells = sums.cells
    records = cells.records.astype(float)
    few = records < 2
    with np.errstate(invalid="ignore", divide="ignore"):
        estimate = np.where(records > 0, cells.mean, np.nan)
        deviation = np.where(
            few, np.nan, np.sqrt(np.maximum(cells.squares, 0) / cells.weight * records / (records - 1))
        )
        error = deviation / np.sqrt(records)
    low, high = (np.full(len(records), np.nan),) * 2
    if request.error_bars in (None, "confidence"):
        low, high = student(estimate, error, records - 1, request.level)
    flags = np.where(few & (records > 0), Flag.NO_INTERVAL, 0).astype(np.uint8)
    words = f"{request.level:g} % confidence limits of the mean (Student's t)"
    return _with_spread(
        Column(figure, sums.measure, estimate, low, high, error, cells.records, flags, words), request, np.sqrt(records)
    )


def _with_spread(confident: Column, request: SummaryRequest, root_n: Floats) -> Column:
    """The column with the kind of limits that was asked for in place of confidence limits."""
    if request.error_bars in (None, "confidence"):
        return confident
    nothing = np.full(len(confident.estimate), np.nan)
    if request.error_bars == "none":
        return _replaced(confident, nothing, nothing, "")
    if request.error_bars == "standard-error":
        reach, words = confident.standard_error, "Limits: one standard error either side"
    else:
        reach, words = confident.standard_error * root_n, "Limits: one standard deviation either side"
    return _replaced(confident, confident.estimate - reach, confident.estimate + reach, words)


def _replaced(column_: Column, low: Floats, high: Floats, words: str) -> Column:
    return Column(
        column_.figure,
        column_.measure,
        column_.estimate,
        low,
        high,
        column_.standard_error,
        column_.base,
        column_.flags,
        words,
    )


def _share_flags(share: Floats, low: Floats, high: Floats, base: Integers) -> npt.NDArray[np.uint8]:
    """The published presentation standard for proportions (Parker et al. 2017)."""
    width = high - low
    wide = (width > 0.30) | ((width > 0.05) & (width > 1.30 * share))
    small = (base > 0) & (base < SMALL_BASE)
    return (np.where(small, Flag.SMALL_BASE, 0) | np.where(wide & ~small, Flag.WIDE_INTERVAL, 0)).astype(np.uint8)
