"""What weighing did, as it is printed."""

from grainstack.chart.writing.numbers import written
from grainstack.report.printed import aligned
from grainstack.report.printing import once
from grainstack.weighing.weighing import Weighing


def weighing_text(weighing: Weighing) -> str:
    """Each known total with its records and weights, and what the new weights are like."""
    rows = []
    for one in weighing.groups:
        weights = [written(value, 0) for value in (one.before, one.total)]
        rows.append((one.target, one.level, f"{one.records:,}", *weights, written(one.factor, 3)))
    heading = ("target", "level", "n", "weight before", "total", "factor")
    table = aligned([heading, *once(rows, 2)], (False, False, True, True, True, True))
    low, high = min(weighing.factors.values()), max(weighing.factors.values())
    how = (
        "Post-stratified" if len({one.target for one in weighing.groups}) == 1 else f"Raked in {weighing.rounds} rounds"
    )
    shares = " Targets were taken as shares of the starting weights." if weighing.shares else ""
    return (
        f"{table}\n\n{how}; every total is met. Starting weights are multiplied by {low:.3f} to {high:.3f}. "
        f"Weighting effect (Kish): {weighing.kish[0]:.2f} before, {weighing.kish[1]:.2f} after.{shares}"
    )
