"""A stretch of records, typed for one task."""

from dataclasses import dataclass

import pyarrow as pa

from grainstack.records.arrow import Codes, Numbers, numbers_of, places_of


@dataclass(frozen=True, slots=True)
class Needs:
    """The columns a task reads, by what it reads them as."""

    levels: tuple[str, ...] = ()
    numbers: tuple[str, ...] = ()

    def __or__(self, other: "Needs") -> "Needs":
        """What two tasks need together."""
        return Needs(
            tuple(dict.fromkeys(self.levels + other.levels)), tuple(dict.fromkeys(self.numbers + other.numbers))
        )


@dataclass(frozen=True, slots=True)
class Batch:
    """Some records as Arrow columns: `levels:NAME` holds dictionary codes, `numbers:NAME` holds floats."""

    records: pa.RecordBatch

    def __len__(self) -> int:
        return int(self.records.num_rows)

    def codes(self, column: str) -> Codes:
        """Places in the column's global level list, shape (records,); -1 where there is no answer."""
        return places_of(self.records.column(f"levels:{column}"))

    def numbers(self, column: str) -> Numbers:
        """Numbers, shape (records,); NaN where there is no answer."""
        return numbers_of(self.records.column(f"numbers:{column}"))
