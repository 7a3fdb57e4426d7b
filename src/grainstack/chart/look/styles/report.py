"""For a report on paper or screen: the standard."""

from grainstack.chart.look.style import Style

STYLE = Style()
