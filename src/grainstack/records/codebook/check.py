"""A codebook held against the records it describes."""

from collections.abc import Mapping, Sequence
from difflib import get_close_matches

from grainstack.errors import listed, nearest
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.dates import date_order, date_parts
from grainstack.records.numerals import parsed
from grainstack.records.source import FILE
from grainstack.records.variable import Kind

_SHOWN = 3  # values of another kind are enough to see what is wrong


def check_codebook(
    codebook: Codebook, columns: Sequence[str], counts: Mapping[str, Mapping[str, int]], decimal: str
) -> list[str]:
    """What does not fit, one sentence each.

    Args:
        codebook: The codebook.
        columns: The columns of the records.
        counts: For each column that holds values, its codes and how often each occurs.
        decimal: The sign before the decimals in text.
    """
    sentences = []
    for name, variable in codebook.variables.items():
        lacking = [one for one in variable.columns if one not in columns]
        sentences += [f"`{name}`: there is no column `{one}`. {nearest(one, columns)}" for one in lacking]
        if name in counts:
            sentences += _check_variable(variable, counts[name], decimal)
        elif name not in columns and not variable.columns and (meant := _misspelt(name, codebook, columns)):
            sentences.append(f"`{name}` is not among the columns. Did you mean `{meant}`?")
    for role in ("weight", "strata", "cluster", "population"):
        named = getattr(codebook.design, role)
        for column in (named,) if isinstance(named, str) else named:
            if not column or column in columns:
                continue
            sentences.append(f"[design] {role}: there is no column `{column}`. {nearest(column, columns)}".strip())
    return sentences


def elsewhere(codebook: Codebook, columns: Sequence[str]) -> list[str]:
    """Variables of a codebook that these records do not have: right when it covers several files."""
    made = [FILE]  # there where several files are read together
    return [
        name for name, variable in codebook.variables.items() if name not in (*columns, *made) and not variable.columns
    ]


def _misspelt(name: str, codebook: Codebook, columns: Sequence[str]) -> str:
    """The undescribed column whose name is so near that it must be meant; empty when there is none."""
    undescribed = [column for column in columns if column not in codebook.variables]
    return next(iter(get_close_matches(name, undescribed, n=1, cutoff=0.8)), "")


def _check_variable(variable: CodebookVariable, counts: Mapping[str, int], decimal: str) -> list[str]:
    sentences = []
    if variable.kind is Kind.MULTI:
        parts: dict[str, int] = {}
        separator = variable.separator_in(counts)
        for code, times in counts.items():
            for part in filter(None, (part.strip() for part in code.split(separator))):
                parts[part] = parts.get(part, 0) + times
        counts = parts
    present = {code: times for code, times in counts.items() if not variable.is_missing(code)}
    if variable.levels:
        unlabelled = [f"{code} ({times:,})" for code, times in present.items() if variable.level(code) is None]
        if unlabelled:
            sentences.append(f"`{variable.name}`: codes without a label: {listed(unlabelled)}.")
        used = {level.code for code in present if (level := variable.level(code)) is not None}
        unused = [f"{level.code} = {level.label}" for level in variable.levels if level.code not in used]
        if unused:
            sentences.append(f"`{variable.name}`: labels never used: {listed(unused)}.")
    sentences += _of_another_kind(variable, present, decimal)
    sentences += _out_of_range(variable, present, decimal)
    unused_missing = [
        code
        for code in sorted(variable.missing)
        if not any(variable.is_missing(c) and c.startswith(code) for c in counts)
    ]
    if unused_missing:
        sentences.append(f"`{variable.name}`: missing codes never used: {listed(unused_missing)}.")
    return sentences


def _of_another_kind(variable: CodebookVariable, counts: Mapping[str, int], decimal: str) -> list[str]:
    """Values that are no numbers or dates where the kind says so."""
    stray: list[str] = []
    if variable.kind is Kind.NUMBER:
        stray = [code for code in counts if parsed(code, decimal) is None]
    elif variable.kind is Kind.DATE:
        day_first = date_order(counts).day_first
        stray = [code for code in counts if not date_parts(code, day_first=day_first)]
    if not stray:
        return []
    shown = listed((f"{code} ({counts[code]:,})" for code in stray), _SHOWN)
    return [f"`{variable.name}`: not {'numbers' if variable.kind is Kind.NUMBER else 'dates'}: {shown}."]


def _out_of_range(variable: CodebookVariable, counts: Mapping[str, int], decimal: str) -> list[str]:
    if variable.low is None or variable.high is None:
        return []
    out = [
        f"{code} ({times:,})"
        for code, times in counts.items()
        if (value := parsed(code, decimal)) is not None and not variable.low <= value <= variable.high
    ]
    return [f"`{variable.name}`: values outside {variable.low:g} to {variable.high:g}: {listed(out)}."] if out else []
