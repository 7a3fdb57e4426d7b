"""Everything one request has made of some records: what was seen of the columns, and all sums.

Partials of one request that have absorbed different blocks merge. However records are cut into blocks, in whatever
order these are absorbed, and in whatever tree partials are merged, the finished table is the same to the last bit.
"""

from msgspec import Struct, field

from grainstack.language import phrase, spoken
from grainstack.records.sample import COUNT_NAMES
from grainstack.records.view import Block, View
from grainstack.summary.finish import table_of
from grainstack.summary.order import OrderRequest
from grainstack.summary.provenance import Origin
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.table import SummaryTable


class Partial(Struct):
    """One request on its way: it absorbs blocks, pickles, merges, and finishes as a table.

    Attributes:
        view: What the request sees of the source: level lists, bands, notes and the account of records.
        sums: The sums.
        tables: The tables made of them, by their order and what a record is; charts of the same figures share one.
    """

    view: View
    sums: Accumulator
    tables: dict[tuple[OrderRequest, str, str], SummaryTable] = field(default_factory=dict)

    @property
    def takes_counts(self) -> bool:
        """Whether rows may stand for several records each."""
        sums = self.sums
        return self.view.takes_counts and sums.replicates is None and sums.rows is None

    def serving(self, request: SummaryRequest) -> "Partial | None":
        """What these records are for another request, without reading them again; None where it needs other sums.

        Args:
            request: The other request; what it asks of single records is the same.
        """
        sums = self.sums.serving(request)
        return None if sums is None else Partial(self.view, sums)

    def absorb(self, block: Block) -> None:
        """Adds a block of records.

        Raises:
            RecordsError: A value that cannot be; names its place.
        """
        self.tables.clear()
        self.sums.absorb(self.view.typed(block))

    def merge(self, other: "Partial") -> None:
        """Adds what another partial of the same request has absorbed; the other must not be used afterwards."""
        self.tables.clear()
        self.sums.merge(other.sums, *self.view.merge(other.view))

    def table(self, order: OrderRequest, noun: str) -> SummaryTable:
        """The finished table.

        Args:
            order: In which order levels stand.
            noun: What a record is, in the plural.

        Raises:
            RequestError: A filter, recode or order names a level no record has, no record is left, or what is asked
                cannot be worked out.
        """
        key = (order, noun, spoken().name)
        if key not in self.tables:
            self.tables[key] = self._finished(order, noun)
        return self.tables[key]

    def _finished(self, order: OrderRequest, noun: str) -> SummaryTable:
        view = self.view
        view.check()
        account = view.account
        facts, times = view.facts(), self.sums.request.times
        if times and times.casefold() not in COUNT_NAMES:
            noun = facts.numbers[times].in_sentence
        noun = phrase("records") if noun == "records" else noun
        origin = Origin(view.source, account.read, account.filtered, view.filters_in_words(), noun, account.records)
        return table_of(self.sums.canonical(*view.ranks()), facts, order, origin)
