"""For a printed page: a little smaller and finer."""

from grainstack.chart.look.style import Style

STYLE = Style(
    margin=14.0,
    title=12.5,
    subtitle=9.0,
    legend=8.0,
    category=8.6,
    base=6.8,
    value=8.0,
    tick=7.4,
    note=7.0,
    gap=3.6,
    grid=0.45,
    part=0.8,
    whisker=0.7,
    cap=2.6,
    dot=3.2,
    record=1.5,
    line=1.2,
    bar_most=40.0,
)
