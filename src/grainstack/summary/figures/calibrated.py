"""Spreads under calibrated weights: residuals in the place of linearised values.

With groups x that weights were made to meet, β solves Σ w x x' β = Σ x z over all records, and e = z − w x'β takes the
place of z (Deville & Särndal 1992, section 3; Särndal, Swensson & Wretman 1992, section 6.6).
"""

import numpy as np
from msgspec.structs import replace

from grainstack.summary.figures.linear import Spread
from grainstack.summary.figures.shown_sums import ShownSums
from grainstack.summary.levels.grouping import Grouping
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.calibration_sums import CalibrationSums
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import ExactSums, Floats, Integers


def calibrated_spread(
    spread: Spread, sums: CalibrationSums, estimator: ShownSums, figure: Figure, estimate: Floats
) -> Spread:
    """A spread with residuals.

    Args:
        spread: The linearised values.
        sums: What is known by combination of groups.
        estimator: The sums of the cells.
        figure: A count, share, sum or mean; a rate where clusters were drawn.
        estimate: Its value in each cell, shape (cells,).
    """
    z, weighted = _by_combination(sums, estimator, figure, estimate)
    groups = _groups(sums)
    units, combinations = sums.whole.keys.T
    amounts = sums.weights.values()
    of_combination = np.bincount(combinations, amounts, len(groups))
    cross = (groups * of_combination[:, None]).T @ groups
    slopes, *_ = np.linalg.lstsq(cross, groups.T @ z, rcond=1e-10)
    explained = groups @ slopes  # x'β of each combination and cell
    residual = spread.units.copy()
    np.subtract.at(residual, units, amounts[:, None] * explained[combinations])
    if spread.squares is None:
        return replace(spread, units=residual)
    strata = _unit_of_combination(sums, len(spread.units))
    squares = spread.squares.copy()
    np.subtract.at(squares, strata, 2 * weighted * explained)
    np.add.at(squares, units, sums.squares.values()[:, None] * explained[combinations] ** 2)

    def crossed(one: int, other: int) -> Floats:
        """What e_one e_other is besides z_one z_other, in each unit."""
        found = np.zeros(len(spread.units))
        mixed = weighted[:, one] * explained[:, other] + weighted[:, other] * explained[:, one]
        np.subtract.at(found, strata, mixed)
        np.add.at(found, units, sums.squares.values() * (explained[:, one] * explained[:, other])[combinations])
        return found

    return replace(spread, units=residual, squares=np.maximum(squares, 0.0), crossed=crossed)


def _by_combination(
    sums: CalibrationSums, estimator: ShownSums, figure: Figure, estimate: Floats
) -> tuple[Floats, Floats]:
    """Σz and Σwz in each combination of groups, shape (combinations, cells) both; the second of drawn records only."""
    grouping, linear = estimator.grouping, figure.statistic.linear
    pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
    mine = _shown(sums, pair, grouping)
    if linear is Linear.TOTAL:
        return mine.x, mine.wx
    if linear is Linear.SHARE:
        base = _shown(sums, pair, grouping, of_bases=True)
        below = base.x.sum(axis=0)
        with np.errstate(invalid="ignore", divide="ignore"):
            parts = ((mine.x - estimate * base.x) / below, (mine.wx - estimate * base.wx) / below)
    else:
        below = mine.y.sum(axis=0)
        with np.errstate(invalid="ignore", divide="ignore"):
            parts = ((mine.x - estimate * mine.y) / below, (mine.wx - estimate * mine.wy) / below)
    return np.nan_to_num(parts[0]), np.nan_to_num(parts[1])


class _Shown:
    """Sums by combination and cell shown, shape (combinations, cells) each: Σwx, Σwy, Σw²x and Σw²y."""

    def __init__(self, x: Floats, y: Floats, wx: Floats, wy: Floats) -> None:
        self.x, self.y, self.wx, self.wy = x, y, wx, wy


def _shown(sums: CalibrationSums, pair: Pair, grouping: Grouping, *, of_bases: bool = False) -> _Shown:
    keys, found = sums.cells.pairs.keys, sums.cells.ratio(pair)
    inside, places, count = grouping.inside, grouping.places, grouping.count
    if of_bases:
        inside, places, count = grouping.base_inside, grouping.base_places, grouping.bases
    cells = int(max(keys[:, 1].max(initial=-1), inside.max(initial=-1))) + 1

    def table(one: ExactSums | None) -> Floats:
        full = np.zeros((len(sums.cells.units), cells))
        if one is not None:
            full[keys[:, 0], keys[:, 1]] = one.values()
        result = np.zeros((count, len(full)))
        np.add.at(result, places, full.T[inside])
        return result.T[:, grouping.base_of] if of_bases else result.T

    squared = sums.design.draws_records
    return _Shown(
        table(found.x),
        table(found.y),
        table(found.xy if squared and pair != COUNT else found.xx if squared else None),
        table(found.yy if squared else None),
    )


def _groups(sums: CalibrationSums) -> Floats:
    """Which groups each combination is in, shape (combinations, groups)."""
    request = sums.cells.request
    keys = sums.cells.units.keys[:, 1:]
    columns = []
    for names in sums.design.calibrated:
        axes = [request.cluster.index(name) for name in names]
        _, group = np.unique(keys[:, axes], axis=0, return_inverse=True)
        group = np.asarray(group).reshape(-1)
        columns.append(np.equal.outer(group, np.arange(int(group.max(initial=-1)) + 1)).astype(np.float64))
    return np.concatenate(columns, axis=1)


def _unit_of_combination(sums: CalibrationSums, units: int) -> Integers:
    """The drawn unit, a stratum, that each combination within strata belongs to."""
    found = np.zeros(len(sums.cells.units), dtype=np.int64)
    found[sums.whole.keys[:, 1]] = sums.whole.keys[:, 0]
    return np.minimum(found, units - 1)
