"""A codebook held against the records it describes."""

from collections.abc import Mapping, Sequence
from difflib import get_close_matches

from grainstack.errors import listed, nearest
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.numerals import parsed
from grainstack.records.variable import Kind


def check_codebook(codebook: Codebook, columns: Sequence[str], counts: Mapping[str, Mapping[str, int]]) -> list[str]:
    """What does not fit, one sentence each.

    Args:
        codebook: The codebook.
        columns: The columns of the records.
        counts: For each column its codes and how often each occurs.
    """
    found = []
    for name, said in codebook.variables.items():
        lacking = [one for one in said.columns if one not in columns]
        found += [f"`{name}`: there is no column `{one}`. {nearest(one, columns)}" for one in lacking]
        if name in columns:
            found += _check_variable(said, counts[name], codebook.decimal)
        elif not said.columns and (meant := _misspelt(name, codebook, columns)):
            found.append(f"`{name}` is not among the columns. Did you mean `{meant}`?")
    for role in ("weight", "strata", "cluster", "population"):
        column = getattr(codebook.design, role)
        if column and column not in columns:
            found.append(f"[design] {role}: there is no column `{column}`. {nearest(column, columns)}".strip())
    return found


def elsewhere(codebook: Codebook, columns: Sequence[str]) -> list[str]:
    """Variables of a codebook that these records do not have: right when it covers several files."""
    return [name for name, said in codebook.variables.items() if name not in columns and not said.columns]


def _misspelt(name: str, codebook: Codebook, columns: Sequence[str]) -> str:
    """The undescribed column whose name is so near that it must be meant; empty when there is none."""
    undescribed = [column for column in columns if column not in codebook.variables]
    return next(iter(get_close_matches(name, undescribed, n=1, cutoff=0.8)), "")


def _check_variable(said: CodebookVariable, counts: Mapping[str, int], decimal: str) -> list[str]:
    found = []
    if said.kind is Kind.MULTI:
        parts: dict[str, int] = {}
        for code, times in counts.items():
            for part in filter(None, (part.strip() for part in code.split(said.separator))):
                parts[part] = parts.get(part, 0) + times
        counts = parts
    present = {code: times for code, times in counts.items() if not said.is_missing(code)}
    if said.levels:
        unlabelled = [f"{code} ({times:,})" for code, times in present.items() if said.level(code) is None]
        if unlabelled:
            found.append(f"`{said.name}`: codes without a label: {listed(unlabelled)}.")
        used = {level.code for code in present if (level := said.level(code)) is not None}
        unused = [f"{level.code} = {level.label}" for level in said.levels if level.code not in used]
        if unused:
            found.append(f"`{said.name}`: labels never used: {listed(unused)}.")
    if said.kind is Kind.NUMBER:
        stray = [f"{code} ({times:,})" for code, times in present.items() if parsed(code, decimal) is None]
        if stray:
            found.append(f"`{said.name}`: not numbers: {listed(stray)}.")
    found += _out_of_range(said, present, decimal)
    unused_missing = [
        code for code in sorted(said.missing) if not any(said.is_missing(c) and c.startswith(code) for c in counts)
    ]
    if unused_missing:
        found.append(f"`{said.name}`: missing codes never used: {listed(unused_missing)}.")
    return found


def _out_of_range(said: CodebookVariable, counts: Mapping[str, int], decimal: str) -> list[str]:
    if said.low is None or said.high is None:
        return []
    out = [
        f"{code} ({times:,})"
        for code, times in counts.items()
        if (value := parsed(code, decimal)) is not None and not said.low <= value <= said.high
    ]
    return [f"`{said.name}`: values outside {said.low:g} to {said.high:g}: {listed(out)}."] if out else []
