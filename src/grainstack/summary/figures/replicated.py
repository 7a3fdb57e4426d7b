"""Variance of figures under replicate weights (Wolter 2007, chapters 3 to 5; Judkins 1990).

A figure θ is worked out anew under each of R replicate weights; with scales s_r and centre θ₀

    v = Σ_r s_r (θ_r − θ₀)²
"""

from collections.abc import Callable, Sequence

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

RecordsByUnit = Callable[[], Integers]  # records of each domain in each drawn unit, shape (units, domains)


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

    def records_by_unit() -> Integers:
        return estimator.base_matrices(pair).records if linear is Linear.SHARE else estimator.records_by_unit(pair)

    return _spread(estimator, figures, estimate, records_by_unit)


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
    return _spread(estimator, figures, whole, lambda: estimator.records_by_unit((measure, None)))


def replicate_degrees(estimator: ShownSums, records_by_unit: RecordsByUnit) -> Floats:
    """Degrees of freedom of each domain, shape (domains,) or (1,) where all have the same.

    Stated; else, where clusters are named, clusters less strata that hold records of the domain, as everywhere. Where
    they are not, those of the method: R − 1 for one deleted cluster each (jk1); the sum of the scales (n − 1) / n
    (jkn), which is clusters less strata; the strata for half samples (brr and Fay's), or R where they are not known.

    Args:
        estimator: The sums.
        records_by_unit: Gives the records of each domain in each drawn unit, where strata or clusters are named.

    Raises:
        RequestError: They are not known.
    """
    design = estimator.request.design
    if design.degrees is not None:
        return np.array([design.degrees])
    if design.replicate_method in ("brr", "fay") and design.strata:
        return np.asarray(_strata_with_records(estimator, records_by_unit()))
    if design.cluster and design.replicate_method not in ("brr", "fay"):
        return domain_degrees(estimator.stages[:1], records_by_unit())
    scales = np.array(design.scales)
    of_method = {"jk1": len(scales) - 1.0, "jkn": max(round(float(scales.sum())), 0.0)}
    of_method |= dict.fromkeys(("brr", "fay"), float(len(scales)))
    if design.replicate_method not in of_method:
        raise RequestError(
            "The degrees of freedom of bootstrap weights are not known.",
            f"State them with {option('degrees')}, or name what was drawn: {option('cluster')}, {option('strata')}.",
        )
    return np.array([of_method[design.replicate_method]])


def _strata_with_records(estimator: ShownSums, records: Integers) -> Floats:
    """How many strata hold records of each domain, shape (domains,)."""
    strata = estimator.strata_of_units
    return np.array([float(len(np.unique(strata[column > 0]))) for column in records.T])


def _sums(estimator: ShownSums) -> ReplicateSums:
    sums = estimator.totals.replicates
    if sums is None:
        raise RequestError("There are no replicate weights.", "")
    return sums


def _spread(estimator: ShownSums, figures: Floats, estimate: Floats, records_by_unit: RecordsByUnit) -> ReplicateSpread:
    design = estimator.request.design
    scales = np.array(design.scales)[:, None]
    center = np.nanmean(figures, axis=0) if design.replicate_center == "mean" else estimate
    degrees = replicate_degrees(estimator, records_by_unit)
    everywhere = np.broadcast_to(degrees, (figures.shape[1],)).astype(np.float64)
    return ReplicateSpread(np.nan_to_num(figures - center), scales, everywhere)
