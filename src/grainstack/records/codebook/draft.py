"""A first codebook from what is in the records, with a comment beside every guess."""

import re
from collections.abc import Mapping, Sequence
from types import MappingProxyType

import tomlkit
from msgspec import Struct
from tomlkit.items import Item, Table

from grainstack.errors import listed
from grainstack.records.codebook.codebook import BY_SIZE, LISTED, Codebook, CodebookVariable
from grainstack.records.known_orders import known_order
from grainstack.records.numerals import parsed
from grainstack.records.variable import Kind, Level, readable

_FEW = 12  # whole numbers of so few kinds are more likely codes than amounts
_FEWEST_STEPS = 3  # many columns that have nothing to do with each other are yes or no
_MOST_LEVELS = 60  # more levels are nobody's to label by hand
_RATINGS = ((1, 5), (1, 7), (1, 10), (0, 10), (1, 4))


class Finding(Struct, frozen=True):
    """What was found in one column.

    Attributes:
        name: The column.
        kind: What its values suggest.
        counts: Its codes and how often each occurs.
        no_answer: Codes that probably mean `no answer`.
    """

    name: str
    kind: Kind
    counts: Mapping[str, int]
    no_answer: Sequence[str]


def drafted(findings: Sequence[Finding], decimal: str = ".") -> Codebook:
    """A codebook that says of each column what its values suggest, and which sign stands before decimals."""
    return Codebook(
        decimal=decimal if decimal == "," else "",  # a point is what anybody expects
        variables=MappingProxyType({finding.name: _variable(finding) for finding in findings}),
    )


def as_toml(codebook: Codebook, findings: Sequence[Finding] = (), about: str = "") -> bytes:
    """A codebook as TOML.

    Args:
        codebook: What to write.
        findings: What was found in the records, for the comments beside it.
        about: A comment for the top.
    """
    counted = {finding.name: finding for finding in findings}
    document = tomlkit.document()
    for line in about.splitlines():
        document.add(tomlkit.comment(line))
    for question in families(codebook, findings):
        document.add(tomlkit.comment(f"{listed(question)} have the same answers: draw them together with items."))
    if findings and any(variable.levels for variable in codebook.variables.values()):
        document.add(tomlkit.comment('A level may have its own colour: 1 = { label = "North", color = "#1a726a" }'))
    if about:
        document.add(tomlkit.nl())
    records, design = _records_table(codebook), _design_table(codebook)
    if not design:
        _suggest_design(records, list(counted))
    document.add("records", records)
    if design:
        document.add("design", design)
    variables = tomlkit.table(is_super_table=True)
    for variable in codebook.variables.values():
        variables.add(variable.name, _variable_table(variable, counted.get(variable.name)))
    if codebook.variables:
        document.add("variables", variables)
    if codebook.defaults:
        document.add("defaults", tomlkit.item(dict(codebook.defaults)))
    return tomlkit.dumps(document).encode()


def _variable(finding: Finding) -> CodebookVariable:
    codes = [code for code in finding.counts if code not in finding.no_answer]
    kind = finding.kind
    levels: tuple[Level, ...] = ()
    order = LISTED
    if kind is Kind.NUMBER and 1 < len(codes) <= _FEW and all(_is_whole(code) for code in codes):
        codes.sort(key=float)
        ends = (float(codes[0]), float(codes[-1]))
        whole_scale = len(codes) == ends[1] - ends[0] + 1 and ends in _RATINGS
        kind = Kind.ORDERED if whole_scale else Kind.CATEGORY
        yes_no = {"0": "No", "1": "Yes"} if set(codes) == {"0", "1"} else {}
        levels = tuple(Level(code, yes_no.get(code, code)) for code in codes)
    elif kind is Kind.CATEGORY and len(codes) <= _MOST_LEVELS:
        known = known_order(codes)
        if known is not None:
            codes = [codes[place] for place in known]
            kind = Kind.ORDERED if len(codes) > 2 else kind
        else:  # which charts draw by size as long as nobody says otherwise
            codes.sort(key=lambda code: -finding.counts[code])
            order = BY_SIZE
        levels = tuple(Level(code, readable(code)) for code in codes)
        if len({level.label for level in levels}) < len(levels):
            levels = tuple(Level(code, code) for code in codes)
    return CodebookVariable(
        name=finding.name,
        label=readable(finding.name),
        kind=kind,
        levels=levels,
        order=order,
        missing=frozenset(finding.no_answer),
        separator=CodebookVariable(finding.name).separator_in(codes) if kind is Kind.MULTI else "",
    )


def families(codebook: Codebook, findings: Sequence[Finding]) -> list[tuple[str, ...]]:
    """Columns with one scale: questions that belong together.

    They have the same codes, three at least, and there are three of them at least, or their names differ in a number.

    Args:
        codebook: What is known of the columns.
        findings: What was found in them.
    """
    alike: dict[frozenset[str], list[str]] = {}
    for finding in findings:
        variable = codebook.variable(finding.name)
        if len(finding.counts) > 2 * _FEW:  # names and numbers, whatever is missing among them
            continue
        codes = frozenset(code for code in finding.counts if not variable.is_missing(code))
        scale = variable.kind in (Kind.ORDERED, Kind.CATEGORY) or finding.kind in (Kind.NUMBER, Kind.CATEGORY)
        if scale and _FEWEST_STEPS <= len(codes) <= _FEW and finding.kind is not Kind.MULTI:
            alike.setdefault(codes, []).append(finding.name)
    return [tuple(names) for names in alike.values() if len(names) > 2 or (len(names) == 2 and _numbered(names))]


def _numbered(names: Sequence[str]) -> bool:
    return len({re.sub(r"\d+", "#", name) for name in names}) == 1


def _records_table(codebook: Codebook) -> Table:
    table = tomlkit.table()
    if set(codebook.nouns) <= {"*"}:
        what = "what one row is, in the plural: passengers, orders, visits"
        table.add("noun", _commented(codebook.nouns.get("*", "records"), what))
    else:
        table.add("noun", _inline(codebook.nouns))
    if codebook.kinds:
        table.add("kind", codebook.kinds["*"] if set(codebook.kinds) == {"*"} else _inline(codebook.kinds))
    if codebook.decimal:
        table.add("decimal", codebook.decimal)
    if codebook.dates:
        table.add("dates", codebook.dates)
    return table


def _design_table(codebook: Codebook) -> Table:
    table = tomlkit.table()
    for key, value in codebook.design.given().items():
        table.add(key, value)
    return table


def _suggest_design(records: Table, columns: Sequence[str]) -> None:
    """Adds columns that sound like a survey's design, to be uncommented."""
    guesses = design_guesses(columns)
    if not guesses:
        return
    records.add(tomlkit.nl())
    records.add(tomlkit.comment("[design]  # a survey's weight, strata and clusters, if it has any"))
    for key, name in guesses.items():
        records.add(tomlkit.comment(f"{key} = {tomlkit.item(name).as_string()}"))


def design_guesses(columns: Sequence[str]) -> dict[str, str]:
    """Columns that sound like a survey's design, by what they would be in it."""
    found = {key: next((name for name in columns if word in name.casefold()), "") for key, word in _DESIGN_WORDS}
    return {key: name for key, name in found.items() if name}


_DESIGN_WORDS = (("weight", "weight"), ("strata", "strat"), ("cluster", "cluster"))


def _variable_table(variable: CodebookVariable, finding: Finding | None) -> Table:
    table = tomlkit.table()
    table.add("label", variable.label or readable(variable.name))
    if variable.kind is not None:
        table.add("kind", _commented(variable.kind.value, _kind_comment(variable.kind, finding)))
    _add_number(table, variable)
    if variable.bands:
        table.add("bands", variable.bands)
    if variable.missing:
        times = "" if finding is None else f"{_times(finding, variable.missing)}; these look like `no answer`"
        table.add("missing", _commented(sorted(variable.missing), times))
    for name in ("decimal", "dates", "separator", "columns", "question", "note", "good"):
        if value := getattr(variable, name):
            table.add(name, list(value) if isinstance(value, tuple) else value)
    if variable.order != LISTED:
        table.add("order", _commented(variable.order, f"`{LISTED}` keeps the order below"))
    if variable.levels:
        table.add("levels", _levels_table(variable.levels, finding))
    return table


def _add_number(table: Table, variable: CodebookVariable) -> None:
    if variable.unit:
        table.add("unit", variable.unit)
    if variable.low is not None and variable.high is not None:
        table.add("range", [_number(variable.low), _number(variable.high)])


def _levels_table(levels: Sequence[Level], finding: Finding | None) -> Table:
    table = tomlkit.table()
    for level in levels:
        shown = _inline({"label": level.label, "color": level.color}) if level.color else level.label
        count = "" if finding is None else f"{finding.counts.get(level.code, 0):,}"
        table.add(level.code, _commented(shown, count))
    return table


def _commented(value: object, comment: str) -> Item:
    """A value with a comment behind it; an empty one is none."""
    item = tomlkit.item(value)
    if comment:
        item.comment(comment)
        item.trivia.comment_ws = "  "
    return item


def _inline(pairs: Mapping[str, str]) -> Item:
    table = tomlkit.inline_table()
    table.update(pairs)
    return table


def _number(value: float) -> int | float:
    return int(value) if value.is_integer() else value


def _kind_comment(kind: Kind, finding: Finding | None) -> str:
    if finding is None:
        return ""
    if finding.kind is Kind.NUMBER and kind in (Kind.ORDERED, Kind.CATEGORY):
        return "codes, or a number? `ordered`, `category` or `number`"
    return f"{len(finding.counts):,} different"


def _times(finding: Finding, codes: frozenset[str]) -> str:
    times = sum(finding.counts.get(code, 0) for code in codes)
    return f"{times:,} record{'' if times == 1 else 's'}"


def _is_whole(code: str) -> bool:
    value = parsed(code)
    return value is not None and value.is_integer()
