"""What a share is a share of."""

from collections.abc import Container

from grainstack.summary.request import SummaryRequest


def base_of(request: SummaryRequest, several: Container[int]) -> str:
    """What shares are shares of unless it was said: of each category when it is split, else of the panel or all.

    Where the categories are several answers of one record, shares are of the respondents in each series.

    Args:
        request: What is summed up.
        several: The dimensions of which a record may have several levels.
    """
    if request.base:
        return request.base
    if not request.split:
        return "panel"
    return "series" if any(axis in several for axis in _categories(request)) else "category"


def base_axes(request: SummaryRequest, base: str) -> tuple[int, ...]:
    """The dimensions whose level all records of a base have in common.

    Args:
        request: What is summed up.
        base: What shares are shares of.
    """
    panel = (0,) if request.panel else ()
    series = (len(request.dimensions) - 1,) if request.split else ()
    axes = {"category": (*panel, *_categories(request)), "series": (*panel, *series), "panel": panel}
    return axes.get(base, ())


def _categories(request: SummaryRequest) -> range:
    first = 1 if request.panel else 0
    return range(first, first + len(request.by))
