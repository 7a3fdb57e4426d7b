"""For a report on paper or screen: the standard."""

from grainstack.chart.style import Style

STYLE = Style()
