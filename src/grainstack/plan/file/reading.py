"""A plan as its file says it: records, what counts for all, and every table and chart to be made of them.

Nothing of an option is written here: what an entry can say are the words of its kind's request models.
"""

import tomllib
from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from grainstack.chart.look.style_file import style_from
from grainstack.digests import digest_of_bytes
from grainstack.earlier_names import with_current_names
from grainstack.errors import RequestError, nearest, reason_of
from grainstack.language import language_of
from grainstack.making.engine import EngineRequest
from grainstack.making.kind import Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.option_fields import entries
from grainstack.option_names import worded
from grainstack.plan.file.entries import RECORDS_KEYS, EntryReader, ForAll, name_of, unfit, words_of_kind
from grainstack.plan.file.language import languages_spoken, report_tag
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.params import typed
from grainstack.plan.file.plan import SECTIONS, Formats, Plan, PlanEntry, PlanError
from grainstack.plan.file.report import Report, ReportReader
from grainstack.plan.file.text import PlanText
from grainstack.requests import filled


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
        self._text = PlanText(path, text)
        self._content, self._formats, self._for_each = content, formats, for_each
        self._set_defaults: dict[str, Any] = {}  # with the params in them

    def plan(self, params: Mapping[str, str]) -> Plan:
        """The plan, with the params typed."""
        self._check_sections()
        self._text.params = self._checked_params(params)
        self._check_records()
        self._check_defaults()
        self._check_style()
        self._set_language()
        engine = self._engine()
        entries = self._entries()
        for place, entry in enumerate(entries):
            if entry.name.lower() in [other.name.lower() for other in entries[:place]]:
                self._text.fault(entry.where, f"the name `{entry.name}` is taken. Give each its own.")
        if not self._text.faults and not entries:
            self._text.fault(self._text.path.name, "there is nothing to make. Add [[table]] or [[chart]] entries.")
        style = self._content.get("style", {})
        language = self._language(entries)
        report = self._report()
        self._check_filters(entries, report)
        if report is not None and not report.language:
            report = replace(report, language=language)
        return Plan(
            self._text.path,
            tuple(entries),
            self._text.params,
            style,
            engine,
            report,
            language,
            typed=dict(params),
            typed_each=self._for_each,
            faults=tuple(self._text.faults),
        )

    def _entries(self) -> list[PlanEntry]:
        """Its entries without faults, in the order of the file."""
        sections = self._sections()
        charts = {name_of(one, product, place): one for product, place, one in sections if product is Product.CHART}
        for_all = ForAll(self._content.get("records", {}), self._set_defaults, self._formats, self._for_each, charts)
        readers = [EntryReader(self._text, for_all, *one) for one in sections]
        return [entry for reader in readers if (entry := reader.entry()) is not None]

    def _set_language(self) -> None:
        """Has entries speak the language of the report, unless something else is said."""
        if (tag := report_tag(self._content)) and "language" not in self._set_defaults:
            self._set_defaults["language"] = language_of(self._text.filled(tag, self._text.at("report", "language")))

    def _language(self, entries: Sequence[PlanEntry]) -> str:
        """The language of the plan; notes it where there are several."""
        tag = self._text.filled(report_tag(self._content), self._text.at("report", "language"))
        first, *others = languages_spoken(entries, tag, f"{self._text.at('report', 'language')}, report")
        for other in others:
            self._text.fault(
                other.where,
                f"this is in {other.language}, and {first.where} in {first.language}. A plan has one language: say it "
                "once, under [defaults].",
            )
        return first.language

    def _report(self) -> Report | None:
        """What is said of the report."""
        if "report" not in self._content:
            return None

        lines = self._text.text.splitlines()

        def at(part: int | None, words: str = "") -> str:
            line = self._text.line("report") if part is None else self._text.starts.get(("report.part", part), 0)
            line = next((number for number, text in enumerate(lines[line:], line + 1) if words and words in text), line)
            return f"{self._text.path.name}, line {line}, report{'' if part is None else f' part {part + 1}'}"

        names = [name_of(section, product, place) for product, place, section in self._sections()]
        each = [str(section["for_each"]) for *_, section in self._sections() if "for_each" in section]
        filled = partial(self._text.filled, level_of=each[0] if each else self._for_each)
        about = f"{self._text.path.name}, {digest_of_bytes(self._text.text.encode())}"
        reader = ReportReader(at, self._text.fault, filled, self._text.beside, about)
        return reader.report(self._content["report"], names)

    def _check_sections(self) -> None:
        """Notes sections there are not, and takes out those of another type, so that nothing else trips over them."""
        for key, value in list(self._content.items()):
            if key not in SECTIONS:
                self._text.fault(self._text.at(key), f"there is no [{key}]. {nearest(key, list(SECTIONS))}")
            elif not _is_section(value, SECTIONS[key]):
                heading = f"[{key}]" if SECTIONS[key] is dict else f"[[{key}]]"
                self._text.fault(self._text.at(key), f"{key} is a section. Write {heading}.")
                del self._content[key]

    def _sections(self) -> list[tuple[Product, int, Mapping[str, Any]]]:
        """What every entry says, in the order of the file."""
        found = [
            (product, place, one)
            for product in Product
            for place, one in enumerate(self._content.get(product.value, []))
        ]
        return sorted(found, key=lambda one: self._text.starts.get((one[0].value, one[1]), 0))

    def _checked_params(self, texts: Mapping[str, str]) -> dict[str, Any]:
        """The params with the values typed for them."""
        params = self._content.get("params", {})
        for name, value in params.items():
            if not isinstance(value, str | int | float):
                where = self._text.at("params", name)
                self._text.fault(where, f"param {name} must be a text, a number, or true or false.")
        return typed(params, texts, lambda sentence: self._text.fault(self._text.path.name, sentence))

    def _check_records(self) -> None:
        """Notes keys of records there are not, once for all entries that are made of them, or of none."""
        for key, value in self._content.get("records", {}).items():
            words = value if isinstance(value, dict) else {key: value}
            for name in words:
                if name != "file" and name not in RECORDS_KEYS:
                    path = ("records", key, name) if isinstance(value, dict) else ("records", name)
                    near = nearest(name, ["file", *RECORDS_KEYS])
                    self._text.fault(self._text.at(*path), f"[records] has no key {name}. {near}")

    def _check_defaults(self) -> None:
        """Notes defaults that nothing has, or that nothing can have, once for the whole plan."""
        every = {kind: {entry.name.rstrip("_"): entry for entry in words_of_kind(kind_named(kind))} for kind in KINDS}
        self._set_defaults = self._filled_section(self._content.get("defaults", {}), ("defaults",))
        for key, value in self._set_defaults.items():
            special = key in KINDS and isinstance(value, dict)
            kinds = [every[key]] if special else list(every.values())
            for name, one in value.items() if special else ((key, value),):
                path = ("defaults", key, name) if special else ("defaults", name)
                reasons = [unfit(words[name], one) for words in kinds if name in words]
                if not reasons and (special or name != "no_advice"):
                    known = sorted({word for words in kinds for word in words})
                    self._text.fault(self._text.at(*path), f"there is no option {name}. {nearest(name, known)}")
                elif reasons and all(reasons):
                    self._text.fault(self._text.at(*path), worded(reasons[0], PLANNED))

    def _filled_section(self, section: Mapping[str, Any], path: tuple[str, ...]) -> dict[str, Any]:
        """A section with the params in its texts; a param there is not is told once."""
        return {
            key: self._filled_section(value, (*path, key))
            if isinstance(value, dict)
            else self._text.filled(value, self._text.at(*path, key))
            for key, value in with_current_names(section).items()
        }

    def _check_style(self) -> None:
        """Notes what is wrong with the style, once for the whole plan."""
        try:
            style_from(self._content.get("style", {}), f"{self._text.at('style')}, [style]")
        except RequestError as error:
            self._text.faults.append(worded(f"{error.message} {error.remedy}".rstrip(), PLANNED))

    def _engine(self) -> EngineRequest:
        """Where the records are read."""
        known = {entry.name: entry for entry in entries(EngineRequest)}
        values = {}
        for key, value in self._content.get("engine", {}).items():
            where = self._text.at("engine", key)
            if key not in known:
                self._text.fault(where, f"[engine] has no key {key}. {nearest(key, list(known))}")
            else:
                values[key] = self._text.value(known[key], value, where)
        try:
            return filled((EngineRequest,), values)[EngineRequest]
        except RequestError as error:
            self._text.refused(self._text.at("engine"), error)
            return EngineRequest()

    def _check_filters(self, entries: Sequence[PlanEntry], report: Report | None) -> None:
        """Notes filters of charts that are on no page, where nobody could choose."""
        on_page = report.shown if report is not None and "html" in report.formats else ()
        for entry in entries:
            if entry.filters and "html" not in entry.formats and entry.name not in on_page:
                self._text.fault(entry.where, 'filters are chosen on a page: add formats = ["html"].')


def _is_section(value: object, kind: type[dict[str, Any]] | type[list[Any]]) -> bool:
    """Whether a value is a section, or a list of them."""
    return isinstance(value, kind) and (kind is dict or all(isinstance(one, dict) for one in value))
