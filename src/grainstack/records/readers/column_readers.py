"""Which columns there are for a task, and how each is read: the request and the codebook, put together."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from grainstack.errors import IdleError, RecordsError, RequestError, listed, nearest
from grainstack.language import phrase
from grainstack.option_fields import names_in
from grainstack.option_names import option
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.dates import DateOrder
from grainstack.records.readers.answers import AnswerColumns, AnswersWithNets, SeparatedAnswers
from grainstack.records.readers.banded import AutoBandedNumbers, BandedDates, BandedNumbers, Named, WithNoAnswer
from grainstack.records.readers.bands import DateBands, NumberBands, band_rule
from grainstack.records.readers.column_forms import ColumnForms
from grainstack.records.readers.levels import LevelList
from grainstack.records.readers.long import LongForm
from grainstack.records.readers.nets import Net
from grainstack.records.readers.plain import LevelReader, NumberReader, OneLevel, PlainLevels
from grainstack.records.readers.recode import recode
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.records_request import ANSWER, RecordsRequest
from grainstack.records.source import FILE, Collected, Source, stem_of
from grainstack.records.values import Strays
from grainstack.records.variable import EVERYTHING, Kind, Level, LevelOrder, readable

if TYPE_CHECKING:
    from grainstack.records.readers.bands import BandRule

_SHOWN_STRAYS = 3  # enough to see what kind of text it is, on one line


class ColumnReaders:
    """The columns of a source as a request and a codebook want them read.

    Args:
        request: Bands, recodes, several-answer questions, long form.
        codebook: What is known of the columns.
        source: What the source is called and which columns it has.
        shared: Readers that other views of the same source and codebook have already; none if it is not given.

    Attributes:
        source: What the source is called, for messages.
        columns: The columns there are, those of the long form among them.
        long: How rows are unfolded; None where they stay as they are.
        decimal: The sign before the decimals in text.

    Raises:
        RequestError: An option names a column there is not, or two options contradict each other.
    """

    def __init__(
        self, request: RecordsRequest, codebook: Codebook, source: Source, shared: SharedReaders | None = None
    ) -> None:
        self.source = source.name
        self._shared = shared or SharedReaders()
        self.long = _long_form(request, source, codebook)
        self.columns = self.long.columns if self.long else source.columns
        self._files = tuple(map(stem_of, source.files)) if isinstance(source, Collected) else ()
        self._header_remedy: str = getattr(source, "header_remedy", "")  # of text with other lines above its table
        self._codebook = codebook
        self._request = request
        self._forms = ColumnForms(request, codebook, source)
        self.decimal = self._forms.decimal
        self._bands = _band_rules(request)
        self._recodes = _recodes(request)
        self._answers = dict(_several(text, codebook) for text in request.answers)
        self._lists: list[LevelList] = []
        self._used: set[tuple[str, str]] = set()
        for rule in self._bands.values():
            if rule.name in (*self.columns, *self._answers):
                raise RequestError(
                    f"{option('band')}: there is a column `{rule.name}`.", "Give the bands a name of their own."
                )
        for name in (*(rule.column for rule in self._bands.values()), *self._recodes):
            self.check(name)
        for known in self._answers.values():
            for name in known.columns or (known.name,):
                self.check(name)

    def known(self, name: str) -> CodebookVariable:
        """What is known of a column."""
        known = self._answers.get(name) or self._codebook.variable(name)
        if name == FILE and self._files and not known.levels:
            return replace(known, levels=tuple(Level(file, file) for file in dict.fromkeys(self._files)))
        if self.long is not None and name == self.long.name_column and not known.levels:
            label = known.label or (_capital(name) if self._request.items else "")
            levels = tuple(Level(column, self._label(column)) for column in self.long.names)
            return replace(known, label=label, levels=levels)
        if self.long is not None and name == self.long.value_column and name not in self._codebook.variables:
            return replace(self.long.meaning()[0], name=name, label=self._label_of_values(name))
        return known

    def _label_of_values(self, name: str) -> str:
        """What the values of columns that became rows are called; empty where their name says it."""
        if not self._request.items:
            return ""
        return phrase("Answer") if name == ANSWER else _capital(name)

    def check(self, name: str) -> None:
        """Refuses a column there is not.

        Raises:
            RequestError: Names the nearest ones.
        """
        several = [*self._answers, *(n for n, known in self._codebook.variables.items() if known.columns)]
        several += [rule.name for rule in self._bands.values() if rule.name]
        columns = dict.fromkeys([*self.columns, *several])
        if name not in columns:
            raise RequestError(f"{self.source} has no column `{name}`.", self._header_remedy or nearest(name, columns))

    def check_used(self) -> None:
        """Refuses bands, recodes and several answers of columns that no reader reads.

        Raises:
            RequestError: Names the column.
        """
        if self._request.for_several:
            return
        rules = (("band", self._bands), ("recode", self._recodes), ("answers", self._answers))
        for field, columns in rules:
            for name in columns:
                if (field, name) not in self._used:
                    raise IdleError(
                        f"{option(field)} of `{name}` makes no difference: nothing is shown by it.",
                        f"Show something {option('by', name)}, or leave it out.",
                    )
        if self._request.year_starts and ("year", "") not in self._used:
            raise IdleError(
                f"{option('year_starts')} makes no difference: no dates are cut by quarter, half-year or year.",
                f"Add {option('band', 'COLUMN=year')}, or leave it out.",
            )
        if self._request.band_closed != "left" and ("band", "") not in self._used:
            raise IdleError(
                f"{option('band_closed')} makes no difference: no column is cut into bands.",
                f"Add {option('band')}, or leave it out.",
            )

    def levels(self, name: str, *, banded: bool = True, nets: Sequence[Net] = ()) -> LevelReader:
        """How a column is read as categories.

        Args:
            name: The column.
            banded: Whether it is cut into bands where these are wanted, rather than read with its plain values.
            nets: Answers that count together, once a record, where a record has several.
        """
        if name == EVERYTHING:
            return OneLevel()
        known = self.known(name)
        if not known.columns or name in self.columns:
            self.check(name)
        rule = self._band_rule(known) if banded else None
        self._check_raw(name, banded=banded)
        if rule is not None and rule.name:
            return Named(self._banded(rule, self.known(rule.column)), rule.name)
        if rule is not None:
            return self._banded(rule, known)
        if known.columns or known.kind is Kind.MULTI:
            answers = self._several_answers(known)
            return AnswersWithNets(answers, nets) if nets else answers
        return self._plain_levels(known)

    def names_bands(self, name: str) -> bool:
        """Whether a name is that of bands that keep their column."""
        return name in self._bands and bool(self._bands[name].name)

    def numbers(self, name: str) -> NumberReader:
        """How a column is read as numbers."""
        self.check(name)
        self._check_raw(name, banded=False)
        known = self.known(name)
        form = self._forms.numbers(name)
        return self._shared.get((NumberReader, known, form), lambda: NumberReader(known, form))

    def dates(self, name: str) -> DateOrder:
        """What stands first in the dates of a column.

        Raises:
            RecordsError: They can be read in two ways, and nobody said which.
        """
        return self._forms.dates(name)

    def _check_raw(self, name: str, *, banded: bool) -> None:
        """Refuses bands with a name of their own where the values of a column of the source are wanted.

        Raises:
            RequestError: Names the column they are bands of.
        """
        rule = self._bands.get(name)
        if not banded and rule is not None and rule.name:
            raise RequestError(
                f"`{name}` holds the bands of `{rule.column}`.",
                f"Choose records by the number itself: {option('where', f'{rule.column} >= 10')}.",
            )

    def refuse(self, strays: Strays, name: str, place: Callable[[int], str], notes: Sequence[str] = ()) -> None:
        """Refuses text where numbers or dates should stand.

        Args:
            strays: Where it stands in a batch, and what it says; may be none.
            name: The column.
            place: Where a record of the batch stands in the source, in words.
            notes: What is known of a source whose first record it is.

        Raises:
            RecordsError: Names the first few places.
        """
        if not strays:
            return
        places = [(place(record), text) for record, text in strays[:_SHOWN_STRAYS]]
        shown = [f'"{text}" ({where})' for where, text in places]
        more = f" and {len(strays) - len(shown):,} more" if len(strays) > len(shown) else ""
        wanted = "dates such as 2025-01-31" if name in self._bands and self._bands[name].is_date else "numbers"
        remedy = f"Mend these values, leave them empty, or name them as `missing` codes of `{name}` in a codebook."
        remedy = "\n  ".join([*notes, remedy])
        raise RecordsError(f"`{name}` of {self.source} should hold {wanted} but holds {listed(shown)}{more}.", remedy)

    def notes(self) -> tuple[str, ...]:
        """What an analyst should know about codes the codebook does not explain."""
        differing = self.long.meaning()[1] if self.long is not None else ()
        disagreement = (
            f"`{self.long.value_column}` is read without {listed(differing)}" if self.long and differing else ""
        )
        unlabelled = tuple(
            phrase("Not in the codebook: {levels} of `{column}`.", levels=listed(levels.unlabelled), column=levels.name)
            for levels in self._lists
            if levels.unlabelled
        )
        disagreeing = (f"{disagreement}: its columns disagree in the codebook.",) if disagreement else ()
        by_the_file = (decimal_note(self.source),) if self._forms.by_the_file else ()
        return (*by_the_file, *self._forms.notes(), *disagreeing, *unlabelled)

    def check_recodes(self, *, filtered: bool) -> None:
        """Refuses recodes of levels that no record has: a misspelt one would silently do nothing.

        Where records were filtered away, the level may have gone with them, so it is not an error then.

        Raises:
            RequestError: Names the level and the nearest ones.
        """
        for levels in self._lists:
            for name in () if filtered else levels.unused_names:
                raise RequestError(f"`{levels.name}` has no level `{name}` to recode.", nearest(name, levels.labels()))

    def _level_list(self, known: CodebookVariable) -> LevelList:
        listed_here = self.long is not None and known.name == self.long.name_column
        listed_here |= known.name == FILE and bool(self._files) and FILE not in self._codebook.variables
        listed_here |= known.stored
        self._used.add(("recode", known.name))
        levels = LevelList(
            known,
            self._recodes.get(known.name),
            show_missing=self._request.missing == "show",
            listed=LevelOrder.LISTED if listed_here else LevelOrder.CODEBOOK,
        )
        self._lists.append(levels)
        return levels

    def _plain_levels(self, known: CodebookVariable) -> PlainLevels:
        """A reader of a column's values, shared with whoever reads them alike."""
        recodes = tuple(self._recodes.get(known.name, {}).items())
        alike = (PlainLevels, known, recodes, self._request.missing, self._request.items, self._request.to_long)
        reader = self._shared.get(alike, lambda: PlainLevels(known, self._level_list(known)))
        self._used.add(("recode", known.name))
        if reader.levels not in self._lists:
            self._lists.append(reader.levels)
        return reader

    def _several_answers(self, known: CodebookVariable) -> SeparatedAnswers | AnswerColumns:
        self._used |= {("answers", known.name), ("recode", known.name)}
        if not known.columns:
            return SeparatedAnswers(replace(known, separator=self._separator(known)), self._level_list(known))
        for column in known.columns:
            self.check(column)
        labelled = tuple(known.level(column) or Level(column, self._label(column)) for column in known.columns)
        levels = LevelList(
            replace(known, levels=labelled),
            self._recodes.get(known.name),
            show_missing=self._request.missing == "show",
        )
        return AnswerColumns(known, levels)

    def _separator(self, known: CodebookVariable) -> str:
        """What parts several answers: as the codebook says, or else as the first rows suggest."""
        if known.separator or self.long is not None:
            return known.separator_in(())
        return known.separator_in(self._forms.codes(known.name))

    def let_go(self) -> None:
        """Forgets the source and other views, once all readers are made: a stream cannot be copied."""
        self._forms.let_go()
        self._shared = SharedReaders()

    def _band_rule(self, known: CodebookVariable) -> "BandRule | None":
        if known.name in self._bands or not known.bands:
            return self._bands.get(known.name)
        return band_rule(f"{known.name}={known.bands}", self._request.band_closed, self._request.first_month)

    def _banded(self, rule: "BandRule", known: CodebookVariable) -> LevelReader:
        self._used |= {("band", rule.target), ("band", "")}
        banded: LevelReader
        if rule.is_date:
            self._used |= {("year", "")} if rule.by in ("quarter", "half-year", "year") else set()
            banded = BandedDates(known, DateBands(rule, day_first=self.dates(known.name).day_first))
        elif rule.by == "auto":
            banded = AutoBandedNumbers(known, rule, self._forms.numbers(known.name).signs)
        else:
            banded = BandedNumbers(known, NumberBands(rule), self._forms.numbers(known.name).signs)
        return WithNoAnswer(banded) if self._request.missing == "show" else banded

    def _label(self, column: str) -> str:
        return self._codebook.variable(column).label or column


def _capital(name: str) -> str:
    """A name that was made up while typing, as a label."""
    words = readable(name)
    return words[:1].upper() + words[1:]


def decimal_note(source: str) -> str:
    """That the numbers of a source are read with decimal commas, though nobody said so."""
    return f"The numbers of {source} are read with decimal commas; if that is wrong, add {option('decimal', 'point')}."


def _long_form(request: RecordsRequest, source: Source, codebook: Codebook) -> "LongForm | None":
    if not (request.to_long or request.items):
        return None

    field, text = ("items", request.items) if request.items else ("to_long", request.to_long or "")
    new, equals, old = (text or "").partition("=")
    names = request.item_columns or names_in(new)
    if not equals or len(names) != 2 or not names_in(old):
        raise RequestError(
            f"`{option(field)} {text}` is incomplete.", f'Write {option(field)} "NAME,VALUE=COLUMN1,COLUMN2,…".'
        )
    long = LongForm((names[0], names[1]), names_in(old), source, codebook.variable)
    differing = long.meaning()[1] if request.items else ()
    if differing:
        questions = listed([f"`{name}`" for name in long.names])
        raise RequestError(
            f"{option('items')}: {questions} disagree in the codebook: {listed(differing)}.",
            f"Only questions with the same answers stand together; others turn into rows with {option('to_long')}.",
        )
    return long


def _band_rules(request: RecordsRequest) -> "dict[str, BandRule]":
    if not request.band:
        return {}

    rules = (band_rule(text, request.band_closed, request.first_month) for text in request.band)
    return {rule.target: rule for rule in rules}


def _recodes(request: RecordsRequest) -> dict[str, dict[str, str]]:
    if not request.recode:
        return {}

    merged: dict[str, dict[str, str]] = {}
    for one in map(recode, request.recode):
        merged.setdefault(one.column, {}).update(one.names)
    return merged


def _several(text: str, codebook: Codebook) -> tuple[str, CodebookVariable]:
    """A several-answer question from `COLUMN` or `NAME=COL1,COL2`."""
    name, equals, columns = text.partition("=")
    known = replace(codebook.variable(name.strip()), kind=Kind.MULTI)
    names = names_in(columns)
    if equals and not names:
        raise RequestError(
            f"`{option('answers')} {text}` names no columns.", "Write COLUMN, or NAME=COL1,COL2 for 0/1 columns."
        )
    return name.strip(), replace(known, columns=names) if names else known
