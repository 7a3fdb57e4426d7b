"""Variance of ratios and totals under a survey design, by linearisation.

For a ratio R = Σwx / Σwy the linearised value of a record is z = w(x − R·y) / Σwy; for a total it is z = wx. With
strata h of n_h units, sampling fraction f_h and unit totals z_hc (Cochran 1977, section 6; Wolter 2007, chapter 6):

    v = Σ_h (1 − f_h) · n_h / (n_h − 1) · Σ_c (z_hc − z̄_h)²
"""

import numpy as np
import numpy.typing as npt

from grainstack.errors import RequestError
from grainstack.quick import dataclass
from grainstack.speech import option
from grainstack.summary.sums.design import DesignSums, Pair
from grainstack.summary.sums.exact import ExactSums, Floats, Integers


@dataclass(frozen=True, slots=True)
class Strata:
    """The strata of a design.

    Attributes:
        units: Units drawn in each, shape (strata,).
        fraction: Sampling fraction of each, 0 where the population is not known.
        single: How a stratum of one unit is treated: `error` or `centred`.
        names: Their names.
    """

    units: Integers
    fraction: Floats
    single: str
    names: tuple[str, ...]

    @property
    def factor(self) -> Floats:
        """(1 − f) · n / (n − 1), shape (strata,); 1 − f in a stratum of one unit."""
        return np.asarray(
            (1 - self.fraction) * np.where(self.units > 1, self.units / np.maximum(self.units - 1, 1), 1.0)
        )

    @property
    def degrees(self) -> int:
        """Degrees of freedom: units less strata."""
        return max(int(self.units.sum()) - len(self.units), 1)


def strata_of(design: DesignSums, names: tuple[str, ...]) -> Strata:
    """The strata met by a design's sums.

    Args:
        design: The sums.
        names: The name of each stratum, by its code.

    Raises:
        RequestError: A stratum of one unit without a rule for it, or population sizes that cannot be.
    """
    codes = design.units.keys[:, 0]
    count = int(codes.max(initial=0)) + 1
    by_record = not design.request.cluster
    units = np.bincount(codes, design.seen if by_record else None, count).astype(np.int64)
    fraction = np.zeros(count)
    for stratum, sizes in design.populations.items():
        size = max(sizes)
        said = names[stratum] if names else "the population"
        if len(sizes) > 1:
            raise RequestError(
                f"`{design.request.population}` has {len(sizes)} different values in stratum {said}.",
                "It has to give the same number of units for every record of a stratum.",
            )
        if not size >= units[stratum]:
            raise RequestError(
                f"`{design.request.population}`: {size:g} units in stratum {said}, but {units[stratum]:,} were drawn.",
                "Correct the population sizes.",
            )
        fraction[stratum] = units[stratum] / size
    lone = np.flatnonzero(units == 1)
    if len(lone) and design.request.single_cluster == "error" and (fraction[lone] < 1).any():
        said = names[lone[0]] if names else "the sample"
        raise RequestError(
            f"Stratum {said} has a single {'record' if by_record else 'cluster'}, so it has no variance.",
            f"Merge it with a like stratum ({option('recode')}), or use {option('single_cluster')} centred.",
        )
    return Strata(units, fraction, design.request.single_cluster, names)


@dataclass(frozen=True, slots=True)
class Spread:
    """The linearised values of some cells' figures, ready for variances and covariances.

    Attributes:
        strata: The strata.
        of_unit: The stratum of each unit, shape (units,).
        units: z summed per unit, shape (units, cells); only where clusters were drawn.
        totals: z summed per stratum, shape (strata, cells).
        squares: Σz² per stratum, shape (strata, cells).
    """

    strata: Strata
    of_unit: Integers
    units: Floats | None
    totals: Floats
    squares: Floats

    @property
    def variance(self) -> Floats:
        """V of each cell, shape (cells,)."""
        spread = self.squares - self.totals**2 / self._counts
        lone = self.strata.units == 1
        spread[lone] = self._apart(lone) ** 2
        return np.maximum(self.strata.factor @ spread, 0.0)

    def covariance(self, one: int, other: int) -> float:
        """The covariance of two cells that share no record; those of a cluster count together."""
        shared = np.zeros(len(self.strata.units))
        if self.units is not None:
            np.add.at(shared, self.of_unit, self.units[:, one] * self.units[:, other])
        spread = shared - self.totals[:, one] * self.totals[:, other] / self._counts[:, 0]
        lone = self.strata.units == 1
        apart = self._apart(lone)
        spread[lone] = apart[:, one] * apart[:, other]
        return float(self.strata.factor @ spread)

    @property
    def _counts(self) -> Floats:
        return np.maximum(self.strata.units, 1).astype(float)[:, None]

    def _apart(self, lone: npt.NDArray[np.bool_]) -> Floats:
        """How far the units of strata with one unit are from the mean of all units, shape (lone strata, cells)."""
        return np.asarray(self.totals[lone] - self.totals.sum(axis=0) / max(int(self.strata.units.sum()), 1))


@dataclass(frozen=True, slots=True)
class Matrices:
    """The sums of a ratio per unit (or stratum) and cell shown.

    Attributes:
        x: Σwx, shape (units, cells).
        y: Σwy, shape (units, cells).
        xx: Σw²x², shape (units, cells); None where clusters were drawn. Likewise `xy` and `yy`.
    """

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
    sums = design.sums[pair]
    found = int(max(keys[:, 1].max(initial=-1), inside.max(initial=-1))) + 1
    units = len(design.units)

    def shown(one: ExactSums) -> Floats:
        table = np.zeros((units, found))
        table[keys[:, 0], keys[:, 1]] = one.values()
        result = np.zeros((count, units))
        np.add.at(result, places, table.T[inside])
        return result.T

    by_record = not design.request.cluster
    squares = [shown(one) if by_record else None for one in (sums.xx, sums.xy, sums.yy)]
    return Matrices(shown(sums.x), shown(sums.y), *squares)


def ratio_spread(design: DesignSums, strata: Strata, sums: Matrices, ratio: Floats, denominator: Floats) -> Spread:
    """The spread of ratios Σwx / Σwy.

    Args:
        design: Where units belong.
        strata: The strata.
        sums: The sums of the ratio.
        ratio: Σwx / Σwy of each cell, shape (cells,).
        denominator: Σwy of each cell, shape (cells,).
    """
    with np.errstate(invalid="ignore", divide="ignore"):
        z = (sums.x - ratio * sums.y) / denominator
        if sums.xx is None or sums.xy is None or sums.yy is None:
            return _of_units(design, strata, np.nan_to_num(z))
        squares = (sums.xx - 2 * ratio * sums.xy + ratio**2 * sums.yy) / denominator**2
    return _of_records(design, strata, np.nan_to_num(z), np.nan_to_num(squares))


def total_spread(design: DesignSums, strata: Strata, sums: Matrices) -> Spread:
    """The spread of totals Σwx."""
    if sums.xx is None:
        return _of_units(design, strata, sums.x)
    return _of_records(design, strata, sums.x, sums.xx)


def share_spread(design: DesignSums, strata: Strata, cells: Matrices, wholes: Matrices, share: Floats) -> Spread:
    """The spread of shares Σwxδ / Σwxδ_base, where the records of a cell are part of its base.

    Args:
        design: Where units belong.
        strata: The strata.
        cells: The sums of the cells.
        wholes: The sums of each cell's base, shape like `cells`.
        share: The shares, shape (cells,).
    """
    denominator = wholes.x.sum(axis=0)
    with np.errstate(invalid="ignore", divide="ignore"):
        z = (cells.x - share * wholes.x) / denominator
        if cells.xx is None or wholes.xx is None:
            return _of_units(design, strata, np.nan_to_num(z))
        squares = (cells.xx * (1 - 2 * share) + share**2 * wholes.xx) / denominator**2
    return _of_records(design, strata, np.nan_to_num(z), np.nan_to_num(squares))


def _of_units(design: DesignSums, strata: Strata, z: Floats) -> Spread:
    of_unit = design.units.keys[:, 0]
    count = len(strata.units)
    totals, squares = (np.zeros((count, z.shape[1])) for _ in range(2))
    np.add.at(totals, of_unit, z)
    np.add.at(squares, of_unit, z * z)
    return Spread(strata, of_unit, z, totals, squares)


def _of_records(design: DesignSums, strata: Strata, z: Floats, squares: Floats) -> Spread:
    of_unit = design.units.keys[:, 0]
    order = np.argsort(of_unit)
    full_z, full_squares = (np.zeros((len(strata.units), z.shape[1])) for _ in range(2))
    full_z[of_unit[order]], full_squares[of_unit[order]] = z[order], squares[order]
    return Spread(strata, of_unit, None, full_z, full_squares)


def share_covariance(design: DesignSums, strata: Strata, cells: Matrices, share: Floats) -> Floats:
    """The covariance of shares of one whole that all cells make up together, shape (cells, cells).

    Args:
        design: Where units belong.
        strata: The strata.
        cells: The sums of the cells.
        share: The shares, shape (cells,); they add up to 1.
    """
    whole = cells.x.sum(axis=1, keepdims=True)
    z = (cells.x - share * whole) / whole.sum()
    of_unit = design.units.keys[:, 0]
    result = np.zeros((len(share), len(share)))
    for stratum, (units, factor) in enumerate(zip(strata.units.tolist(), strata.factor.tolist(), strict=True)):
        mine = np.flatnonzero(of_unit == stratum)
        total = z[mine].sum(axis=0)
        if cells.xx is None:
            products = z[mine].T @ z[mine]
        else:
            own = cells.xx[mine].sum(axis=0)
            mixed = np.outer(share, own)
            products = (np.diag(own) - mixed - mixed.T + np.outer(share, share) * own.sum()) / whole.sum() ** 2
        result += factor * (products - np.outer(total, total) / max(units, 1))
    return result
