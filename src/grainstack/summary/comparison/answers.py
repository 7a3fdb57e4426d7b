"""Whether the answers of a question with several have to do with another column: a test for each of them."""

from collections.abc import Sequence

import numpy as np

from grainstack.errors import RequestError
from grainstack.language import phrase, with_signs
from grainstack.option_names import command, option
from grainstack.summary.comparison.association import p_in_words, pearson
from grainstack.summary.comparison.differences import holm
from grainstack.summary.comparison.tested import Association
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.inference import Inference, inferred
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.special import special
from grainstack.summary.statistics import STATISTICS
from grainstack.summary.summary_request import Figure
from grainstack.summary.table import Role


def associations_of_answers(cells: ShownCells, estimator: Estimator) -> tuple[Association, ...]:
    """Tests, panel by panel and answer by answer, whether as many give the answer in each group.

    Without a design Pearson's X² of who gave it and who did not; with one a Wald test of the shares and their
    covariances under the design, referred to F (Korn & Graubard 1990). The p-values of a panel are adjusted together
    (Holm 1979).

    Args:
        cells: The cells shown, of one column with several answers and one without.
        estimator: Their sums.

    Raises:
        RequestError: Both columns have several answers, or there are too few groups.
    """
    answers, groups = cells.axes(Role.CATEGORY, Role.SERIES)
    if cells.dimensions[groups].several:
        answers, groups = groups, answers
    if cells.dimensions[groups].several:
        raise RequestError(
            f"{option('association')}: records can have several answers in both columns.",
            f"Test one answer at a time, as a column of its own: {command('derive')}.",
        )
    panels = cells.axes(Role.PANEL)
    estimator = estimator.regrouped(cells.grouping([*panels, groups]))
    shares = inferred(Figure(STATISTICS["share"], None), estimator)
    found = []
    for panel, label in enumerate([one.label for axis in panels for one in cells.dimensions[axis].levels] or [""]):
        tested = []
        for answer, level in enumerate(cells.dimensions[answers].levels[: cells.dimensions[answers].plain]):
            inside = (cells.grid[:, answers] == answer) & (cells.grid[:, groups] < cells.dimensions[groups].plain)
            for axis in panels:
                inside &= cells.grid[:, axis] == panel
            members = [cell for cell in np.flatnonzero(inside).tolist() if shares.base[cell] > 0]
            tested.append((level.label, *_equal_shares(shares, members)))
        adjusted = holm([p for *_, p in tested])
        nothing = float("nan")
        for (name, statistic, degrees, _), p in zip(tested, adjusted, strict=True):
            words = _words(name, statistic, degrees, p)
            found.append(Association(statistic, degrees, p, nothing, nothing, words, label, name))
    return tuple(found)


def _equal_shares(shares: Inference, cells: Sequence[int]) -> tuple[float, tuple[float, ...], float]:
    """A statistic of equal shares in some cells, its degrees of freedom, and its p-value.

    Raises:
        RequestError: There are fewer than two groups, or more than the design has degrees of freedom for.
    """
    if len(cells) < 2:
        raise RequestError("An association needs two groups with records.", "Loosen the filters.")
    if not shares.is_complex:
        hits, base = shares.records[list(cells)], shares.base[list(cells)]
        statistic = pearson(np.array([hits, base - hits], dtype=float))[0]
        return statistic, (len(cells) - 1.0,), float(special().chdtrc(len(cells) - 1, statistic))
    covariance = shares.covariances(cells)
    apart = np.eye(len(cells))[1:] - np.eye(len(cells))[0]
    differences = apart @ shares.estimate[list(cells)]
    wald = float(differences @ np.linalg.pinv(apart @ covariance @ apart.T) @ differences)
    first, of_design = len(cells) - 1, shares.joint_degrees(cells)
    second = of_design - first + 1
    if second < 1:
        raise RequestError(
            f"{option('association')}: {len(cells)} groups are more than the design has degrees of freedom for.",
            f"Merge some of them: {option('recode')}.",
        )
    ratio = wald * second / (of_design * first)
    return ratio, (float(first), second), float(special().fdtrc(first, second, ratio))


def _words(answer: str, statistic: float, degrees: Sequence[float], p: float) -> str:
    value = with_signs(f"{statistic:.2f}")
    if len(degrees) == 1:
        return phrase(
            "{answer} X² = {value} with {degrees} degrees of freedom, {p}",
            answer=answer,
            value=value,
            degrees=f"{degrees[0]:.0f}",
            p=p_in_words(p),
        )
    return phrase(
        "{answer} F = {ratio} with {first} and {second} degrees of freedom, {p}",
        answer=answer,
        ratio=value,
        first=f"{degrees[0]:.0f}",
        second=with_signs(f"{degrees[1]:.0f}"),
        p=p_in_words(p),
    )
