"""For a wall: larger type, stronger lines, fewer small things."""

from grainstack.chart.look.style import Style

STYLE = Style(
    margin=22.0,
    title=19.0,
    subtitle=13.0,
    legend=11.5,
    category=12.5,
    base=9.5,
    value=11.5,
    tick=10.5,
    note=9.0,
    gap=5.0,
    grid=0.8,
    part=1.3,
    whisker=1.2,
    cap=4.0,
    dot=4.8,
    record=2.1,
    line=2.0,
    bar_most=56.0,
    least_type=7.0,
)
