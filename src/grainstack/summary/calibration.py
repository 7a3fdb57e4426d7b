"""Weights that meet known totals: post-stratification and raking, with bounds where they are wanted.

Weights w = d·g are sought near starting weights d that add to known totals of some margins. Without bounds g is a
product of one factor for each margin, found by proportional fitting (Deming & Stephan 1940), which for a single margin
is post-stratification. With bounds L ≤ g ≤ U it is the logit distance of Deville & Särndal (1992, case 6).
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.summary.sums.exact import Floats, Integers

_CLOSE = 1e-9  # how far from its target a total may be, as a share of it
_MOST_ROUNDS = 2000


class Margin(Struct, frozen=True):
    """Known totals of some groups that each record is in one of.

    Attributes:
        name: What tells the groups apart.
        groups: Their names.
        of_cell: The group of each cell, shape (cells,).
        totals: The known total of each group, shape (groups,).
    """

    name: str
    groups: tuple[str, ...]
    of_cell: Integers
    totals: Floats


class Calibrated(Struct, frozen=True):
    """Factors for weights.

    Attributes:
        factors: What the starting weights of each cell are multiplied by, shape (cells,).
        rounds: How many rounds it took.
    """

    factors: Floats
    rounds: int


def calibrated(start: Floats, margins: Sequence[Margin], bounds: tuple[float, float] | None = None) -> Calibrated:
    """Factors with which the weights of cells add to all totals.

    Args:
        start: The starting weight of each cell, shape (cells,), above 0.
        margins: What is known; all must have the same grand total.
        bounds: Between which the factors stay, the first below and the second above 1; None for no bounds.

    Raises:
        RequestError: The totals cannot be met.
    """
    if bounds is None:
        return _fitted(start, margins)
    low, high = bounds
    scale = float(margins[0].totals.sum() / start.sum())  # bounds are about the shape of weights, not their sum
    return _bounded(start * scale, margins, (low, high), scale)


def _fitted(start: Floats, margins: Sequence[Margin]) -> Calibrated:
    factors = np.ones(len(start))
    for round_ in range(1, _MOST_ROUNDS + 1):
        for margin in margins:
            now = np.bincount(margin.of_cell, start * factors, len(margin.totals))
            factors *= (margin.totals / np.where(now > 0, now, 1.0))[margin.of_cell]
        if len(margins) == 1 or _farthest(start * factors, margins)[0] < _CLOSE:
            return Calibrated(factors, round_)
    raise _refused(start * factors, margins, "")


def _bounded(start: Floats, margins: Sequence[Margin], bounds: tuple[float, float], scale: float) -> Calibrated:
    """Newton's method for the multipliers λ of Σ d F(x'λ) x = t (Deville & Särndal 1992, section 2)."""
    low, high = bounds
    slope = (high - low) / ((1 - low) * (high - 1))
    columns = [np.equal.outer(margin.of_cell, np.arange(len(margin.totals))) for margin in margins]
    x = np.concatenate(columns, axis=1).astype(np.float64)
    totals = np.concatenate([margin.totals for margin in margins])
    multipliers = np.zeros(x.shape[1])
    factors = np.ones(len(start))
    for round_ in range(1, 201):
        grown = np.exp(np.clip(slope * (x @ multipliers), -500, 500))
        factors = (low * (high - 1) + high * (1 - low) * grown) / ((high - 1) + (1 - low) * grown)
        if _farthest(start * factors, margins)[0] < _CLOSE:
            return Calibrated(factors * scale, round_)
        change = (factors - low) * (high - factors) * slope / (high - low)
        system = (x * (start * change)[:, None]).T @ x
        step, *_ = np.linalg.lstsq(system, totals - x.T @ (start * factors), rcond=1e-10)
        multipliers += step / max(1.0, float(np.abs(x @ step).max()) / 2)  # never so far that exp overflows
    raise _refused(start * factors, margins, f" within {low:g} to {high:g}")


def _farthest(weights: Floats, margins: Sequence[Margin]) -> tuple[float, str]:
    """How far the worst total is from its target, as a share of it, and which one it is."""
    worst = (0.0, "")
    for margin in margins:
        now = np.bincount(margin.of_cell, weights, len(margin.totals))
        off = np.abs(now - margin.totals) / np.maximum(margin.totals, 1e-300)
        place = int(np.argmax(off))
        worst = max(worst, (float(off[place]), f"{margin.name}: {margin.groups[place]}"))
    return worst


def _refused(weights: Floats, margins: Sequence[Margin], within: str) -> RequestError:
    off, where = _farthest(weights, margins)
    return RequestError(
        f"The targets cannot all be met{within}: {where} stays {100 * off:.2g} % off.",
        f"Widen {option('bounds')}, or merge small groups ({option('recode')})."
        if within
        else f"Combinations without records stand in the way: merge small groups ({option('recode')}).",
    )
