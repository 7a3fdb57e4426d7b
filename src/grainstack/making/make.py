"""From a request to what it asks for: settle, read once, sum up, arrange, advise.

Commands, plans and pages all take this way. One request alone is `make`; several on one source share a single pass:
`begun` for each, `read_into` once, `finished` for each.
"""

from collections.abc import Callable, Mapping, Sequence
from copy import deepcopy
from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack.advice import Advice
from grainstack.chart.colors_request import ColorsRequest
from grainstack.chart.touch_request import TouchRequest
from grainstack.errors import ChartError, IdleError, RequestError
from grainstack.later import Later
from grainstack.making.design import check_design, check_items, with_design
from grainstack.making.kind import Arrangement, Kind, Product
from grainstack.making.table_advice import advice_on
from grainstack.option_names import option
from grainstack.records.opened import Opened
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.reading import read_blocks, read_counted
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Level
from grainstack.records.view import Block, View
from grainstack.requests import Requests
from grainstack.summary.options import RoundingRequest
from grainstack.summary.order import KeepRequest, OrderRequest, order_of
from grainstack.summary.partial import Partial
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator, needs_of
from grainstack.summary.table import Dimension, SummaryTable

if TYPE_CHECKING:
    from grainstack.chart.scene import Scene
    from grainstack.chart.terminal.screen import Screen
    from grainstack.making.trace import Trace


_TOUCHED = Later("chart.touches", "touched")  # of few charts
_SERIES_TO_KEEP = Later("chart.colored_column", "series_to_keep")  # tables have no colours
_MOST_MARKS = 10_000  # bars, dots or tiles: more than one for each pixel across a screen, five times over
Read = Callable[[Sequence[Partial], Opened], None]


class Begun(Struct, frozen=True):
    """A table or chart that waits for its records.

    Attributes:
        kind: Its kind.
        requests: What it was asked for, settled.
        partial: What has been made of the records so far.
    """

    kind: Kind
    requests: Requests
    partial: Partial


class Filter(Struct, frozen=True):
    """A column by whose levels the readers of a page may choose.

    Attributes:
        label: What it is called.
        levels: The labels of its levels.
    """

    label: str
    levels: tuple[str, ...]


class Made(Struct, frozen=True):
    """A table or chart.

    Attributes:
        kind: Its kind.
        requests: What it was asked for, settled.
        table: Its figures.
        arrangement: What goes where in data units.
        notes: What had to be assumed while reading.
        advice: What an analyst should know before using it.
        blocks: For tables side by side, it and the others, each with what stands over it.
        banner: For a banner table, section by section the tables of its columns; empty for any other.
        trace: Where it comes from, as its files carry it; None where they carry nothing.
        filters: The columns by whose levels the readers of a page may choose.
        choices: It for the records of some levels, by the place of the level of each of them, from 1; 0 for all.
    """

    kind: Kind
    requests: Requests
    table: SummaryTable
    arrangement: Arrangement
    notes: tuple[str, ...]
    advice: tuple[Advice, ...]
    blocks: tuple[tuple[str, SummaryTable], ...] = ()
    banner: tuple[tuple[SummaryTable, ...], ...] = ()
    trace: "Trace | None" = None
    filters: tuple[Filter, ...] = ()
    choices: "Mapping[tuple[int, ...], Made]" = field(default_factory=dict)

    @property
    def tables(self) -> tuple[tuple[str, SummaryTable], ...]:
        """All its tables, each with what stands over it: itself, those side by side, or those of a banner table."""
        if self.banner:
            return tuple(("", table) for section in self.banner for table in section)
        return self.blocks or (("", self.table),)

    def picture(self) -> "Scene":
        """It as a picture, in points.

        Raises:
            RequestError: A colour, highlight or side for a level that is not shown.
        """
        self._check_marks()
        scene = self.kind.picture(self.arrangement, self.requests)
        if touches := self.requests.usual(TouchRequest).touches:
            scene = _TOUCHED(scene, touches, self.table)
        return scene if self.trace is None else replace(scene, trace=str(self.trace))

    def behind(self) -> "Sequence[Mapping[str, tuple[str | float, str]]]":
        """What it shows besides the figures of its table: by column a figure or label, and how that is written."""
        return self.kind.behind(self.arrangement, self.requests) if self.kind.behind else ()

    def rows(self, columns: int) -> "Screen":
        """It in character columns, as many as a terminal has.

        Raises:
            RequestError: As `picture`.
        """
        self._check_marks()
        return self.kind.rows(self.arrangement, self.requests, columns)

    def _check_marks(self) -> None:
        """Refuses a chart of more marks than anybody could see, which would take minutes to lay out.

        Raises:
            ChartError: It has more.
        """
        marks = len(self.table.keys) * len(self.table.shown) * self.kind.shapes
        if marks > _MOST_MARKS:
            raise ChartError(
                f"It would have {marks:,} marks, and a chart takes up to {_MOST_MARKS:,}.",
                f"Keep fewer: {option('keep_top', '20')}, {option('only')}, or write a table.",
            )


def make(kind: Kind, requests: Requests, opened: Opened, read: Read | None = None) -> Made:
    """Makes one table or chart.

    Args:
        kind: What.
        requests: What it is asked for.
        opened: The records.
        read: Has the records read once; `read_into`, on this machine, if it is not given.

    Raises:
        RequestError: A request that cannot be met.
        RecordsError: Records that cannot be read.
        ChartError: Figures that cannot be drawn like that.
    """
    one = begun(kind, requests, opened)
    (read or read_into)([one.partial], opened)
    return finished(one, opened)


def begun(kind: Kind, requests: Requests, opened: Opened, shared: SharedReaders | None = None) -> Begun:
    """A table or chart before any record was read: its request checked and settled, its view and sums ready.

    Args:
        kind: What is made.
        requests: What was asked.
        opened: The records, opened and not read.
        shared: What others that are made of the same records read them with; none if it is not given.

    Raises:
        RequestError: A request that contradicts itself, or names a column there is not.
    """
    return unread(kind, settled(kind, requests, opened), opened, shared)


def unread(kind: Kind, requests: Requests, opened: Opened, shared: SharedReaders | None = None) -> Begun:
    """The same of a request that is settled.

    Args:
        kind: What is made.
        requests: What was asked, settled.
        opened: The records, opened and not read.
        shared: What others that are made of the same records read them with; none if it is not given.
    """
    summary = requests[SummaryRequest]
    view = View(requests[RecordsRequest], needs_of(summary), opened.source, opened.codebook, shared)
    return Begun(kind, requests, Partial(view, Accumulator(summary)))


def settled(kind: Kind, requests: Requests, opened: Opened) -> Requests:
    """What was asked, checked, with what it needs besides and what the codebook says of the records.

    Args:
        kind: What is made.
        requests: What was asked.
        opened: The records.

    Raises:
        RequestError: A request that contradicts itself.
    """
    requests.check()
    check_items(requests)
    found = kind.settle(requests.having(with_beside(requests, opened)))
    summary = found[SummaryRequest]
    if opened.is_complete:
        summary = replace(summary, complete=True)
    check_design(summary)
    found = found.having(with_design(summary, opened))
    check_shares(found)
    return found


def read_into(partials: Sequence[Partial], opened: Opened, report_rows: Callable[[int], None] | None = None) -> None:
    """Reads the records once, whatever is to be made of them.

    Args:
        partials: What takes the records in.
        opened: The records.
        report_rows: Told how many rows were read each time some were, by the thread that read them.

    Raises:
        RecordsError: Records that cannot be read.
    """
    columns = tuple(dict.fromkeys(name for partial in partials for name in partial.view.raw))
    for one in partials:
        one.view.note(opened.source.notes)  # which tell of a header, for messages on the first record
    others: list[list[Partial]] = []  # of other threads, or of different rows with their counts

    def another() -> Callable[[Block], None]:
        others.append(deepcopy(list(partials)))
        return absorbing(others[-1], report_rows)

    if not (all(one.takes_counts for one in partials) and read_counted(opened.source, columns, another)):
        others.clear()
        read_blocks(opened.source, columns, absorbing(partials, report_rows), another)
    for other in others:
        for one, added in zip(partials, other, strict=True):
            one.merge(added)
    for one in partials:
        one.view.note(opened.source.notes)


def absorbing(partials: Sequence[Partial], report_rows: Callable[[int], None] | None = None) -> Callable[[Block], None]:
    """What takes a block into some partials, and tells how many rows it has."""

    def absorb(block: Block) -> None:
        for one in partials:
            one.absorb(block)
        if report_rows is not None:
            report_rows(block.records.num_rows)

    return absorb


def finished(one: Begun, opened: Opened, shared: Mapping[str, tuple[Level, ...]] | None = None) -> Made:
    """A table or chart once all records were read.

    Args:
        one: What has taken all records in.
        opened: The records.
        shared: The levels of columns that other charts show too: colours go by their places among these.

    Raises:
        RequestError: A level no record has, no record left, or figures that cannot be worked out.
        ChartError: Figures that cannot be drawn like that.
    """
    kind, requests = one.kind, one.requests
    notes = one.partial.view.notes()
    table = _drawable(one, order_of(requests.usual(KeepRequest)), opened.noun)
    if shared:
        table = replace(table, dimensions=tuple(_among(one, shared) for one in table.dimensions))
    arrangement = kind.arrange(table, requests)
    advice = [*advice_on(table, requests, opened.source.head), *kind.advise(arrangement, requests)]
    spoken = tuple(dict.fromkeys(one for one in advice if one.name not in kind.quiet))
    return Made(kind, requests, table, arrangement, notes, spoken)


def _drawable(one: Begun, order: OrderRequest, noun: str) -> SummaryTable:
    """The table; of a chart with more series than there are colours, the smallest ones are one series together.

    Where they cannot be, because a record would count twice or someone names one of them, patterns tell them apart.
    """
    table = one.partial.table(order, noun)
    most: int | None = _SERIES_TO_KEEP(table, one.requests) if one.kind.product is Product.CHART else None
    if most is None or table.series is None:
        return table
    colors = one.requests.usual(ColorsRequest)
    named = {*colors.by_level, *colors.highlighted} & {level.label for level in table.series.levels}
    for count in range(most, 0, -1):  # of series that tie all are kept, so fewer may be needed
        try:
            fewer = one.partial.table(replace(order, split_keep_top=count), noun)
        except RequestError:
            return table
        levels = fewer.series.levels if fewer.series else ()
        if not named <= {level.label for level in levels}:
            return table
        if sum(not level.is_special for level in levels) <= most:
            return fewer
    return table


def _among(dimension: Dimension, shared: Mapping[str, tuple[Level, ...]]) -> Dimension:
    """A dimension whose levels are some of those that other charts show; steps of a scale keep to themselves."""
    name = dimension.variable.name
    if name not in shared or dimension.variable.is_ordered:
        return dimension
    every = {level.code: level for level in (*shared[name], *dimension.all_levels)}
    return replace(dimension, all_levels=tuple(every.values()))


def with_beside(requests: Requests, opened: Opened) -> SummaryRequest:
    """The summary with figures of the column it is split by over all series, unless that is cut into bands.

    The mean of an answer in each answer is the answer itself; in a band of a number it is one of many.

    Args:
        requests: What was asked.
        opened: The records with their codebook.

    Raises:
        RequestError: Nothing else is shown than such a figure in each answer.
    """
    summary, records = requests[SummaryRequest], requests[RecordsRequest]
    if summary.split is None or summary.split not in summary.measure:
        return summary
    targets = [text.partition("=")[0].partition(":")[0].strip() for text in records.band]
    banded = summary.split in targets or opened.codebook.variable(summary.split).bands
    if not banded and all(figure.measure == summary.split for figure in summary.figures):
        what, column = summary.figures[0].statistic.name, summary.split
        raise RequestError(
            f"The {what} of {column} in each {column} is that {column} itself.",
            f"Leave {option('split')} out, or add {option('stat', 'share')}, and it stands beside the shares.",
        )
    return replace(summary, beside=not banded)


def check_shares(requests: Requests) -> None:
    """Refuses what belongs to shares where none are shown.

    Raises:
        RequestError: Names the field.
    """
    summary = requests[SummaryRequest]
    if summary.base == "measures" and requests.usual(RoundingRequest).add_up:
        raise RequestError(
            f"{option('add_up')} rounds the shares of one measure, not those among several.", "Leave it out."
        )
    if any(figure.statistic.name == "share" for figure in summary.figures):
        return
    wanted = [
        name for name, given in (("base", summary.base), ("add_up", requests.usual(RoundingRequest).add_up)) if given
    ]
    if wanted:
        raise IdleError(
            f"{option(wanted[0])} belongs to shares, and none are shown.",
            f"Add {option('stat', 'share')}, or leave it out.",
        )
