"""The words of a chart, written from what was asked: they follow every change of statistic, base and layout."""

import re
from collections.abc import Collection, Sequence
from enum import StrEnum

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.chart_requests import AxisTitlesRequest, NumbersRequest, WordsRequest
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.writing.figures import Figures, rounded_off, unit_in_words
from grainstack.chart.writing.signs import sign_meanings
from grainstack.language import in_words, lowered, phrase, phrases
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests
from grainstack.summary.figures.small import SMALL_BASE
from grainstack.summary.options import RoundingRequest, SmallBaseRequest
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Column, SummaryTable


class Words(Struct, frozen=True):
    """Every text of the frame; empty ones are left out.

    Attributes:
        typed: The footnote that was typed.
        naming: What the figures are, where no other text says it.
        meanings: Each sign that may stand at a figure, with what it says; `explaining` keeps those that are drawn.
        sentences: What is to be known of the figures.
        base: How many records they rest on.
    """

    title: str
    subtitle: str
    value_title: str
    category_title: str
    source: str
    second_title: str = ""
    typed: str = ""
    naming: str = ""
    meanings: tuple[tuple[str, str], ...] = ()
    sentences: tuple[str, ...] = ()
    base: str = ""

    @property
    def footnote(self) -> str:
        """The whole note."""
        return " ".join(part for part in (self.typed, self.naming, self._signs, *self.sentences) if part)

    @property
    def short_note(self) -> str:
        """The note where there is little room: what was typed, what signs mean, and the base."""
        return " ".join(part for part in (self.typed, self._signs, self.base) if part)

    @property
    def _signs(self) -> str:
        meanings = [f"{sign} {meaning}" for sign, meaning in self.meanings]
        return f"{'; '.join(meanings)}." if meanings else ""

    def explaining(self, signs: Collection[str]) -> "Words":
        """The words with the meaning of these signs only.

        Args:
            signs: The signs that are drawn.
        """
        kept = tuple((sign, meaning) for sign, meaning in self.meanings if sign in signs)
        return self if kept == self.meanings else replace(self, meanings=kept)


class Place(StrEnum):
    """Where a chart says what its figures are, besides in a title nobody changed."""

    AXIS = "axis"
    SUBTITLE = "subtitle"
    TITLE = "title"


def words_for(
    table: SummaryTable, request: Requests, notes: Sequence[str] = (), figures_at: Place = Place.AXIS
) -> Words:
    """The words asked for, and written ones in the place of those that were not.

    What the figures are is always said: in the note where all words that would say it were changed.

    Args:
        table: What is shown.
        request: What was typed, and how figures are written, which changes their unit.
        notes: Sentences for the footnote besides those of the table.
        figures_at: Where the value title stands.
    """
    options, titles, numbers = request[WordsRequest], request.usual(AxisTitlesRequest), request[NumbersRequest]
    least = request.usual(SmallBaseRequest).min_base or SMALL_BASE
    columns = table.shown
    second = table.column_for(Purpose.SECOND)
    beside = [column for column in table.columns if column.figure.purpose is Purpose.BESIDE]
    title, subtitle = _given(options.title, default_title(table)), _given(options.subtitle, "")
    figures = titled_with_unit(columns, numbers)
    value_title = _given(titles.value_title, figures)
    if titles.value_title is None:
        if figures.casefold() in subtitle.casefold():
            value_title = ""
        elif second is None and figures_title(columns).casefold() in title.casefold():
            value_title = _unit_alone(unit_in_words(columns[0], numbers), subtitle, figures_at)
    own = {
        Place.AXIS: (titles.value_title,),
        Place.SUBTITLE: (titles.value_title, options.subtitle),
        Place.TITLE: ("",),
    }
    unsaid = options.title is not None and any(text is not None for text in own[figures_at])
    shares = [share.title] if (share := table.column_for(Purpose.LABEL, "share")) else []
    naming = f"{figures}." if unsaid and not _says(request, figures, _heading(table), *shares) else ""
    off = rounded_off(table, add_up=request.usual(RoundingRequest).add_up, numbers=numbers)
    meanings = sign_meanings([*columns, *([second] if second else []), *beside], least)
    return Words(
        title=title,
        subtitle=subtitle,
        value_title=value_title,
        category_title=_given(titles.category_title, ""),
        source=phrase("Source: {source}", source=source)
        if (source := _given(options.source, table.provenance.origin.source))
        else "",
        second_title=_second_title(second, request.usual(SecondRequest)) if second else "",
        typed=closed(options.footnote or "", more=not options.no_note),
        naming="" if options.no_note else naming,
        meanings=() if options.no_note else meanings,
        sentences=() if options.no_note else (*table.provenance.sentences(off=off), *notes),
        base="" if options.no_note else table.provenance.base_alone,
    )


def _unit_alone(unit: str, subtitle: str, place: Place) -> str:
    """What stands in the place of the title of figures that another title names already: their unit."""
    if not unit or re.search(rf"(?<!\w){re.escape(unit)}(?!\w)", subtitle):
        return ""
    if place is Place.AXIS:
        return "" if unit == "%" else unit  # the ends of the axis have the sign
    return phrase("in {unit}", unit=unit)


def closed(sentence: str, *, more: bool) -> str:
    """A sentence that was typed, closed by a full stop where others follow it."""
    return f"{sentence}." if more and sentence and sentence[-1] not in ".!?…:;。！？" else sentence


def default_title(table: SummaryTable) -> str:
    """What is shown by what: `Mean wait by route and ticket`."""
    second = table.column_for(Purpose.SECOND)
    title = figures_title(table.shown)
    if second:
        title = phrase("{first} and {second}", first=title, second=lowered(second.title))
    return f"{title}{by_in_words(table)}"


def by_in_words(table: SummaryTable) -> str:
    """By what figures are shown: ` by route and season`; empty for all records together."""
    names = [one.variable.in_sentence for one in table.dimensions if one.variable.name != EVERYTHING]
    return phrase(" by {names}", names=in_words(names)) if names else ""


def words_of_parts(table: SummaryTable, request: Requests, labels: Sequence[str]) -> Requests:
    """The request with the words of a chart of parts whose labels are shares: its title names these.

    Args:
        table: What is shown.
        request: What was typed.
        labels: What is written at each part, in order.
    """
    options, share = request[WordsRequest], table.column_for(Purpose.LABEL, "share")
    if options.title is not None or share is None or [one for one in labels if one != "name"][:1] != ["share"]:
        return request
    return request.having(replace(options, title=f"{share.title}{by_in_words(table)}"))


def words_of_distribution(table: SummaryTable, request: Requests) -> Requests:
    """The request with the words of a chart of values: its title and axis name the measure, not its mean."""
    options, titles, numbers = request[WordsRequest], request.usual(AxisTitlesRequest), request[NumbersRequest]
    column = table.shown[0]
    unit = titled_with_unit((column,), numbers).rpartition(" (")[2] if column.unit else ""
    title = f"{column.measure.label if column.measure else ''}{f' ({unit}' if unit else ''}"
    heading = f"{_heading(table)}{by_in_words(table)}"
    unsaid = None not in (options.title, titles.value_title) and not _says(request, title, _heading(table))
    footnote = " ".join([f"{heading}.", *([options.footnote] if options.footnote else [])])
    return request.having(
        replace(
            options,
            title=heading if options.title is None else options.title,
            footnote=footnote if unsaid and not options.no_note else options.footnote,
        ),
        replace(titles, value_title=title if titles.value_title is None else titles.value_title),
    )


def _heading(table: SummaryTable) -> str:
    """What a chart of values shows."""
    measure = table.shown[0].measure
    return phrase("Distribution of {what}", what=measure.in_sentence if measure else phrase("records"))


def _says(request: Requests, *wanted: str) -> bool:
    """Whether any of some texts, units aside, stands in the words asked for."""
    options, titles = request[WordsRequest], request.usual(AxisTitlesRequest)
    texts = (options.title, options.subtitle, titles.value_title, options.footnote)
    said = " ".join(text for text in texts if text).casefold()
    return any(text.partition(" (")[0].casefold() in said for text in wanted)


def figures_title(columns: Sequence[Column]) -> str:
    """What some figures, or their changes, are together: `Mean waiting time and spending`."""
    change = columns[0].change
    if change is not None and len(columns) > 1:
        return change.title(figures_title([replace(column, change=None) for column in columns]))
    if len(columns) == 1:
        return columns[0].title
    statistics = list(dict.fromkeys(column.figure.statistic.name_in_words for column in columns))
    measures = list(dict.fromkeys(column.measure.in_sentence for column in columns if column.measure))
    if len(statistics) * len(measures) != len(columns) or not all(column.measure for column in columns):
        return in_words([columns[0].title, *(lowered(column.title) for column in columns[1:])])
    if all(column.is_share for column in columns):
        return phrase("Share of total {measures}", measures=in_words(measures))
    if len(statistics) == 1:
        return columns[0].figure.statistic.title(in_words(measures))
    facts = {"statistics": in_words([statistics[0], *map(lowered, statistics[1:])]), "measures": in_words(measures)}
    of = columns[-1].figure.statistic.words.endswith(" of {what}")  # the last one stands before the measures
    return phrase("{statistics} of {measures}", **facts) if of else phrase("{statistics} {measures}", **facts)


def _second_title(column: Column, request: SecondRequest) -> str:
    """The title of a second axis, as typed or as its figures are called, with its unit."""
    title = column.title if request.second_title is None else request.second_title
    unit = unit_in_words(column, request.numbers) if request.second_unit is None else request.second_unit
    alone = request.second_title is not None and request.second_unit is None  # whoever typed it said all
    return title if alone or not unit else f"{title} ({unit})"


def titled_with_unit(columns: Sequence[Column], numbers: NumbersRequest) -> str:
    """What the figures are and their unit: `Mean wait (minutes)`."""
    title, unit = figures_title(columns), unit_in_words(columns[0], numbers)
    return f"{title} ({unit})" if unit else title


def _given(text: str | None, written: str) -> str:
    if text is None:
        return written
    return "" if text == "none" else text


def alt_text(kind: str, table: SummaryTable, column: Column, title: str, figures: Figures) -> str:
    """Kind, what is shown, how many categories, and where there are figures the extremes and with them the range.

    Args:
        kind: What kind of chart it is, in English: `Stacked bar chart`.
        table: What is shown.
        column: The figure spoken of.
        title: The chart's title.
        figures: How figures are written.
    """
    totals = (table.keys >= [dimension.plain for dimension in table.dimensions]).any(axis=1)
    known = np.flatnonzero(~np.isnan(column.estimate) & ~totals)
    if not len(known):
        known = np.flatnonzero(~np.isnan(column.estimate))
    axes = [axis for axis, dimension in enumerate(table.dimensions) if dimension in table.categories]
    categories = len(set(map(tuple, table.keys[:, axes].tolist())))
    shown = phrases("{n} category", "{n} categories", categories)
    if table.series:
        shown = phrase("{categories} in {count} series", categories=shown, count=len(table.series.levels))
    start = f"{phrase(kind)}. {title or column.title}. {shown}"
    if not len(known):  # another figure of the chart has some
        return f"{start}."
    highest, lowest = (int(known[pick(column.estimate[known])]) for pick in (np.argmax, np.argmin))
    unit = f" {figures.unit}" if figures.unit else ""

    def said(cell: int) -> str:
        names = ", ".join(level.label for level in table.levels_of(cell))
        return f"{names} ({figures.text(cell)}{unit})"

    if highest == lowest:
        return f"{start}; {said(highest)}."
    ends = phrase("highest: {highest}, lowest: {lowest}.", highest=said(highest), lowest=said(lowest))
    return f"{start}; {ends}"
