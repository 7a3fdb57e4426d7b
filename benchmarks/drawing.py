"""Arranging, composing and painting bars, as ratios to pyplot drawing and saving the same bars from a ready table.

Everything happens in one process, so start-up counts on neither side.
"""

import io
import sys
from collections.abc import Callable
from pathlib import Path

import matplotlib as mpl
import numpy as np
from matplotlib import pyplot as plt
from matplotlib.patches import Rectangle
from ratios import ratio

sys.path.insert(0, str(Path(__file__).parent.parent))

from tests.chart.scenes import table_of

from grainstack.chart.bars.bar_arrangement import arranged_bars
from grainstack.chart.bars.bar_picture import bar_scene
from grainstack.chart.bars.bar_request import BarRequest
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.treemaps.tile_tree import arranged_tree
from grainstack.chart.treemaps.treemap_picture import treemap_scene
from grainstack.paint import pdf, png, svg
from grainstack.requests import Requests
from grainstack.summary.table import SummaryTable

LEAVES = 10_000
Work = Callable[[], object]


def ours(table: SummaryTable, layout: str, ending: str, size: str = "") -> Work:
    """Arranges, composes and paints."""
    request = Requests(BarRequest(layout=layout), *([PictureRequest(size=size)] if size else []))
    painted = {"svg": svg.paint, "png": png.paint, "pdf": pdf.paint}[ending]

    def work() -> bytes:
        return painted(bar_scene(arranged_bars(table, request[BarRequest]), request), 144)

    return work


def theirs(figures: "np.ndarray[tuple[int, int], np.dtype[np.float64]]", layout: str, ending: str) -> Work:
    """Draws the same bars with labels, ticks, legend and title, and saves them."""
    names = [f"Category {place}" for place in range(len(figures))]

    def work() -> None:
        figure, axes = plt.subplots(figsize=(8.89, 5.56))
        count = figures.shape[1]
        before = np.zeros(len(figures))
        for place in range(count):
            if layout == "percent":
                bars = axes.barh(names, figures[:, place], left=before, label=f"Series {place}")
                before = before + figures[:, place]
                axes.bar_label(bars, fmt="%.2f", label_type="center")
            else:
                at = np.arange(len(figures)) + place / count
                bars = axes.bar(at, figures[:, place], 1 / count, label=f"Series {place}")
                axes.bar_label(bars, fmt="%.2f")
        if layout != "percent":
            axes.set_xticks(np.arange(len(figures)), names)
        axes.legend()
        axes.set_title("Share by category and series")
        figure.savefig(io.BytesIO(), format=ending, dpi=144)
        plt.close(figure)

    return work


def theirs_without_labels(figures: "np.ndarray[tuple[int, int], np.dtype[np.float64]]", ending: str) -> Work:
    """Stacks the same bars with ticks and legend in a large picture, and saves them."""
    names = [f"Category {place}" for place in range(len(figures))]

    def work() -> None:
        figure, axes = plt.subplots(figsize=(20.8, 62.5))
        before = np.zeros(len(figures))
        for place in range(figures.shape[1]):
            axes.barh(names, figures[:, place], left=before, label=f"Series {place}")
            before = before + figures[:, place]
        axes.legend(loc="upper right")  # looking for the best place would take longer than everything else
        figure.savefig(io.BytesIO(), format=ending, dpi=144)
        plt.close(figure)

    return work


def our_tiles(table: SummaryTable) -> Work:
    """Arranges and composes a treemap."""

    def work() -> object:
        return treemap_scene(arranged_tree(table), Requests())

    return work


def their_rectangles(count: int) -> Work:
    """Draws as many rectangles on pyplot's canvas."""

    def work() -> None:
        figure, axes = plt.subplots(figsize=(8.89, 5.56))
        for place in range(count):
            axes.add_patch(Rectangle((place % 100, place // 100), 0.9, 0.9))
        axes.set_xlim(0, 100)
        axes.set_ylim(0, count / 100)
        figure.canvas.draw()
        plt.close(figure)

    return work


def made_up(categories: int, series: int) -> "tuple[SummaryTable, np.ndarray[tuple[int, int], np.dtype[np.float64]]]":
    """A table of shares, and the same figures as an array."""
    figures = np.random.default_rng(1).uniform(0.2, 1, (categories, series))
    figures /= figures.sum(axis=1, keepdims=True)
    names = [f"Category {place}" for place in range(categories)]
    table = table_of(names, [f"Series {place}" for place in range(series)], figures.ravel().tolist(), "share")
    return table, figures


def main() -> None:
    """Prints one line per figure."""
    mpl.use("Agg")
    table, figures = made_up(6, 5)
    ratio("6 × 5 percent bars, SVG", ours(table, "percent", "svg"), theirs(figures, "percent", "svg"), 0.10)
    ratio("6 × 5 percent bars, PNG", ours(table, "percent", "png"), theirs(figures, "percent", "png"), 0.60)
    table, figures = made_up(60, 8)
    ratio("60 × 8 bars with labels, SVG", ours(table, "grouped", "svg"), theirs(figures, "grouped", "svg"), 0.15)
    table, figures = made_up(400, 40)
    for ending in ("svg", "png", "pdf"):
        work = ours(table, "percent", ending, "2000x6000px")
        ratio(f"400 × 40 percent bars, {ending.upper()}", work, theirs_without_labels(figures, ending), 0.3, runs=3)
    sizes = np.random.default_rng(2).lognormal(3, 1.2, LEAVES).tolist()
    outer = tuple(f"Parent {place}" for place in range(20))
    leaves = table_of([f"Leaf {place}" for place in range(LEAVES // 20)], [], sizes, "sum", outer=outer)
    ratio("treemap of 10,000 leaves to 10,000 rectangles", our_tiles(leaves), their_rectangles(LEAVES), 0.5)


if __name__ == "__main__":
    main()
