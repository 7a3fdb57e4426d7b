"""The figures of a column as text, wherever they are printed: one rounding for table, bar and label."""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.look.measures import ROUNDING
from grainstack.chart.writing.numbers import NumberStyle, given_style, number_style, rounded
from grainstack.language import marked, phrase
from grainstack.summary.summary_request import Purpose
from grainstack.summary.sums.exact import Floats
from grainstack.summary.table import Column, SummaryTable

PLAIN = NumbersRequest()


class Figures(Struct, frozen=True):
    """A column as text.

    Attributes:
        style: How its numbers are written.
        shown: The estimates as they are written, shape (cells,): rounded so that they add up where that was asked.
        unit: What stands behind a figure in a sentence: `minutes`, `million €`; empty where a pattern writes it.
    """

    style: NumberStyle
    shown: Floats
    unit: str = ""

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
    return Figures(style, shown, "" if style.carries_unit else unit_in_words(column, numbers))


def unit_in_words(column: Column, numbers: NumbersRequest) -> str:
    """The unit of a column's figures as they are written: `minutes`, `million €`, `thousands`; empty for none.

    Args:
        column: The column.
        numbers: Whether figures are written in thousands and so on, and a pattern that may carry the unit.
    """
    unit = column.unit
    carried = numbers.format is not None and bool(numbers.format.strip("#0,.-+ "))
    if not column.is_share and numbers.show_in:
        scale = scales_in_words(numbers.show_in)
        return scale.alone if carried or not unit else phrase(scale.of_unit, unit=unit)
    return "" if carried and unit in (numbers.format or "") else unit


class ScaleInWords(Struct, frozen=True):
    """What figures are written in.

    Attributes:
        alone: In words.
        of_unit: The same of a unit.
    """

    alone: str
    of_unit: str


def scales_in_words(name: str) -> ScaleInWords:
    """What figures written in thousands and so on are.

    Args:
        name: One of `SHOWN_IN`.
    """
    return {
        "thousands": ScaleInWords(phrase("thousands"), marked("thousand {unit}")),
        "millions": ScaleInWords(phrase("millions"), marked("million {unit}")),
        "billions": ScaleInWords(phrase("billions"), marked("billion {unit}")),
    }[name]


def rounded_off(table: SummaryTable, *, add_up: bool = False, numbers: NumbersRequest = PLAIN) -> bool:
    """Whether shares that add to 100 % do not as they are written: what a reader adds up is another sum.

    Args:
        table: The table.
        add_up: Whether shares are rounded so that they do.
        numbers: How numbers are written.
    """
    plain = (table.keys < [dimension.plain for dimension in table.dimensions]).all(axis=1)
    shares = [
        column
        for column in table.columns
        if column.figure.statistic.name == "share" and column.figure.purpose in (Purpose.SHOWN, Purpose.LABEL)
    ]
    if not shares:
        return False
    written = [figures_of(column, add_up=add_up, numbers=numbers) for column in shares]
    if len(shares) > 1 and np.allclose(np.nansum([one.estimate for one in shares], axis=0)[plain], 1.0):
        parts = [[(one, cell) for one in written] for cell in np.flatnonzero(plain).tolist()]  # of several measures
    else:
        parts = [
            [(one, cell) for cell in np.flatnonzero(plain & (column.whole == whole)).tolist()]
            for column, one in zip(shares, written, strict=True)
            for whole in np.unique(column.whole[plain]).tolist()
        ]
    return not all(map(_adds_to_a_hundred, parts))


def _adds_to_a_hundred(parts: Sequence[tuple[Figures, int]]) -> bool:
    """Whether shares add to 100 as they are written, none of them as less than the smallest step."""
    known = [(one.style, float(one.shown[cell]) * 100) for one, cell in parts if not np.isnan(one.shown[cell])]
    if any(0 < value < 10.0**-style.decimals / 2 for style, value in known):
        return False
    return not known or sum(rounded(value, style.decimals) for style, value in known) == 100


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
