"""What every chart of values by category shares: page, plots, legend, words; a chart adds its own marks."""

from abc import ABC, abstractmethod
from collections.abc import Mapping, Sequence
from functools import cached_property
from typing import TYPE_CHECKING, ClassVar

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.annotation_request import Annotation, AnnotationRequest, SpanRequest
from grainstack.chart.cells import Cell, ChartCells
from grainstack.chart.chart_requests import LegendRequest, PanelAxesRequest, PlotRequest, WordsRequest
from grainstack.chart.frame.annotations import annotation_marks
from grainstack.chart.frame.category_axis import Category
from grainstack.chart.frame.category_names import bases_of, categories_of, names_of
from grainstack.chart.frame.fallbacks import STEPS, Draft, FallbackStep
from grainstack.chart.frame.frame import Frame, framed, style_of
from grainstack.chart.frame.legend import Legend
from grainstack.chart.frame.legend_in_plot import direct_names, inside_legend
from grainstack.chart.frame.plane import Box, Plane, grid_of_panels, panel_style
from grainstack.chart.frame.plot_needs import Overflow, PlotNeeds, Plots, outermost
from grainstack.chart.frame.plots import settled_plots
from grainstack.chart.frame.second_axis import (
    second_color,
    second_figures,
    second_marks,
    second_needs,
)
from grainstack.chart.frame.side_columns import SideColumn, side_columns_of
from grainstack.chart.frame.sign_places import SignPlaces
from grainstack.chart.frame.spans import slots_of, span_marks, with_shaded_grounds
from grainstack.chart.frame.value_axis import AxisNeeds, reference_marks
from grainstack.chart.frame.value_labels import ValueLabel
from grainstack.chart.look.coloring import Ink
from grainstack.chart.look.inks import Inks
from grainstack.chart.look.style import Style
from grainstack.chart.marks import Mark, MarkRole
from grainstack.chart.scene import Movable, Scene, ValueScale
from grainstack.chart.second_request import SecondRequest
from grainstack.chart.writing.figures_at import FiguresAt
from grainstack.chart.writing.wording import alt_text, words_for
from grainstack.errors import IdleError, RequestError
from grainstack.language import lowered, phrase
from grainstack.option_names import option
from grainstack.requests import Requests
from grainstack.summary.summary_request import Purpose
from grainstack.summary.table import Flag

if TYPE_CHECKING:
    from grainstack.chart.writing.wording import Words


class Labelled(Struct, frozen=True):
    """What is written at the marks of a chart, in one style.

    Attributes:
        labels: At each mark, in the order of the cells.
        figures: How many figures there are to write where there is room for all; likewise `letters`.
        overflows: What stands beyond values and settles how much room there must be.
    """

    labels: list[ValueLabel]
    figures: int
    letters: int
    overflows: tuple[Overflow, ...]


class CategoryChart(ABC):
    """One chart while it is being composed.

    Args:
        cells: Its figures.
        request: Direction, labels, words, colours and size.
        kind: What it is called in the text for readers who cannot see it.
        labels: What is written at each mark, in order.
        ways: For a diverging chart, which way each series points.

    Raises:
        RequestError: A colour or highlight for a level that is not shown.
    """

    _slender: ClassVar[bool] = False  # whether its marks are dots and thin lines, which are lost on paper when pale
    _patterned: bool = True  # whether its marks are areas, which patterns can tell apart

    def __init__(
        self,
        cells: ChartCells,
        request: Requests,
        kind: str,
        *,
        labels: Sequence[str] = (),
        ways: tuple[int, ...] | None = None,
    ) -> None:
        self._cells = cells
        self._request = request
        self._kind = kind
        self._page_style = style_of(request)
        self._style = self._page_style
        self._figures = FiguresAt(cells, request, labels)
        self._second = second_needs(cells, request.usual(SecondRequest))
        self._second_start = False
        self._annotations = request.usual(AnnotationRequest).annotations
        self._spans = request.usual(SpanRequest).spans
        self._side_columns = side_columns_of(cells, request)
        plot = request[PlotRequest]
        if self._side_columns and (plot.direction == "vertical" or plot.turn_names):
            upright = option("turn_names") if plot.turn_names else option("direction", "vertical")
            raise RequestError(
                f"{self._side_columns[0].heading} stands in a column beside lying bars.", f"Leave {upright} out."
            )
        self._kinds = self._label_kinds = tuple(labels)
        self._every_side_column = self._side_columns
        self._kept = STEPS[0]
        page = self._page_style
        style = replace(page, slender=self._slender, hatched=page.hatched and self._patterned)
        self._inks = Inks(cells, request, style, ways)
        own = request.usual(SecondRequest).color
        self._second_color = own or second_color({self._inks.of(cell).fill for cell in cells.cells})
        self._words: Words | None = None
        self._latest: Plots | None = None  # of the draft that was made last
        self._signs = SignPlaces(cells)
        self._labelled: dict[tuple[tuple[str, ...], Style], Labelled] = {}  # a picture is drafted several times

    def draft(self, kept: FallbackStep) -> Draft:
        """The chart with as much around it as there is room for; its marks are made once its picture is asked for."""
        self._begin(kept)
        frame = framed(
            self._signs.explaining(words_for(self._cells.table, self._request, self.notes)), self._request, kept
        )
        self._words = frame.words
        shape = grid_of_panels(len(self._cells.panels), self._request[PlotRequest].panel_columns, frame.body)
        self._style = panel_style(self._page_style, *shape)
        placing = self._request[LegendRequest].legend
        if placing != "auto" and not self._cells.series:
            raise IdleError(
                f"{option('legend')} makes no difference: there are no series to name.",
                f"Name their column with {option('split')}, or leave it out.",
            )
        shown = placing if kept.legend else "none"
        if "name" in self._kinds and len(self._cells.slots) * len(self._cells.panels) == 1:
            placing = "none"  # every series is named in its segment
        if shown in ("inside", "direct") or "name" in self._kinds or self._second:
            return self._around_marks(frame, placing, shown)
        wanted = self._wanted(placing)
        plots = self._latest = self._settled(frame.body, placing if kept.legend else "none")

        def composed() -> Scene:
            if self._latest is not plots:
                return self.draft(kept).scene  # other drafts came between
            scene = self._scene(frame, [*self._under(plots), *plots.around], wanted, plots)
            return self.draft(kept).scene if self.signs_changed(scene.marks) else scene

        names = {MarkRole.CATEGORY: wanted[MarkRole.CATEGORY]}
        bare = frame.scene([*plots.behind, *plots.around], "", names)
        nameless = dict(bare.left_out).get(MarkRole.CATEGORY, 0)
        return Draft(composed, plots.share(frame.size[1]), nameless, plots.spare)

    def _around_marks(self, frame: Frame, placing: str, shown: str) -> Draft:
        """The chart where its layout depends on its marks: they leave room for a legend, or a name, or do not."""
        place = {"direct": "top", "inside": "none"}.get(shown, shown) if placing != "none" else "none"
        wanted = self._wanted(placing)
        marks, plots = self._drawn(frame.body, place)
        moved = False
        if shown == "inside" and self._cells.series:
            legend = inside_legend(self._legend(place), plots, marks, self._page_style)
            moved = legend is None
            if legend is None:
                marks, plots = self._drawn(frame.body, "top")
            else:
                marks += legend
        elif shown == "direct":
            named = direct_names(self._legend(place), plots, marks, self._page_style, frame.size[0])
            moved = named is None
            marks = marks if named is None else named
        scene = replace(self._scene(frame, marks, wanted, plots), legend_moved=moved)
        if self._second and not self._second_start and plots.second_planes[0].low != 0:
            self._second_start = True  # said in the note, which takes room
            return self.draft(self._kept)
        if "name" in self._kinds and dict(scene.left_out).get(MarkRole.VALUE):
            self._label_kinds = tuple(kind for kind in self._label_kinds if kind != "name")  # the axis has room for all
            return self.draft(self._kept)
        if self.signs_changed(scene.marks):
            return self.draft(self._kept)
        nameless = dict(scene.left_out).get(MarkRole.CATEGORY, 0)
        return Draft(lambda: scene, plots.share(frame.size[1]), nameless, plots.spare)

    def _scene(self, frame: Frame, marks: list[Mark], wanted: Mapping[MarkRole, int], plots: Plots) -> Scene:
        """The finished picture, with what a page needs to answer with it."""
        alt = alt_text(self._kind, self._cells.table, self._cells.column, frame.words.title, self._figures.first)
        notes = [f"{', '.join(one.at)}: {one.text}." for one in self._annotations]
        notes += [f"{' – '.join(dict.fromkeys(one.at))}: {one.text}." for one in self._spans if one.text]
        alt = " ".join([alt, *self._words_besides, *notes])
        return replace(frame.scene(marks, alt, wanted), scale=self._scale(plots), movable=self._movable(plots))

    def signs_changed(self, marks: Sequence[Mark]) -> bool:
        """Whether the picture has to be drawn again for each sign to be explained, and each explained one drawn.

        Args:
            marks: Everything that is drawn.
        """
        return self._signs.changed(marks)

    def _movable(self, plots: Plots) -> Movable | None:  # noqa: ARG002 - bars look at them
        """Where its bars stand, for a page that moves them; None where it cannot."""
        return None

    def _scale(self, plots: Plots) -> ValueScale | None:
        """What the value axis shows; None where each panel has its own."""
        if self._own_axes:
            return None
        column, by, first = self._cells.column, self._needs_of_axis.scale, plots.planes[0]
        return ValueScale(first.low * by, first.high * by, column.unit or column.title, column.title)

    def _begin(self, kept: FallbackStep) -> None:
        """Forgets what an earlier draft had no room for."""
        if kept != self._kept:
            self._signs.forget_room()
        self._kept, self._kinds, self._side_columns = kept, self._label_kinds, self._every_side_column
        self._latest = None

    def _wanted(self, legend: str) -> dict[MarkRole, int]:
        """How many texts of each role there are to write, for a legend at a place."""
        words = words_for(self._cells.table, self._request)
        categories = self._categories()
        written = self._written_at_marks()
        titles = {MarkRole.VALUE_TITLE: words.value_title, MarkRole.CATEGORY_TITLE: words.category_title}
        return {
            MarkRole.CATEGORY: sum(bool(category.label) for category in categories),
            MarkRole.BASE: sum(bool(base) for base in self._bases()),
            MarkRole.LEGEND: len(self._cells.series) if legend != "none" else 0,
            MarkRole.VALUE: written.figures,
            MarkRole.LETTER: written.letters,
            MarkRole.ANNOTATION: len(self._annotations) + sum(bool(one.text) for one in self._spans),
            MarkRole.REFERENCE_LABEL: sum(bool(label) for _, label in self._needs_of_axis.references),
            MarkRole.PANEL_TITLE: sum(bool(panel) for panel in self._cells.panels),
            **{role: 1 for role, text in titles.items() if text},
        }

    def _figures_to_write(self, labels: list[ValueLabel]) -> int:
        """How many figures stand at marks where there is room for all."""
        return sum(bool(label.content) for label in labels)

    def within(self, body: Box, style: Style, kept: FallbackStep) -> tuple[list[Mark], Plots]:
        """Its marks in a part of a picture, without a legend, and where its plots lie.

        Args:
            body: The room it has.
            style: The sizes there.
            kept: What there is room for.
        """
        self._begin(kept)
        untitled = self._request.having(replace(self._request[WordsRequest], title="none"))  # its axis says it all
        self._words = self._signs.explaining(words_for(self._cells.table, untitled))
        if not kept.axis_titles:
            self._words = replace(self._words, value_title="", category_title="")
        self._page_style = self._style = style
        return self._drawn(body, "none")

    @property
    def wanted(self) -> dict[MarkRole, int]:
        """How many texts of each role there are to write, without a legend."""
        return self._wanted("none")

    @property
    def notes(self) -> list[str]:
        """Sentences for the footnote besides those of the table."""
        second = self._cells.table.column_for(Purpose.SECOND)
        if self._own_axes:
            return [*self._lasting_notes, phrase("Each panel has a value axis of its own.")]
        if second is None or not self._second_start:
            return self._lasting_notes
        start = phrase("The axis of {figure} does not start at zero.", figure=lowered(second.title))
        return [*self._lasting_notes, start]

    @cached_property
    def _lasting_notes(self) -> list[str]:
        return self._notes()

    @cached_property
    def _needs_of_axis(self) -> AxisNeeds:
        return self._axis()

    @property
    def _words_besides(self) -> list[str]:
        """Sentences on what else it shows, for readers who cannot see it."""
        return []

    @cached_property
    def _own_axes(self) -> tuple[AxisNeeds, ...]:
        """The value axis of each panel, where each has its own."""
        panels = len(self._cells.panels)
        free = self._request.usual(PanelAxesRequest).panel_axes == "free" and panels > 1
        return tuple(self._axis_of(panel) for panel in range(panels)) if free else ()

    def _axis_of(self, panel: int) -> AxisNeeds:  # noqa: ARG002 - charts of bars and dots look at it
        """What the value axis of a panel has to show, where each has its own."""
        return self._needs_of_axis

    def legend(self, place: str) -> Legend:
        """What its colours mean."""
        return self._legend(place)

    @abstractmethod
    def _notes(self) -> list[str]:
        """Sentences for the footnote besides those of the table, the same at every draft."""

    @abstractmethod
    def _axis(self) -> AxisNeeds:
        """What the value axis has to show, the same at every draft."""

    @abstractmethod
    def _overflows(self, labels: list[ValueLabel]) -> list[Overflow]:
        """What stands beyond values."""

    @abstractmethod
    def _marks(self, plots: Plots, labels: list[ValueLabel]) -> list[Mark]:
        """The marks within the plots."""

    def _fits(self, labels: list[ValueLabel], plots: Plots) -> bool:  # noqa: ARG002 - a chart may look at both
        """Whether labels can be written in these plots."""
        return True

    def _fewer_side_columns(self, plots: Plots) -> tuple[tuple[SideColumn, ...]] | None:  # noqa: ARG002 - most charts keep all
        """The columns beside the bars once some of them stand at the bars themselves; None where none does."""
        return None

    @property
    def _lying(self) -> bool:
        """Whether horizontal bars are preferred."""
        return False

    @property
    def _piled(self) -> bool:
        """Whether series stand over each other on upright bars, so that their legend does best so too."""
        return False

    @property
    def _second_labelled(self) -> bool:
        """Whether figures stand at the dots of a second measure."""
        return True

    @property
    def _second_from_zero(self) -> bool:
        """Whether a second axis starts where the first has its zero."""
        return True

    @property
    def _with_bases(self) -> bool:
        """Whether each category's base stands under its label."""
        return not self._cells.column.figure.statistic.additive

    def _behind(self, plane: Plane) -> list[Mark]:  # noqa: ARG002 - most charts add nothing
        """Marks under everything else of a plot."""
        return []

    def _drawn(self, body: Box, legend: str) -> tuple[list[Mark], Plots]:
        """All marks inside the body, and where the plots lie."""
        plots = self._settled(body, legend)
        return [*self._under(plots), *plots.around], plots

    def _settled(self, body: Box, legend: str) -> Plots:
        """Where the plots lie, once it is settled what is written in them."""
        plots = self._laid_out(legend, body)
        if self._kinds and not self._fits(self._labels(), plots):
            self._kinds = ()  # no type is small enough to write figures side by side: none, and more ticks instead
            plots = self._laid_out(legend, body)
        if fewer := self._fewer_side_columns(plots):
            self._side_columns = fewer[0]
            plots = self._laid_out(legend, body)
        return plots

    def _under(self, plots: Plots) -> list[Mark]:
        """What stands in the plots, under what stands around them."""
        cells, spans = self._cells, self._spans
        marks: list[Mark] = [mark for plane in plots.planes for mark in span_marks(spans, cells, plane)]
        marks += [mark for plane in plots.planes for mark in self._behind(plane)]
        marks += [*plots.behind, *self._marks(plots, self._labels())]
        if self._second:
            second = second_marks(self._cells, self._second_figure, plots, self._style, self._second_color)
            figures = second_figures(second, marks, self._style, self._second_color, lying=plots.horizontal)
            marks += [*second, *(figures if self._second_labelled else [])]
        marks += [mark for plane in plots.planes for mark in reference_marks(self._needs_of_axis, plane, self._style)]
        if self._annotations or spans:
            there = [*marks, *plots.around]
            notes: list[tuple[Annotation, tuple[int, int] | None]] = [(one, None) for one in self._annotations]
            notes += [(one, slots_of(one, cells)) for one in spans if one.text]
            marks += annotation_marks(notes, there, cells, plots, self._style)
        return with_shaded_grounds(marks) if spans else marks

    def _second_figure(self, value: float, flags: Flag) -> str:
        """A figure of the second measure with its signs."""
        return f"{self._second.write(value) if self._second else ''}{self._figures.signs(flags)}"

    def _laid_out(self, legend: str, body: Box) -> Plots:
        cells, plot, words = self._cells, self._request[PlotRequest], self._words
        written = self._written_at_marks()
        needs = PlotNeeds(
            categories=self._categories(),
            places=tuple(slot.place for slot in cells.slots),
            span=cells.span,
            axis=self._needs_of_axis,
            panels=cells.panels,
            panel_columns=plot.panel_columns,
            second=self._second,
            second_color=self._second_color,
            second_title=words.second_title if words else "",
            from_zero=self._second_from_zero,
            overflows=written.overflows,
            direction=plot.direction,
            turn_names=plot.turn_names,
            lying=self._lying or bool(self._side_columns),
            dense=any(label.content for label in written.labels),
            value_title=words.value_title if words else "",
            category_title=words.category_title if words else "",
            legend=self._legend(legend),
            piled=self._piled,
            side_columns=self._side_columns,
            own_axes=self._own_axes,
        )
        return settled_plots(needs, body, self._page_style, self._page_style.margin)

    def _legend(self, place: str) -> Legend:
        names, inks = self._cells.series, self._inks.series
        grounds_of = tuple(Ink(self._inks.ground(ink), ink.hatch) for ink in inks)
        keys = tuple(self._cells.series_key(place) for place in range(len(names)))
        return Legend(names, grounds_of, place, keys, tight=not self._kept.whole_title)

    def _categories(self) -> tuple[Category, ...]:
        bases = self._bases() if self._kept.bases else [""] * len(self._cells.slots)
        if "name" in self._kinds and not self._cells.series:  # at the marks
            return categories_of(self._cells, [""] * len(bases), bases)
        return categories_of(self._cells, names_of(self._cells, bases, self._signs), bases)

    def _bases(self) -> list[str]:
        """The base of each category, where it stands under its name."""
        cells = self._cells
        statistic = cells.column.figure.statistic.name
        count = statistic in ("count", "value")  # a count is its own base, and nobody knows that of a given figure
        wanted = self._with_bases and len(cells.panels) == 1 and statistic != "value"
        if "base" in self._kinds or not (wanted or (self._signs.expected and not count)):
            return [""] * len(cells.slots)
        return bases_of(cells, self._signs)

    def _labels(self) -> list[ValueLabel]:
        """What is written at each mark, in the order of the cells."""
        return self._written_at_marks().labels

    def _written_at_marks(self) -> Labelled:
        key = (self._kinds, self._style)
        if key not in self._labelled:
            labels = self._new_labels()
            letters = sum(bool(label.letters) for label in labels)
            self._labelled[key] = Labelled(
                labels, self._figures_to_write(labels), letters, outermost(self._overflows(labels))
            )
        return self._labelled[key]

    def _new_labels(self) -> list[ValueLabel]:
        return [self._label(cell) for cell in self._cells.cells]

    def _label(self, cell: Cell) -> ValueLabel:
        content = self._figures.label(cell, self._kinds)
        ground = self._inks.under_text(self._inks.of(cell))
        return ValueLabel(content, self._cells.key(cell), ground, cell.letters, self._style.value)
