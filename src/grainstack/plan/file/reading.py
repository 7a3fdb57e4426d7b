"""A plan as its file says it: records, what counts for all, and every table and chart to be made of them.

Nothing of an option is written here: what an entry can say are the words of its kind's request models.
"""

import re
import tomllib
from collections.abc import Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import Any

from grainstack.advice import MessagesRequest
from grainstack.chart.look.style_file import style_from
from grainstack.digests import digest_of_bytes
from grainstack.errors import GrainStackError, RequestError, nearest, reason_of
from grainstack.language import language_of
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.plan.file.language import languages_spoken, report_tag
from grainstack.plan.file.params import filled as filled_in
from grainstack.plan.file.params import typed
from grainstack.plan.file.plan import SOURCE_FIELDS, Formats, Plan, PlanEntry, PlanError, Source
from grainstack.plan.file.report import NAME, NAME_RULE, Report, ReportReader
from grainstack.plan.file.speech import PLANNED
from grainstack.records.codebook.file import key_lines
from grainstack.records.request import RecordsRequest
from grainstack.records.sources.secrets import holds_password
from grainstack.requests import Requests, filled
from grainstack.speech import fields_named, worded
from grainstack.summary.options import DesignRequest
from grainstack.toml_values import value_of
from grainstack.words import Entry, check_value, entries

_SECTIONS: dict[str, type[dict[str, Any]] | type[list[Any]]] = {
    **dict.fromkeys(("params", "records", "defaults", "style", "engine", "report"), dict),
    **dict.fromkeys(("table", "chart"), list),
}
_RECORDS = {entry.name.rstrip("_"): entry for entry in (*entries(RecordsRequest), *entries(DesignRequest))}
_OF_ENTRIES = ("name", "kind", "records", "formats", "no_advice", "for_each", "filters")


def read_plan(path: Path, formats: Formats, params: Mapping[str, str] | None = None, for_each: str = "") -> Plan:
    """Reads a plan and looks for faults in all of it.

    Args:
        path: Its file; paths in it start from its folder.
        formats: In which formats tables and charts can be written; the first is the usual one.
        params: Values for its params, as typed.
        for_each: The column for each level of which its entries are made, unless they name another.

    Raises:
        PlanError: It cannot be read.
    """
    try:
        text = path.read_text("utf-8-sig")
    except FileNotFoundError:
        raise PlanError(f"There is no plan {path}.", "Name one, or begin one with save_plan.") from None
    except (OSError, UnicodeDecodeError) as error:
        raise PlanError(f"{path} cannot be read: {reason_of(error)}.", "Name another plan.") from None
    return plan_from(text, path, formats, params, for_each)


def plan_from(
    text: str, path: Path, formats: Formats, params: Mapping[str, str] | None = None, for_each: str = ""
) -> Plan:
    """A plan from its text; see `read_plan`.

    Args:
        text: What its file holds.
        path: The file it is, or would be, in.
        formats: In which formats tables and charts can be written.
        params: Values for its params, as typed.
        for_each: The column for each level of which its entries are made.

    Raises:
        PlanError: It is no TOML.
    """
    try:
        content = tomllib.loads(text)
    except tomllib.TOMLDecodeError as error:
        raise PlanError(f"{path} is no TOML: {error}.", "Mend it there.") from None
    return _Reader(path, text, content, formats, for_each).plan(params or {})


class _Reader:
    """One plan while it is being checked."""

    def __init__(self, path: Path, text: str, content: dict[str, Any], formats: Formats, for_each: str) -> None:
        self._path, self._text = path, text
        self._for_each = for_each
        self._level_of = ""  # the column whose level is put into the texts of the entry that is read
        self._lines = key_lines(text)
        self._starts = _entry_lines(text)
        self._content = content
        self._known_formats = formats
        self._faults: list[str] = []
        self._params: dict[str, Any] = {}
        self._set_defaults: dict[str, Any] = {}  # with the params in them

    def plan(self, params: Mapping[str, str]) -> Plan:
        """The plan, with the params typed."""
        self._check_sections()
        self._params = self._checked_params(params)
        self._check_records()
        self._check_defaults()
        self._check_style()
        self._set_language()
        engine = self._engine()
        made = [self._entry(product, place, said) for product, place, said in self._said()]
        entries = [entry for entry in made if entry is not None]
        for place, entry in enumerate(entries):
            if entry.name.lower() in [other.name.lower() for other in entries[:place]]:
                self._fault(entry.where, f"the name `{entry.name}` is taken. Give each its own.")
        if not self._faults and not entries:
            self._fault(self._path.name, "there is nothing to make. Add [[table]] or [[chart]] entries.")
        style = self._content.get("style", {})
        language = self._language(entries)
        report = self._report()
        self._check_filters(entries, report)
        if report is not None and not report.language:
            report = replace(report, language=language)
        return Plan(
            self._path,
            tuple(entries),
            self._params,
            style,
            engine,
            report,
            language,
            typed=dict(params),
            typed_each=self._for_each,
            faults=tuple(self._faults),
        )

    def _set_language(self) -> None:
        """Has entries speak the language of the report, unless something else is said."""
        if (tag := report_tag(self._content)) and "language" not in self._set_defaults:
            self._set_defaults["language"] = language_of(self._filled(tag, self._at("report", "language")))

    def _language(self, entries: Sequence[PlanEntry]) -> str:
        """The language of the plan; notes it where there are several."""
        tag = self._filled(report_tag(self._content), self._at("report", "language"))
        first, *others = languages_spoken(entries, tag, f"{self._at('report', 'language')}, report")
        for other in others:
            self._fault(
                other.where,
                f"this is in {other.language}, and {first.where} in {first.language}. A plan has one language: say it "
                "once, under [defaults].",
            )
        return first.language

    def _report(self) -> Report | None:
        """What is said of the report."""
        if "report" not in self._content:
            return None

        lines = self._text.splitlines()

        def at(part: int | None, words: str = "") -> str:
            line = self._lines.get(("report",), 0) if part is None else self._starts.get(("report.part", part), 0)
            line = next((number for number, text in enumerate(lines[line:], line + 1) if words and words in text), line)
            return f"{self._path.name}, line {line}, report{'' if part is None else f' part {part + 1}'}"

        names = [_name_of(said, product, place) for product, place, said in self._said()]
        self._level_of = next(
            (str(said["for_each"]) for *_, said in self._said() if "for_each" in said), self._for_each
        )
        about = f"{self._path.name}, {digest_of_bytes(self._text.encode())}"
        reader = ReportReader(at, self._fault, self._filled, self._beside, about)
        return reader.report(self._content["report"], names)

    def _fault(self, where: str, sentence: str) -> None:
        self._faults.append(f"{where}: {sentence.rstrip()}")

    def _at(self, *path: str) -> str:
        """The place of a key, for messages."""
        return f"{self._path.name}, line {self._lines.get(path, 0)}"

    def _check_sections(self) -> None:
        """Notes sections there are not, and takes out those of another type, so that nothing else trips over them."""
        for key, value in list(self._content.items()):
            if key not in _SECTIONS:
                self._fault(self._at(key), f"there is no [{key}]. {nearest(key, list(_SECTIONS))}")
            elif not _is_section(value, _SECTIONS[key]):
                heading = f"[{key}]" if _SECTIONS[key] is dict else f"[[{key}]]"
                self._fault(self._at(key), f"{key} is a section. Write {heading}.")
                del self._content[key]

    def _said(self) -> list[tuple[Product, int, Mapping[str, Any]]]:
        """What every entry says, in the order of the file."""
        found = [
            (product, place, one)
            for product in Product
            for place, one in enumerate(self._content.get(product.value, []))
        ]
        return sorted(found, key=lambda one: self._starts.get((one[0].value, one[1]), 0))

    def _checked_params(self, texts: Mapping[str, str]) -> dict[str, Any]:
        """The params with the values typed for them."""
        params = self._content.get("params", {})
        for name, value in params.items():
            if not isinstance(value, str | int | float):
                self._fault(self._at("params", name), f"param {name} must be a text, a number, or true or false.")
        return typed(params, texts, lambda sentence: self._fault(self._path.name, sentence))

    def _check_records(self) -> None:
        """Notes keys of records there are not, once for all entries that are made of them, or of none."""
        for key, value in self._content.get("records", {}).items():
            words = value if isinstance(value, dict) else {key: value}
            for name in words:
                if name != "file" and name not in _RECORDS:
                    path = ("records", key, name) if isinstance(value, dict) else ("records", name)
                    self._fault(self._at(*path), f"[records] has no key {name}. {nearest(name, ['file', *_RECORDS])}")

    def _check_defaults(self) -> None:
        """Notes defaults that nothing has, or that nothing can have, once for the whole plan."""
        every = {kind: {entry.name.rstrip("_"): entry for entry in _words(kind_named(kind))} for kind in KINDS}
        self._set_defaults = self._filled_section(self._content.get("defaults", {}), ("defaults",))
        for key, value in self._set_defaults.items():
            special = key in KINDS and isinstance(value, dict)
            kinds = [every[key]] if special else list(every.values())
            for name, one in value.items() if special else ((key, value),):
                path = ("defaults", key, name) if special else ("defaults", name)
                reasons = [_unfit(words[name], one) for words in kinds if name in words]
                if not reasons and (special or name != "no_advice"):
                    known = sorted({word for words in kinds for word in words})
                    self._fault(self._at(*path), f"there is no option {name}. {nearest(name, known)}")
                elif reasons and all(reasons):
                    self._fault(self._at(*path), worded(reasons[0], PLANNED))

    def _filled_section(self, section: Mapping[str, Any], path: tuple[str, ...]) -> dict[str, Any]:
        """A section with the params in its texts; a param there is not is told once."""
        return {
            key: self._filled_section(value, (*path, key))
            if isinstance(value, dict)
            else self._filled(value, self._at(*path, key))
            for key, value in section.items()
        }

    def _check_style(self) -> None:
        """Notes what is wrong with the style, once for the whole plan."""
        try:
            style_from(self._content.get("style", {}), f"{self._at('style')}, [style]")
        except RequestError as error:
            self._faults.append(worded(f"{error.message} {error.remedy}".rstrip(), PLANNED))

    def _engine(self) -> EngineRequest:
        """Where the records are read."""
        known = {entry.name: entry for entry in entries(EngineRequest)}
        values = {}
        for key, value in self._content.get("engine", {}).items():
            if key not in known:
                self._fault(self._at("engine", key), f"[engine] has no key {key}. {nearest(key, list(known))}")
            else:
                values[key] = self._value(known[key], value, self._at("engine", key))
        try:
            return filled((EngineRequest,), values)[EngineRequest]
        except RequestError as error:
            self._faults.append(worded(f"{self._at('engine')}: {error.message} {error.remedy}".rstrip(), PLANNED))
            return EngineRequest()

    def _entry(self, product: Product, place: int, said: Mapping[str, Any]) -> PlanEntry | None:
        """An entry, or None where it has a fault, which is noted."""
        line = self._starts.get((product.value, place), 0)
        name = _name_of(said, product, place)
        where = f"{self._path.name}, line {line}, {product.value} {name}"
        before = len(self._faults)
        kinds = [one for one in KINDS if kind_named(one).product is product]
        kind_name = said.get("kind", "table" if product is Product.TABLE else None)
        if kind_name not in kinds:
            what = "needs a kind" if kind_name is None else f"kind {kind_name} is not known"
            self._fault(where, f"{what}. Choose from {', '.join(kinds)}.")
            return None
        if not NAME.fullmatch(name) or not _is_plain(said.get("name", "")):
            self._fault(where, NAME_RULE)
        kind = kind_named(kind_name)
        if not isinstance(said.get("for_each", ""), str):
            self._fault(where, "for_each must be the name of a column.")
        self._level_of = str(said.get("for_each", self._for_each))
        if self._level_of in self._params:
            self._fault(
                where, f"{self._level_of} is a param too. Rename it, so that {{{self._level_of}}} is the level."
            )
        formats = self._formats(said, kind, where)
        filters = self._filters(said, kind, where)
        no_advice = self._no_advice(said, where)
        records = self._records(said, where)
        mine = {entry.name for entry in _words(kind)} | {"file"}  # few kinds have all words of a design
        records = {name: value for name, value in records.items() if name in mine}
        values = {**records, **self._values(said, kind, where, records)}
        if len(self._faults) > before:
            return None
        try:
            requests = self._requests(kind, values)
        except GrainStackError as error:
            sentence = worded(f"{error.message} {error.remedy}".rstrip(), PLANNED)
            self._fault(where, f"{sentence}")
            return None
        source = _source_of(requests)
        return PlanEntry(name, kind, requests, source, formats, where, no_advice, self._level_of, filters=filters)

    def _requests(self, kind: Kind, values: Mapping[str, Any]) -> Requests:
        """What an entry is asked for, with those of the plan's defaults that it can use."""
        defaults = self._defaults(kind, values)
        while True:
            try:
                requests = filled(kind.models, {**defaults, **values})
                requests.check()
                kind.settle(requests)
            except RequestError as error:
                named = fields_named(f"{error.message} {error.remedy}")
                culprit = next((one for one in named if one in defaults), None)
                if culprit is None:
                    raise
                del defaults[culprit]
                continue
            return requests

    def _defaults(self, kind: Kind, values: Mapping[str, Any]) -> dict[str, Any]:
        """The defaults that a kind has, those of the kind before those of all, unless an entry says otherwise."""
        said = self._set_defaults
        special = said.get(kind.name, {})
        special = special if isinstance(special, dict) else {}
        found = {}
        for entry in _words(kind):
            value = special.get(entry.name.rstrip("_"), said.get(entry.name.rstrip("_")))
            if value is not None and entry.name not in values and not _unfit(entry, value):
                found[entry.name] = value_of(entry, value)
        return found

    def _formats(self, said: Mapping[str, Any], kind: Kind, where: str) -> tuple[str, ...]:
        known = self._known_formats[kind.product]
        wanted = said.get("formats", [known[0]])
        wanted = list(map(str, wanted if isinstance(wanted, list) else [wanted]))
        unknown = [one for one in wanted if one not in known]
        if unknown or not wanted:
            what = f"format {unknown[0]} is not known" if unknown else "it has no formats"
            self._fault(where, f"{what}. Choose from {', '.join(known)}.")
        return tuple(dict.fromkeys(wanted))

    def _filters(self, said: Mapping[str, Any], kind: Kind, where: str) -> tuple[str, ...]:
        """The columns by whose levels readers of a page may choose."""
        wanted = said.get("filters", [])
        names = wanted if isinstance(wanted, list) else [wanted]
        if not all(isinstance(one, str) and one for one in names) or len(set(names)) < len(names):
            self._fault(where, 'filters takes columns, each once, such as ["season"].')
            return ()
        if names and kind.product is Product.TABLE:
            self._fault(where, "a table has no filters. Give them to a chart.")
        return tuple(names)

    def _check_filters(self, entries: Sequence[PlanEntry], report: Report | None) -> None:
        """Notes filters of charts that are on no page, where nobody could choose."""
        on_page = report.shown if report is not None and "html" in report.formats else ()
        for entry in entries:
            if entry.filters and "html" not in entry.formats and entry.name not in on_page:
                self._fault(entry.where, 'filters are chosen on a page: add formats = ["html"].')

    def _no_advice(self, said: Mapping[str, Any], where: str) -> tuple[str, ...]:
        """The advice an entry is spared, as it says itself or the defaults do."""
        wanted = said.get("no_advice", self._set_defaults.get("no_advice", []))
        names = tuple(map(str, wanted if isinstance(wanted, list) else [wanted]))
        try:
            return MessagesRequest(no_advice=names).no_advice
        except RequestError as error:
            self._fault(where, f"{error.message} {error.remedy}")
            return ()

    def _records(self, said: Mapping[str, Any], where: str) -> dict[str, Any]:
        """The words of the records an entry is made of: those without a name, or the ones it names."""
        every = self._content.get("records", {})
        named = {key: value for key, value in every.items() if isinstance(value, dict)}
        taken = next((key for key in named if key in _RECORDS), None)
        if taken is not None:
            self._fault(where, f"[records.{taken}] has the name of a key of [records]. Give it another name.")
            return {}
        chosen = said.get("records")
        if chosen is not None and (not isinstance(chosen, str) or chosen not in named):
            self._fault(where, f"there are no [records.{chosen}]. {nearest(str(chosen), list(named))}")
            return {}
        words = named[chosen] if chosen else {key: value for key, value in every.items() if key not in named}
        if not words.get("file"):
            self._fault(where, 'no records are named. Write file = "…" under [records].')
            return {}
        found: dict[str, Any] = {}
        for key, value in words.items():
            if key == "file":
                files = value if isinstance(value, list) else [value]
                if not all(isinstance(file, str) for file in files):
                    self._fault(where, "file must be a text, or a list of texts.")
                    return {}
                found["file"] = tuple(self._beside(self._filled(file, where)) for file in files)
                if any(map(holds_password, found["file"])):
                    self._fault(where, "a plan holds no passwords. Write ${NAME} in its place, and set NAME outside.")
            elif key in _RECORDS:
                found[_RECORDS[key].name] = self._value(_RECORDS[key], value, where)
        if "codebook" in found:
            found["codebook"] = self._beside(str(found["codebook"]))
        return found

    def _values(self, said: Mapping[str, Any], kind: Kind, where: str, records: Mapping[str, Any]) -> dict[str, Any]:
        """The words of an entry; lists that the records have too, such as filters, come on top of theirs."""
        known = {entry.name.rstrip("_"): entry for entry in _words(kind)}
        found: dict[str, Any] = {}
        for key, value in said.items():
            if key in _OF_ENTRIES:
                continue
            entry = known.get(key)
            if entry is None or key in SOURCE_FIELDS:
                options = [*known, *_OF_ENTRIES]
                self._fault(where, f"there is no key {key}. {nearest(key, options)}")
                continue
            if entry.name in kind.repeated and isinstance(value, list):
                found[entry.name] = [self._filled(one, where) for one in value]
                continue
            one = self._value(entry, value, where)
            mine = records.get(entry.name)
            found[entry.name] = (*mine, *one) if isinstance(mine, tuple) and isinstance(one, tuple) else one
        return found

    def _value(self, entry: Entry, value: object, where: str) -> object:
        try:
            return value_of(entry, self._filled(value, where))
        except ValueError as error:
            self._fault(where, f"{entry.name.rstrip('_')} {error}.")
            return entry.default

    def _filled(self, value: Any, where: str) -> Any:  # noqa: ANN401 - whatever TOML holds
        """A value with the params in it."""
        return filled_in(value, self._params, lambda sentence: self._fault(where, sentence), self._level_of)

    def _beside(self, file: str) -> str:
        return file if "://" in file or Path(file).is_absolute() else str(self._path.parent / file)


def _name_of(said: Mapping[str, Any], product: Product, place: int) -> str:
    """The name of an entry, or one made of its place."""
    return str(said.get("name", f"{product.value} {place + 1}"))


def _is_plain(value: object) -> bool:
    return isinstance(value, str | int | float) and not isinstance(value, bool)


def _unfit(entry: Entry, value: object) -> str:
    """Why a value cannot be that of an option; empty if it can."""
    try:
        check_value(entry, value_of(entry, value))
    except ValueError as error:
        return f"{entry.name.rstrip('_')} {error}."
    except RequestError as error:
        return f"{error.message} {error.remedy}"
    return ""


def _is_section(value: object, kind: type[dict[str, Any]] | type[list[Any]]) -> bool:
    """Whether a value is a section, or a list of them."""
    return isinstance(value, kind) and (kind is dict or all(isinstance(one, dict) for one in value))


def _words(kind: Kind) -> list[Entry]:
    return [entry for model in kind.models for entry in entries(model)]


def _source_of(requests: Requests) -> Source:
    records = requests[RecordsRequest]
    return tuple((name, getattr(records, name)) for name in SOURCE_FIELDS)


def _entry_lines(text: str) -> dict[tuple[str, int], int]:
    """The line on which each [[table]], [[chart]] and [[report.part]] starts."""
    found: dict[tuple[str, int], int] = {}
    counts: dict[str, int] = {}
    for number, line in enumerate(text.splitlines(), 1):
        if match := re.match(r"\s*\[\[\s*([\w.]+)\s*\]\]", line):
            place = counts.get(match[1], 0)
            found[match[1], place], counts[match[1]] = number, place + 1
    return found
