"""A codebook as Triple-S 3.0 (triple-s.org), an open standard in XML for surveys with their data.

Names, labels, types, values, ranges and weights are the standard's own; the rest stands in processing instructions,
which any reader may pass over.
"""

from collections.abc import Sequence
from types import MappingProxyType

from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RecordsError
from grainstack.records.codebook.codebook import Codebook, CodebookVariable, Design
from grainstack.records.codebook.extras import (
    described,
    extras_of,
    shared_extras,
    told_apart,
    with_extras,
    with_shared,
)
from grainstack.records.codebook.xml_tree import (
    Element,
    add,
    add_extras,
    as_bytes,
    extras_in,
    inside,
    new_root,
    number_in,
    text_in,
)
from grainstack.records.variable import Kind, Level

_WIDEST = "999999999999.999999"  # of amounts whose range is not known, which the standard wants all the same
_TYPES = {Kind.NUMBER: "quantity", Kind.DATE: "date"}
_KINDS = {
    "single": Kind.CATEGORY,
    "multiple": Kind.MULTI,
    "quantity": Kind.NUMBER,
    "character": Kind.TEXT,
    "logical": Kind.CATEGORY,
    "date": Kind.DATE,
    "time": Kind.TEXT,
}
_SEPARATOR = ";"  # between the answers of a question with several, as records are read


class Field(Struct, frozen=True):
    """Where a variable stands in a record of data.

    Attributes:
        name: The column it becomes.
        start: The first character of a line, or the first field of a row, from 1.
        end: The last one.
        codes: The answers of a question with several, in the order of their marks; empty for others.
        spread: How many characters each answer takes where these are listed; 0 where marks say yes or no.
    """

    name: str
    start: int
    end: int
    codes: tuple[str, ...] = ()
    spread: int = 0


class Layout(Struct, frozen=True):
    """How the data of a description are laid out.

    Attributes:
        href: The file; empty where it is not named.
        is_csv: Whether fields are parted by commas; else they stand at fixed places of a line.
        skipped: How many rows stand above the first record.
        fields: Where each variable stands.
    """

    href: str
    is_csv: bool
    skipped: int
    fields: tuple[Field, ...]


def triple_s_from_codebook(codebook: Codebook, file: str, columns: Sequence[str]) -> bytes:
    """The codebook as the bytes of a Triple-S description of a file of commas with one header line.

    Args:
        codebook: What to write.
        file: What the file of the records is called.
        columns: Its columns in order.
    """
    root = new_root("sss", version="3.0")
    survey = add(root, "survey")
    add(survey, "title", file)
    record = add(survey, "record", ident="A", href=file, format="csv", skip="1")
    names = described(codebook, columns)
    for place, name in enumerate(names, 1):
        _add_variable(record, codebook.variable(name), place, is_weight=name == codebook.design.weight)
    groups = {one.name: extras_of(one) for one in codebook.variables.values() if one.columns}
    shared = shared_extras(codebook, [*groups, *names], weight=True)
    add_extras(survey, shared | ({"groups": groups} if groups else {}))
    return as_bytes(root)


def _add_variable(record: Element, variable: CodebookVariable, place: int, *, is_weight: bool) -> None:
    kind = variable.kind or (Kind.CATEGORY if variable.levels else None)
    is_single = kind in (Kind.CATEGORY, Kind.ORDERED) and bool(variable.levels)
    of_type = "single" if is_single else _TYPES.get(kind, "character") if kind else "character"
    literal = is_single and not all(level.code.isdigit() for level in variable.levels)
    attributes = ({"format": "literal"} if literal else {}) | ({"use": "weight"} if is_weight else {})
    element = add(record, "variable", ident=str(place), type=of_type, **attributes)
    add(element, "name", variable.name)
    add(element, "label", variable.label or variable.name)
    add(element, "position", start=str(place))
    values = add(element, "values") if of_type in ("single", "quantity") else None
    if values is not None and of_type == "quantity":
        low, high = (None if end is None else repr(end) for end in (variable.low, variable.high))
        add(values, "range", **{"from": low or f"-{_WIDEST}", "to": high or _WIDEST})
    elif values is not None:
        for level in variable.levels:
            add(values, "value", level.label, code=level.code)
    if of_type == "character":
        add(element, "size", "255")
    add_extras(element, extras_of(variable, _variable(element)))


def codebook_from_triple_s(root: Element, name: str) -> Codebook:
    """A codebook from a Triple-S description.

    Args:
        root: Its outermost element.
        name: What the file is called.

    Raises:
        RecordsError: It describes no variables, or what cannot be.
    """
    elements = _variables(root, name)
    survey = inside(root, "survey")[0]
    shared = extras_in(survey, name)
    variables = {
        one: with_extras(CodebookVariable(one), more, name) for one, more in dict(shared.pop("groups", {})).items()
    }
    for element in elements:
        variable = _variable(element)
        variables[variable.name] = with_extras(variable, extras_in(element, name), name)
    weight = next((_name(element) for element in elements if element.get("use") == "weight"), "")
    codebook = Codebook(name=name, variables=MappingProxyType(variables), design=Design(weight=weight))
    return with_shared(codebook, shared)


def layout_of(root: Element, name: str) -> Layout:
    """How the data of a Triple-S description are laid out.

    Raises:
        RecordsError: A variable has no position, or one that is no number.
    """
    elements = _variables(root, name)
    record = elements[0].getparent()
    is_csv = (record.get("format") or "fixed") == "csv"
    fields = []
    for element in elements:
        position = next(iter(inside(element, "position")), None)
        if position is None:
            raise RecordsError(f"{name}: variable `{_name(element)}` has no position.", "Export the survey again.")
        start = _count(position, "start", name, least=1)
        codes = tuple(level.code for level in _levels(element)) if element.get("type") == "multiple" else ()
        spread = next(iter(inside(element, "spread")), None)
        width = 0 if spread is None else _count(spread, "width", name, max(map(len, codes), default=1), least=1)
        end = _count(position, "finish", name, start, least=start)
        fields.append(Field(_name(element), start, end, codes, width))
    return Layout(str(record.get("href") or ""), is_csv, _count(record, "skip", name, 0, least=0), tuple(fields))


def _count(element: Element, attribute: str, file: str, default: int | None = None, *, least: int) -> int:
    """A whole number that an attribute says; the default where it says none.

    Raises:
        RecordsError: It says something else or less, or has to say one.
    """
    text = element.get(attribute, "")
    if not text and default is not None:
        return default
    number = int(text) if text.isascii() and text.isdigit() else None
    if number is None or number < least:
        raise RecordsError(
            f"{file}, line {element.sourceline}: `{attribute}` is {text!r}, and not a number of at least {least}.",
            "Export the survey again.",
        )
    return number


def answers_in(field: Field, text: str) -> str:
    """The answers of a question with several as records hold them: `café;lounge`.

    Args:
        field: The question.
        text: A mark of 0 or 1 for each answer, or the codes of those given one behind the other.
    """
    if field.spread:
        parts = (text[at : at + field.spread].strip() for at in range(0, len(text), field.spread))
        return _SEPARATOR.join(part for part in parts if part.strip("0"))
    return _SEPARATOR.join(code for code, mark in zip(field.codes, text, strict=False) if mark == "1")


def _variables(root: Element, name: str) -> list[Element]:
    records = inside(root, "survey", "record")
    if len(records) != 1 or not inside(records[0], "variable"):
        count = f"{len(records)} records" if records else "no record"
        raise RecordsError(f"{name} describes {count} of variables.", "It needs one `record` with a `variable` each.")
    return inside(records[0], "variable")


def _name(element: Element) -> str:
    return text_in(element, "name") or f"v{element.get('ident', '')}"


def _levels(element: Element) -> list[Level]:
    values = inside(element, "values", "value")
    return [Level(str(one.get("code", "")), _text(one) or str(one.get("code", ""))) for one in values]


def _text(element: Element) -> str:
    """Its text, or the first of several for other readers."""
    return text_in(element, "text") or " ".join("".join(element.itertext()).split())


def _variable(element: Element) -> CodebookVariable:
    kind = _KINDS.get(str(element.get("type")))
    levels = _levels(element)
    if element.get("type") == "logical" and not levels:
        levels = [Level("0", "No"), Level("1", "Yes")]
    ends = next(iter(inside(element, "values", "range")), None) if kind is Kind.NUMBER else None
    low, high = (
        None if ends is not None and ends.get(one, "").lstrip("-") == _WIDEST else number_in(ends, one)
        for one in ("from", "to")
    )
    label = next((_text(one) for one in inside(element, "label")), "")
    variable = CodebookVariable(_name(element), label=label, kind=kind, levels=told_apart(levels))
    separator = _SEPARATOR if kind is Kind.MULTI else ""
    return replace(variable, low=low, high=high, separator=separator)
