"""Variance of figures under replicate weights (Wolter 2007, chapters 3 to 5; Judkins 1990).

A figure θ is worked out anew under each of R replicate weights; with scales s_r and centre θ₀

    v = Σ_r s_r (θ_r − θ₀)²
"""

from collections.abc import Sequence

import numpy as np
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.summary.figures.shown_sums import ShownSums
from grainstack.summary.figures.stages import domain_degrees
from grainstack.summary.statistics import Linear
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.design import COUNT, Pair
from grainstack.summary.sums.exact import Floats, Integers, Mask
from grainstack.summary.sums.replicates import ReplicateSums


class _Domains(Struct, frozen=True):
    """What each figure rests on: the records of a ratio in a cell, or in the base of a share."""

    sums: ShownSums
    pair: Pair
    of_bases: bool = False

    def records_by_unit(self) -> Integers:
        """Records in each drawn unit, shape (units, cells)."""
        return (self.sums.base_matrices(self.pair) if self.of_bases else self.sums.matrices(self.pair)).records

    def half_samples(self) -> Floats | None:
        """How many independent halves of strata hold records, shape (cells,); None where that is not known."""
        kept, grouping = self.sums.totals.half_samples, self.sums.grouping
        if kept is None:
            return None
        if not self.of_bases:
            return kept.ranks(grouping.inside, grouping.places, grouping.count)
        if grouping.of_respondents:  # who answered stands in some cell of the base
            ranks = kept.ranks(grouping.inside, grouping.base_of[grouping.places], grouping.bases)
        else:
            ranks = kept.ranks(grouping.base_inside, grouping.base_places, grouping.bases)
        return None if ranks is None else ranks[grouping.base_of]


class ReplicateSpread(Struct, frozen=True):
    """How figures differ from replicate to replicate.

    Attributes:
        differences: θ_r − θ₀, shape (replicates, cells).
        scales: What their squares are multiplied by, shape (replicates, 1).
        degrees: Degrees of freedom of each cell, shape (cells,).
    """

    differences: Floats
    scales: Floats
    degrees: Floats

    @property
    def variance(self) -> Floats:
        """V of each cell, shape (cells,)."""
        return np.asarray((self.scales * self.differences**2).sum(axis=0))

    @property
    def settled(self) -> Mask:
        """Nothing of it can be told from replicates, shape (cells,)."""
        return np.zeros(self.differences.shape[1], dtype=bool)

    def covariances(self, cells: Sequence[int]) -> Floats:
        """The covariances of some cells, shape (cells wanted, cells wanted)."""
        differences = self.differences[:, list(cells)]
        return np.asarray((self.scales * differences).T @ differences)

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some cells together."""
        return float(self.degrees[list(cells)].max())


def replicated(estimator: ShownSums, figure: Figure, estimate: Floats) -> ReplicateSpread:
    """The spread of a count, share, sum, mean or rate.

    Args:
        estimator: The sums.
        figure: Which.
        estimate: Its value in each cell, shape (cells,).
    """
    sums, grouping = _sums(estimator), estimator.grouping
    shown = (grouping.inside, grouping.places, grouping.count)
    linear = figure.statistic.linear
    pair: Pair = (figure.measure, figure.per) if figure.measure else COUNT
    x, y = sums.shown(pair, *shown)
    if linear is Linear.SHARE:
        wholes = estimator.totals.outer_replicates if grouping.of_respondents else sums
        if wholes is None:
            raise RequestError("The replicate weights were not summed up for this question.", "")
        y = wholes.shown(pair, grouping.base_inside, grouping.base_places, grouping.bases)[0][:, grouping.base_of]
    with np.errstate(invalid="ignore", divide="ignore"):
        figures = x if linear is Linear.TOTAL else x / y

    return _spread(_Domains(estimator, pair, linear is Linear.SHARE), figures, estimate)


def replicated_below(estimator: ShownSums, measure: str, points: Floats) -> ReplicateSpread:
    """The spread of the share of each cell's records at or below a point.

    Args:
        estimator: The sums.
        measure: The measure.
        points: One point per cell, shape (cells,).
    """
    grouping = estimator.grouping
    figures = np.full((len(_sums(estimator).values[measure]), grouping.count), np.nan)
    for row, values in enumerate(_sums(estimator).values[measure]):
        of_cells = values.regrouped(grouping.inside, grouping.places)
        for cell in range(grouping.count):
            found, _, weights = of_cells.of_cell(cell)
            if weights.sum() > 0:
                figures[row, cell] = weights[found <= points[cell]].sum() / weights.sum()
    values = estimator.values(measure)
    whole = np.full(grouping.count, np.nan)
    for cell in range(grouping.count):
        found, _, weights = values.of_cell(cell)
        if weights.sum() > 0:
            whole[cell] = weights[found <= points[cell]].sum() / weights.sum()
    return _spread(_Domains(estimator, (measure, None)), figures, whole)


def _degrees(domains: _Domains) -> Floats:
    """Degrees of freedom of each domain, shape (domains,) or (1,) where all have the same.

    Stated; else, where clusters are named, clusters less strata that hold records of the domain, as everywhere. Half
    samples (brr and Fay's) have those of the strata with records of it, which is the rank of these half samples where
    strata are not named. Else those of the method: R − 1 for one deleted cluster each (jk1); the sum of the scales
    (n − 1) / n (jkn), which is clusters less strata.

    Raises:
        RequestError: They are not known.
    """
    sums = domains.sums
    design = sums.request.design
    if design.degrees is not None:
        return np.array([design.degrees])
    if design.replicate_method in ("brr", "fay") and design.strata:
        strata = sums.strata_of_units
        return np.array([float(len(np.unique(strata[column > 0]))) for column in domains.records_by_unit().T])
    if design.cluster and design.replicate_method not in ("brr", "fay"):
        return domain_degrees(sums.stages[:1], domains.records_by_unit())
    ranks = domains.half_samples()
    if ranks is not None:
        return ranks
    scales = np.array(design.scales)
    of_method = {"jk1": len(scales) - 1.0, "jkn": max(round(float(scales.sum())), 0.0)}
    of_method |= dict.fromkeys(("brr", "fay"), float(len(scales)))
    if design.replicate_method not in of_method:
        raise RequestError(
            "The degrees of freedom of bootstrap weights are not known.",
            f"State them with {option('degrees')}, or name what was drawn: {option('cluster')}, {option('strata')}.",
        )
    return np.array([of_method[design.replicate_method]])


def _sums(estimator: ShownSums) -> ReplicateSums:
    sums = estimator.totals.replicates
    if sums is None:
        raise RequestError("There are no replicate weights.", "")
    return sums


def _spread(domains: _Domains, figures: Floats, estimate: Floats) -> ReplicateSpread:
    design = domains.sums.request.design
    scales = np.array(design.scales)[:, None]
    center = np.nanmean(figures, axis=0) if design.replicate_center == "mean" else estimate
    everywhere = np.broadcast_to(_degrees(domains), (figures.shape[1],)).astype(np.float64)
    return ReplicateSpread(np.nan_to_num(figures - center), scales, everywhere)
