"""The figures of a column as text, wherever they are printed: one rounding for table, bar and label."""

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.look.measures import ROUNDING
from grainstack.chart.writing.numbers import NumberStyle, given_style, number_style, rounded
from grainstack.summary.summary_request import Purpose
from grainstack.summary.sums.exact import Floats
from grainstack.summary.table import Column, SummaryTable

PLAIN = NumbersRequest()


class Figures(Struct, frozen=True):
    """A column as text.

    Attributes:
        style: How its numbers are written.
        shown: The estimates as they are written, shape (cells,): rounded so that they add up where that was asked.
    """

    style: NumberStyle
    shown: Floats

    def text(self, cell: int) -> str:
        """The figure of a cell; empty where there is none."""
        return self.style(float(self.shown[cell]))

    def number(self, value: float) -> str:
        """Any other number of the column's kind, such as a limit."""
        return self.style(value)


def figures_of(column: Column, *, add_up: bool = False, numbers: NumbersRequest = PLAIN) -> Figures:
    """How the figures of a column are written.

    Args:
        column: The column.
        add_up: Whether shares of one whole are rounded so that they add to 100 %.
        numbers: A pattern, a language, and whether figures are written in thousands.
    """
    share = column.is_share
    written = (column.estimate / (1 if share else numbers.divisor)).tolist()
    given = column.figure.statistic.name == "value" and not share
    style = given_style(written) if given else number_style(written, share=share)
    scale = style.scale if share else style.scale / numbers.divisor
    pattern = numbers.format or ""
    if share and "%" in pattern:
        scale = 1.0
    if column.change is not None and column.change.in_points:
        style = replace(style, decimals=min(style.decimals, 1))  # as shares of so many records have at most
    signed = column.change is not None and column.change.signed
    style = replace(style, scale=scale, pattern=pattern, locale=numbers.locale or "", signed=signed)
    shown = column.estimate
    if add_up and column.figure.statistic.name == "share":
        shown = added_up(
            column.estimate, column.whole.tolist(), 10.0**-style.decimals / (100 if share else style.scale)
        )
    return Figures(style, shown)


def rounded_off(table: SummaryTable, *, add_up: bool = False, numbers: NumbersRequest = PLAIN) -> bool:
    """Whether shares that add to 100 % do not as they are written: what a reader adds up is another sum.

    Args:
        table: The table.
        add_up: Whether shares are rounded so that they do.
        numbers: How numbers are written.
    """
    plain = (table.keys < [dimension.plain for dimension in table.dimensions]).all(axis=1)
    for column in table.columns:
        if column.figure.statistic.name != "share" or column.figure.purpose not in (Purpose.SHOWN, Purpose.LABEL):
            continue
        figures = figures_of(column, add_up=add_up, numbers=numbers)
        step = 10.0**-figures.style.decimals
        for whole in np.unique(column.whole[plain]):
            shown = figures.shown[plain & (column.whole == whole)] * 100
            written = sum(rounded(value, figures.style.decimals) for value in shown[~np.isnan(shown)].tolist())
            small = (shown > 0) & (shown < step / 2)  # written as less than the least step
            if len(shown) and (small.any() or written != 100) and not np.isnan(shown).all():
                return True
    return False


def added_up(shares: Floats, wholes: list[int], step: float) -> Floats:
    """Shares rounded to whole steps by largest remainders, so that those of one whole still add up (Hamilton's method).

    Args:
        shares: The shares, shape (cells,); NaN stays.
        wholes: The whole each belongs to.
        step: The smallest difference that is written.
    """
    result = shares.copy()
    of = np.array(wholes)
    for whole in np.unique(of):
        mine = np.flatnonzero((of == whole) & ~np.isnan(shares))
        if not np.isclose(shares[mine].sum(), 1.0, atol=ROUNDING):
            continue
        steps = shares[mine] / step
        down = np.floor(steps + ROUNDING)
        missing = round(1 / step) - int(down.sum())
        up = np.argsort(down - steps, kind="stable")[:missing]
        down[up] += 1
        result[mine] = down * step
    return result
