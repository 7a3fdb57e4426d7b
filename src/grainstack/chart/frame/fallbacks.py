"""What gives way when a picture is small, in a fixed order: words first, names last, and a bar never.

A chart is composed as it was asked for. Where that leaves its plots too little of the picture, or a category without
its name, it is composed again with less around them. Where even the least does not help, nothing is drawn: the message
says which size would do.
"""

from bisect import bisect_left
from collections.abc import Callable
from contextlib import suppress
from math import log
from typing import Protocol

from msgspec import Struct
from msgspec.structs import replace

from grainstack.chart.look.style_file import look_of, typefaces_of
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.scene import Scene
from grainstack.chart.writing.fonts import set_in
from grainstack.errors import ChartError, RequestError
from grainstack.language import speaking, spoken
from grainstack.option_names import option
from grainstack.requests import Requests

_ENOUGH = 0.42  # of the height: below it, a chart is more words than bars
_ENOUGH_WITH_NAMES = 0.25  # where the names of series are all that could still go: they are worth more than size
_NEARLY = 0.97  # of the best share of the height that any step reaches: further steps would cost words for nothing
_NOTICED = 0.05  # of the height: less empty room is not seen
_GROWTH = 1.08  # from one size that is tried to the next
_LARGER = 1.5  # as wide and tall: the next size that somebody tries
_LARGEST = 5000.0  # points: no larger picture is drawn


class FallbackStep(Struct, frozen=True):
    """What a chart keeps around its plots.

    Attributes:
        axis_titles: The titles of its axes.
        whole_note: The whole note; otherwise the base and the meaning of marks.
        subtitle: The line under the title.
        whole_title: The title in full size and as many as two lines; otherwise small, on one.
        bases: The base of each category.
        legend: The names of its series; otherwise they are told by tips only.
    """

    axis_titles: bool = True
    whole_note: bool = True
    subtitle: bool = True
    whole_title: bool = True
    bases: bool = True
    legend: bool = True


def _steps() -> tuple[FallbackStep, ...]:
    """Everything, then one thing less at a time."""
    steps = [FallbackStep()]
    for name in ("axis_titles", "whole_note", "subtitle", "whole_title", "bases", "legend"):
        steps.append(replace(steps[-1], **{name: False}))
    return tuple(steps)


STEPS = _steps()


class Draft(Struct, frozen=True):
    """A chart composed at one step.

    Attributes:
        composed: Makes the picture.
        share: The part of its height that plots have; 1 where they could not use more.
        nameless: How many categories have no name.
        spare: The height that nothing in it uses, in points.
    """

    composed: Callable[[], Scene]
    share: float
    nameless: int = 0
    spare: float = 0.0

    @property
    def scene(self) -> Scene:
        """The picture."""
        return self.composed()

    def fits(self, enough: float) -> bool:
        """Whether every category is named and the plots have at least a share of the height."""
        return not self.nameless and self.share >= enough


class Composing(Protocol):
    """A chart that can be composed with more or less around it."""

    def draft(self, kept: FallbackStep) -> Draft:
        """The chart at one step."""


def composed(chart_for: Callable[[Requests], Composing], request: Requests) -> Scene:
    """The chart at the first step that fits; else at the one whose plots have about the most room.

    Where no size was asked for, the picture is as tall as its content.

    Args:
        chart_for: Gives a fresh chart for a request.
        request: Words, size and style.

    Raises:
        ChartError: A category would have no name at any step; says the smallest size that works.
    """
    with set_in(typefaces_of(look_of(request))):
        scene = _composed(chart_for, request)
        if not scene.missing:
            return scene
        with suppress(ChartError, RequestError):
            larger = _composed(chart_for, request.having(request[PictureRequest].larger(_LARGER)))
            return replace(scene, larger_helps=larger.missing < scene.missing)
        return scene


def _composed(chart_for: Callable[[Requests], Composing], request: Requests) -> Scene:
    chart = chart_for(request)
    whole = chart.draft(STEPS[0])
    if whole.nameless and (tightest := chart.draft(STEPS[-1])).nameless:
        raise _too_small(chart_for, request, tightest.nameless)
    drafts: list[Draft] = []
    for kept, following in zip(STEPS, (*STEPS[1:], None), strict=True):
        drafts.append(chart.draft(kept) if drafts else whole)
        names_next = following is not None and not following.legend
        if drafts[-1].fits(_ENOUGH_WITH_NAMES if names_next else _ENOUGH):
            return _as_tall_as_needed(chart_for, request, kept, drafts[-1])
    named = [draft for draft in drafts if not draft.nameless]
    best = max(draft.share for draft in named)
    return next(draft.scene for draft in named if draft.share >= best * _NEARLY)


def _as_tall_as_needed(
    chart_for: Callable[[Requests], Composing], request: Requests, kept: FallbackStep, draft: Draft
) -> Scene:
    """The chart without the height that it does not use, unless that was asked for."""
    picture = request[PictureRequest]
    tall = picture.points[1]
    if "size" in picture.given() or draft.spare < tall * _NOTICED:
        return draft.scene
    return chart_for(request.having(replace(picture, height=tall - draft.spare))).draft(kept).scene


def _too_small(chart_for: Callable[[Requests], Composing], request: Requests, nameless: int) -> ChartError:
    """What is said where categories would have no name."""
    picture = request[PictureRequest]
    what = "1 category would have no name" if nameless == 1 else f"{nameless} categories would have no name"
    language = spoken()  # which the chart is written in, whenever somebody reads the remedy

    def remedy() -> str:
        fewer = f"keep fewer categories with {option('keep_top')}"
        most = int(log(_LARGEST / max(picture.points)) / log(_GROWTH))
        sizes = [picture.larger(_GROWTH**step) for step in range(1, most + 1)]
        with speaking(language), set_in(typefaces_of(look_of(request))):
            works = bisect_left(
                sizes, 1, key=lambda size: not chart_for(request.having(size)).draft(STEPS[-1]).nameless
            )
        if works == len(sizes):
            return f"{fewer[0].upper()}{fewer[1:]}."
        return f"The smallest size of this shape that works is {option('size', sizes[works].size_named)}; or {fewer}."

    return ChartError(f"{option('size')} {picture.size_named} is too small: {what}.", remedy)
