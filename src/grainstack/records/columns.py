"""Which columns there are for a task, and how each is read: the request and the codebook, put together."""

from dataclasses import replace
from typing import TYPE_CHECKING

import numpy as np

from grainstack.errors import RecordsError, RequestError, listed, nearest
from grainstack.records.codebook import Codebook, CodebookVariable
from grainstack.records.levels import LevelList
from grainstack.records.reading import LevelReader, NumberReader, OneLevel, PlainLevels
from grainstack.records.request import RecordsRequest
from grainstack.records.sources.source import Source
from grainstack.records.values import Strays
from grainstack.records.variable import EVERYTHING, Kind, Level, LevelOrder
from grainstack.words import names_in

if TYPE_CHECKING:
    from grainstack.records.bands import BandRule
    from grainstack.records.long import LongSource

_SHOWN_STRAYS = 3


class Columns:
    """The columns of a source as a request and a codebook want them read.

    Args:
        request: Bands, recodes, several-answer questions, long form.
        codebook: What is known of the columns.
        source: Where they are.

    Raises:
        RequestError: An option names a column there is not, or two options contradict each other.
    """

    def __init__(self, request: RecordsRequest, codebook: Codebook, source: Source) -> None:
        self.source, self._long = _long_form(request, source)
        self._codebook = codebook
        self._request = request
        self.decimal = {"comma": ",", "point": "."}.get(request.decimal or "", codebook.decimal)
        self._bands = _band_rules(request)
        self._recodes = _recodes(request)
        self._answers = dict(_several(text, codebook) for text in request.answers)
        self._lists: list[LevelList] = []
        for name in (*self._bands, *self._recodes):
            self.check(name)
        for said in self._answers.values():
            for name in said.columns or (said.name,):
                self.check(name)

    def said(self, name: str) -> CodebookVariable:
        """What is known of a column."""
        said = self._answers.get(name) or self._codebook.variable(name)
        if self._long is not None and name == self._long.name_column and not said.levels:
            return replace(said, levels=tuple(Level(column, self._label(column)) for column in self._long.names))
        return said

    def check(self, name: str) -> None:
        """Refuses a column there is not.

        Raises:
            RequestError: Names the nearest ones.
        """
        several = [*self._answers, *(n for n, said in self._codebook.variables.items() if said.columns)]
        known = dict.fromkeys([*self.source.columns, *several])
        if name not in known:
            raise RequestError(f"{self.source.name} has no column `{name}`.", nearest(name, known))

    def levels(self, name: str, *, banded: bool = True) -> LevelReader:
        """How a column is read as categories; without `banded`, its plain values even if it is cut into bands."""
        if name == EVERYTHING:
            return OneLevel()
        said = self.said(name)
        if not said.columns or name in self.source.columns:
            self.check(name)
        rule = self._band_rule(said) if banded else None
        if rule is not None:
            return self._banded(rule, said)
        if said.columns or said.kind is Kind.MULTI:
            return self._several_answers(said)
        return PlainLevels(said, self._level_list(said))

    def numbers(self, name: str) -> NumberReader:
        """How a column is read as numbers."""
        self.check(name)
        return NumberReader(self.said(name), self.decimal)

    def refuse(self, strays: Strays, name: str, first: int) -> None:
        """Refuses text where numbers or dates should stand.

        Args:
            strays: Where it stands in a batch, and what it says; may be none.
            name: The column.
            first: The number of the batch's first record.

        Raises:
            RecordsError: Names the first few places.
        """
        if not strays:
            return
        places = [(self.source.place(first + record), text) for record, text in strays[:_SHOWN_STRAYS]]
        shown = [f'"{text}" ({place})' for place, text in places]
        more = f" and {len(strays) - len(shown):,} more" if len(strays) > len(shown) else ""
        wanted = "dates such as 2025-01-31" if name in self._bands and self._bands[name].is_date else "numbers"
        remedy = f"Mend these values, leave them empty, or name them as `missing` codes of `{name}` in a codebook."
        if self.decimal == "." and all("," in text for _, text in strays):
            remedy = "If the commas stand before decimals, add --decimal comma."
        raise RecordsError(
            f"`{name}` of {self.source.name} should hold {wanted} but holds {listed(shown)}{more}.", remedy
        )

    def notes(self) -> tuple[str, ...]:
        """What an analyst should know about codes the codebook does not explain."""
        return tuple(
            f"Not in the codebook: {listed(levels.unlabelled)} of `{levels.name}`."
            for levels in self._lists
            if levels.unlabelled
        )

    def check_recodes(self, *, filtered: bool) -> None:
        """Refuses recodes of levels that no record has: a misspelt one would silently do nothing.

        Where records were filtered away, the level may have gone with them, so it is not an error then.

        Raises:
            RequestError: Names the level and the nearest ones.
        """
        for levels in self._lists:
            for name in () if filtered else levels.unused_names:
                found = [level.label for level in levels.found]
                raise RequestError(f"`{levels.name}` has no level `{name}` to recode.", nearest(name, found))

    def _level_list(self, said: CodebookVariable) -> LevelList:
        is_long_name = self._long is not None and said.name == self._long.name_column
        levels = LevelList(
            said,
            self._recodes.get(said.name),
            show_missing=self._request.missing == "show",
            listed=LevelOrder.LISTED if is_long_name else LevelOrder.CODEBOOK,
        )
        self._lists.append(levels)
        return levels

    def _several_answers(self, said: CodebookVariable) -> LevelReader:
        from grainstack.records.answers import AnswerColumns, SeparatedAnswers  # noqa: PLC0415 - few questions need it

        if not said.columns:
            return SeparatedAnswers(said, self._level_list(said))
        for column in said.columns:
            self.check(column)
        labelled = tuple(said.level(column) or Level(column, self._label(column)) for column in said.columns)
        return AnswerColumns(said, LevelList(replace(said, levels=labelled), self._recodes.get(said.name)))

    def _band_rule(self, said: CodebookVariable) -> "BandRule | None":
        if said.name in self._bands or not said.bands:
            return self._bands.get(said.name)
        from grainstack.records.bands import band_rule  # noqa: PLC0415 - few columns are cut

        return band_rule(f"{said.name}={said.bands}", self._request.band_closed)

    def _banded(self, rule: "BandRule", said: CodebookVariable) -> LevelReader:
        from grainstack.records.banded import BandedDates, BandedNumbers  # noqa: PLC0415 - few columns are cut
        from grainstack.records.bands import DateBands, NumberBands  # noqa: PLC0415

        if rule.is_date:
            return BandedDates(said, DateBands(rule))
        return BandedNumbers(said, NumberBands(self._settled(rule, said)), self.decimal)

    def _settled(self, rule: "BandRule", said: CodebookVariable) -> "BandRule":
        """A rule whose width is known: `auto` reads the column once beforehand."""
        if rule.by != "auto":
            return rule
        from grainstack.records.widths import auto_width  # noqa: PLC0415

        reader = NumberReader(said, self.decimal)
        parts = [reader.read(batch)[0] for batch in self.source.batches(reader.raw)]
        numbers = np.concatenate(parts) if parts else np.zeros(0)
        values, counts = np.unique(numbers[~np.isnan(numbers)], return_counts=True)
        width = auto_width(values, counts.astype(float)) if len(values) else 1.0
        return replace(rule, by="", width=width)

    def _label(self, column: str) -> str:
        return self._codebook.variable(column).label or column


def _long_form(request: RecordsRequest, source: Source) -> "tuple[Source, LongSource | None]":
    if not request.to_long:
        return source, None
    from grainstack.records.long import LongSource  # noqa: PLC0415 - few tables are wide

    long = LongSource(source, request.to_long)
    return long, long


def _band_rules(request: RecordsRequest) -> "dict[str, BandRule]":
    if not request.band:
        return {}
    from grainstack.records.bands import band_rule  # noqa: PLC0415 - few columns are cut

    return {rule.column: rule for rule in (band_rule(text, request.band_closed) for text in request.band)}


def _recodes(request: RecordsRequest) -> dict[str, dict[str, str]]:
    if not request.recode:
        return {}
    from grainstack.records.recode import recode  # noqa: PLC0415 - few columns are recoded

    merged: dict[str, dict[str, str]] = {}
    for one in map(recode, request.recode):
        merged.setdefault(one.column, {}).update(one.names)
    return merged


def _several(text: str, codebook: Codebook) -> tuple[str, CodebookVariable]:
    """A several-answer question from `COLUMN` or `NAME=COL1,COL2`."""
    name, equals, columns = text.partition("=")
    said = replace(codebook.variable(name.strip()), kind=Kind.MULTI)
    names = names_in(columns)
    if equals and not names:
        raise RequestError(f"`--answers {text}` names no columns.", "Write COLUMN, or NAME=COL1,COL2 for 0/1 columns.")
    return name.strip(), replace(said, columns=names) if names else said
