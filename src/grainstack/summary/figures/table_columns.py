"""Columns of a table: estimates, limits, flags and what is left out."""

from collections.abc import Mapping

import numpy as np
from msgspec.structs import replace

from grainstack.language import phrase
from grainstack.records.variable import Variable
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.inference import Inference, inferred
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
) -> tuple[Column, Inference]:
    """One figure of every cell, and what it was made from.

    Args:
        figure: Which.
        estimator: The sums of the cells shown.
        numbers: What is known of the columns summed up.
        noun: What is counted, in the plural.
        ready_made: Lower and upper limits of ready-made figures, shape (cells,) each.
    """
    if figure.purpose in (Purpose.LABEL, Purpose.SECOND):
        return _plain_column(figure, estimator, numbers, noun)
    figures = inferred(figure, estimator)
    if ready_made is not None:
        limits = Limits(*ready_made, phrase("Limits as given in the records"))
    else:
        limits = limits_of(figures)
    settled = figures.settled
    all_settled = bool(limits.words) and len(settled) > 0 and bool(settled.all())
    return (
        Column(
            figure=figure,
            measure=None if figure.measure is None else numbers[figure.measure],
            noun=noun,
            estimate=figures.estimate,
            low=limits.low,
            high=limits.high,
            standard_error=figures.error,
            base=figures.base,
            records=figures.records,
            effective_base=figures.effective_base,
            design_effect=figures.design_effect,
            weighting_effect=figures.weighting_effect,
            weighted_base=figures.weighted_base,
            degrees=figures.degrees if limits.degrees is None else limits.degrees,
            flags=_flags(figures, limits),
            interval="" if all_settled else limits.words,
            without_limits=phrase("No limits: nothing was left to chance") if all_settled else "",
            level=limits.level,
            by_student=limits.by_student,
            whole=estimator.grouping.base_of,
            per=None if figure.per is None else numbers[figure.per],
        ),
        figures,
    )


def _plain_column(
    figure: Figure, estimator: Estimator, numbers: Mapping[str, Variable], noun: str
) -> tuple[Column, Inference]:
    """A figure without limits: one that stands in labels, gives a colour, or is a second measure."""
    figures = inferred(figure, estimator, with_error=False)
    nothing = np.full(len(figures.base), np.nan)
    unsure = figure.purpose is Purpose.SECOND and _is_sampled(figures)
    column = Column(
        figure=figure,
        measure=None if figure.measure is None else numbers[figure.measure],
        noun=noun,
        estimate=figures.estimate,
        low=nothing,
        high=nothing,
        standard_error=nothing,
        base=figures.base,
        records=figures.records,
        effective_base=figures.base.astype(float),
        design_effect=nothing,
        weighting_effect=nothing,
        degrees=nothing,
        flags=base_flags(figures.base, SMALL_BASE if unsure else 0),
        interval="",
        whole=estimator.grouping.base_of,
    )
    return column, figures


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


def _flags(figures: Inference, limits: Limits) -> Flags:
    request, linear = figures.estimator.request, figures.figure.statistic.linear
    least = request.small.min_base
    if figures.of_records and not request.is_complete:
        if not request.spread.confident:
            limits = share_limits(figures)
        flags = share_flags(figures.estimate, limits.low, limits.high, figures.base, figures.effective_base)
    else:
        flags = (
            base_flags(figures.base, SMALL_BASE)
            if _is_sampled(figures)
            else np.zeros(len(figures.base), dtype=np.uint8)
        )
    if least is not None:
        by_cell = figures.records if linear is Linear.TOTAL else figures.base
        flags = (flags & ~np.uint8(Flag.SMALL_BASE)) | base_flags(by_cell, least)
    if request.is_complete:
        return flags
    if linear is Linear.TOTAL and request.spread.error_bars is None:
        return flags  # a count rests on no sample unless its limits are asked for
    if figures.is_complex:
        flags |= few_degrees(figures.degrees if limits.degrees is None else limits.degrees)
    if figures.by_design and figures.settled.all():
        return flags  # which is said once for all of them
    return flags | _without_interval(figures, limits)


def _without_interval(figures: Inference, limits: Limits) -> Flags:
    """Which figures should have an interval and have none."""
    statistic, flags = figures.figure.statistic, np.zeros(len(figures.base), dtype=np.uint8)
    if statistic.linear is Linear.RATIO or (figures.by_design and not figures.is_share):
        flags |= flagged((figures.records > 0) & ~figures.solid, Flag.NO_INTERVAL)
    elif figures.by_design:
        flags |= flagged((figures.base > 0) & ~figures.solid, Flag.NO_INTERVAL)
    elif figures.estimator.request.spread.confident and statistic.quantile is not None:
        unbounded = np.isnan(limits.low) & np.isnan(limits.high)
        flags |= flagged((figures.base > 0) & ~np.isnan(figures.estimate) & unbounded, Flag.NO_INTERVAL)
    return flags


def _is_sampled(figures: Inference) -> bool:
    """Whether few records make a figure unsure; a share of unweighted sums is as sure as the sums."""
    request = figures.estimator.request
    if request.is_complete:
        return False
    share_of_sums = figures.is_share and not figures.of_records
    alone = share_of_sums and not figures.is_complex and not request.spread.confident
    return figures.figure.statistic.sampled and not alone
