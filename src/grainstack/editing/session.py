"""One sitting at the page: records opened once, sums kept, and each request drawn as the command would draw it."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import replace

from grainstack.earlier_names import with_current_names
from grainstack.editing.described import ON_PAGE, named_on_page
from grainstack.errors import GrainStackError, IdleError, RequestError
from grainstack.language import speaking
from grainstack.making.blocks import make_blocks
from grainstack.making.command_line import command_line
from grainstack.making.house_style import styled
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.make import Made, begun, finished, read_into
from grainstack.option_fields import Entry, entries
from grainstack.option_names import worded
from grainstack.plan.file.saving import NewEntry, extended, first_plan
from grainstack.records.opened import Opened, open_records
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.records.sample import columns_of_values
from grainstack.records.variable import Kind as ValueKind
from grainstack.report.documents.page import table_html
from grainstack.report.output_formats import outputs_of
from grainstack.report.print_request import table_printed
from grainstack.requests import Requests, filled
from grainstack.summary.options import LanguageRequest
from grainstack.summary.profile import profiled
from grainstack.summary.summary_request import SummaryRequest
from grainstack.toml_schema import value_of

if TYPE_CHECKING:
    from grainstack.summary.partial import Partial

_KEPT = 12  # sums of as many requests: going back and forth reads nothing
_MOST_LEVELS = 8  # of a column, shown beside it


class Wish(Struct, frozen=True):
    """What the page asks for.

    Attributes:
        kind: The kind of table or chart.
        values: The options that are not at their default, by name.
    """

    kind: str
    values: Mapping[str, Any]


class Drawn(Struct, frozen=True):
    """What the page shows.

    Attributes:
        picture: The chart as SVG, or the table as HTML; empty where it could not be made.
        fault: Why it could not be made, and what to do; empty otherwise.
        told: What made no difference, what was assumed while reading, and advice.
        command: The command that makes the same.
        entry: The plan that makes the same.
        unsuited: The kinds that cannot show what is asked for, with the reason.
    """

    picture: str = ""
    fault: str = ""
    told: tuple[str, ...] = ()
    command: str = ""
    entry: str = ""
    unsuited: Mapping[str, str] = {}


class Session:
    """One sitting.

    Args:
        files: The records, as the command takes them.
        codebook: The codebook to apply; None for one beside the records.
    """

    def __init__(self, files: Sequence[str], codebook: str | None = None) -> None:
        self.opened: Wish | None = None  # an entry of a plan, as it was when the page was opened
        self._source = {"file": tuple(files), **({"codebook": codebook} if codebook else {})}
        self._opened: dict[tuple[Any, ...], Opened] = {}
        self._sums: dict[tuple[RecordsRequest, SummaryRequest], Partial] = {}

    def columns(self) -> list[dict[str, Any]]:
        """What is in the records: for each column its name, label and kind, and its levels with their counts.

        Raises:
            RecordsError: Records that cannot be read.
        """
        opened = self._open(filled((RecordsRequest,), self._source)[RecordsRequest])
        names, _ = columns_of_values(opened.source)
        decimal = opened.codebook.decimal_in(opened.source.decimal)
        looked = profiled(names, opened.source.batches(names), decimal=decimal)
        found = []
        for one in looked.profiles:
            known = opened.codebook.variable(one.name)
            labels = {level.code: level.label for level in known.levels}
            levels = [(labels.get(code, code), count) for code, count in one.levels][:_MOST_LEVELS]
            kind = str((known.kind or one.kind).value)
            levels = [] if kind == ValueKind.TEXT else levels
            found.append({"name": one.name, "label": known.label or one.name, "kind": kind, "levels": levels})
        return found

    def first(self) -> Wish:
        """What the page begins with: bars of the first column that has a few levels.

        Raises:
            RecordsError: Records that cannot be read.
        """
        few = (one["name"] for one in self.columns() if 1 < len(one["levels"]) < _MOST_LEVELS)
        by = next(few, None)
        return Wish("bar", {"by": [by]} if by else {})

    def draw(self, wish: Wish) -> Drawn:
        """What is asked for, as the command would make it; a fault is told and leaves the page as it is.

        Args:
            wish: The kind and its options.
        """
        kind = kind_named(wish.kind)
        try:
            values = {**_typed(kind, wish.values), **self._source}
            typed, made, told = self._made(kind, values)
        except GrainStackError as error:
            return Drawn(fault=_on_page(f"{error.message} {error.remedy}".strip()), unsuited=self._unsuited(wish))
        with speaking(typed.usual(LanguageRequest).language):
            if kind.product is Product.CHART:
                outputs = outputs_of(made, [".svg"])
                picture, advice = outputs.contents[0].decode(), (*made.advice, *outputs.advice)
            else:
                picture, advice = "".join(map(table_html, table_printed(made))), made.advice
            told = (*told, *map(_on_page, (*made.notes, *map(str, advice))))
        entry = first_plan(NewEntry(kind, typed))
        command = command_line(kind.name, typed[RecordsRequest].file, typed)
        if self._open(typed[RecordsRequest]).codebook.defaults:
            command += " --no-defaults"  # which are no part of what the page shows
        return Drawn(picture, "", told, command, entry, self._unsuited(wish))

    def save(self, wish: Wish, plan: str, name: str) -> str:
        """Keeps what is shown in a plan, and its earlier version beside it.

        Args:
            wish: The kind and its options.
            plan: The file of the plan.
            name: The name of the entry; one of that name is replaced.

        Returns:
            What is told of it.

        Raises:
            GrainStackError: It cannot be kept there.
        """
        kind = kind_named(wish.kind)
        if not plan:
            raise RequestError("The plan has no name.", "Name it like plan.toml.")
        typed = filled(kind.models, {**_typed(kind, wish.values), **self._source})
        opened = None
        if self.opened is not None and self.opened.kind == wish.kind:
            opened = filled(kind.models, {**_typed(kind, self.opened.values), **self._source})
        formats = ("svg",) if kind.product is Product.CHART and opened is None else ()
        return " ".join(extended(Path(plan), NewEntry(kind, typed, formats, name or None, opened)).write())

    def _open(self, records: RecordsRequest) -> Opened:
        """The records, opened once for each way of opening them."""
        key = tuple(getattr(records, name) for name in SOURCE_FIELDS)
        if key not in self._opened:
            self._opened[key] = open_records(records)
        return self._opened[key]

    def _made(self, kind: Kind, values: dict[str, Any]) -> tuple[Requests, Made, tuple[str, ...]]:
        """What is asked for, without the options that make no difference, which are told."""
        told: list[str] = []
        while True:
            try:
                typed = filled(kind.models, values)
                with speaking(typed.usual(LanguageRequest).language):
                    requests = styled(typed)[0] if kind.product is Product.CHART else typed
                    return typed, self._worked_out(kind, requests), tuple(map(_on_page, told))
            except IdleError as error:
                name = next(iter(error.fields), "")
                if name not in values or name in self._source:
                    raise
                del values[name]
                told.append(f"No effect: {error.message}")

    def _worked_out(self, kind: Kind, requests: Requests) -> Made:
        """The figures, arranged; records are read only for sums that no earlier request has left."""
        opened = self._open(requests[RecordsRequest])
        if kind.product is Product.TABLE:  # which may stand side by side, each with sums of its own
            return make_blocks(kind, requests, opened)
        one = begun(kind, requests, opened)
        key = one.requests[RecordsRequest], one.requests[SummaryRequest]
        if key in self._sums:
            one = replace(one, partial=self._sums[key])
        else:
            read_into([one.partial], opened)
            self._sums[key] = one.partial
            for old in list(self._sums)[:-_KEPT]:
                del self._sums[old]
        made = finished(one, opened)
        made.picture()  # an option that has no place in the picture is told as one that makes no difference
        return made

    def _unsuited(self, wish: Wish) -> dict[str, str]:
        """The kinds that could not show what is asked for, found without reading a record."""
        found = {}
        for name in KINDS:
            kind = kind_named(name)
            known = {entry.name for entry in _entries(kind)}
            values = {key: value for key, value in with_current_names(wish.values).items() if _field(key) in known}
            try:
                kind.settle(filled(kind.models, {**_typed(kind, values), **self._source}))
            except IdleError:
                continue
            except GrainStackError as error:
                found[name] = _on_page(error.message)
        return {} if wish.kind in found else found  # a fault of the request is none of the other kinds


def _entries(kind: Kind) -> list[Entry]:
    return [entry for model in kind.models for entry in entries(model)]


def _field(name: str) -> str:
    """The field of an option as the page names it."""
    return f"{name}_" if name in ("except", "open") else name


def _typed(kind: Kind, values: Mapping[str, Any]) -> dict[str, Any]:
    """Values as their options take them.

    Raises:
        RequestError: One of another type.
    """
    known = {entry.name: entry for entry in _entries(kind)}
    found: dict[str, Any] = {}
    for name, value in with_current_names(values).items():
        entry = known.get(_field(name))
        if entry is None or value in ("", None, False, []):
            continue
        try:
            found[entry.name] = value_of(entry, value)
        except ValueError as error:
            raise RequestError(f"{named_on_page(entry.name, None)} {error}.", "Change it there.") from None
    return found


def _on_page(text: str) -> str:
    """A message with options named as the page names them."""
    return worded(text, ON_PAGE)
