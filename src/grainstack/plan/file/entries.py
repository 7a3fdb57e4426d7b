"""One table or chart of a plan: the records it names, the words of its kind, and what counts for all entries."""

from collections.abc import Mapping, Sequence
from typing import Any

from msgspec import Struct

from grainstack.advice import MessagesRequest
from grainstack.earlier_names import with_current_names
from grainstack.errors import GrainStackError, RequestError, nearest
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.looks import looks_in
from grainstack.option_fields import Entry, check_value, entries
from grainstack.plan.file.plan import Formats, PlanEntry, Source
from grainstack.plan.file.report import NAME, NAME_RULE
from grainstack.plan.file.text import PlanText
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.records.sources.secrets import holds_password
from grainstack.requests import Requests, filled
from grainstack.summary.options import DesignRequest
from grainstack.toml_schema import value_of

RECORDS_KEYS = {entry.name.rstrip("_"): entry for entry in (*entries(RecordsRequest), *entries(DesignRequest))}
OF_ENTRIES = (  # keys that are no words of a kind
    "name",
    "kind",
    "records",
    "formats",
    "no_advice",
    "for_each",
    "filters",
    "like",
)


class ForAll(Struct, frozen=True):
    """What a plan says for all of its entries.

    Attributes:
        records: Its section of records.
        defaults: Its defaults, with the params in them.
        formats: In which formats tables and charts can be written; the first is the usual one.
        for_each: The column for each level of which entries are made, unless they name another.
        charts: What each chart says, by its name.
    """

    records: Mapping[str, Any]
    defaults: Mapping[str, Any]
    formats: Formats
    for_each: str
    charts: Mapping[str, Mapping[str, Any]]


class EntryReader:
    """One entry while it is being checked.

    Args:
        text: The plan's text, which takes its faults.
        for_all: What counts for all entries.
        product: Whether it is a table or a chart.
        place: Its place among those.
        section: What it says.
    """

    def __init__(
        self, text: PlanText, for_all: ForAll, product: Product, place: int, section: Mapping[str, Any]
    ) -> None:
        self._text, self._for_all = text, for_all
        self._product, self._section = product, with_current_names(section)
        self._name = name_of(section, product, place)
        line = text.starts.get((product.value, place), 0)
        self._where = f"{text.path.name}, line {line}, {product.value} {self._name}"
        self._level_of = str(section.get("for_each", for_all.for_each))

    def entry(self) -> PlanEntry | None:
        """The entry, or None where it has a fault, which is noted."""
        before = len(self._text.faults)
        kind = self._kind()
        if kind is None:
            return None
        self._check_names()
        formats, filters, no_advice = self._formats(), self._filters(), self._no_advice()
        mine = {entry.name for entry in words_of_kind(kind)} | {"file"}  # few kinds have all words of a design
        records = {name: value for name, value in self._records().items() if name in mine}
        values = {**records, **self._values(kind, records)}
        if len(self._text.faults) > before:
            return None
        try:
            requests = self._requests(kind, values, formats)
        except GrainStackError as error:
            self._text.refused(self._where, error)
            return None
        return PlanEntry(
            *(self._name, kind, requests, _source_of(requests), formats, self._where, no_advice, self._level_of),
            filters=filters,
        )

    def _fault(self, sentence: str) -> None:
        self._text.fault(self._where, sentence)

    def _kind(self) -> Kind | None:
        """Its kind, or None where it names none there is."""
        kinds = [one for one in KINDS if kind_named(one).product is self._product]
        name = self._section.get("kind", "table" if self._product is Product.TABLE else None)
        if name in kinds:
            return kind_named(name)
        what = "needs a kind" if name is None else f"kind {name} is not known"
        self._fault(f"{what}. Choose from {', '.join(kinds)}.")
        return None

    def _check_names(self) -> None:
        """Notes a name that no file can have, and a column that cannot stand in texts."""
        if not NAME.fullmatch(self._name) or not _is_plain(self._section.get("name", "")):
            self._fault(NAME_RULE)
        if not isinstance(self._section.get("for_each", ""), str):
            self._fault("for_each must be the name of a column.")
        if self._level_of in self._text.params:
            self._fault(f"{self._level_of} is a param too. Rename it, so that {{{self._level_of}}} is the level.")

    def _requests(self, kind: Kind, values: Mapping[str, Any], formats: Sequence[str]) -> Requests:
        """What an entry is asked for, with those of the plan's defaults that it can use."""
        defaults = self._defaults(kind, values)
        while True:
            try:
                requests = filled(kind.models, {**defaults, **values})
                requests.check()
                requests.check_formats(formats)
                kind.settle(requests)
            except RequestError as error:
                culprit = next((one for one in error.fields if one in defaults), None)
                if culprit is None:
                    raise
                del defaults[culprit]
                continue
            return requests

    def _defaults(self, kind: Kind, values: Mapping[str, Any]) -> dict[str, Any]:
        """The defaults that a kind has, those of the kind before those of all, unless an entry says otherwise."""
        looks = self._looks(kind)
        common = self._for_all.defaults
        special = common.get(kind.name, {})
        special = special if isinstance(special, dict) else {}
        found = {}
        for entry in words_of_kind(kind):
            key = entry.name.rstrip("_")
            value = looks.get(key, special.get(key, common.get(key)))
            if value is not None and entry.name not in values and not unfit(entry, value):
                found[entry.name] = value_of(entry, value)
        return found

    def _looks(self, kind: Kind) -> Mapping[str, Any]:
        """The looks of the entry that this one is to be like."""
        like = self._section.get("like")
        if like is None:
            return {}
        other = self._for_all.charts.get(str(like))
        if other is None or self._product is not Product.CHART:
            self._fault(
                f"like {like}: there is no chart of that name. {nearest(str(like), list(self._for_all.charts))}"
            )
            return {}
        return looks_in(with_current_names(other), kind.models)

    def _formats(self) -> tuple[str, ...]:
        known = self._for_all.formats[self._product]
        wanted = self._section.get("formats", [known[0]])
        wanted = list(map(str, wanted if isinstance(wanted, list) else [wanted]))
        unknown = [one for one in wanted if one not in known]
        if unknown or not wanted:
            what = f"format {unknown[0]} is not known" if unknown else "it has no formats"
            self._fault(f"{what}. Choose from {', '.join(known)}.")
        return tuple(dict.fromkeys(wanted))

    def _filters(self) -> tuple[str, ...]:
        """The columns by whose levels readers of a page may choose."""
        wanted = self._section.get("filters", [])
        names = wanted if isinstance(wanted, list) else [wanted]
        if not all(isinstance(one, str) and one for one in names) or len(set(names)) < len(names):
            self._fault('filters takes columns, each once, such as ["season"].')
            return ()
        if names and self._product is Product.TABLE:
            self._fault("a table has no filters. Give them to a chart.")
        return tuple(names)

    def _no_advice(self) -> tuple[str, ...]:
        """The advice an entry is spared, as it says itself or the defaults do."""
        wanted = self._section.get("no_advice", self._for_all.defaults.get("no_advice", []))
        names = tuple(map(str, wanted if isinstance(wanted, list) else [wanted]))
        try:
            return MessagesRequest(no_advice=names).no_advice
        except RequestError as error:
            self._fault(f"{error.message} {error.remedy}")
            return ()

    def _records(self) -> dict[str, Any]:
        """The words of the records an entry is made of: those without a name, or the ones it names."""
        every = self._for_all.records
        named = {key: value for key, value in every.items() if isinstance(value, dict)}
        taken = next((key for key in named if key in RECORDS_KEYS), None)
        if taken is not None:
            self._fault(f"[records.{taken}] has the name of a key of [records]. Give it another name.")
            return {}
        chosen = self._section.get("records")
        if chosen is not None and (not isinstance(chosen, str) or chosen not in named):
            self._fault(f"there are no [records.{chosen}]. {nearest(str(chosen), list(named))}")
            return {}
        words = named[chosen] if chosen else {key: value for key, value in every.items() if key not in named}
        if not words.get("file"):
            self._fault('no records are named. Write file = "…" under [records].')
            return {}
        found: dict[str, Any] = {}
        for key, value in words.items():
            if key == "file":
                files = value if isinstance(value, list) else [value]
                if not all(isinstance(file, str) for file in files):
                    self._fault("file must be a text, or a list of texts.")
                    return {}
                found["file"] = tuple(self._text.beside(self._filled(file)) for file in files)
                if any(map(holds_password, found["file"])):
                    self._fault("a plan holds no passwords. Write ${NAME} in its place, and set NAME outside.")
            elif key in RECORDS_KEYS:
                found[RECORDS_KEYS[key].name] = self._text.value(RECORDS_KEYS[key], value, self._where, self._level_of)
        if "codebook" in found:
            found["codebook"] = self._text.beside(str(found["codebook"]))
        return found

    def _values(self, kind: Kind, records: Mapping[str, Any]) -> dict[str, Any]:
        """The words of an entry; lists that the records have too, such as filters, come on top of theirs."""
        known = {entry.name.rstrip("_"): entry for entry in words_of_kind(kind)}
        found: dict[str, Any] = {}
        for key, value in self._section.items():
            if key in OF_ENTRIES:
                continue
            entry = known.get(key)
            if entry is None or key in SOURCE_FIELDS:
                options = [*known, *OF_ENTRIES]
                self._fault(f"there is no key {key}. {nearest(key, options)}")
                continue
            if entry.name in kind.repeated and isinstance(value, list):
                found[entry.name] = [self._filled(one) for one in value]
                continue
            one = self._text.value(entry, value, self._where, self._level_of)
            mine = records.get(entry.name)
            found[entry.name] = (*mine, *one) if isinstance(mine, tuple) and isinstance(one, tuple) else one
        if str(found.get("style", "")).lower().endswith(".toml"):
            found["style"] = self._text.beside(str(found["style"]))
        return found

    def _filled(self, value: Any) -> Any:  # noqa: ANN401 - whatever TOML holds
        """A value with the params in it."""
        return self._text.filled(value, self._where, self._level_of)


def name_of(section: Mapping[str, Any], product: Product, place: int) -> str:
    """The name of an entry, or one made of its place.

    Args:
        section: What it says.
        product: Whether it is a table or a chart.
        place: Its place among those.
    """
    return str(section.get("name", f"{product.value} {place + 1}"))


def unfit(entry: Entry, value: object) -> str:
    """Why a value cannot be that of an option; empty if it can.

    Args:
        entry: The option.
        value: What the plan says.
    """
    try:
        check_value(entry, value_of(entry, value))
    except ValueError as error:
        return f"{entry.name.rstrip('_')} {error}."
    except RequestError as error:
        return f"{error.message} {error.remedy}"
    return ""


def words_of_kind(kind: Kind) -> list[Entry]:
    """The words that entries of a kind can have."""
    return [entry for model in kind.models for entry in entries(model)]


def _is_plain(value: object) -> bool:
    return isinstance(value, str | int | float) and not isinstance(value, bool)


def _source_of(requests: Requests) -> Source:
    records = requests[RecordsRequest]
    return tuple((name, getattr(records, name)) for name in SOURCE_FIELDS)
