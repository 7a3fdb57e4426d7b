"""PDF with text that can be searched and copied."""

import io

from grainstack.chart.scene import Scene
from grainstack.paint.canvas import draw, lettered


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a one-page PDF with selectable text; shapes have no pixels, so `dpi` makes no difference."""
    del dpi
    import matplotlib as mpl  # noqa: PLC0415 - only PDF should cost it
    from matplotlib.backends.backend_pdf import PdfFile, RendererPdf  # noqa: PLC0415

    target = io.BytesIO()
    about = {
        "Title": scene.title,
        "Subject": scene.alt,
        "Creator": "Grain Stack",
        "Producer": None,
        "CreationDate": None,
    }
    with mpl.rc_context({"pdf.fonttype": 42, "pdf.use14corefonts": False}):
        file = PdfFile(target, metadata=about)
        file.newPage(scene.width / 72, scene.height / 72)
        renderer = RendererPdf(file, 72, scene.height / 72, scene.width / 72)
        draw(renderer, scene, 1.0, scene.height, lettered)
        renderer.finalize()
        file.finalize()
        file.close()
    return target.getvalue()
