"""A report in its formats."""

from collections.abc import Mapping
from importlib import import_module

from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.plan.file.report import Report
from grainstack.report.documents.appendix import with_appendix
from grainstack.report.documents.quoting import quoted
from grainstack.report.documents.scales import on_their_scales
from grainstack.report.output_formats import table_as
from grainstack.report.printed import as_plain_markdown

_WRITERS = {
    "html": ("page", "page"),
    "docx": ("document", "as_document"),
    "pptx": ("slides", "as_slides"),
    "pdf": ("typeset_report", "as_pdf"),
    "xlsx": ("book", "as_book"),
}


def report_in(report: Report, made: Mapping[str, Made], files: Mapping[str, str]) -> Outputs:
    """A report in its formats, with the advice that its pictures give.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.
        files: For charts, the files they are written in, from the folder of the report.

    Raises:
        PlanError: References in its texts to figures there are not.
        RequestError: Something that cannot be shown.
        ChartError: A picture that cannot be drawn in its size.
    """
    report = with_appendix(quoted(report, made), made)
    made, unlike = on_their_scales(report, made)
    outputs = [_in_format(ending, report, made, files) for ending in report.formats]
    advice = dict.fromkeys([*unlike, *(one for output in outputs for one in output.advice)])
    return Outputs(tuple(content for output in outputs for content in output.contents), tuple(advice))


def _in_format(ending: str, report: Report, made: Mapping[str, Made], files: Mapping[str, str]) -> Outputs:
    """A report in one of its formats, whose writer loads when it is asked for."""
    if ending not in _WRITERS:
        return _markdown(report, made, files)
    module, writer = _WRITERS[ending]
    outputs: Outputs = getattr(import_module(f"grainstack.report.documents.{module}"), writer)(report, made)
    return outputs


def _markdown(report: Report, made: Mapping[str, Made], files: Mapping[str, str]) -> Outputs:
    """The report as Markdown, with pictures beside it."""
    parts = [f"# {report.title}"] if report.title else []
    for part in report.parts:
        parts += [f"{'#' * part.level} {part.heading}"] if part.heading else []
        parts += [part.text.strip()] if part.text else []
        for name in (name for row in part.rows for name in row):
            one = made[name]
            if one.kind.product is Product.TABLE:
                parts.append(table_as(".md", one).decode().strip())
            else:
                parts.append(f"![{as_plain_markdown(one.picture().alt)}]({files[name].replace(' ', '%20')})")
        parts += [f"*{part.caption}*"] if part.caption else []
    return Outputs((("\n\n".join(parts) + "\n").encode(),))
