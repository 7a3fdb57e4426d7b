"""Scenes to files and to the terminal."""

import os
import shutil
import sys
from collections.abc import Callable, Sequence
from pathlib import Path

from grainstack.chart.scene import Scene
from grainstack.cli.failing import say, show
from grainstack.output import write_whole


def draw(targets: Sequence[Path], dpi: float, picture: Callable[[], Scene], rows: Callable[[int], Scene]) -> None:
    """Writes a chart into its files, or shows it in the terminal when there are none.

    Args:
        targets: The files; may be none.
        dpi: Pixels per inch of a PNG.
        picture: Composes the chart in points.
        rows: Composes it in character cells for so many columns.
    """
    if targets:
        paint_all(picture(), targets, dpi)
        return
    from grainstack.paint.terminal import paint  # noqa: PLC0415 - pictures need none of it

    columns, colors = terminal_width()
    show(paint(rows(columns), colors=colors))


def paint_all(scene: Scene, targets: Sequence[Path], dpi: float) -> None:
    """Writes the scene in the format of each target's ending; nothing is written unless all of them can be painted."""
    painted = [(target, _bytes(scene, target.suffix.lower(), dpi)) for target in targets]
    for target, content in painted:
        write_whole(target, content)
        say(f"Wrote {target}.")


def _bytes(scene: Scene, ending: str, dpi: float) -> bytes:
    if ending == ".svg":
        from grainstack.paint.svg import paint  # noqa: PLC0415 - each painter loads when asked for

        return paint(scene)
    from grainstack.paint.canvas import paint_pdf, paint_png  # noqa: PLC0415

    return paint_png(scene, dpi) if ending == ".png" else paint_pdf(scene)


def terminal_width() -> tuple[int, bool]:
    """Columns of the terminal (80 when unknown, at most 120), and whether it shows colours."""
    columns = min(shutil.get_terminal_size((80, 24)).columns, 120)
    colors = sys.stdout.isatty() and "NO_COLOR" not in os.environ and os.environ.get("TERM") != "dumb"
    return columns, colors
