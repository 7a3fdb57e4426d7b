"""A chart or table in a document, presentation or workbook of its own."""

from importlib import import_module

from grainstack.language import spoken
from grainstack.making.kind import Outputs
from grainstack.making.make import Made
from grainstack.plan.file.report import Part, Report

_WRITERS = {".docx": ("document", "as_document"), ".pptx": ("slides", "as_slides"), ".xlsx": ("book", "as_book")}


def document_alone(made: Made, ending: str) -> Outputs:
    """A chart or table as the whole of a document, with the advice that gives.

    Args:
        made: The chart or table.
        ending: Of the file: `.docx`, `.pptx` or `.xlsx`.

    Raises:
        ChartError: A picture that cannot be drawn in its size.
    """
    name = made.kind.product.value
    trace = str(made.trace) if made.trace else ""
    report = Report(title="", language=spoken().name, parts=(Part(rows=((name,),)),), trace=trace)
    module, writer = _WRITERS[ending]
    outputs: Outputs = getattr(import_module(f"grainstack.report.documents.{module}"), writer)(report, {name: made})
    return outputs


def table_document(made: Made) -> bytes:
    """A table as a document for word processors."""
    return document_alone(made, ".docx").contents[0]


def table_slides(made: Made) -> bytes:
    """A table as a presentation."""
    return document_alone(made, ".pptx").contents[0]
