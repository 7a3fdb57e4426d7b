"""What an analyst says once about the columns: labels, order, missing codes, units, bands, colours, and the design."""

import re
from collections.abc import Collection, Mapping, Sequence
from types import MappingProxyType
from typing import Any

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack.records.kinds import separator_of
from grainstack.records.variable import Kind, Level

SAMPLE, COMPLETE = "sample", "complete"
LISTED, BY_SIZE = "listed", "size"  # what levels may stand in the order of
STAGED = ("cluster", "population", "targets")  # of a design: one or several
_WHOLE_FLOAT = re.compile(r"-?\d+\.0+")


class CodebookVariable(Struct, frozen=True):
    """What is said of one column; whatever is not said is left to the records.

    Attributes:
        name: The column.
        label: The words shown for it.
        kind: How its values are understood.
        unit: What its numbers are measured in.
        levels: Codes with their labels, in order.
        missing: Codes that stand for `no answer`.
        bands: How its numbers are cut into bands, as typed after `--band COLUMN=`; empty for no bands.
        low: The lowest value that can be right.
        high: The highest.
        separator: What parts several answers in one value; empty where the records tell it.
        columns: The 0/1 columns that make up a several-answer question together.
        question: The words in which it was asked.
        note: Anything else worth knowing, for people.
        good: Which end of its levels is the good one: `first` or `last`; empty where that is not said.
        order: What the levels stand in the order of: `listed`, as here, or `size`, the largest first.
        stored: Whether its levels are not said here, but stored with the records in their order.
        decimal: The sign before the decimals of its numbers, `.` or `,`; empty where all columns have the same.
        dates: What stands first in its dates, `day-first` or `month-first`; empty likewise.
    """

    name: str
    label: str = ""
    kind: Kind | None = None
    unit: str = ""
    levels: tuple[Level, ...] = ()
    missing: frozenset[str] = frozenset()
    bands: str = ""
    low: float | None = None
    high: float | None = None
    separator: str = ""
    columns: tuple[str, ...] = ()
    question: str = ""
    note: str = ""
    good: str = ""
    order: str = LISTED
    stored: bool = False
    decimal: str = ""
    dates: str = ""

    def is_missing(self, code: str) -> bool:
        """Whether a stored code stands for `no answer`; `999.0` counts as `999`."""
        return code in self.missing or trimmed(code) in self.missing

    def separator_in(self, codes: Collection[str]) -> str:
        """What parts several answers in one value: as said here, or else as the codes suggest, or else `;`."""
        return self.separator or separator_of(codes) or ";"

    def level(self, code: str) -> Level | None:
        """The level a stored code stands for; `1.0` counts as `1`, but `01` does not."""
        for level in self.levels:
            if level.code in (code, trimmed(code)):
                return level
        return None


class Design(Struct, frozen=True):
    """The columns of a survey's design; empty where there is none.

    Attributes:
        weight: How many people a record stands for.
        strata: The group that was sampled on its own.
        cluster: The units that were drawn; more than one where units were drawn within them, the outer first.
        population: How many such units there were in the stratum, and within each unit drawn.
        replicates: Columns of replicate weights; may be a pattern such as `rep_*`.
        replicate_method: How these were made.
        replicate_scale: What the squared differences of the replicates are multiplied by, as text.
        fay_coefficient: By how much Fay's method perturbed weights.
        replicate_center: What replicates are compared with.
        degrees: Degrees of freedom of the replicate weights.
        targets: Known totals that the weights were made to meet, as typed or in files beside the codebook.
    """

    weight: str = ""
    strata: str = ""
    cluster: tuple[str, ...] = ()
    population: tuple[str, ...] = ()
    replicates: str = ""
    replicate_method: str = ""
    replicate_scale: str = ""
    fay_coefficient: float | None = None
    replicate_center: str = ""
    degrees: float | None = None
    targets: tuple[str, ...] = ()

    def given(self) -> dict[str, str | float | list[str]]:
        """What is known, by name, as a codebook file holds it."""
        found: dict[str, str | float | list[str]] = {}
        for name in self.__struct_fields__:
            value = getattr(self, name)
            if isinstance(value, tuple) and value:
                found[name] = value[0] if len(value) == 1 else list(value)
            elif value not in ("", None, ()):
                found[name] = value
        return found

    @staticmethod
    def of(given: Mapping[str, Any]) -> "Design":
        """The design that `given` told, where one column stands for a list of it too.

        Raises:
            TypeError: A name is none of a design's.
        """
        listed: dict[str, Any] = {name: _listed(given[name]) for name in STAGED if name in given}
        return Design(**dict(given) | listed)


def _listed(value: str | Sequence[str]) -> tuple[str, ...]:
    return (value,) if isinstance(value, str) else tuple(value)


class Codebook(Struct, frozen=True):
    """A codebook.

    Attributes:
        name: The file it came from; empty for none.
        nouns: What a record is, in the plural, by the file's name; under `*` for any other file.
        kinds: Whether records are a `sample` or `complete`, all there are; by the file's name, under `*` for any other.
        dates: What stands first in dates such as 01/02/2025, `day-first` or `month-first`; empty where it is not said.
        decimal: The sign before the decimals in text, `.` or `,`; empty where it is not said.
        variables: What is said of each column.
        design: The survey's design.
        defaults: Options to use when they are not given, by their plan keys.
    """

    name: str = ""
    nouns: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))
    kinds: Mapping[str, str] = field(default_factory=lambda: MappingProxyType({}))
    dates: str = ""
    decimal: str = ""
    variables: Mapping[str, CodebookVariable] = field(default_factory=lambda: MappingProxyType({}))
    design: Design = field(default_factory=Design)
    defaults: Mapping[str, Any] = field(default_factory=lambda: MappingProxyType({}))

    def noun(self, source: str) -> str:
        """What a record of a source is, in the plural."""
        return self.nouns.get(source) or self.nouns.get("*") or "records"

    def is_complete(self, source: str) -> bool:
        """Whether the records of a source are all there are, and no sample."""
        return (self.kinds.get(source) or self.kinds.get("*")) == COMPLETE

    def decimal_in(self, file: str) -> str:
        """The sign before the decimals in text: as said here, or else as the file shows.

        Args:
            file: The sign that the file itself shows.
        """
        return self.decimal or file

    def variable(self, name: str) -> CodebookVariable:
        """What is said of a column, which may be nothing."""
        return self.variables.get(name) or CodebookVariable(name)

    def with_orders(self, orders: Mapping[str, Sequence[str]]) -> "Codebook":
        """The same with the order of categories that is stored with the records, where it says none itself.

        Args:
            orders: The categories by column, from the first to the last.
        """
        found = dict(self.variables)
        for name, codes in orders.items():
            known = self.variable(name)
            if not (known.levels or known.columns or known.bands):
                levels = tuple(known.level(code) or Level(code, code) for code in codes)
                found[name] = replace(known, kind=known.kind or Kind.ORDERED, levels=levels, stored=True)
        return replace(self, variables=MappingProxyType(found)) if orders else self

    def with_units(self, units: Mapping[str, str]) -> "Codebook":
        """The same with the units of columns that are stored with the records, where it says none itself."""
        found = {
            name: replace(self.variable(name), unit=self.variable(name).unit or unit) for name, unit in units.items()
        }
        return replace(self, variables=MappingProxyType(dict(self.variables) | found)) if units else self

    def __reduce__(self) -> tuple[type["Codebook"], tuple[Any, ...]]:
        """Pickles what the read-only mappings hold, as they cannot be pickled themselves."""
        values = (getattr(self, name) for name in self.__struct_fields__)
        return Codebook, tuple(dict(value) if isinstance(value, Mapping) else value for value in values)


def trimmed(code: str) -> str:
    """A whole number without the `.0` that some programs write behind it; anything else as it is."""
    return code.partition(".")[0] if _WHOLE_FLOAT.fullmatch(code) else code
