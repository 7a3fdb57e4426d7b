"""`grainstack palettes`: every palette, and how it looks to readers who see colours differently."""

from dataclasses import dataclass
from pathlib import Path

from grainstack.chart.request import PictureRequest
from grainstack.cli.failing import show
from grainstack.cli.options import Models
from grainstack.words import word

ENDINGS = (".pdf", ".png", ".svg")


@dataclass(frozen=True, slots=True)
class PalettesOutput:
    """Where the picture goes."""

    out: tuple[str, ...] = word((), "Write a picture: .png, .svg or .pdf. Repeatable.", group="Output", metavar="FILE")


MODELS = (PalettesOutput, PictureRequest)
POSITIONAL = None


def run(models: Models) -> None:
    """Shows the palettes in ordinary and three dichromatic visions."""
    from grainstack.chart.compose.palettes import palettes_scene, palettes_text  # noqa: PLC0415 - help needs none of it
    from grainstack.cli.painting import paint_all, terminal_width  # noqa: PLC0415
    from grainstack.output import check_targets  # noqa: PLC0415

    targets = [Path(name) for name in models[PalettesOutput].out]
    check_targets(targets, [], ENDINGS)
    picture: PictureRequest = models[PictureRequest]
    if targets:
        paint_all(palettes_scene(picture.points), targets, picture.dpi)
    else:
        show(palettes_text(colors=terminal_width()[1]))
