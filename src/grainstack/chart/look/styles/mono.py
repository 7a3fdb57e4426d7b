"""For a black-and-white printer: greys and patterns, so that nothing is lost."""

from grainstack.chart.look.style import Style

STYLE = Style(nominal="slate", ordered="slate", sides="slate", hatched=True, grid=0.5)
