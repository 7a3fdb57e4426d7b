"""One function for each kind of table and chart, made from the request models of the command."""

import os
from collections.abc import Callable, Mapping
from functools import cache
from inspect import Parameter, Signature
from typing import Any

from msgspec import Struct
from msgspec.structs import replace

from grainstack.api.data import CodebookLike, Data, are_files, files_of, opened_of
from grainstack.api.naming import advised
from grainstack.api.results import Result
from grainstack.earlier_names import with_current_names
from grainstack.errors import ChartError, GrainStackError, IdleError, RequestError
from grainstack.language import speaking
from grainstack.later import Later
from grainstack.making.blocks import make_blocks
from grainstack.making.house_style import styled
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import kind_named
from grainstack.making.make import make
from grainstack.making.trace import trace_of_command
from grainstack.option_fields import Entry, entries
from grainstack.records.opened import Opened, inputs_of
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.records.variable import EVERYTHING
from grainstack.requests import Requests, filled
from grainstack.summary.options import LanguageRequest

_OF_OPENING = frozenset((*SOURCE_FIELDS, "keep_totals"))  # arguments that say how records are opened
_LOOKS_OF = Later("report.like", "looks_of")  # of few charts
_LISTS = "tuple"  # how the annotation of a field of several values begins


@cache
def function_named(name: str) -> Callable[..., Result]:
    """The function that makes a kind of table or chart.

    Args:
        name: One of `KINDS`.
    """
    kind = kind_named(name)

    def called(data: Data, *, codebook: CodebookLike | None = None, **values: Any) -> Result:  # noqa: ANN401 - as the options are
        call = _Call(kind, data, codebook, values)
        try:
            return call.result()
        except GrainStackError as error:
            raise type(error)(advised(error.message), advised(error.remedy)) from None

    called.__name__ = called.__qualname__ = name
    called.__doc__ = _documented(kind)
    called.__signature__ = _signature(kind)  # type: ignore[attr-defined] # what help() and editors show
    return called


def options_of(kind: Kind) -> dict[str, Entry]:
    """The options of a kind that are arguments of its function, by name."""
    every = {entry.name: entry for model in kind.models for entry in entries(model)}
    return {name: entry for name, entry in every.items() if name not in ("file", "codebook")}


def type_in_words(entry: Entry) -> str:
    """The type of an argument, as a stub writes it."""
    written = str(entry.type) if not isinstance(entry.type, type) else entry.type.__name__
    if written.startswith(_LISTS):
        return "str | Sequence[str]"
    return written.replace("typing.", "")


def _documented(kind: Kind) -> str:
    lines = [f"{kind.summary}", "", "Args:", "    data: A path, an address, a table that speaks Arrow, or columns."]
    lines.append("    codebook: A path, or what its file would hold; one beside the file is found by itself.")
    if kind.product is Product.CHART:
        lines.append("    like: A picture, or an entry of a plan as `plan.toml:NAME`, whose looks are taken over.")
    lines += [f"    {name}: {entry.word.help}" for name, entry in options_of(kind).items()]
    lines += ["", "Raises:", "    TypeError: An argument there is not.", "    grainstack.Error: What cannot be made."]
    return "\n".join(lines)


def _shown(default: Any) -> Any:  # noqa: ANN401 - of any type
    """A default as a reader sees it; nothing for a column that puts all records together."""
    return () if default == (EVERYTHING,) else default


def _signature(kind: Kind) -> Signature:
    keyword = Parameter.KEYWORD_ONLY
    own = [
        Parameter(name, keyword, default=_shown(entry.default), annotation=type_in_words(entry))
        for name, entry in options_of(kind).items()
    ]
    data = Parameter("data", Parameter.POSITIONAL_OR_KEYWORD, annotation="Data")
    codebook = Parameter("codebook", keyword, default=None, annotation="CodebookLike | None")
    like = Parameter("like", keyword, default=None, annotation="str | PathLike[str] | None")
    taken_over = [like] if kind.product is Product.CHART else []
    return Signature([data, codebook, *taken_over, *own], return_annotation=Result)


class _Call(Struct):
    """One call, to be made again with other values.

    Attributes:
        kind: What is made.
        data: The records.
        codebook: Their codebook.
        values: What was asked, by argument.
        opened: The records, opened.
        typed: What was asked, as requests.
    """

    kind: Kind
    data: Any
    codebook: Any
    values: dict[str, Any]
    opened: Opened | None = None
    typed: Requests | None = None

    @property
    def files(self) -> tuple[str, ...]:
        """The files it reads."""
        return files_of(self.data)

    def __call__(self, changed: Mapping[str, Any]) -> Result:
        values = {name: value for name, value in {**self.values, **changed}.items() if value is not None}
        again = not _OF_OPENING.isdisjoint(changed)  # a stream that was handed over can be opened once only
        return _Call(self.kind, self.data, self.codebook, values, None if again else self.opened).result()

    def result(self) -> Result:
        """What it gives.

        Raises:
            TypeError: An argument there is not.
            GrainStackError: What cannot be.
        """
        known = options_of(self.kind)
        self.values = with_current_names(self.values)
        if unknown := sorted(set(self.values) - {*known, "like"}):
            raise TypeError(f"{self.kind.name}() has no argument {unknown[0]!r}")
        typed = {name: _fitting(known[name].type, value) for name, value in self.values.items() if name != "like"}
        looks = self._looks(typed)
        idle: list[str] = []
        while True:
            try:
                return self._made({**looks, **typed}, idle)
            except (RequestError, ChartError) as error:
                name = next(iter(error.fields), "")
                if name in looks:
                    del looks[name]
                elif isinstance(error, IdleError) and name in typed and not known[name].word.decides:
                    del typed[name]
                else:
                    raise
                idle.append(error.message)

    def _looks(self, typed: Mapping[str, Any]) -> dict[str, Any]:
        """The looks of the chart that this one is to be like, but for what is asked for here."""
        like = self.values.get("like")
        if like is None:
            return {}
        if self.kind.product is not Product.CHART:
            raise TypeError(f"{self.kind.name}() has no argument 'like'")
        looks: dict[str, Any] = _LOOKS_OF(os.fspath(like), self.kind.models)
        return {name: value for name, value in looks.items() if name not in typed}

    def _made(self, values: dict[str, Any], idle: list[str]) -> Result:
        path = None if self.codebook is None or isinstance(self.codebook, Mapping) else os.fspath(self.codebook)
        named = {"codebook": path} if path else {}
        self.typed = filled(self.kind.models, {**values, **named, "file": self.files})
        chart = self.kind.product is Product.CHART
        requests = styled(self.typed)[0] if chart else self.typed
        self.opened = self.opened or opened_of(self.data, requests, self.codebook)
        with speaking(self.typed.usual(LanguageRequest).language):
            made = (make if chart else make_blocks)(self.kind, requests, self.opened)
            if chart:
                made.picture()  # what has no place in the picture is told by the call, and not by what shows it later
        if are_files(self.data, self.codebook):  # else there is nothing that could be read again
            inputs = inputs_of(self.typed[RecordsRequest])
            made = replace(made, trace=trace_of_command(self.kind.name, self.typed, inputs, self.opened.source.name))
        return Result(made, self.typed, self.files, idle, self)


def _fitting(kind: Any, value: Any) -> Any:  # noqa: ANN401 - of any type
    """A value as its field takes it: one of a list alone, or a list of any sort."""
    if str(kind).startswith(_LISTS):
        return (value,) if isinstance(value, str) else tuple(value)
    if "float" in str(kind) and isinstance(value, int) and not isinstance(value, bool):
        return float(value)
    return value
