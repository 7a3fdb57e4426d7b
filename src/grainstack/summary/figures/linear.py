"""Variance of ratios and totals under a survey design, by linearisation.

For a ratio R = Σwx / Σwy the linearised value of a record is z = w(x − R·y) / Σwy; for a total it is z = wx. With
strata h of n_h units, sampling fraction f_h and unit totals z_hc (Cochran 1977, section 6; Wolter 2007, chapter 6):

    v = Σ_h (1 − f_h) · n_h / (n_h − 1) · Σ_c (z_hc − z̄_h)²

Each later stage whose population sizes are known adds the same sum over the units drawn within those of the stage
before, times the fractions of all stages before (Cochran 1977, section 11.9).
"""

from collections.abc import Callable, Sequence

import numpy as np
from msgspec import Struct

from grainstack.summary.figures.stages import Stage, domain_degrees
from grainstack.summary.sums.design import DesignSums, Pair, grown
from grainstack.summary.sums.exact import Floats, Integers, Mask

_NOTHING = 1e-9  # of a share: what adding up in another order may make of no spread at all
_ROUNDING = 1e-13  # of squares is what remains of them by rounding where units are alike


class Spread(Struct, frozen=True):
    """The linearised values of some cells' figures, ready for variances and covariances.

    Attributes:
        stages: How units were drawn.
        units: z summed per unit of the design's sums, shape (units, cells).
        squares: Σz² per unit, shape (units, cells); None where no single records were drawn.
        records: Records each figure rests on in each unit, never weighted, shape (units, cells).
        known: Which shares the strata themselves say, as no stratum holds records of both the cell and the rest of its
            base, shape (cells,); None for other figures.
        crossed: Gives Σ z_one z_other of single records in each unit, where two cells without a record in common have
            any; None where they have none.
    """

    stages: tuple[Stage, ...]
    units: Floats
    squares: Floats | None
    records: Integers
    crossed: Callable[[int, int], Floats] | None = None
    known: Mask | None = None

    @property
    def variance(self) -> Floats:
        """V of each cell, shape (cells,)."""
        return np.maximum(sum(self._of_stage(stage) for stage in self.stages), 0.0)

    @property
    def settled(self) -> Mask:
        """Whether all units that records of a cell could come from were drawn, or its strata say it, shape (cells,)."""
        varying = [stage.by_group(stage.by_part(self.records)) * stage.factor[:, None] for stage in self.stages]
        drawn = np.asarray(sum(one.sum(axis=0) for one in varying) == 0)
        return drawn if self.known is None else drawn | (self.known & (np.sqrt(self.variance) <= _NOTHING))

    def covariances(self, cells: Sequence[int]) -> Floats:
        """The covariances of some cells, shape (cells wanted, cells wanted); the diagonal is not filled.

        Cells are taken to share no record; those of a cluster count together.
        """
        chosen = list(cells)
        found = np.zeros((len(chosen), len(chosen)))
        for stage in self.stages:
            parts = stage.by_part(self.units[:, chosen])
            totals = stage.by_group(parts)
            lone = stage.drawn == 1
            factor = np.where(lone, 0.0, stage.factor)
            if not stage.of_records:
                found += parts.T @ (parts * factor[stage.group_of, None])
            found -= totals.T @ (totals * (factor / np.maximum(stage.drawn, 1))[:, None])
            if lone.any():
                apart = _from_mean(stage, totals)
                found += apart.T @ (apart * np.where(lone, stage.factor, 0.0)[:, None])
        if self.crossed is not None:
            for place, one in enumerate(chosen):
                for before, other in enumerate(chosen[:place]):
                    found[place, before] += self.stages[-1].spread_of(self.crossed(one, other))
                    found[before, place] = found[place, before]
        return found

    @property
    def degrees(self) -> Floats:
        """Degrees of freedom of each cell, shape (cells,)."""
        return domain_degrees(self.stages, self.records)

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some cells together."""
        return float(domain_degrees(self.stages, self.records[:, list(cells)].sum(axis=1, keepdims=True))[0])

    def _of_stage(self, stage: Stage) -> Floats:
        """What a stage adds to the variances, shape (cells,)."""
        parts = stage.by_part(self.units)
        totals = stage.by_group(parts)
        if not stage.of_records:
            squares = stage.by_group(parts**2)
        elif self.squares is None:
            squares = np.zeros_like(totals)
        else:
            squares = stage.by_group(stage.by_part(self.squares))
        spread = squares - totals**2 / np.maximum(stage.drawn, 1)[:, None]
        spread[np.abs(spread) <= _ROUNDING * squares] = 0.0
        lone = stage.drawn == 1
        if lone.any():
            spread[lone] = _from_mean(stage, totals)[lone] ** 2
        return np.asarray(stage.factor @ spread)


def _from_mean(stage: Stage, totals: Floats) -> Floats:
    """How far the totals of groups of one unit are from the mean of all units, shape (groups, cells)."""
    return np.asarray(totals - totals.sum(axis=0) / max(int(stage.drawn.sum()), 1))


class Matrices(Struct, frozen=True):
    """The sums of a ratio per unit (or stratum) and cell shown.

    Attributes:
        records: How many records have both, shape (units, cells).
        x: Σwx, shape (units, cells).
        y: Σwy, shape (units, cells).
        xx: Σw²x², shape (units, cells); None where no single records were drawn. Likewise `xy` and `yy`.
    """

    records: Integers
    x: Floats
    y: Floats
    xx: Floats | None
    xy: Floats | None
    yy: Floats | None


def matrices_of(design: DesignSums, pair: Pair, inside: Integers, places: Integers, count: int) -> Matrices:
    """The sums of a ratio for the cells shown.

    Args:
        design: The sums found.
        pair: Which ratio.
        inside: Cells found, one entry for every cell shown that they belong to, shape (entries,).
        places: The cell shown each entry goes to, shape (entries,).
        count: How many cells are shown.
    """
    keys = design.pairs.keys
    sums = design.ratio(pair)
    found = int(max(keys[:, 1].max(initial=-1), inside.max(initial=-1))) + 1
    units = len(design.units)

    def shown(one: Floats) -> Floats:
        table = np.zeros((units, found))
        table[keys[:, 0], keys[:, 1]] = one
        result = np.zeros((count, units))
        np.add.at(result, places, table.T[inside])
        return result.T

    by_record = design.request.draws_records
    squares = [shown(one.values()) if by_record else None for one in (sums.xx, sums.xy, sums.yy)]
    records = shown(grown(sums.records, len(keys)).astype(np.float64)).astype(np.int64)
    return Matrices(records, shown(sums.x.values()), shown(sums.y.values()), *squares)


def ratio_spread(stages: tuple[Stage, ...], sums: Matrices, ratio: Floats, denominator: Floats) -> Spread:
    """The spread of ratios Σwx / Σwy.

    Args:
        stages: How units were drawn.
        sums: The sums of the ratio.
        ratio: Σwx / Σwy of each cell, shape (cells,).
        denominator: Σwy of each cell, shape (cells,).
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        z = (sums.x - ratio * sums.y) / denominator
        squares = None
        if sums.xx is not None and sums.xy is not None and sums.yy is not None:
            squares = np.nan_to_num((sums.xx - 2 * ratio * sums.xy + ratio**2 * sums.yy) / denominator**2)
    return Spread(stages, np.nan_to_num(z), squares, sums.records)


def total_spread(stages: tuple[Stage, ...], sums: Matrices) -> Spread:
    """The spread of totals Σwx."""
    return Spread(stages, sums.x, sums.xx, sums.records)


def share_spread(stages: tuple[Stage, ...], cells: Matrices, wholes: Matrices, share: Floats) -> Spread:
    """The spread of shares Σwxδ / Σwxδ_base, where the records of a cell are part of its base.

    Args:
        stages: How units were drawn.
        cells: The sums of the cells.
        wholes: The sums of each cell's base, shape like `cells`.
        share: The shares, shape (cells,).
    """
    denominator = wholes.x.sum(axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = (cells.x - share * wholes.x) / denominator
        squares = None
        if cells.xx is not None and wholes.xx is not None:
            squares = np.nan_to_num((cells.xx * (1 - 2 * share) + share**2 * wholes.xx) / denominator**2)
    inner = (share > 0) & (share < 1)
    of_cell, of_base = (stages[0].by_group(stages[0].by_part(one.records)) for one in (cells, wholes))
    known = inner & ((of_cell == 0) | (of_cell == of_base)).all(axis=0)
    return Spread(stages, np.nan_to_num(z), squares, wholes.records, known=known)
