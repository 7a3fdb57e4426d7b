"""The formats of tables: one writer each, found by the ending of a file and loaded when it is asked for."""

from collections.abc import Sequence

from grainstack.chart.frame.left_out_advice import advice_on_scene
from grainstack.chart.picture_request import PictureRequest
from grainstack.endings import DOCUMENT_ENDINGS
from grainstack.later import Later
from grainstack.making.kind import Outputs, Product
from grainstack.making.make import Made
from grainstack.paint.painters import painted_in

_WRITERS = {
    ".csv": Later("report.table_files", "csv_of"),
    ".json": Later("report.table_files", "json_of"),
    ".md": Later("report.print_request", "markdown_of"),
    ".xlsx": Later("report.workbook", "workbook_of"),
    ".parquet": Later("report.table_files", "parquet_of"),
    ".html": Later("report.documents.page", "table_page"),
    ".docx": Later("report.documents.document_alone", "table_document"),
    ".pptx": Later("report.documents.document_alone", "table_slides"),
}


def table_as(ending: str, made: Made) -> bytes:
    """A table in the format of a file ending, one of `TABLE_ENDINGS`."""
    content: bytes = _WRITERS[ending](made)
    return content


_PAGE = ".html"
_CHART_PAGE = Later("report.documents.page", "chart_page")  # few charts are pages
_DOCUMENT = Later("report.documents.document_alone", "document_alone")  # and fewer are documents
_DOCUMENTS = (*DOCUMENT_ENDINGS, ".xlsx")


def outputs_of(made: "Made", endings: Sequence[str]) -> Outputs:
    """A table or chart in some formats.

    Args:
        made: The table or chart.
        endings: The endings of its files, in lower case, with the dot.

    Raises:
        RequestError: Something that cannot be shown in such a format.
        ChartError: A picture that cannot be drawn in its size.
    """
    if made.kind.product is Product.TABLE:
        return Outputs(tuple(table_as(ending, made) for ending in endings))

    scene = made.picture()
    pictures = [ending for ending in endings if ending not in (_PAGE, *_DOCUMENTS)]
    contents = dict(zip(pictures, painted_in(scene, pictures, made.requests[PictureRequest].dpi), strict=True))
    if _PAGE in endings:
        contents[_PAGE] = _CHART_PAGE(made, scene)
    advice = advice_on_scene(scene, tips=bool({_PAGE, ".svg"}.intersection(endings)))
    for ending in {*_DOCUMENTS}.intersection(endings):
        document: Outputs = _DOCUMENT(made, ending)
        contents[ending] = document.contents[0]
        advice += document.advice
    return Outputs(tuple(contents[ending] for ending in endings), tuple(dict.fromkeys(advice)))
