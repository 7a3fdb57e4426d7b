"""What a chart of values by category needs of the page, and the plots it gets."""

from collections.abc import Iterable

from msgspec import Struct, field

from grainstack.chart.frame.category_axis import Category, CategoryLabels
from grainstack.chart.frame.legend import Legend
from grainstack.chart.frame.plane import Plane
from grainstack.chart.frame.side_columns import SideColumn
from grainstack.chart.frame.value_axis import AxisNeeds, ValueAxis
from grainstack.chart.look.color import INK
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Mark

_MOST_SLOT = 1.6  # a bar is about two thirds of its slot; beyond that, few bars would float in a wide void


class Overflow(Struct, frozen=True):
    """Something that stands beyond a value: it needs room there.

    Attributes:
        value: The value.
        wide: Its width in points, for horizontal bars.
        tall: Its height in points, for vertical ones.
        down: Whether it stands on the low side.
        panel: The panel it stands in.
    """

    value: float
    wide: float
    tall: float
    down: bool = False
    panel: int = 0


def outermost(every: Iterable[Overflow]) -> tuple[Overflow, ...]:
    """Those that settle how much room there must be: others of their panel stand further in and need no more room.

    Args:
        every: What stands beyond values.
    """
    kept: list[Overflow] = []
    met: dict[tuple[int, bool], tuple[float, float]] = {}
    for one in sorted(every, key=lambda one: (one.value if one.down else -one.value, -one.wide, -one.tall)):
        side = one.panel, one.down
        wide, tall = met.get(side, (0.0, 0.0))
        if one.wide > wide or one.tall > tall:
            kept.append(one)
            met[side] = max(wide, one.wide), max(tall, one.tall)
    return tuple(kept)


class PlotNeeds(Struct, frozen=True):
    """What a chart of values by category needs of the page.

    Attributes:
        categories: What is written for each.
        places: Where each stands, in slots.
        span: The length of the category axis in slots.
        axis: The value axis.
        own_axes: The value axis of each panel; empty where they share one.
        panels: Titles of the panels; a single empty one without panels.
        panel_columns: How many panels stand side by side; None to choose.
        second: A second value axis; `second_color` is its colour, `second_title` its title.
        from_zero: Whether the second axis starts where the first has its zero.
        overflows: What stands beyond values.
        direction: `auto`, `horizontal` or `vertical`.
        lying: Whether horizontal bars are preferred.
        turn_names: Whether names of categories are turned by a quarter, under vertical bars.
        upright: Whether the values must grow upwards, whatever the room.
        dense: Whether values stand at the marks, so that the axis needs fewer ticks.
        value_title: Title of the value axis; `category_title` of the other.
        legend: The legend.
        piled: Whether series stand over each other on upright bars: their legend then stands at the right, like them.
        side_columns: Columns of figures beside lying bars.
    """

    categories: tuple[Category, ...]
    places: tuple[float, ...]
    span: float
    axis: AxisNeeds
    panels: tuple[str, ...] = ("",)
    panel_columns: int | None = None
    second: AxisNeeds | None = None
    second_color: str = INK
    second_title: str = ""
    from_zero: bool = True
    overflows: tuple[Overflow, ...] = ()
    direction: str = "auto"
    lying: bool = False
    turn_names: bool = False
    upright: bool = False
    dense: bool = False
    value_title: str = ""
    category_title: str = ""
    legend: Legend = field(default_factory=lambda: Legend((), ()))
    piled: bool = False
    side_columns: tuple[SideColumn, ...] = ()
    own_axes: tuple[AxisNeeds, ...] = ()


class Plots(Struct, frozen=True):
    """The plots of a page.

    Attributes:
        planes: One per panel.
        second_planes: The same rooms measured along the second axis; empty without one.
        axis: The value axis.
        labels: The category labels.
        behind: Marks under the bars: grid lines.
        around: Marks beside them: ticks, labels, titles, legend.
        style: The sizes used inside the plots.
        columns: How many plots stand side by side.
        intervals: The largest number of intervals of its value axis.
        spare: The height that nothing uses because bars are as thick as they may be, in points.
    """

    planes: tuple[Plane, ...]
    second_planes: tuple[Plane, ...]
    axis: ValueAxis
    labels: CategoryLabels
    behind: tuple[Mark, ...]
    around: tuple[Mark, ...]
    style: Style
    columns: int = 1
    spare: float = 0.0
    intervals: int = 1

    @property
    def horizontal(self) -> bool:
        """Whether values grow to the right."""
        return self.planes[0].horizontal

    def share(self, height: float) -> float:
        """The part of the height of the picture that plots have; 1 where lying bars are as thick as they may be.

        Args:
            height: Of the picture, in points.
        """
        plane = self.planes[0]
        if plane.horizontal and plane.frame.height >= most_height(plane.span, self.style) - 0.5:
            return 1.0
        return plane.frame.height * -(-len(self.planes) // self.columns) / height


def most_height(span: float, style: Style) -> float:
    """The greatest height of a plot of lying bars, in points.

    Args:
        span: The length of its category axis in slots.
        style: Sizes and strokes.
    """
    return style.bar_most * _MOST_SLOT * span
