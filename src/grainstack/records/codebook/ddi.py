"""A codebook as DDI-Codebook 2.5 (ddialliance.org), an open standard in XML.

Names, labels, question wordings, categories, missing values, ranges, notes, weights and groups of several-answer
columns are the standard's own elements; the rest stands in processing instructions, which any reader may pass over.
"""

from collections.abc import Mapping, Sequence
from types import MappingProxyType

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

_SPACE = "ddi:codebook:2_5"
_NATURES = {Kind.ORDERED: "ordinal", Kind.CATEGORY: "nominal", Kind.NUMBER: "ratio"}
_FORMATS = {Kind.DATE: ("numeric", "date"), Kind.TEXT: ("character", ""), Kind.NUMBER: ("numeric", "")}
_MOST_MISSING = 100  # whole numbers in a range of missing values


def ddi_from_codebook(codebook: Codebook, file: str, columns: Sequence[str]) -> bytes:
    """The codebook as the bytes of a DDI-Codebook.

    Args:
        codebook: What to write.
        file: What the file of the records is called.
        columns: Its columns in order; those that nothing is known of are described by their names.
    """
    root = new_root("codeBook", _SPACE, version="2.5")
    title = add(add(add(root, "stdyDscr"), "citation"), "titlStmt")
    add(title, "titl", file)
    add(add(add(root, "fileDscr", ID="F1"), "fileTxt"), "fileName", file)
    data = add(root, "dataDscr")
    names = described(codebook, columns)
    numbers = {name: f"V{number}" for number, name in enumerate(names, 1)}
    groups = [one for one in codebook.variables.values() if one.columns]
    add_extras(root, shared_extras(codebook, [*(one.name for one in groups), *names], weight=True))
    for number, variable in enumerate(groups, 1):
        members = " ".join(numbers[name] for name in variable.columns if name in numbers)
        kind = {"type": "multipleResp", "var": members, "name": variable.name}
        group = add(data, "varGrp", ID=f"G{number}", **kind)
        for text, name in ((variable.label, "labl"), (variable.note, "txt")):
            if text:
                add(group, name, text)
        add_extras(group, extras_of(variable, _group(group, {number: name for name, number in numbers.items()})))
    for name in names:
        _add_variable(data, codebook.variable(name), numbers[name], is_weight=name == codebook.design.weight)
    return as_bytes(root)


def _add_variable(data: Element, variable: CodebookVariable, number: str, *, is_weight: bool) -> None:
    kind = variable.kind
    attributes = {"nature": _NATURES[kind]} if kind in _NATURES else {}
    attributes |= {"intrvl": "contin" if kind is Kind.NUMBER else "discrete"} | ({"wgt": "wgt"} if is_weight else {})
    element = add(data, "var", ID=number, name=variable.name, files="F1", **attributes)
    if variable.label:
        add(element, "labl", variable.label)
    if variable.question:
        add(add(element, "qstn"), "qstnLit", variable.question)
    if variable.low is not None or variable.high is not None:
        ends = {"min": variable.low, "max": variable.high}
        add(add(element, "valrng"), "range", **{name: repr(end) for name, end in ends.items() if end is not None})
    if variable.missing:
        invalid = add(element, "invalrng")
        for code in sorted(variable.missing):
            add(invalid, "item", VALUE=code)
    if variable.note:
        add(element, "txt", variable.note)
    for level in variable.levels:
        category = add(element, "catgry")
        add(category, "catValu", level.code)
        add(category, "labl", level.label)
    if kind in _FORMATS:
        form, category = _FORMATS[kind]
        add(element, "varFormat", type=form, **({"category": category} if category else {}))
    add_extras(element, extras_of(variable, _variable(element, variable.name)))


def codebook_from_ddi(root: Element, name: str) -> Codebook:
    """A codebook from a DDI-Codebook.

    Args:
        root: Its outermost element.
        name: What the file is called.

    Raises:
        RecordsError: It describes no variables, or what cannot be.
    """
    elements = inside(root, "dataDscr", "var")
    if not elements:
        raise RecordsError(f"{name} describes no variables.", "It needs a `dataDscr` with a `var` for each column.")
    by_number = {str(one.get("ID", "")): str(one.get("name") or one.get("ID", "")) for one in elements}
    variables: dict[str, CodebookVariable] = {}
    for group in inside(root, "dataDscr", "varGrp"):
        if group.get("type") == "multipleResp":
            variable = _group(group, by_number)
            variables[variable.name] = with_extras(variable, extras_in(group, name), name)
    for element in elements:
        variable = _variable(element, by_number[str(element.get("ID", ""))])
        variables[variable.name] = with_extras(variable, extras_in(element, name), name)
    weight = next((by_number[str(one.get("ID", ""))] for one in elements if one.get("wgt") == "wgt"), "")
    codebook = Codebook(name=name, variables=MappingProxyType(variables), design=Design(weight=weight))
    return with_shared(codebook, extras_in(root, name))


def _group(element: Element, by_number: Mapping[str, str]) -> CodebookVariable:
    members = tuple(by_number[one] for one in (element.get("var") or "").split() if one in by_number)
    called = str(element.get("name") or text_in(element, "labl") or element.get("ID", ""))
    label, note = text_in(element, "labl"), text_in(element, "txt")
    return CodebookVariable(called, label=label, kind=Kind.MULTI, columns=members, note=note)


def _variable(element: Element, name: str) -> CodebookVariable:
    levels: list[Level] = []
    missing = {str(one.get("VALUE", "")) for one in inside(element, "invalrng", "item")}
    for ends in inside(element, "invalrng", "range"):
        missing |= _whole_numbers(ends)
    for category in inside(element, "catgry"):
        code = text_in(category, "catValu")
        if category.get("missing") == "Y":
            missing.add(code)
        elif code:
            levels.append(Level(code, text_in(category, "labl") or code))
    ends = next(iter(inside(element, "valrng", "range")), None)
    return CodebookVariable(
        name,
        label=text_in(element, "labl"),
        kind=_kind(element, levels),
        levels=told_apart([level for level in levels if level.code not in missing]),
        missing=frozenset(code for code in missing if code),
        low=number_in(ends, "min"),
        high=number_in(ends, "max"),
        question=text_in(element, "qstn", "qstnLit"),
        note=text_in(element, "txt"),
    )


def _kind(element: Element, levels: Sequence[Level]) -> Kind | None:
    form = next(iter(inside(element, "varFormat")), None)
    if form is not None and form.get("category") in ("date", "time"):
        return Kind.DATE
    nature = next((kind for kind, text in _NATURES.items() if element.get("nature") == text), None)
    if nature is not None:
        return nature
    if levels:
        return Kind.CATEGORY
    if form is not None and form.get("type") == "character":
        return Kind.TEXT
    return Kind.NUMBER if element.get("intrvl") == "contin" or element.get("nature") == "interval" else None


def _whole_numbers(ends: Element) -> set[str]:
    """The whole numbers of a range that is no wider than codes of missing values are."""
    first, last = number_in(ends, "min"), number_in(ends, "max")
    if first is None or last is None or not 0 <= last - first <= _MOST_MISSING:
        return set()
    return {str(number) for number in range(round(first), round(last) + 1)}
