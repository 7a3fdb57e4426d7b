"""Whether two columns have to do with each other: Pearson's test, corrected for a survey design."""

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase, with_signs
from grainstack.summary.comparison.tested import Association
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.special import special
from grainstack.summary.sums.exact import Floats


def association_of(estimator: Estimator, rows: int, columns: int) -> Association:
    """Tests rows against columns of a table of counts.

    Without a design Pearson's X² (Pearson 1900); with one the second-order correction of Rao & Scott (1981, 1984),
    referred to F (Thomas & Rao 1987).

    Args:
        estimator: The sums of the cells, row by row.
        rows: How many rows there are.
        columns: How many columns there are.
    """
    moments = estimator.moments(None)
    n = int(moments.records.sum())
    full = moments.weight.reshape(rows, columns) * (n / moments.weight.sum())
    kept = np.ix_(full.sum(axis=1) > 0, full.sum(axis=0) > 0)
    table = full[kept]
    statistic, expected = pearson(table)
    degrees = (table.shape[0] - 1) * (table.shape[1] - 1)
    if not degrees:
        raise RequestError("An association needs two rows and two columns with records.", "Loosen the filters.")
    strength = float(np.sqrt(statistic / (n * min(table.shape[0] - 1, table.shape[1] - 1))))
    least = float(expected.min())
    sentence = phrase("Cramér's V = {value}", value=with_signs(f"{strength:.2f}"))
    if least < 5:
        few = with_signs(f"{least:.1f}")
        sentence += phrase("; the smallest expected count is {count}, so the test is rough", count=few)
    value = with_signs(f"{statistic:.2f}")
    if not estimator.request.design.is_complex:
        p = float(special().chdtrc(degrees, statistic))
        words = phrase(
            "Pearson's X² = {value} with {degrees} degrees of freedom, {p}; {strength}",
            value=value,
            degrees=degrees,
            p=_p_words(p),
            strength=sentence,
        )
        return Association(statistic, (float(degrees),), p, strength, least, words)
    cells = np.arange(full.size).reshape(full.shape)[kept].ravel()
    covariance = estimator.share_covariance()[np.ix_(cells, cells)]
    effects = design_effects(covariance, table / n, n)
    mean = float(effects.sum()) / degrees
    uneven = max(float((effects**2).sum()) / (degrees * mean**2) - 1, 0.0)
    first = degrees / (1 + uneven)
    second = first * max(estimator.degrees_of_all(), 1.0)
    ratio = statistic / (mean * (1 + uneven)) / first
    p = float(special().fdtrc(first, second, ratio))
    words = phrase(
        "Pearson's X² = {value}, corrected for the design (Rao–Scott, second order): F = {ratio} with {first} and "
        "{second} degrees of freedom, {p}; {strength}",
        value=value,
        ratio=with_signs(f"{ratio:.2f}"),
        first=with_signs(f"{first:.2f}"),
        second=with_signs(f"{second:.1f}"),
        p=_p_words(p),
        strength=sentence,
    )
    return Association(ratio, (first, second), p, strength, least, words)


def pearson(table: Floats) -> tuple[float, Floats]:
    """Pearson's X² of a table of counts, and the counts expected if rows and columns were independent.

    Args:
        table: Counts, shape (rows, columns).
    """
    expected = np.outer(table.sum(axis=1), table.sum(axis=0)) / table.sum()
    with np.errstate(invalid="ignore", divide="ignore"):
        parts = np.where(expected > 0, (table - expected) ** 2 / expected, 0.0)
    return float(parts.sum()), expected


def design_effects(covariance: Floats, shares: Floats, n: int) -> Floats:
    """The generalised design effects δ of the test of independence, shape ((rows − 1) · (columns − 1),).

    With h_ij = p_ij − p_i· p_·j they are the eigenvalues of n (P_r ⊗ P_c)⁻¹ V_h, where V_h is the covariance of the h
    under the design and (P_r ⊗ P_c)/n the one under simple random sampling of independent rows and columns (Rao & Scott
    1981, section 4).

    Args:
        covariance: The design-based covariance of the shares of all cells, row by row, shape (cells, cells).
        shares: Shares of all records, shape (rows, columns); every row and column has some.
        n: How many records there are.
    """
    rows, columns = shares.shape
    row, column = shares.sum(axis=1), shares.sum(axis=0)
    slopes = np.eye(rows * columns)
    for cell in range(rows * columns):
        i, j = divmod(cell, columns)
        slopes[cell] -= np.kron(np.eye(rows)[i], np.full(columns, column[j]))
        slopes[cell] -= np.kron(np.full(rows, row[i]), np.eye(columns)[j])
    free = [i * columns + j for i in range(rows - 1) for j in range(columns - 1)]
    of_h = slopes[free] @ covariance @ slopes[free].T
    plain = np.kron(_multinomial(row), _multinomial(column)) / n
    return np.real(np.linalg.eigvals(np.linalg.solve(plain, of_h)))


def _multinomial(shares: Floats) -> Floats:
    """diag(p) − ppᵀ of all shares but the last."""
    first = shares[:-1]
    return np.asarray(np.diag(first) - np.outer(first, first))


def _p_words(p: float) -> str:
    return f"p < {with_signs('0.001')}" if p < 0.001 else f"p = {with_signs(f'{p:.3f}')}"
