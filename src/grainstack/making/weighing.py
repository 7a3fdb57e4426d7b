"""Records with weights that meet known totals: one pass to weigh them, one to write them."""

from collections.abc import Sequence

import numpy as np
import pyarrow as pa
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.making.kinds import kind_named
from grainstack.making.make import begun, read_into
from grainstack.option_names import option
from grainstack.records.arrow import number_column, places_of
from grainstack.records.derive import Derived
from grainstack.records.opened import Opened
from grainstack.records.readers.column_readers import ColumnReaders
from grainstack.records.readers.levels import Rows
from grainstack.records.readers.plain import LevelReader, NumberReader
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import DesignRequest, SpreadRequest, WeightRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.weighing.targets import targets_of
from grainstack.weighing.weighing import Weighing, weighed


def weigh_records(
    requests: Requests, opened: Opened, texts: Sequence[str], bounds: tuple[float, float] | None, name: str
) -> tuple[Weighing, Derived]:
    """Weights for records, and the records with them, ready to be written.

    Args:
        requests: The records, and their starting weights.
        opened: The records, opened.
        texts: The targets as typed.
        bounds: Between which factors stay; None for no bounds.
        name: What the new column is called.

    Raises:
        RequestError: Targets that cannot be met, or records without an answer that has one.
        RecordsError: Records that cannot be read.
    """
    targets = targets_of(texts)
    columns = tuple(dict.fromkeys(column for target in targets for column in target.columns))
    weight_request = requests[WeightRequest]
    known = opened.codebook.design.weight
    weight = weight_request.weight or (
        known if known in opened.source.columns and not weight_request.no_design else None
    )
    design = DesignRequest(weight=weight, no_design=True)
    summary = SummaryRequest(by=columns, design=design, spread=SpreadRequest(error_bars="none"))
    one = begun(kind_named("table"), Requests(requests[RecordsRequest], summary, OrderRequest()), opened)
    read_into([one.partial], opened)
    table = one.partial.table(OrderRequest(), opened.noun)
    _check_answers(table.provenance.unanswered, sum(item.records for item in table.provenance.no_band))
    weighing = weighed(table, targets, bounds)
    request = requests[RecordsRequest]

    def extra(readers: ColumnReaders) -> _Weights:
        number = readers.numbers(weight) if weight else None
        return _Weights(name, [readers.levels(column) for column in columns], number, weighing.factors)

    return weighing, Derived(request, opened.codebook, opened.source, labels=False, extra=extra)


def _check_answers(unanswered: Sequence[tuple[str, int]], in_no_band: int) -> None:
    """Refuses records that no target says anything of.

    Raises:
        RequestError: Names the column and how many there are.
    """
    lacking = [(name, count) for name, count in unanswered if count]
    if lacking or in_no_band:
        name, count = lacking[0] if lacking else ("a band", in_no_band)
        raise RequestError(
            f"{count:,} records have no answer on {name}, and no target tells what they stand for.",
            f"Leave them out with {option('where', 'COLUMN IS NOT NULL')}, or give them a level of their own with "
            f"{option('missing', 'show')}.",
        )


class _Weights(Struct):
    """The new weight of each record: its starting weight by the factor of its levels.

    Attributes:
        name: What the column is called.
        levels: How the columns of the targets are read.
        start: How starting weights are read; None where each is 1.
        factors: The factor of each combination of levels, by their labels.
    """

    name: str
    levels: Sequence[LevelReader]
    start: NumberReader | None
    factors: dict[tuple[str, ...], float]

    def read(self, raw: pa.RecordBatch, rows: Rows) -> None:
        """Learns the levels of a batch."""
        for reader in self.levels:
            reader.read(raw, rows)

    def column(self, raw: pa.RecordBatch, rows: Rows) -> pa.Array:
        """The weights of a batch."""
        labels = []
        for reader in self.levels:
            column, _ = reader.read(raw, rows)
            named = {level.code: level.label for level in reader.variable().levels}
            coding = reader.coding()
            texts = np.array([named[coding.codes[rank]] for rank in coding.ranks.tolist()], dtype=object)
            labels.append(texts[places_of(column)])
        keys = zip(*(one.tolist() for one in labels), strict=True)
        factors = np.array([self.factors.get(key, 0.0) for key in keys], dtype=np.float64)
        start = np.ones(raw.num_rows) if self.start is None else self.start.read(raw)[0]
        return number_column(np.round(factors * start, 10))
