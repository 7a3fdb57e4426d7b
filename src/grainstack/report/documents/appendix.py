"""How the figures of a report were made: entry by entry, then the records, the plan and the program."""

from collections.abc import Iterator, Mapping

from msgspec.structs import replace

from grainstack import __version__
from grainstack.language import phrase
from grainstack.making.make import Made
from grainstack.option_names import worded
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.references import literal
from grainstack.plan.file.report import Part, Report
from grainstack.report.documents.composed_charts import title_of


def with_appendix(report: Report, made: Mapping[str, Made]) -> Report:
    """A report with an appendix behind its last part, if it wants one.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.
    """
    if not report.appendix:
        return report
    names = dict.fromkeys(name for part in report.parts for row in part.rows for name in row)
    methods = "\n".join(line for name in names for line in _of_entry(name, made[name]))
    records = {file: None for one in made.values() if one.trace for file in one.trace.records}
    files = [
        f"- {literal(one.name)}"
        f"{'' if one.size is None else phrase(', {size} bytes', size=one.size)}"
        f"{f', {one.content}' if one.content else ''}"
        for one in records
    ]
    of_what = "\n".join([*files, f"- {literal(report.appendix)}", f"- Grain Stack {__version__}"])
    more = (
        Part(heading=phrase("How the figures were made"), text=methods),
        Part(heading=phrase("What they were made of"), level=3, text=of_what),
    )
    return replace(report, parts=(*report.parts, *more))


def _of_entry(name: str, made: Made) -> Iterator[str]:
    """What there is to say of an entry."""
    tables = [table for _, table in made.blocks] or [made.table]
    sentences = " ".join(dict.fromkeys(literal(table.provenance.sentence()) for table in tables))
    yield f"- **{literal(title_of(made))}** ({literal(name)}): {sentences}"
    for one in made.advice:
        yield f"  - {phrase('Advice: {text}', text=literal(worded(one.text, PLANNED)))}"
