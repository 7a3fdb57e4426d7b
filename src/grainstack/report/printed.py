"""A table for people: rounded figures in aligned columns, on the terminal or in Markdown."""

import re
from collections.abc import Callable, Sequence
from math import isfinite

from msgspec.structs import replace

from grainstack.chart.writing.character_columns import columns_wide
from grainstack.chart.writing.figures import figures_of, rounded_off
from grainstack.chart.writing.numbers import p_value_text, written
from grainstack.chart.writing.signs import sign_note
from grainstack.language import marked, phrase
from grainstack.records.variable import EVERYTHING
from grainstack.report.cells import compared_axis
from grainstack.report.crossed import crossed, side_by_side
from grainstack.report.listed import listed
from grainstack.report.printing import Printed, PrintRequest, limits_text, limits_title, once, titled
from grainstack.summary.table import Column, SummaryTable

_DESIGN_FIGURES = marked(
    "df: degrees of freedom, clusters less strata that hold such records. Design effect: the variance beside that of "
    "as many records drawn one by one with equal chances. Effective n: n divided by it. Weighting effect: the part of "
    "it that comes of unequal weights, n Σw² / (Σw)²."
)
_WHOLE = 1e-6  # of a degree of freedom: what rounding may make of a whole number


def printed(
    table: SummaryTable, request: PrintRequest, blocks: Sequence[tuple[str, SummaryTable]] = ()
) -> list[Printed]:
    """A table as text: a split one crossed, unless more is wanted of each cell; then trends and tested differences.

    Args:
        table: The table.
        request: How it is printed.
        blocks: It and others with the same categories, side by side, each with what stands over it.
    """
    more = request.limits or request.design_figures
    if blocks or request.in_cell or (table.series is not None and not more):
        found = _crossed(blocks or [("", table)], request)
    else:
        found = _listed(table, request)
    if table.trends:
        found.append(_trends(table))
    if table.comparison is not None and table.comparison.listed:
        found.append(_differences(table))
    return found


def _crossed(titled_tables: Sequence[tuple[str, SummaryTable]], request: PrintRequest) -> list[Printed]:
    """Split figures, a block for each split or base; several figures one under the other."""
    tables = [table for _, table in titled_tables]
    table = tables[0]
    shown = range(1 if request.in_cell else len(table.shown))
    found = []
    for number in shown:
        blocks = [crossed(one, one.shown[number], request, title) for title, one in titled_tables]
        title = titled(table.shown[number]) if len(shown) > 1 else ""
        found.append(replace(side_by_side(blocks), title=title))
    with_limits = "limits" in request.in_cell
    quiet = [
        table if with_limits else replace(table, provenance=replace(table.provenance, intervals=())) for table in tables
    ]
    found[-1] = replace(found[-1], notes=notes_of(quiet, request, named=len(shown) == 1))
    return found


def _listed(table: SummaryTable, request: PrintRequest) -> list[Printed]:
    """One row per cell; several figures one under the other where they are wider than the room there is."""
    together = _list_of(table, table.columns, request)
    if request.columns is None or text_width(together) <= request.columns or len(table.shown) == 1:
        return [replace(together, notes=notes_of([table], request))]
    found = [_list_of(table, [column], request) for column in table.shown]
    return [*found[:-1], replace(found[-1], notes=notes_of([table], request))]


def _list_of(table: SummaryTable, columns: Sequence[Column], request: PrintRequest) -> Printed:
    heading, rows, labels, sums = listed(table, columns, request)
    right = tuple(place >= labels for place in range(len(heading)))
    return Printed(tuple(heading), tuple(map(tuple, rows)), right, sum_rows=sums)


def text_width(content: Printed) -> int:
    """How many columns of characters a table takes."""
    return columns_wide(aligned([content.heading, *content.rows], content.right).splitlines()[0])


def as_text(tables: Sequence[Printed], note_form: Callable[[str], str] = str) -> str:
    """Tables with aligned columns and their notes below, for a terminal.

    Args:
        tables: The tables.
        note_form: Puts a note into the form it is shown in: broken into lines, with options as they are typed.
    """
    parts = []
    for content in tables:
        notes = "".join(f"\n{note_form(note)}" for note in content.notes)
        title = f"{content.title}\n" if content.title else ""
        parts.append(
            f"{title}{aligned([content.heading, *content.rows], content.right, content.above)}\n"
            + (f"{notes}\n" if notes else "")
        )
    return "\n".join(parts)


def as_markdown(tables: Sequence[Printed]) -> bytes:
    """Tables with bars between the columns and their notes below."""
    lines: list[str] = []
    for content in tables:
        rule = [("-" * 3 + ":") if right else "-" * 3 for right in content.right]
        rows = [_flat_heading(content), *content.rows]
        cells = [[_in_markdown(cell, right) for cell, right in zip(row, content.right, strict=True)] for row in rows]
        lines += [f"**{as_plain_markdown(content.title)}**", ""] if content.title else []
        lines += ["| " + " | ".join(row) + " |" for row in (cells[0], rule, *cells[1:])]
        lines += ["", *(f"{as_plain_markdown(note)}  " for note in content.notes), ""]
    return ("\n".join(lines).rstrip() + "\n").encode()


def as_plain_markdown(text: str) -> str:
    """A text as Markdown shows it just as it stands.

    Args:
        text: The text.
    """
    return re.sub(r"([\\|<\[\]`*_])", r"\\\1", text)


def _in_markdown(cell: str, right: bool) -> str:  # noqa: FBT001 - one side or the other
    """A cell as Markdown shows it just as it stands; figures keep their marks."""
    return re.sub(r"([\\|<\[`])", r"\\\1", cell.strip()) if right else as_plain_markdown(cell.strip())


def _flat_heading(content: Printed) -> list[str]:
    """The heading with what stands over it in front of each title: Markdown has one line for both."""
    names = list(content.heading)
    starts = [*(start for start, _ in content.above), len(names)]
    for (start, title), end in zip(content.above, starts[1:], strict=True):
        names[start:end] = [f"{title}: {name}" for name in names[start:end]]
    return names


def aligned(rows: Sequence[Sequence[str]], right: Sequence[bool], above: Sequence[tuple[int, str]] = ()) -> str:
    """Rows as lines with aligned columns and a rule under the first.

    Args:
        rows: Text of each cell; the first row is the heading.
        right: For each column, whether it is aligned to the right.
        above: What stands over the heading: the column where it starts, and the words.
    """
    widths = [max(columns_wide(row[column]) for row in rows) for column in range(len(right))]
    starts = [*(start for start, _ in above), len(widths)]
    for (start, title), end in zip(above, starts[1:], strict=True):
        room = sum(widths[start:end]) + 2 * (end - start - 1)
        widths[end - 1] += max(columns_wide(title) - room, 0)
    lines = []
    for row in rows:
        parts = []
        for text, width, to_right in zip(row, widths, right, strict=True):
            space = " " * (width - columns_wide(text))
            parts.append(space + text if to_right else text + space)
        lines.append("  ".join(parts).rstrip())
    lines.insert(1, "  ".join("─" * width for width in widths))
    if above:
        over = ""
        for start, title in above:
            at = sum(widths[:start]) + 2 * start
            over += " " * (at - columns_wide(over)) + title
        lines.insert(0, over)
    return "\n".join(lines)


def _differences(table: SummaryTable) -> Printed:
    """The tested differences with their limits and p-values."""
    comparison, column = table.comparison, table.columns[0]
    if comparison is None:
        raise ValueError("nothing was compared")
    figures = figures_of(column)
    axis = compared_axis(table)
    others = [place for place in range(len(table.dimensions)) if place != axis]
    heading = [*(table.dimensions[place].variable.label for place in others), table.dimensions[axis].variable.label]
    limits = phrase("{level} % limits", level=comparison.level)
    with_degrees = any(isfinite(one.degrees) for one in comparison.differences)
    heading += [phrase("less"), phrase("difference"), limits]
    heading += [*([phrase("df")] if with_degrees else []), phrase("adjusted p")]
    rows = []
    for one in comparison.differences:
        levels = [level.label for level in table.levels_of(one.cell)]
        against = phrase("the rest") if one.other is None else table.levels_of(one.other)[axis].label
        numbers = [figures.number(one.estimate), limits_text(one.low, one.high, figures)]
        numbers += [_degrees_text(one.degrees)] if with_degrees else []
        rows.append((*(levels[place] for place in others), levels[axis], against, *numbers, p_value_text(one.adjusted)))
    right = (False,) * (len(others) + 2) + (True,) * (3 + with_degrees)
    return Printed(tuple(heading), tuple(map(tuple, once(rows, len(others) + 2))), right)


def _degrees_text(degrees: float) -> str:
    """Degrees of freedom, which need not be whole; a dash where there are none."""
    return written(degrees, 0 if abs(degrees - round(degrees)) < _WHOLE else 1) if isfinite(degrees) else "–"


def _trends(table: SummaryTable) -> Printed:
    """The slope of each line of figures, with its limits and p-value."""
    figures = figures_of(table.shown[0])
    figures = replace(figures, style=replace(figures.style, decimals=figures.style.decimals + 1))
    along = table.trends_along
    name = "" if along is None else along.variable.name
    others = [axis for axis, one in enumerate(table.dimensions) if one.variable.name != name]
    heading = [
        *(table.dimensions[axis].variable.label for axis in others),
        phrase("trend per {unit}", unit=units_of_trends()[table.trends[0].unit]),
        limits_title(table.shown[0]),
        phrase("p"),
    ]
    rows = []
    for one in table.trends:
        levels = [level.label for level in table.levels_of(one.cell)]
        numbers = [figures.number(one.estimate), limits_text(one.low, one.high, figures)]
        rows.append((*(levels[axis] for axis in others), *numbers, p_value_text(one.p)))
    right = (False,) * len(others) + (True,) * 3
    steps = table.trends[0].steps
    said = "" if along is None else along.variable.in_sentence
    note = phrase(
        "Linear trend over {count} levels of {column}, tested by a contrast of the levels, not of their changes.",
        count=steps,
        column=said,
    )
    if table.trends[0].unit == "step":
        note += phrase(" Levels are taken as equally far apart.")
    return Printed(tuple(heading), tuple(rows), right, (note,))


def units_of_trends() -> dict[str, str]:
    """What distances of levels are counted in, in words."""
    return {
        "step": phrase("step"),
        "unit": phrase("unit"),
        "year": phrase("year"),
        "half-year": phrase("half-year"),
        "quarter": phrase("quarter"),
        "month": phrase("month"),
        "week": phrase("week"),
        "day": phrase("day"),
        "wave": phrase("wave"),
    }


def notes_of(tables: Sequence[SummaryTable], request: PrintRequest, *, named: bool = True) -> tuple[str, ...]:
    """The lines under a table, each once however many tables stand side by side.

    Args:
        tables: The tables.
        request: How they are printed.
        named: Whether the figures of split tables are named here, and not over them.
    """
    dimensions = {d.variable.name: d for table in tables for d in table.dimensions if d.variable.name != EVERYTHING}
    orders = [f"{dimension.variable.label}: {dimension.ordered_by}" for dimension in dimensions.values()]
    table = tables[0]
    crossed_alone = (table.series is not None or len(tables) > 1) and len(table.shown) == 1
    title = f"{table.shown[0].title}." if named and crossed_alone else ""
    explained = phrase(_DESIGN_FIGURES) if request.design_figures else ""
    rounding = phrase("Rounded so that shares add to 100 %.") if request.add_up else ""
    off = any(rounded_off(table, add_up=request.add_up) for table in tables)
    said = dict.fromkeys(sentence for table in tables for sentence in table.provenance.sentences(off=off))
    sentences = " ".join(part for part in [title, *said, explained, rounding] if part)
    order = [phrase("Order – {orders}.", orders="; ".join(orders))] if orders else []
    columns = [column for table in tables for column in table.columns]
    return (*sign_note(columns, request.least), sentences, *order)
