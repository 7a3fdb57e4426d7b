"""The pages of `grainstack look` as text."""

import shlex
from collections.abc import Sequence

import pyarrow as pa

from grainstack.chart.writing.character_columns import fitted, lines_within
from grainstack.chart.writing.numbers import number_style
from grainstack.option_names import command, option
from grainstack.records.codebook.codebook import Codebook, CodebookVariable
from grainstack.records.codebook.draft import Finding, families
from grainstack.records.numerals import parsed
from grainstack.records.sample import count_column, nested_columns
from grainstack.records.sources.secrets import bare
from grainstack.records.variable import Kind
from grainstack.report.printed import aligned
from grainstack.summary.profile import Profile, profile_with

_SHOWN_LEVELS = 8  # as many as fit a line of a table
_FEW_NUMBERS = 12  # as many as bars are drawn of with ease
_MOST_ROWS = 60  # rows of a table somebody has summed up; a longer one is a ledger
_FEWEST_QUESTIONS = 4  # of which a document of all is worth more than a chart of one
_DENSE = 3  # times as many numbers as there are between the first and last of what numbers records
_MOST_TRIES = 6  # as many as are read before one is tried
_CATEGORIES = (Kind.CATEGORY, Kind.ORDERED)


def columns_text(profiles: Sequence[Profile], codebook: Codebook, records: int, width: int) -> str:
    """One line per column: kind, missing, and what it holds.

    Args:
        profiles: What is in each column.
        codebook: What is known of them.
        records: How many records there are.
        width: Columns of the terminal.
    """
    rows = [("column", "kind", "missing", "holds")]
    for found in profiles:
        codebook_variable = codebook.variable(found.name)
        profile = profile_with(found, codebook_variable)
        share = f"{profile.missing:,} ({100 * profile.missing / records:.0f} %)" if profile.missing else "–"
        rows.append((profile.name, profile.kind.value, share, _contents(profile, codebook_variable)))
    taken = sum(max(len(row[column]) for row in rows) for column in range(3)) + 6
    room = max(width - taken, 24)
    set_rows: list[tuple[str, ...]] = []
    for row in rows:
        first, *rest = lines_within(row[3], room)[:3] or [""]
        set_rows.append((*row[:3], first))
        set_rows += [("", "", "", line) for line in rest]
    return aligned(set_rows, (False, False, True, False))


def rows_text(columns: Sequence[str], rows: Sequence[Sequence[str]], width: int) -> str:
    """Rows as they stand in the file; columns beyond the width of the terminal are counted instead.

    Args:
        columns: The names of the columns.
        rows: The first rows.
        width: Columns of the terminal.
    """
    cut = [[fitted(" ".join((value or "").split()), 24) for value in row] for row in [columns, *rows]]
    widths = [max(len(row[place]) for row in cut) for place in range(len(columns))]
    shown, taken = 0, -2
    while shown < len(columns) and taken + widths[shown] + 2 <= width:
        taken += widths[shown] + 2
        shown += 1
    text = aligned([row[: max(shown, 1)] for row in cut], (False,) * max(shown, 1))
    hidden = list(columns[max(shown, 1) :])
    return text + (f"\n… and {len(hidden)} more: {fitted(', '.join(hidden), max(width - 20, 20))}" if hidden else "")


def suggestions(
    paths: Sequence[str], profiles: Sequence[Profile], codebook: Codebook, head: pa.RecordBatch
) -> list[str]:
    """Up to six commands worth trying, made from the columns there are; one where rows stand for several records.

    Args:
        paths: The files.
        profiles: What their columns hold.
        codebook: What is known of them.
        head: Their first rows.
    """
    known = [profile_with(profile, codebook.variable(profile.name)) for profile in profiles]
    known = [profile for profile in known if not _describes_design(profile, codebook)]
    categories = [
        profile.name
        for profile in known
        if (profile.kind in _CATEGORIES and profile.different <= _FEW_NUMBERS)
        or (profile.kind is Kind.NUMBER and 2 <= profile.different <= _FEW_NUMBERS)
    ]
    numbers = [profile.name for profile in known if profile.kind is Kind.NUMBER and profile.different > _FEW_NUMBERS]
    named = shlex.join(bare(path) for path in paths)
    if (given := _given_values(profiles)) is not None:
        names, value = given
        by, value_is = " ".join(option("by", name) for name in names), option("value_is", "sum")
        return [f"{command('bar')} {named} {by} {option('value', value)} {value_is}"]
    several = [profile.name for profile in known if profile.kind is Kind.MULTI]
    by = option("by", categories[0]) if categories else ""
    split = option("split", categories[1]) if len(categories) > 1 else ""
    if times := count_column(profile.name for profile in profiles if profile.kind is Kind.NUMBER):
        rest = [one for one in (by, split) if one and times not in one]
        return [f"{command('bar')} {named} {' '.join([*rest, option('times', times)])}"]
    tries = [f"{command('bar')} {named} {by}"] if categories else []
    if categories and numbers:
        tries.append(f"{command('table')} {named} {by} {option('measure', numbers[0])} {option('stat', 'mean')}")
    elif split:
        tries.append(f"{command('table')} {named} {by} {split} {option('stat', 'share')}")
    if split:
        tries.append(f"{command('bar')} {named} {by} {split} {option('layout', 'percent')}")
    kinds = [profile.name for profile in known if profile.kind in _CATEGORIES]
    amounts = [name for name in numbers if codebook.variable(name).unit != "%"]
    if amounts and (nested := nested_columns(head, kinds)):
        both = " ".join(option("by", name) for name in nested)
        tries.append(f"{command('treemap')} {named} {both} {option('measure', amounts[0])}")
    tries += [f"{command('bar')} {named} {option('by', name)} {option('answers', name)}" for name in several[:1]]
    for question in families(codebook, _findings(profiles))[:1]:
        together, percent = option("items", f"questions={','.join(question)}"), option("layout", "percent")
        tries.append(f"{command('bar')} {named} {together} {percent}")
    if len(categories) + len(several) >= _FEWEST_QUESTIONS:
        tries.append(f"{command('topline')} {named} {option('out', 'topline.docx')}")
    if categories and not codebook.variables:
        tries.append(f"{command('codebook')} {named} {option('out', 'codebook.toml')}")
    return tries[:_MOST_TRIES]


def _findings(profiles: Sequence[Profile]) -> list[Finding]:
    return [Finding(one.name, one.kind, dict(one.levels), one.no_answer) for one in profiles]


def _given_values(profiles: Sequence[Profile]) -> tuple[list[str], str] | None:
    """The categories and the numbers of a file with one row for each category; None where it holds records."""
    records = sum(count for _, count in profiles[0].levels) + profiles[0].missing if profiles else 0
    numbers = [one.name for one in profiles if one.kind is Kind.NUMBER]
    others = [one for one in profiles if one.kind is not Kind.NUMBER]
    plain = (Kind.TEXT, *_CATEGORIES)
    apart = [one.name for one in others if one.different == records and not one.missing and one.kind in plain]
    alone = len(others) == len(apart) == 1 and 0 < len(numbers) < 3
    return (apart, numbers[0]) if alone and 1 < records <= _MOST_ROWS else None


def _form_in_words(profile: Profile) -> str:
    """How the numbers of a column are written, where that is not as programs write them."""
    if profile.doubtful:
        return f"; {profile.doubtful} can be read in two ways, so say which sign stands before decimals"
    if profile.decimal == ".":
        return ""
    return "; decimal commas" if profile.decimal[0] == "," else "; commas part thousands"


def _contents(profile: Profile, codebook_variable: CodebookVariable) -> str:
    likely = f"; perhaps no answer: {', '.join(profile.no_answer)}" if profile.no_answer else ""
    if profile.kind is Kind.NUMBER:
        likely += _form_in_words(profile)
    label = (
        f"{codebook_variable.label}: " if codebook_variable.label and codebook_variable.label != profile.name else ""
    )
    if profile.spread is not None and (profile.different > _FEW_NUMBERS or codebook_variable.kind is Kind.NUMBER):
        spread = profile.spread
        ends = (spread.low, spread.lower_quartile, spread.median, spread.upper_quartile, spread.high)
        write = number_style(ends)
        low, lower, median, upper, high = (write(value) for value in ends)
        unit = f" {codebook_variable.unit}" if codebook_variable.unit else ""
        return f"{label}{low} to {high}{unit}; quartiles {lower}, {median}, {upper}{likely}"
    most = f"{profile.different:,}" if profile.complete else f"more than {profile.different:,}"
    if profile.kind is Kind.TEXT or profile.different > 4 * _SHOWN_LEVELS:
        example = f", such as {profile.levels[0][0]}" if profile.levels else ""
        return f"{label}{most} different{example}{likely}"
    levels = list(profile.levels)
    if profile.kind is Kind.NUMBER:
        levels.sort(key=lambda item: parsed(item[0], profile.decimal) or 0.0)
    shown = ", ".join(f"{code} ({count:,})" for code, count in levels[:_SHOWN_LEVELS])
    more = f" and {profile.different - _SHOWN_LEVELS:,} more" if profile.different > _SHOWN_LEVELS else ""
    return f"{label}{shown}{more}{likely}"


def _describes_design(profile: Profile, codebook: Codebook) -> bool:
    """Whether a column numbers or weighs the records rather than measuring something."""
    design = codebook.design
    if profile.name in (design.weight, design.strata, *design.cluster, *design.population):
        return True
    numbered = profile.different > 0.9 * sum(count for _, count in profile.levels)
    if (
        numbered and profile.kind is Kind.NUMBER and profile.spread is not None
    ):  # amounts lie further apart than numbers
        numbered = profile.spread.high - profile.spread.low < _DENSE * profile.different
    words = ("weight", "stratum", "strata", "cluster")
    return numbered or any(word in profile.name.casefold() for word in words)
