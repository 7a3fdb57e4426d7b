"""What an open description of a survey has no place for, so that writing and reading it again loses nothing."""

import json
from collections.abc import Collection, Mapping, Sequence
from types import MappingProxyType
from typing import Any

import msgspec
from msgspec.structs import replace

from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import Codebook, CodebookVariable, Design
from grainstack.records.variable import Level

_SHARED = ("nouns", "kinds", "dates", "decimal", "defaults")


def extras_of(variable: CodebookVariable, read: CodebookVariable | None = None) -> dict[str, Any]:
    """What of a column its description does not say, by field, as JSON holds it.

    Args:
        variable: The column.
        read: The column as it is read from its description; nothing without.
    """
    read = read or CodebookVariable(variable.name)
    found = {
        name: msgspec.to_builtins(getattr(variable, name))
        for name in variable.__struct_fields__
        if name not in ("levels", "stored") and getattr(variable, name) != getattr(read, name)
    }
    levels, told = ([(one.code, one.label) for one in column.levels] for column in (variable, read))
    if levels != told:
        found["levels"] = [{"code": code, "label": label} for code, label in levels]
    colors = {level.code: level.color for level in variable.levels if level.color}
    return found | ({"colors": colors} if colors else {})


def with_extras(variable: CodebookVariable, extras: Mapping[str, Any], file: str) -> CodebookVariable:
    """A column with what `extras_of` gave.

    Raises:
        RecordsError: It is nothing that could be known of a column.
    """
    given = {name: value for name, value in extras.items() if name != "colors"}
    try:
        found = msgspec.convert({"name": variable.name} | given, CodebookVariable, strict=False)
        colors = msgspec.convert(extras.get("colors", {}), dict[str, str])
    except (msgspec.ValidationError, TypeError) as reason:
        raise RecordsError(f"{file} says of `{variable.name}` what cannot be: {reason}.") from reason
    variable = replace(variable, **{name: getattr(found, name) for name in given if name in found.__struct_fields__})
    levels = (Level(level.code, level.label, colors.get(level.code)) for level in variable.levels)
    return replace(variable, levels=tuple(levels))


def shared_extras(codebook: Codebook, names: Sequence[str], *, weight: bool) -> dict[str, Any]:
    """What is known of all records: what one is, how they are written, the design, defaults, the order of columns.

    Args:
        codebook: What is known.
        names: The columns in the order of the description.
        weight: Whether the description has a place for the weight.
    """
    values = ((name, getattr(codebook, name)) for name in _SHARED)
    found = {name: dict(value) if isinstance(value, Mapping) else value for name, value in values if value}
    design = codebook.design.given()
    if weight and codebook.design.weight in names:
        design.pop("weight")
    groups = [name for name, one in codebook.variables.items() if one.columns]
    others = {name: extras_of(one) for name, one in codebook.variables.items() if name not in (*names, *groups)}
    found |= {"others": others} if others else {}
    known = [*(name for name in names if name in codebook.variables), *others]
    found |= {"order": list(codebook.variables)} if known != list(codebook.variables) else {}
    return found | ({"design": design} if design else {})


def described(codebook: Codebook, columns: Sequence[str]) -> list[str]:
    """The columns to describe: those of the file in their order, or all that are known without groups of columns."""
    return list(columns) or [name for name, one in codebook.variables.items() if not one.columns]


def with_shared(codebook: Codebook, extras: Mapping[str, Any]) -> Codebook:
    """A codebook with what `shared_extras` gave.

    Raises:
        RecordsError: It is nothing that could be known.
    """
    try:
        given = {name: extras[name] for name in _SHARED if name in extras}
        maps = {
            name: MappingProxyType(dict(value)) for name, value in given.items() if name not in ("dates", "decimal")
        }
        texts = {name: str(value) for name, value in given.items() if name in ("dates", "decimal")}
        design = Design.of({"weight": codebook.design.weight} | extras.get("design", {}))
        others = {
            name: with_extras(CodebookVariable(name), more, codebook.name)
            for name, more in extras.get("others", {}).items()
        }
        known = dict(codebook.variables) | others
        order = [name for name in extras.get("order", ()) if name in known]
        variables = {name: known[name] for name in (*order, *known)}
        told = {name: one for name, one in variables.items() if one != CodebookVariable(name)}
        return replace(codebook, variables=MappingProxyType(told), **maps, **texts, design=design)
    except (TypeError, ValueError, AttributeError) as reason:
        raise RecordsError(f"{codebook.name} says of its records what cannot be: {reason}.") from reason


def extras_from(text: str, file: str) -> dict[str, Any]:
    """Extras from JSON text.

    Raises:
        RecordsError: They are none.
    """
    try:
        found = json.loads(text)
    except ValueError as reason:
        raise RecordsError(f"{file} has extras that are no JSON: {reason}.") from reason
    if not isinstance(found, dict):
        raise RecordsError(f"{file} has extras that are no JSON object.", "Take them out.")
    return found


def told_apart(levels: Collection[Level]) -> tuple[Level, ...]:
    """Levels with one label each: the code stands behind a label that several have."""
    labels = [level.label for level in levels]
    return tuple(
        replace(level, label=f"{level.label} ({level.code})") if labels.count(level.label) > 1 else level
        for level in levels
    )
