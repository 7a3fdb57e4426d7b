"""A codebook as metadata of CSV on the Web (w3.org/TR/tabular-metadata), an open standard in JSON.

Names, titles, types, ranges, missing values and separators are the standard's own properties; the rest stands under a
property of ours, as the standard allows.
"""

import json
from collections.abc import Sequence
from types import MappingProxyType
from typing import Any

from msgspec.structs import replace

from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.codebook.extras import described, extras_of, shared_extras, with_extras, with_shared
from grainstack.records.variable import Kind

CONTEXT = "http://www.w3.org/ns/csvw"
_MORE = "urn:codebook:more"
_NOTE = "dc:description"
_TYPES = {Kind.NUMBER: "number", Kind.DATE: "string", Kind.TEXT: "string"}
_NUMBERS = ("number", "decimal", "integer", "double", "float", "long", "int", "short", "byte", "nonNegativeInteger")
_DATES = ("date", "datetime", "dateTime", "dateTimeStamp", "gYear", "gYearMonth", "time")


def metadata_from_codebook(codebook: Codebook, file: str, columns: Sequence[str]) -> bytes:
    """The codebook as the bytes of such metadata.

    Args:
        codebook: What to write.
        file: What the file of the records is called.
        columns: Its columns in order; those that nothing is known of are described by their names.
    """
    groups = [variable for variable in codebook.variables.values() if variable.columns]
    names = described(codebook, columns)
    shared = shared_extras(codebook, [*(one.name for one in groups), *names], weight=False)
    if groups:
        shared["groups"] = {one.name: extras_of(one) for one in groups}
    metadata: dict[str, Any] = {
        "@context": CONTEXT,
        "url": file,
        "tableSchema": {"columns": [_column(codebook.variable(name)) for name in names]},
    }
    if codebook.decimal == "," or any(mark in file for mark in (".tsv",)):
        metadata["dialect"] = {"delimiter": "\t" if ".tsv" in file else ";"}
    return (json.dumps(metadata | ({_MORE: shared} if shared else {}), ensure_ascii=False, indent=2) + "\n").encode()


def _column(variable: CodebookVariable) -> dict[str, Any]:
    column: dict[str, Any] = {"name": variable.name}
    if variable.label:
        column["titles"] = variable.label
    limits = {"minimum": variable.low, "maximum": variable.high}
    given = {name: value for name, value in limits.items() if value is not None}
    base = _TYPES.get(variable.kind, "string") if variable.kind else "string"
    column["datatype"] = {"base": "number" if given else base} | given if given else base
    if variable.missing:
        column["null"] = ["", *sorted(variable.missing)]
    if variable.separator:
        column["separator"] = variable.separator
    if variable.note:
        column[_NOTE] = variable.note
    more = extras_of(variable, _variable(column))
    return column | ({_MORE: more} if more else {})


def codebook_from_metadata(metadata: dict[str, Any], name: str) -> Codebook:
    """A codebook from such metadata.

    Args:
        metadata: The metadata of one table, or of a group of tables, of which the first is taken.
        name: What the file is called.

    Raises:
        RecordsError: It describes no columns, or what cannot be.
    """
    try:
        table = metadata if "tableSchema" in metadata else metadata["tables"][0]
        columns = table["tableSchema"]["columns"]
        shared = dict(table.get(_MORE, {}))
        variables = {}
        for one, more in shared.pop("groups", {}).items():
            variables[one] = with_extras(CodebookVariable(one), more, name)
        for column in columns:
            variable = _variable(column)
            variables[variable.name] = with_extras(variable, column.get(_MORE, {}), name)
    except (KeyError, IndexError, TypeError, AttributeError) as reason:
        raise RecordsError(
            f"{name} describes no columns of CSV on the Web: {reason!r}.",
            "It needs a `tableSchema` with `columns`, a list of objects with a `name` each.",
        ) from reason
    return with_shared(Codebook(name=name, variables=MappingProxyType(variables)), shared)


def _variable(column: dict[str, Any]) -> CodebookVariable:
    given = column.get("datatype", "string")
    datatype = {"base": given} if isinstance(given, str) else dict(given)
    base = str(datatype.get("base", "string"))
    titles = column.get("titles", "")
    title = next(iter(titles.values()), "") if isinstance(titles, dict) else titles
    title = title[0] if isinstance(title, list) and title else title
    nulls = column.get("null", [])
    missing = [nulls] if isinstance(nulls, str) else nulls
    kind = Kind.NUMBER if base in _NUMBERS else Kind.DATE if base in _DATES else None
    kind = Kind.CATEGORY if base == "boolean" else kind
    separator = column.get("separator") or ""
    variable = CodebookVariable(str(column.get("name") or title), label=str(title), kind=kind)
    return replace(
        variable,
        kind=Kind.MULTI if separator else kind,
        missing=frozenset(str(code) for code in missing if code != ""),
        low=datatype.get("minimum", datatype.get("minInclusive")),
        high=datatype.get("maximum", datatype.get("maxInclusive")),
        separator=str(separator),
        note=str(column.get(_NOTE, "")),
    )
