"""The report's text beside a chart of it, with the figures that it names as the charts hold them now."""

from collections.abc import Callable

from msgspec import Struct
from msgspec.structs import replace

from grainstack.language import speaking
from grainstack.making.make import Made
from grainstack.plan.file.plan import PlanError
from grainstack.plan.file.references import entry_of, references_in
from grainstack.plan.file.report import Report
from grainstack.report.documents.commonmark import as_html
from grainstack.report.documents.quoting import quoted


class ReportText(Struct, frozen=True):
    """The parts of a report that show an entry.

    Attributes:
        html: Their headings, texts and captions.
        faults: References to figures there are not; their text stands as it was written.
    """

    html: str = ""
    faults: tuple[str, ...] = ()


def report_text(report: Report, entry: str, make: Callable[[str], Made]) -> ReportText:
    """The text of a report around an entry.

    Args:
        report: The report.
        entry: The name of the entry.
        make: Makes an entry by its name.

    Raises:
        GrainStackError: An entry that a text names cannot be made.
    """
    parts = tuple(part for part in report.parts if any(entry in row for row in part.rows))
    around = replace(report, title="", parts=parts)
    named = {entry_of(text) for part in parts for one in part.texts for text in references_in(one)}
    faults: tuple[str, ...] = ()
    with speaking(report.language):
        try:
            around = quoted(around, {name: make(name) for name in sorted(named)})
        except PlanError as error:
            faults = error.faults
    texts = [text for part in around.parts for text in (f"### {part.heading}" if part.heading else "", *part.texts[1:])]
    return ReportText("\n".join(as_html(text) for text in texts if text), faults)
