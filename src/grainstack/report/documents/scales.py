"""Charts side by side: one scale where that is wanted, and advice where readers would compare unlike ones."""

from collections.abc import Iterator, Mapping, Sequence

from msgspec.structs import replace

from grainstack.advice import Advice
from grainstack.chart.chart_requests import AxisRequest
from grainstack.chart.scene import ValueScale
from grainstack.chart.writing.numbers import number_style
from grainstack.errors import ChartError, listed
from grainstack.language import phrase
from grainstack.making.kind import Product
from grainstack.making.make import Made
from grainstack.plan.file.report import Report


def on_their_scales(report: Report, made: Mapping[str, Made]) -> tuple[dict[str, Made], list[Advice]]:
    """What a report shows, with charts on one scale where a part wants that, and advice where scales differ.

    An entry that stands in several parts has one scale in all of them.

    Args:
        report: What it says and shows.
        made: What it shows, by the names of entries.
    """
    found, advice = dict(made), []
    for part in report.parts:
        for row in part.rows:
            for scales in _alike(row, made, by_unit=part.same_scale):
                low, high = min(one.low for one in scales.values()), max(one.high for one in scales.values())
                if all((one.low, one.high) == (low, high) for one in scales.values()):
                    continue
                if part.same_scale:
                    found |= {name: _ranged(made[name], low, high) for name in scales}
                else:
                    advice.append(_advice(scales))
    return found, advice


def _alike(row: Sequence[str], made: Mapping[str, Made], *, by_unit: bool) -> Iterator[dict[str, ValueScale]]:
    """The scales of charts side by side, those of one unit or of one figure together."""
    if len(row) < 2:
        return
    alike: dict[str, dict[str, ValueScale]] = {}
    for name in row:
        scale = _scale_of(made[name])
        if scale is not None:
            alike.setdefault(scale.unit if by_unit else scale.figure, {})[name] = scale
    yield from (scales for scales in alike.values() if len(scales) > 1)


def _scale_of(made: Made) -> ValueScale | None:
    """What the value axis of a chart shows; None where it has none."""
    if made.kind.product is not Product.CHART:
        return None
    try:
        return made.picture().scale
    except ChartError:  # told where it is drawn
        return None


def _ranged(made: Made, low: float, high: float) -> Made:
    """A chart whose axis runs from one value to another, unless it was asked for its own."""
    axis = made.requests[AxisRequest]
    if axis.value_range is not None:
        return made
    return replace(made, requests=made.requests.having(replace(axis, value_range=f"{low:.12g},{high:.12g}")))


def _advice(scales: Mapping[str, ValueScale]) -> Advice:
    write = number_style([value for one in scales.values() for value in (one.low, one.high)])
    texts = [
        phrase("{name} from {low} to {high}", name=name, low=write(one.low), high=write(one.high))
        for name, one in scales.items()
    ]
    return Advice(
        "unlike-scales",
        phrase(
            "charts side by side have unlike scales: {scales}. Readers compare their lengths: say {same} in the part.",
            scales=listed(texts),
            same="same_scale = true",
        ),
    )
