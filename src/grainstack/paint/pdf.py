"""PDF with text that can be searched and copied."""

import io
from collections.abc import Mapping, Sequence

from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import set_in
from grainstack.paint.canvas import Canvas, draw
from grainstack.quick import dataclass


@dataclass(frozen=True, slots=True)
class Link:
    """A place on a page that leads somewhere.

    Attributes:
        box: Left, top, right and bottom in points, y downwards.
        page: The page it leads to, from 0; None where it leads to an address.
        address: The address.
    """

    box: tuple[float, float, float, float]
    page: int | None = None
    address: str = ""


@dataclass(frozen=True, slots=True)
class Page:
    """A page of several scenes, each where it stands.

    Attributes:
        scenes: In painting order, which is the order they are read in.
        links: Where it leads.
        bookmarks: Headings on it, each with how deep it stands, from 0, and how far down the page it is in points.
    """

    scenes: tuple[Scene, ...]
    links: tuple[Link, ...] = ()
    bookmarks: tuple[tuple[str, int, float], ...] = ()


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a one-page PDF with selectable text; shapes have no pixels, so `dpi` makes no difference."""
    del dpi
    return _drawn([(scene,)], (scene.width, scene.height), {"Title": scene.title, "Subject": scene.alt}, scene.trace)


def paint_pages(pages: Sequence[Page], size: tuple[float, float], title: str, language: str, trace: str = "") -> bytes:
    """Pages as one PDF with selectable text, links and bookmarks.

    Args:
        pages: The pages.
        size: Width and height of each in points.
        title: Its title.
        language: The language it is written in, as BCP 47 writes it.
        trace: Where it comes from, as the file carries it; empty for nothing.
    """
    from pypdf import PdfReader, PdfWriter  # noqa: PLC0415 - only a document of pages needs it
    from pypdf.annotations import Link as LinkAnnotation  # noqa: PLC0415
    from pypdf.generic import BooleanObject, DictionaryObject, Fit, IndirectObject, NameObject, TextStringObject  # noqa: PLC0415

    content = _drawn([page.scenes for page in pages], size, {"Title": title}, trace)
    writer = PdfWriter(clone_from=PdfReader(io.BytesIO(content)))
    tall = size[1]
    parents: list[IndirectObject] = []
    for number, page in enumerate(pages):
        for link in page.links:
            left, top, right, bottom = link.box
            box = (left, tall - bottom, right, tall - top)
            target = {"url": link.address} if link.page is None else {"target_page_index": link.page}
            writer.add_annotation(number, LinkAnnotation(rect=box, border=[0, 0, 0], **target))
        for heading, depth, down in page.bookmarks:
            del parents[depth:]
            fit = Fit.xyz(left=0, top=tall - down)
            above = parents[-1] if parents else None
            parents.append(writer.add_outline_item(title=heading, page_number=number, parent=above, fit=fit))
    root = writer.root_object
    root[NameObject("/Lang")] = TextStringObject(language)
    shown = DictionaryObject({NameObject("/DisplayDocTitle"): BooleanObject(True)})  # noqa: FBT003 - it has no name
    root[NameObject("/ViewerPreferences")] = shown
    if writer.metadata is not None and "/Producer" in writer.metadata:
        writer.metadata = {key: value for key, value in writer.metadata.items() if key != "/Producer"}
    target_file = io.BytesIO()
    writer.write(target_file)
    return target_file.getvalue()


def _drawn(pages: Sequence[Sequence[Scene]], size: tuple[float, float], about: Mapping[str, str], trace: str) -> bytes:
    """Pages of scenes as a PDF; fonts are in it once."""
    import matplotlib as mpl  # noqa: PLC0415 - only PDF should cost it
    from matplotlib.backends.backend_pdf import PdfFile, RendererPdf  # noqa: PLC0415

    target = io.BytesIO()
    wide, tall = size
    more = {"Keywords": trace} if trace else {}
    content = {**about, **more, "Creator": "Grain Stack", "Producer": None, "CreationDate": None}
    with mpl.rc_context({"pdf.fonttype": 42, "pdf.use14corefonts": False}):
        file = PdfFile(target, metadata=content)
        for scenes in pages:
            file.newPage(wide / 72, tall / 72)
            renderer = RendererPdf(file, 72, tall / 72, wide / 72)
            for scene in scenes:
                with set_in(scene.typefaces):
                    draw(Canvas(renderer, tall), scene)
            renderer.finalize()
        file.finalize()
        file.close()
    return target.getvalue()
