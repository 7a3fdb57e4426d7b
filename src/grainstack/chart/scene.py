"""A finished drawing as plain values: marks in points, with nothing left to decide."""

from collections.abc import Callable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.marks import ELLIPSIS, WHITE, Mark, MarkRole, Rect, Text, Typeface, moved_mark, scaled_mark


class ValueScale(Struct, frozen=True):
    """What a value axis shows.

    Attributes:
        low: The value at its start, as it is written there.
        high: The value at its end.
        unit: What is measured along it: charts of one unit can share a scale.
        figure: Which figure is shown: lengths of one figure are compared by whoever sees them.
    """

    low: float
    high: float
    unit: str
    figure: str


class Movable(Struct, frozen=True):
    """Where the bars of a chart stand: what a page needs to move them, and nothing to lay them out with.

    Attributes:
        form: How the bars of a category stand: `simple`, `grouped`, `stacked` or `diverging`.
        of: What they are shares of, where each bar is a whole: `category`; else empty.
        horizontal: Whether values grow to the right.
        stacked: Whether bars stand end to end.
        middles: The middle of each category along its axis in points, by the codes of the category.
        zeros: Where zero stands on the value axis of each panel in points, by its code.
        orders: For each order by name, the codes of the categories; the first one is that of the chart.
        natural: What the order of the column itself is called; empty where the chart is in it.
    """

    form: str
    of: str
    horizontal: bool
    stacked: bool
    middles: Mapping[str, float]
    zeros: Mapping[str, float]
    orders: Mapping[str, Sequence[str]]
    natural: str


class Scene(Struct, frozen=True):
    """A picture.

    Attributes:
        width: In points.
        height: In points.
        marks: In painting order.
        alt: What it shows, in words, for readers who cannot see it.
        title: Its title.
        left_out: How many texts of each role had no room, for each role that lacks any.
        paper: The colour behind everything; empty for none.
        outline: Thickness of outlines, in points.
        typefaces: What its texts are set in before the usual ones.
        legend_moved: Whether there was no room for the legend where it was asked for.
        larger_helps: Whether more of what had no room would have it in a larger picture.
        trace: Where it comes from, as its file carries it; empty for nothing.
        scale: What its value axis shows; None where it has none that others could share.
        pattern: What the lengths of patterns are multiplied by.
        movable: Where the bars of a chart stand, for a page that moves them; None where it cannot.
        opened: What the one part of a chart that it shows is called; empty where it shows the whole.
        touches_told: What is to be told of touches that find no mark, or move one where it should not be.
        others: Draws the same chart in the other views that a page offers, by name; None where there are none.
    """

    width: float
    height: float
    marks: tuple[Mark, ...]
    alt: str
    title: str = ""
    left_out: tuple[tuple[MarkRole, int], ...] = ()
    paper: str = WHITE
    outline: float = 0.6
    typefaces: tuple[Typeface, ...] = ()
    legend_moved: bool = False
    larger_helps: bool = False
    trace: str = ""
    scale: ValueScale | None = None
    pattern: float = 1.0
    movable: "Movable | None" = None
    opened: str = ""
    others: "Callable[[], Mapping[str, Scene]] | None" = None
    touches_told: tuple[str, ...] = ()

    @property
    def cut(self) -> int:
        """How many texts are shortened."""
        return sum(isinstance(mark, Text) and mark.tip != "" and mark.content.endswith(ELLIPSIS) for mark in self.marks)

    @property
    def missing(self) -> int:
        """How many texts are shortened or have no room."""
        return self.cut + sum(count for _, count in self.left_out)

    def scaled(self, by: float) -> "Scene":
        """The same in another size: for sheets on which it cannot be composed anew.

        Args:
            by: What all lengths are multiplied by.
        """
        marks = tuple(scaled_mark(mark, by) for mark in self.marks)
        lengths = {name: getattr(self, name) * by for name in ("width", "height", "outline", "pattern")}
        return replace(self, marks=marks, **lengths)

    def moved(self, right: float, down: float) -> "Scene":
        """The same elsewhere on a larger sheet, whose paper stays as it is around it.

        Args:
            right: How far to the right, in points.
            down: How far down.
        """
        ground = Rect(0, 0, self.width, self.height, self.paper, MarkRole.PAPER)
        marks = (ground, *self.marks) if self.paper not in ("", WHITE) else self.marks
        return replace(self, marks=tuple(moved_mark(mark, right, down) for mark in marks), paper="")
