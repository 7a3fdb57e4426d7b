"""PNG, drawn pixel by pixel."""

import io

import numpy as np

from grainstack.chart.scene import Scene
from grainstack.paint.canvas import draw, outlined


def paint(scene: Scene, dpi: float) -> bytes:
    """The scene as a PNG with `dpi` pixels to the inch."""
    from matplotlib.backends.backend_agg import RendererAgg  # noqa: PLC0415 - half a second only pixels should cost
    from PIL import Image, PngImagePlugin  # noqa: PLC0415

    width, height = round(scene.width * dpi / 72), round(scene.height * dpi / 72)
    renderer = RendererAgg(width, height, dpi)
    draw(renderer, scene, dpi / 72, float(height), outlined)
    about = PngImagePlugin.PngInfo()
    about.add_itxt("Title", scene.title)
    about.add_itxt("Description", scene.alt)
    picture = Image.fromarray(np.asarray(renderer.buffer_rgba())).convert("RGB")
    target = io.BytesIO()
    picture.save(target, "PNG", dpi=(dpi, dpi), pnginfo=about)
    return target.getvalue()
