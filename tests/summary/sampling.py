"""Tables of records given as arrays, without files: fast enough for thousands of samples."""

from collections.abc import Mapping
from typing import Any

import numpy as np
import numpy.typing as npt
import pyarrow as pa

from grainstack.records.arrow import level_column, number_column
from grainstack.records.batch import Batch
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.readers.levels import LevelList
from grainstack.records.variable import Kind, Variable
from grainstack.summary.finish import table_of
from grainstack.summary.order import OrderRequest
from grainstack.summary.provenance import Origin
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.table import SummaryTable

Array = npt.NDArray[Any]


class Sample:
    """Columns of records: whole numbers are levels, floats are numbers; split into batches at will.

    Args:
        levels: Codes by column, shape (records,) each; negative for no answer.
        numbers: Numbers by column, shape (records,) each; NaN for no answer.
    """

    def __init__(self, levels: Mapping[str, Array], numbers: Mapping[str, Array]) -> None:
        self.levels = {name: np.asarray(column, dtype=np.int32) for name, column in levels.items()}
        self.numbers = {name: np.asarray(column, dtype=np.float64) for name, column in numbers.items()}
        self.names = {name: tuple(map(str, range(int(c.max(initial=-1)) + 1))) for name, c in self.levels.items()}

    def batch(self, rows: Array | slice = slice(None), kept: Array | None = None) -> Batch:
        """Some records as a batch; `kept` tells which of them are not filtered away, all without it."""
        own = {f"levels:{name}": level_column(column[rows], self.names[name]) for name, column in self.levels.items()}
        own |= {f"numbers:{name}": number_column(column[rows]) for name, column in self.numbers.items()}
        everyone = pa.RecordBatch.from_arrays(list(own.values()), names=list(own))
        chosen = np.arange(everyone.num_rows) if kept is None else np.flatnonzero(kept)
        return Batch(everyone.take(pa.array(chosen)), everyone, chosen)

    def facts(self) -> ColumnFacts:
        """What is known of the columns."""
        variables = {}
        for name, codes in self.names.items():
            levels = LevelList(CodebookVariable(name))
            for place, code in enumerate(codes):
                levels.place(code, (place, 0))
            variables[name] = Variable(name).with_levels(*levels.ordered())
        numbers = {name: Variable(name, Kind.NUMBER) for name in self.numbers}
        return ColumnFacts(variables, numbers, dict(self.names), variables, dict(self.names))

    @property
    def places(self) -> dict[str, Array]:
        """Level places that stay where they are, for every column of levels."""
        return {name: np.arange(len(codes)) for name, codes in self.names.items()}

    def table(self, request: SummaryRequest, kept: Array | None = None) -> SummaryTable:
        """The table of all records."""
        accumulator = Accumulator(request)
        accumulator.absorb(self.batch(kept=kept))
        return self.finished(accumulator)

    def finished(self, accumulator: Accumulator) -> SummaryTable:
        """The table of what an accumulator has absorbed."""
        records = len(next(iter(self.levels.values())))
        sums = accumulator.canonical(self.places, self.places)
        return table_of(sums, self.facts(), OrderRequest(), Origin("records", records, 0))
