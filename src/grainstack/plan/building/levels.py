"""The levels of columns, as records have them: what an entry is made for each of, and what colours go by."""

import re
from collections.abc import Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.digests import digest_of
from grainstack.errors import GrainStackError
from grainstack.making.kinds import kind_named
from grainstack.making.make import Begun, Read, begun
from grainstack.plan.building.pieces import fault_of
from grainstack.plan.building.sources import SourceRecords, Sources
from grainstack.plan.file.plan import PlanEntry
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Level
from grainstack.requests import Requests
from grainstack.summary.options import DesignRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest

Known = Mapping[str, tuple[tuple[str, str], ...]]  # codes and labels by the digest of what they are levels of


class Column(Struct, frozen=True):
    """A column of the records of an entry.

    Attributes:
        entry: The entry.
        name: The column.
        filtered: Whether only levels of the records that the entry keeps are wanted.
    """

    entry: PlanEntry
    name: str
    filtered: bool


class ColumnLevels:
    """The levels of columns, read where they are not known from last time.

    Args:
        sources: The records.
        before: What is known.

    Attributes:
        sources: The records.
        known: The levels that were needed so far.
    """

    def __init__(self, sources: Sources, before: Known) -> None:
        self.sources = sources
        self._before = before
        self.known: dict[str, tuple[tuple[str, str], ...]] = {}

    def read(self, columns: Sequence[Column], read: Read, faults: list[str]) -> None:
        """Reads the levels of columns, each source once.

        Args:
            columns: The columns.
            read: Has the records of one source read.
            faults: What is wrong with them, a line each.
        """
        waiting: dict[int, tuple[SourceRecords, dict[str, Begun], Column]] = {}
        for column in columns:
            try:
                records = self.sources.of(column.entry)
                key = _key(column, records)
                if key in self._before:
                    self.known[key] = self._before[key]
                elif key not in self.known:
                    of_it = waiting.setdefault(id(records), (records, {}, column))[1]
                    of_it.setdefault(key, _begun(column, records))
            except GrainStackError as error:
                faults.append(fault_of(column.entry, error))
        for records, by_key, column in waiting.values():
            try:
                read([one.partial for one in by_key.values()], records.opened)
                self.known |= {key: _levels_of(one) for key, one in by_key.items()}
            except GrainStackError as error:
                faults.append(fault_of(column.entry, error))

    def of(self, column: Column) -> tuple[Level, ...]:
        """The levels of a column; none where they could not be read."""
        try:
            key = _key(column, self.sources.of(column.entry))
        except GrainStackError:
            return ()
        return tuple(Level(code, label) for code, label in self.known.get(key, ()))


def _key(column: Column, records: SourceRecords) -> str:
    return digest_of(records.digest, column.name, replace(_narrowed(column, records), file=(), codebook=None))


def _begun(column: Column, records: SourceRecords) -> Begun:
    summary = SummaryRequest(by=(column.name,), design=DesignRequest(no_design=True))
    return begun(kind_named("table"), Requests(_narrowed(column, records), summary), records.opened, records.readers)


def _narrowed(column: Column, records: SourceRecords) -> RecordsRequest:
    """What is asked of the records as far as it is about the column; what is not would make no difference."""
    request, name = column.entry.requests[RecordsRequest], column.name
    if not column.filtered:
        request = replace(request, only=(), except_=(), where=None)
    if name in records.opened.source.columns:
        request = replace(request, to_long=None, items=None)
    needed = {name, *(choice.column for choice in request.level_choices())}
    band = tuple(text for text in request.band if band_of(text) in needed)
    if not band:
        request = replace(request, band_closed="left", year_starts=None)
    return replace(
        request,
        compute=(),
        band=band,
        recode=tuple(text for text in request.recode if text.partition(":")[0].strip() == name),
        answers=tuple(text for text in request.answers if text.partition("=")[0].strip() == name),
    )


def band_of(text: str) -> str:
    """The column a band option makes: `age` of `age=10`, `generation` of `generation: age=15`.

    Args:
        text: The option as typed.
    """
    return re.split("[:=]", text)[0].strip()


def _levels_of(one: Begun) -> tuple[tuple[str, str], ...]:
    table = one.partial.table(OrderRequest(), "records")
    return tuple((level.code, level.label) for level in table.dimensions[0].levels if not level.is_special)
