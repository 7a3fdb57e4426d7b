"""The words of a chart, written from what was asked: they follow every change of statistic, base and layout."""

from dataclasses import dataclass

from grainstack.chart.request import WordsRequest
from grainstack.summary.table import Column, SummaryTable


@dataclass(frozen=True, slots=True)
class Words:
    """Every text of the frame; empty ones are left out."""

    title: str
    subtitle: str
    value_title: str
    category_title: str
    footnote: str
    source: str


def words_for(table: SummaryTable, column: Column, asked: WordsRequest) -> Words:
    """The words asked for, and written ones in the place of those that were not."""
    value_title = _given(asked.value_title, titled_with_unit(column))
    subtitle = _given(asked.subtitle, "")
    if asked.value_title is None and value_title.casefold() in subtitle.casefold():
        value_title = ""
    return Words(
        title=_given(asked.title, default_title(table, column)),
        subtitle=subtitle,
        value_title=value_title,
        category_title=_given(asked.category_title, ""),
        footnote=_given(asked.footnote, " ".join(table.provenance.sentences())),
        source=f"Source: {source}" if (source := _given(asked.source, table.provenance.origin.source)) else "",
    )


def default_title(table: SummaryTable, column: Column) -> str:
    """What is shown by what: `Mean wait by route and ticket`."""
    by = [dimension.variable.in_sentence for dimension in table.dimensions]
    listed = by[0] if len(by) == 1 else f"{', '.join(by[:-1])} and {by[-1]}"
    return f"{column.title} by {listed}"


def titled_with_unit(column: Column) -> str:
    """What the figures are and their unit: `Mean wait (minutes)`."""
    return f"{column.title} ({column.unit})" if column.unit else column.title


def _given(text: str | None, written: str) -> str:
    if text is None:
        return written
    return "" if text == "none" else text
