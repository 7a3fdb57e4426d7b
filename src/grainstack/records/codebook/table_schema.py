"""A codebook as a Frictionless Table Schema (specs.frictionlessdata.io/table-schema), an open standard in JSON.

Titles, descriptions, field types, missing values and category lists are the standard's own properties. What it has no
property for (unit, bands, colours, design, kind of records) is kept under names of ours, which the standard allows.
"""

import json
from types import MappingProxyType
from typing import Any

from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import LISTED, Codebook, CodebookVariable, Design
from grainstack.records.variable import Kind, Level

_TYPES = {Kind.NUMBER: "number", Kind.DATE: "date", Kind.TEXT: "string", Kind.MULTI: "string"}
_KINDS = {
    "number": Kind.NUMBER,
    "integer": Kind.NUMBER,
    "date": Kind.DATE,
    "datetime": Kind.DATE,
    "boolean": Kind.CATEGORY,
}


def schema_from_codebook(codebook: Codebook) -> bytes:
    """The codebook as the bytes of a Table Schema."""
    fields = [_field(variable) for variable in codebook.variables.values()]
    schema: dict[str, Any] = {"$schema": "https://datapackage.org/profiles/2.0/tableschema.json", "fields": fields}
    for key in ("nouns", "kinds", "defaults"):
        if held := getattr(codebook, key):
            schema[key] = dict(held)
    if codebook.decimal:
        schema["decimal"] = codebook.decimal
    if codebook.dates:
        schema["dates"] = codebook.dates
    if design := codebook.design.given():
        schema["design"] = design
    return (json.dumps(schema, ensure_ascii=False, indent=2) + "\n").encode()


def codebook_from_schema(text: str, name: str) -> Codebook:
    """A codebook from the text of a Table Schema.

    Raises:
        RecordsError: It is no JSON, or no Table Schema.
    """
    try:
        schema = json.loads(text)
        fields = schema["fields"]
        shared = [str(code) for code in schema.get("missingValues", [""])]
        variables = {field["name"]: _variable(field, shared) for field in fields}
        design = Design.of(schema.get("design", {}))
    except RecursionError:
        raise RecordsError(f"{name} is nested too deeply to be a Table Schema.", "Flatten it.") from None
    except ValueError as reason:
        raise RecordsError(f"{name} is no JSON: {reason}.") from reason
    except (KeyError, TypeError, AttributeError) as reason:
        raise RecordsError(
            f"{name} is no Table Schema: {reason}.", "It needs `fields`, a list of objects with a `name` each."
        ) from reason
    return Codebook(
        name=name,
        decimal=schema.get("decimal", ""),
        dates=schema.get("dates", ""),
        variables=MappingProxyType(variables),
        design=design,
        **{key: MappingProxyType(dict(schema.get(key, {}))) for key in ("nouns", "kinds", "defaults")},
    )


def _field(variable: CodebookVariable) -> dict[str, Any]:
    kind = variable.kind or (Kind.CATEGORY if variable.levels else None)
    field: dict[str, Any] = {"name": variable.name, "type": _TYPES.get(kind, "string") if kind else "any"}
    if kind is not None:
        field["kind"] = kind.value
    if variable.label:
        field["title"] = variable.label
    if variable.question:
        field["question"] = variable.question
    if variable.note:
        field["description"] = variable.note
    if variable.missing:
        field["missingValues"] = ["", *sorted(variable.missing)]
    if variable.levels:
        field["categories"] = [{"value": level.code, "label": level.label} for level in variable.levels]
        field["categoriesOrdered"] = kind is Kind.ORDERED
        colors = {level.code: level.color for level in variable.levels if level.color}
        field |= {"colors": colors} if colors else {}
    limits = {"minimum": variable.low, "maximum": variable.high}
    limits = {key: value for key, value in limits.items() if value is not None}
    field |= {"constraints": limits} if limits else {}
    field |= {"good": variable.good} if variable.good else {}
    field |= {"order": variable.order} if variable.order != LISTED else {}
    field |= {"unit": variable.unit} if variable.unit else {}
    field |= {"decimal": variable.decimal} if variable.decimal else {}
    field |= {"dates": variable.dates} if variable.dates else {}
    field |= {"bands": variable.bands} if variable.bands else {}
    field |= {"separator": variable.separator} if kind is Kind.MULTI and variable.separator else {}
    return field | ({"columns": list(variable.columns)} if variable.columns else {})


def _variable(field: dict[str, Any], shared_missing: list[str]) -> CodebookVariable:
    categories = field.get("categories", [])
    pairs = [
        (str(c["value"]), str(c.get("label", c["value"]))) if isinstance(c, dict) else (str(c),) * 2 for c in categories
    ]
    colors = field.get("colors", {})
    kind = Kind(field["kind"]) if "kind" in field else _KINDS.get(field.get("type", ""))
    if pairs and "kind" not in field:
        kind = Kind.ORDERED if field.get("categoriesOrdered") else Kind.CATEGORY
    limits = field.get("constraints", {})
    missing = field.get("missingValues", shared_missing)
    codes = [str(code["value"] if isinstance(code, dict) else code) for code in missing]
    return CodebookVariable(
        name=field["name"],
        label=field.get("title", ""),
        kind=kind,
        unit=field.get("unit", ""),
        levels=tuple(Level(code, label, colors.get(code)) for code, label in pairs),
        missing=frozenset(code for code in codes if code),
        bands=field.get("bands", ""),
        low=limits.get("minimum"),
        high=limits.get("maximum"),
        separator=field.get("separator", ""),
        columns=tuple(field.get("columns", ())),
        question=field.get("question", ""),
        note=field.get("description", ""),
        good=field.get("good", ""),
        order=field.get("order", LISTED),
        decimal=field.get("decimal", ""),
        dates=field.get("dates", ""),
    )
