"""A first codebook from what is in the records, with a comment beside every guess."""

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType

from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.numerals import parsed
from grainstack.records.readers.known_orders import known_order
from grainstack.records.variable import Kind, Level, readable

_FEW = 12
_MOST_LEVELS = 60
_RATINGS = ((1, 5), (1, 7), (1, 10), (0, 10), (1, 4))


@dataclass(frozen=True, slots=True)
class Finding:
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


def drafted(findings: Sequence[Finding]) -> Codebook:
    """A codebook that says of each column what its values suggest."""
    return Codebook(variables=MappingProxyType({finding.name: _variable(finding) for finding in findings}))


def as_toml(codebook: Codebook, findings: Sequence[Finding] = (), about: str = "") -> bytes:
    """A codebook as TOML.

    Args:
        codebook: What to write.
        findings: What was found in the records, for the comments beside it.
        about: A comment for the top.
    """
    found = {finding.name: finding for finding in findings}
    lines = [f"# {line}" for line in about.splitlines()]
    lines += ["", "[records]", *_noun_lines(codebook)]
    if codebook.decimal != ".":
        lines.append(f"decimal = {_quoted(codebook.decimal)}")
    lines += ["", *_design_lines(codebook, list(found))]
    for variable in codebook.variables.values():
        lines += ["", *_variable_lines(variable, found.get(variable.name))]
    if codebook.defaults:
        lines += ["", "[defaults]", *(f"{key} = {json.dumps(value)}" for key, value in codebook.defaults.items())]
    return ("\n".join(lines).strip() + "\n").encode()


def _variable(finding: Finding) -> CodebookVariable:
    codes = [code for code in finding.counts if code not in finding.no_answer]
    kind = finding.kind
    levels: tuple[Level, ...] = ()
    if kind is Kind.NUMBER and 1 < len(codes) <= _FEW and all(_is_whole(code) for code in codes):
        codes.sort(key=float)
        ends = (float(codes[0]), float(codes[-1]))
        whole_scale = len(codes) == ends[1] - ends[0] + 1 and ends in _RATINGS
        kind = Kind.ORDERED if whole_scale else Kind.CATEGORY
        yes_no = {"0": "No", "1": "Yes"} if set(codes) == {"0", "1"} else {}
        levels = tuple(Level(code, yes_no.get(code, code)) for code in codes)
    elif kind is Kind.CATEGORY and len(codes) <= _MOST_LEVELS:
        order = known_order(codes)
        if order is not None:
            codes = [codes[place] for place in order]
            kind = Kind.ORDERED if len(codes) > 2 else kind
        else:
            codes.sort(key=lambda code: -finding.counts[code])
        levels = tuple(Level(code, readable(code)) for code in codes)
        if len({level.label for level in levels}) < len(levels):
            levels = tuple(Level(code, code) for code in codes)
    return CodebookVariable(
        name=finding.name,
        label=readable(finding.name),
        kind=kind,
        levels=levels,
        missing=frozenset(finding.no_answer),
    )


def _variable_lines(variable: CodebookVariable, found: Finding | None) -> list[str]:
    path = f"variables.{_key(variable.name)}"
    lines = [f"[{path}]", f"label = {_quoted(variable.label or readable(variable.name))}"]
    if variable.kind is not None:
        lines.append(f"kind = {_quoted(variable.kind.value)}{_kind_comment(variable.kind, found)}")
    lines += _number_lines(variable, found)
    if variable.missing:
        listed = ", ".join(_quoted(code) for code in sorted(variable.missing))
        comment = "" if found is None else f"  # {_times(found, variable.missing)}; these look like `no answer`"
        lines.append(f"missing = [{listed}]{comment}")
    if variable.kind is Kind.MULTI:
        lines.append(f"separator = {_quoted(variable.separator)}")
    if variable.columns:
        lines.append(f"columns = [{', '.join(_quoted(name) for name in variable.columns)}]")
    if variable.note:
        lines.append(f"note = {_quoted(variable.note)}")
    if variable.levels:
        lines.append(f"[{path}.levels]")
        lines += [_level_line(level, found) for level in variable.levels]
    return lines


def _number_lines(variable: CodebookVariable, found: Finding | None) -> list[str]:
    lines = []
    if variable.unit:
        lines.append(f"unit = {_quoted(variable.unit)}")
    elif variable.kind is Kind.NUMBER and found is not None:
        lines.append('# unit = "minutes"')
    if variable.low is not None and variable.high is not None:
        lines.append(f"range = [{variable.low:g}, {variable.high:g}]")
    if variable.bands:
        lines.append(f"bands = {_quoted(variable.bands)}")
    return lines


def _noun_lines(codebook: Codebook) -> list[str]:
    if set(codebook.nouns) <= {"*"}:
        noun = _quoted(codebook.nouns.get("*", "records"))
        return [f"noun = {noun}  # what one row is, in the plural: passengers, orders, visits"]
    pairs = ", ".join(f"{_quoted(file)} = {_quoted(noun)}" for file, noun in codebook.nouns.items())
    return [f"noun = {{ {pairs} }}"]


def _level_line(level: Level, found: Finding | None) -> str:
    count = f"  # {found.counts.get(level.code, 0):,}" if found is not None else ""
    if level.color:
        return f"{_key(level.code)} = {{ label = {_quoted(level.label)}, color = {_quoted(level.color)} }}{count}"
    return f"{_key(level.code)} = {_quoted(level.label)}{count}"


def _design_lines(codebook: Codebook, columns: Sequence[str]) -> list[str]:
    said = [
        f"{key} = {_quoted(value)}"
        for key in ("weight", "strata", "cluster", "population", "replicates")
        if (value := getattr(codebook.design, key))
    ]
    if codebook.design.replicate_scale is not None:
        said.append(f"replicate_scale = {codebook.design.replicate_scale:g}")
    if said:
        return ["[design]", *said]
    guesses = {key: next((name for name in columns if word in name.casefold()), "") for key, word in _DESIGN_WORDS}
    guessed = [f"# {key} = {_quoted(name)}" for key, name in guesses.items() if name]
    return ["# [design]  # a survey's weight, strata and clusters, if it has any", *guessed] if guessed else []


_DESIGN_WORDS = (("weight", "weight"), ("strata", "strat"), ("cluster", "cluster"))


def _kind_comment(kind: Kind, found: Finding | None) -> str:
    if found is None:
        return ""
    if found.kind is Kind.NUMBER and kind in (Kind.ORDERED, Kind.CATEGORY):
        return "  # codes, or a number? `ordered`, `category` or `number`"
    return f"  # {len(found.counts):,} different"


def _times(found: Finding, codes: frozenset[str]) -> str:
    times = sum(found.counts.get(code, 0) for code in codes)
    return f"{times:,} record{'' if times == 1 else 's'}"


def _is_whole(code: str) -> bool:
    value = parsed(code)
    return value is not None and value.is_integer()


def _key(name: str) -> str:
    plain = name.replace("_", "").replace("-", "")
    return name if plain.isascii() and plain.isalnum() else _quoted(name)


def _quoted(text: str) -> str:
    return json.dumps(text, ensure_ascii=False).replace("\x7f", "\\u007f")
