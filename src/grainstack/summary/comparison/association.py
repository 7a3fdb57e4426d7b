"""Whether two columns have to do with each other: Pearson's test, corrected for a survey design."""

from collections.abc import Sequence
from itertools import groupby

import numpy as np
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.language import phrase, raised, with_signs
from grainstack.summary.comparison.tested import Association
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.inference import inferred
from grainstack.summary.special import special
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.summary_request import Figure
from grainstack.summary.sums.exact import Floats


def association_of(estimator: Estimator, rows: int, columns: int, panel: str = "") -> Association:
    """Tests rows against columns of a table of counts.

    Without a design Pearson's X² (Pearson 1900); with one the second-order correction of Rao & Scott (1981, 1984),
    referred to F (Thomas & Rao 1987).

    Args:
        estimator: The sums of the cells, row by row.
        rows: How many rows there are.
        columns: How many columns there are.
        panel: The panel these cells are of; empty where there are none.

    Raises:
        RequestError: A single row or column has records.
    """
    moments = estimator.moments(None)
    n = int(moments.records.sum())
    full = moments.weight.reshape(rows, columns) * (n / moments.weight.sum() if n else 1.0)
    kept = np.ix_(full.sum(axis=1) > 0, full.sum(axis=0) > 0)
    table = full[kept]
    degrees = (table.shape[0] - 1) * (table.shape[1] - 1)
    if degrees < 1:
        where = f" in {panel}" if panel else ""
        raise RequestError(f"An association needs two rows and two columns with records{where}.", "Loosen the filters.")
    statistic, expected = pearson(table)
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
            p=p_in_words(p),
            strength=sentence,
        )
        return Association(statistic, (float(degrees),), p, strength, least, words, panel)
    cells = np.arange(full.size).reshape(full.shape)[kept].ravel().tolist()
    figures = inferred(Figure(STATISTICS["share"], None), estimator)
    effects = design_effects(figures.covariances(cells), table[None] / n, n)
    corrected = _corrected(statistic, effects, float(figures.degrees[cells[0]]))
    words = phrase(
        "Pearson's X² = {value}, corrected for the design (Rao–Scott, second order): F = {ratio} with {first} and "
        "{second} degrees of freedom, {p}; {strength}",
        value=value,
        strength=sentence,
        **corrected.in_words(),
    )
    return Association(corrected.ratio, corrected.degrees, corrected.p, strength, least, words, panel)


def pooled_association(estimator: Estimator, panels: int, rows: int, columns: int) -> Association:
    """Tests rows against columns within panels, all panels together.

    Without a design the generalised test of Cochran, Mantel and Haenszel (Landis, Heyman & Koch 1978, statistic of
    general association); with one the same sum of departures from independence within panels, with the second-order
    correction of Rao & Scott (1984).

    Args:
        estimator: The sums of the cells, panel by panel and row by row.
        panels: How many panels there are.
        rows: How many rows there are.
        columns: How many columns there are.

    Raises:
        RequestError: A single row or column has records.
    """
    moments = estimator.moments(None)
    n = int(moments.records.sum())
    full = moments.weight.reshape(panels, rows, columns) * (n / moments.weight.sum())
    whole = full.sum(axis=0)
    kept = np.ix_(full.sum(axis=(1, 2)) > 0, whole.sum(axis=1) > 0, whole.sum(axis=0) > 0)
    tables = full[kept]
    degrees = (tables.shape[1] - 1) * (tables.shape[2] - 1)
    if degrees < 1:
        raise RequestError("An association needs two rows and two columns with records.", "Loosen the filters.")
    least = float(min(pearson(table)[1].min() for table in tables))
    if not estimator.request.design.is_complex:
        statistic = mantel_haenszel(tables)
        p = float(special().chdtrc(degrees, statistic))
        words = phrase(
            "within all panels together: Cochran–Mantel–Haenszel statistic of general association = {value} with "
            "{degrees} degrees of freedom, {p}",
            value=with_signs(f"{statistic:.2f}"),
            degrees=degrees,
            p=p_in_words(p),
        )
        return Association(statistic, (float(degrees),), p, float("nan"), least, words)
    cells = np.arange(full.size).reshape(full.shape)[kept].ravel().tolist()
    figures = inferred(Figure(STATISTICS["share"], None), estimator)
    shares = tables / n
    departures = _departures(shares)
    statistic = float(n * departures @ np.linalg.pinv(_under_independence(shares)) @ departures)
    effects = design_effects(figures.covariances(cells), shares, n)
    corrected = _corrected(statistic, effects, float(figures.degrees[cells[0]]))
    words = phrase(
        "within all panels together: X² of the departures from independence added up over panels = {value}, corrected "
        "for the design (Rao–Scott, second order): F = {ratio} with {first} and {second} degrees of freedom, {p}",
        value=with_signs(f"{statistic:.2f}"),
        **corrected.in_words(),
    )
    return Association(corrected.ratio, corrected.degrees, corrected.p, float("nan"), least, words)


class _Corrected(Struct, frozen=True):
    """A statistic as F, with its degrees of freedom and p-value."""

    ratio: float
    degrees: tuple[float, float]
    p: float

    def in_words(self) -> dict[str, str]:
        first, second = self.degrees
        return {
            "ratio": with_signs(f"{self.ratio:.2f}"),
            "first": with_signs(f"{first:.2f}"),
            "second": with_signs(f"{second:.1f}"),
            "p": p_in_words(self.p),
        }


def _corrected(statistic: float, effects: Floats, degrees_of_design: float) -> _Corrected:
    """The second-order correction of Rao & Scott: X² divided by its mean design effect, degrees by their unevenness."""
    degrees = len(effects)
    mean = float(effects.sum()) / degrees
    uneven = max(float((effects**2).sum()) / (degrees * mean**2) - 1, 0.0)
    first = degrees / (1 + uneven)
    second = first * max(degrees_of_design, 1.0)
    ratio = statistic / (mean * (1 + uneven)) / first
    return _Corrected(ratio, (first, second), float(special().fdtrc(first, second, ratio)))


def mantel_haenszel(tables: Floats) -> float:
    """The statistic of general association within strata (Landis, Heyman & Koch 1978, section 3).

    Args:
        tables: Counts, shape (strata, rows, columns).
    """
    free = (tables.shape[1] - 1) * (tables.shape[2] - 1)
    departures, covariance = np.zeros(free), np.zeros((free, free))
    for table in tables:
        n = table.sum()
        if n > 1:
            departures += (table - pearson(table)[1])[:-1, :-1].ravel()
            row, column = table.sum(axis=1) / n, table.sum(axis=0) / n
            covariance += n**2 / (n - 1) * np.kron(_multinomial(row), _multinomial(column))
    return float(departures @ np.linalg.pinv(covariance) @ departures)


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

    With h_ij = Σ_k (p_kij − p_ki· p_k·j / p_k··) over panels k they are the eigenvalues of n P⁻¹ V_h, where V_h is the
    covariance of the h under the design and P/n the one under simple random sampling of independent rows and columns
    (Rao & Scott 1981, section 4, for one panel).

    Args:
        covariance: The design-based covariance of the shares of all cells, panel by panel and row by row, shape (cells,
            cells).
        shares: Shares of all records, shape (panels, rows, columns); every row and column has some.
        n: How many records there are.
    """
    panels, rows, columns = shares.shape
    free = [i * columns + j for i in range(rows - 1) for j in range(columns - 1)]
    slopes = np.zeros((panels, rows, columns, rows * columns))
    for k, table in enumerate(shares):
        whole = table.sum()
        row, column = table.sum(axis=1) / whole, table.sum(axis=0) / whole
        for a in range(rows):
            for b in range(columns):
                of_cell = np.outer(row, column)
                of_cell[a] -= column
                of_cell[:, b] -= row
                of_cell[a, b] += 1
                slopes[k, a, b] = of_cell.ravel()
    taken = slopes.reshape(-1, rows * columns)[:, free]
    of_h = taken.T @ covariance @ taken
    return np.real(np.linalg.eigvals(np.linalg.pinv(_under_independence(shares) / n) @ of_h))


def _departures(shares: Floats) -> Floats:
    """The departures from independence within panels, added up over them, without the last row and column."""
    return np.asarray(sum((table - pearson(table)[1])[:-1, :-1].ravel() for table in shares))


def _under_independence(shares: Floats) -> Floats:
    """The covariance of the departures of one record where rows and columns are independent within panels."""
    return np.asarray(
        sum(
            table.sum()
            * np.kron(_multinomial(table.sum(axis=1) / table.sum()), _multinomial(table.sum(axis=0) / table.sum()))
            for table in shares
        )
    )


def _multinomial(shares: Floats) -> Floats:
    """diag(p) − ppᵀ of all shares but the last."""
    first = shares[:-1]
    return np.asarray(np.diag(first) - np.outer(first, first))


def associations_in_words(found: Sequence[Association]) -> list[str]:
    """Each test as a sentence; those of the answers of a question as one."""
    sentences: list[str] = []
    for panel, one in groupby(found, key=lambda test: test.panel):
        tests = list(one)
        words = "; ".join(test.words for test in tests)
        if tests[0].answer:
            words = phrase(
                "each answer tested on its own, p-values adjusted together by Holm's method: {tests}", tests=words
            )
        sentences.append(f"{panel}: {words}" if panel else raised(words))
    return sentences


def p_in_words(p: float) -> str:
    """A p-value: `p = 0.012`, or `p < 0.001`."""
    return f"p < {with_signs('0.001')}" if p < 0.001 else f"p = {with_signs(f'{p:.3f}')}"
