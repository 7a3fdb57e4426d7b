"""How the numbers and dates of columns are written: as somebody said, or else as the first rows tell."""

from functools import cache
from typing import TYPE_CHECKING

import pyarrow as pa

from grainstack.errors import RecordsError
from grainstack.language import phrase
from grainstack.option_names import option
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.dates import DAY_FIRST, MONTH_FIRST, DateOrder, date_order, day_of, is_serial
from grainstack.records.numerals import TRUTHS, NumberForm, form_of
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sample import sampled_codes
from grainstack.records.source import Source

if TYPE_CHECKING:
    from collections.abc import Callable


class ColumnForms:
    """How the columns of a source are written, for every reader of them.

    Args:
        request: What was said of decimals and dates.
        codebook: What it says of them.
        source: The records.

    Attributes:
        decimal: The sign before the decimals in text.
        by_the_file: Whether it is a comma as the file shows, and nobody said so.
    """

    def __init__(self, request: RecordsRequest, codebook: Codebook, source: Source) -> None:
        told = codebook.decimal_in(source.decimal)
        self.decimal = {"comma": ",", "point": "."}.get(request.decimal or "", told)
        self.by_the_file = request.decimal is None and told == "," != codebook.decimal
        self._decimal_is_told = request.decimal is not None or bool(codebook.decimal)
        self._typed = request
        self._codebook = codebook
        self._serials: dict[str, str] = {}  # by column its first one
        self._source = source.name
        self._head: Callable[[], pa.RecordBatch] | None = cache(source.head)

    def codes(self, name: str) -> list[str]:
        """The different codes of a column among the first rows; none where it is no text."""
        head = self._head() if self._head is not None else None
        kind = head.schema.field(name).type if head is not None and name in head.schema.names else pa.null()
        if head is None or not (pa.types.is_string(kind) or pa.types.is_dictionary(kind)):
            return []
        return sampled_codes(head, [name])[name]

    def numbers(self, name: str) -> NumberForm:
        """How the numbers of a column are written.

        Raises:
            RecordsError: They can be read in two ways, and nobody said which.
        """
        codes = self.codes(name)
        if codes and all(code.strip().casefold() in TRUTHS for code in codes if code.strip()):
            return NumberForm(self.decimal, truths=True)
        own = self._codebook.variable(name).decimal if self._typed.decimal is None else ""
        decimal = own or self.decimal
        told = bool(own) or self._decimal_is_told
        form = form_of(codes, decimal, told=told) if codes else NumberForm(decimal)
        if form.doubtful:
            raise RecordsError(
                f"`{name}` of {self._source} can be read in two ways: has {form.doubtful} thousands or decimals?",
                f"Say what stands before decimals: {option('decimal', 'point')}, or {option('decimal', 'comma')}.",
            )
        return form

    def dates(self, name: str) -> DateOrder:
        """What stands first in the dates of a column.

        Raises:
            RecordsError: They can be read in two ways, and nobody said which.
        """
        first = self._typed.dates or self._codebook.variable(name).dates or self._codebook.dates
        if first:
            return DateOrder(day_first=first == DAY_FIRST)
        codes = self.codes(name)
        if codes and all(map(is_serial, codes)):
            self._serials[name] = codes[0]
        order = date_order(codes)
        if order.doubtful:
            begins = f"does {order.doubtful} begin with its day or its month?"
            raise RecordsError(
                f"`{name}` of {self._source} can be read in two ways: {begins}",
                f"Say it: {option('dates', DAY_FIRST)}, or {option('dates', MONTH_FIRST)}.",
            )
        return order

    def notes(self) -> tuple[str, ...]:
        """What was taken for dates though it looks like numbers."""
        return tuple(
            phrase(
                "`{column}` is read as days that a spreadsheet counted: {number} is {day}.",
                column=name,
                number=serial,
                day=str(day_of(serial, day_first=True)),
            )
            for name, serial in self._serials.items()
        )

    def let_go(self) -> None:
        """Forgets the source, once all readers are made: a stream cannot be copied."""
        self._head = None
