"""A report in its formats."""

from collections.abc import Mapping

from grainstack.making.kind import Product
from grainstack.making.make import Made
from grainstack.making.outputs import Outputs
from grainstack.plan.file.report import Report
from grainstack.report.documents.appendix import with_appendix
from grainstack.report.documents.quoting import quoted
from grainstack.report.documents.scales import on_their_scales
from grainstack.report.formats import table_as


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
    """A report in one of its formats."""
    if ending == "html":
        from grainstack.report.documents.page import page  # noqa: PLC0415 - formats load when asked for

        return page(report, made)
    if ending == "docx":
        from grainstack.report.documents.document import as_document  # noqa: PLC0415 - formats load when asked for

        return as_document(report, made)
    if ending == "pdf":
        from grainstack.report.documents.pages import as_pages  # noqa: PLC0415 - formats load when asked for

        return as_pages(report, made)
    if ending == "pptx":
        from grainstack.report.documents.slides import as_slides  # noqa: PLC0415 - formats load when asked for

        return as_slides(report, made)
    if ending == "xlsx":
        from grainstack.report.documents.book import as_book  # noqa: PLC0415 - formats load when asked for

        return as_book(report, made)
    return _markdown(report, made, files)


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
                parts.append(f"![{one.picture().alt}]({files[name].replace(' ', '%20')})")
        parts += [f"*{part.caption}*"] if part.caption else []
    return Outputs((("\n\n".join(parts) + "\n").encode(),))
