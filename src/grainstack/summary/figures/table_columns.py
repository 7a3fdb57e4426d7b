"""Columns of a table: estimates, limits, flags and what is left out."""

from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from grainstack.language import phrase
from grainstack.records.variable import Variable
from grainstack.summary.figures.estimates import Estimated, estimated
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.limits_of_figures import limits_of, share_limits
from grainstack.summary.figures.small import SMALL_BASE, Flags, base_flags, few_degrees, flagged, share_flags
from grainstack.summary.figures.spread import Limits
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure, Purpose
from grainstack.summary.sums.exact import Floats, Integers, Mask
from grainstack.summary.table import UNKNOWN_BASE, Column, Flag


def column_of(
    figure: Figure,
    estimator: Estimator,
    numbers: Mapping[str, Variable],
    noun: str,
    ready_made: tuple[Floats, Floats] | None = None,
) -> tuple[Column, Estimated]:
    """One figure of every cell, and the estimates it was made from.

    Args:
        figure: Which.
        estimator: The sums of the cells shown.
        numbers: What is known of the columns summed up.
        noun: What is counted, in the plural.
        ready_made: Lower and upper limits of ready-made figures, shape (cells,) each.
    """
    if figure.purpose in (Purpose.LABEL, Purpose.SECOND):
        return _plain_column(figure, estimator, numbers, noun)
    estimates = estimated(figure, estimator)
    if ready_made is not None:
        limits = Limits(*ready_made, phrase("Limits as given in the records"))
    else:
        limits = limits_of(figure, estimates, estimator)
    settled = _settled(estimates)
    all_settled = bool(limits.words) and len(settled) > 0 and bool(settled.all())
    effect = _design_effect(estimates)
    effective = _effective_base(estimates, effect, estimator)
    return (
        Column(
            figure=figure,
            measure=None if figure.measure is None else numbers[figure.measure],
            noun=noun,
            estimate=estimates.estimate,
            low=limits.low,
            high=limits.high,
            standard_error=estimates.error,
            base=estimates.base,
            records=estimates.records,
            effective_base=effective,
            design_effect=effect,
            weighting_effect=_weighting_effect(figure, estimator),
            weighted_base=_weighted_base(figure, estimator),
            degrees=estimates.degrees if limits.degrees is None else limits.degrees,
            flags=_flags(figure, estimates, estimator, limits, effective),
            interval="" if all_settled else limits.words,
            without_limits=phrase("No limits: nothing was left to chance") if all_settled else "",
            level=limits.level,
            by_student=limits.by_student,
            whole=estimator.grouping.base_of,
            per=None if figure.per is None else numbers[figure.per],
        ),
        estimates,
    )


def _plain_column(
    figure: Figure, estimator: Estimator, numbers: Mapping[str, Variable], noun: str
) -> tuple[Column, Estimated]:
    """A figure without limits: one that stands in labels, gives a colour, or is a second measure."""
    estimates = estimated(figure, estimator, with_error=False)
    nothing = np.full(len(estimates.base), np.nan)
    unsure = figure.purpose is Purpose.SECOND and _is_sampled(figure, estimator)
    column = Column(
        figure=figure,
        measure=None if figure.measure is None else numbers[figure.measure],
        noun=noun,
        estimate=estimates.estimate,
        low=nothing,
        high=nothing,
        standard_error=nothing,
        base=estimates.base,
        records=estimates.records,
        effective_base=estimates.base.astype(float),
        design_effect=nothing,
        weighting_effect=nothing,
        degrees=nothing,
        flags=base_flags(estimates.base, SMALL_BASE if unsure else 0),
        interval="",
        whole=estimator.grouping.base_of,
    )
    return column, estimates


def at_cells(column: Column, cells: Integers) -> Column:
    """The figures of some cells, in the order of these; a cell may be named several times.

    Args:
        column: The figures.
        cells: The cells, shape (cells wanted,).
    """
    arrays = {name: getattr(column, name)[cells] for name in _ARRAYS}
    arrays["weighted_base"] = column.weighted_base[cells] if len(column.weighted_base) else column.weighted_base
    return replace(column, letters=tuple(column.letters[cell] for cell in cells) if column.letters else (), **arrays)


_ARRAYS = (
    *("estimate", "low", "high", "standard_error", "base", "records", "effective_base", "design_effect"),
    *("weighting_effect", "degrees", "flags", "whole"),
)


def certain(column: Column, cells: Mask) -> Column:
    """The column without limits in some cells, whose figures are no estimates.

    Args:
        column: The column.
        cells: Which cells, shape (cells,).
    """
    if not cells.any():
        return column
    return replace(
        column,
        low=np.where(cells, np.nan, column.low),
        high=np.where(cells, np.nan, column.high),
        standard_error=np.where(cells, np.nan, column.standard_error),
        degrees=np.where(cells, np.nan, column.degrees),
        design_effect=np.where(cells, np.nan, column.design_effect),
        effective_base=np.where(cells, np.nan, column.effective_base),
    )


def without_hidden(column: Column, cells: Mask, bases: Mask) -> Column:
    """The column without the figures of some cells, and without their bases.

    Args:
        column: The column.
        cells: Which cells are left out, shape (cells,).
        bases: Which cells have a base that must not be shown, shape (cells,).
    """
    out = cells | bases if column.is_share else cells
    unknown = bases if column.is_share else cells
    return replace(
        certain(column, out),
        estimate=np.where(out, np.nan, column.estimate),
        weighting_effect=np.where(out, np.nan, column.weighting_effect),
        base=np.where(unknown, UNKNOWN_BASE, column.base),
        flags=np.where(out, Flag.HIDDEN, column.flags).astype(np.uint8),
        letters=tuple("" if hidden else text for text, hidden in zip(column.letters, out, strict=False)),
    )


def _design_effect(estimates: Estimated) -> Floats:
    """What the design multiplies the variance of each figure by (Kish 1965); NaN where that is not known."""
    if estimates.spread is None:
        return np.full(len(estimates.base), np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        effect = estimates.error**2 / estimates.plain_variance
    return np.where(np.isfinite(effect) & (effect > 0), effect, np.nan)


def _settled(estimates: Estimated) -> Mask:
    """Which figures leave nothing to chance as all there is was drawn, shape (cells,)."""
    if estimates.spread is None:
        return np.zeros(len(estimates.estimate), dtype=bool)
    return estimates.spread.settled


def _effective_base(estimates: Estimated, effect: Floats, estimator: Estimator) -> Floats:
    """How many records drawn one by one would tell as much: the base divided by the design effect of the figure.

    Where the design has no effect that could be told (a share of 0 %, a count), NaN under a design.
    """
    if not estimator.request.design.is_complex:
        return estimates.base.astype(float)
    return np.asarray(estimates.base / effect)


def _weighting_effect(figure: Figure, estimator: Estimator) -> Floats:
    """What unequal weights alone multiply the variance by: n Σw² / (Σw)² (Kish 1965); NaN without weights."""
    if not estimator.weighted:
        return np.full(estimator.grouping.count, np.nan)
    moments = estimator.whole(None) if figure.statistic.linear is Linear.SHARE else estimator.moments(figure.measure)
    with np.errstate(invalid="ignore", divide="ignore"):
        return np.asarray(moments.records * moments.weight_squares / moments.weight**2)


def _weighted_base(figure: Figure, estimator: Estimator) -> Floats:
    """What the weights of the records of a base add up to; NaN without weights."""
    if not estimator.weighted:
        return np.full(estimator.grouping.count, np.nan)
    moments = estimator.whole(None) if figure.statistic.linear is Linear.SHARE else estimator.moments(figure.measure)
    return np.asarray(moments.weight)


def _flags(figure: Figure, estimates: Estimated, estimator: Estimator, limits: Limits, effective: Floats) -> Flags:
    request, linear = estimator.request, figure.statistic.linear
    least = request.small.min_base
    if linear is Linear.SHARE and figure.measure is None and not request.is_complete:
        if not request.spread.confident:
            limits = share_limits(estimates, estimator)
        flags = share_flags(estimates.estimate, limits.low, limits.high, estimates.base, effective)
    else:
        flags = (
            base_flags(estimates.base, SMALL_BASE)
            if _is_sampled(figure, estimator)
            else np.zeros(len(estimates.base), dtype=np.uint8)
        )
    if least is not None:
        by_cell = estimates.records if linear is Linear.TOTAL else estimates.base
        flags = (flags & ~np.uint8(Flag.SMALL_BASE)) | base_flags(by_cell, least)
    if request.is_complete:
        return flags
    if linear is Linear.TOTAL and request.spread.error_bars is None:
        return flags  # a count rests on no sample unless its limits are asked for
    if request.design.is_complex:
        flags |= few_degrees(estimates.degrees if limits.degrees is None else limits.degrees)
    if _settled(estimates).all() and estimates.spread is not None:
        return flags  # which is said once for all of them
    return flags | _without_interval(figure, estimates, estimator, limits)


def _without_interval(figure: Figure, estimates: Estimated, estimator: Estimator, limits: Limits) -> Flags:
    """Which figures should have an interval and have none."""
    linear, flags = figure.statistic.linear, np.zeros(len(estimates.base), dtype=np.uint8)
    if linear is Linear.RATIO or (estimates.spread is not None and linear is not Linear.SHARE):
        flags |= flagged((estimates.records > 0) & np.isnan(estimates.error), Flag.NO_INTERVAL)
    elif estimates.spread is not None:
        flags |= flagged((estimates.base > 0) & np.isnan(estimates.error), Flag.NO_INTERVAL)
    elif estimator.request.spread.confident and figure.statistic.quantile is not None:
        unbounded = np.isnan(limits.low) & np.isnan(limits.high)
        flags |= flagged((estimates.base > 0) & ~np.isnan(estimates.estimate) & unbounded, Flag.NO_INTERVAL)
    return flags


def _is_sampled(figure: Figure, estimator: Estimator) -> bool:
    """Whether few records make a figure unsure; a share of unweighted sums is as sure as the sums."""
    if estimator.request.is_complete:
        return False
    design, spread = estimator.request.design, estimator.request.spread
    share_of_sums = figure.statistic.linear is Linear.SHARE and figure.measure is not None
    return figure.statistic.sampled and not (share_of_sums and not design.is_complex and not spread.confident)
