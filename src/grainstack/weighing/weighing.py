"""Records that stand for known totals: from targets to a factor for each combination of their levels."""

from collections.abc import Sequence
from itertools import product

import numpy as np
from msgspec import Struct

from grainstack.errors import RequestError, listed, nearest
from grainstack.option_names import option
from grainstack.summary.calibration import Margin, calibrated
from grainstack.summary.table import SummaryTable
from grainstack.weighing.targets import Target

_APART = 0.005  # by how much grand totals may differ and still be one, rounded by whoever published them


class Group(Struct, frozen=True):
    """One known total and what became of it.

    Attributes:
        target: What it is a total of: `Route`.
        level: The level, or the combination of levels.
        records: How many records it has.
        before: Their starting weight.
        total: Its target.
    """

    target: str
    level: str
    records: int
    before: float
    total: float

    @property
    def factor(self) -> float:
        """What its starting weights are multiplied by on average."""
        return self.total / self.before


class Weighing(Struct, frozen=True):
    """Factors for starting weights, and what they do.

    Attributes:
        factors: The factor of each combination of levels that records have.
        groups: The known totals.
        rounds: How many rounds it took.
        shares: Whether targets were shares of the whole rather than totals.
        kish: What unequal weights multiply variances by, n Σw² / (Σw)² (Kish 1965), before and after.
    """

    factors: dict[tuple[str, ...], float]
    groups: tuple[Group, ...]
    rounds: int
    shares: bool
    kish: tuple[float, float]


def weighed(table: SummaryTable, targets: Sequence[Target], bounds: tuple[float, float] | None) -> Weighing:
    """Factors with which the weights of records add to all targets.

    Args:
        table: How many records, and how much weight, each combination of the levels of all target columns has.
        targets: What is known.
        bounds: Between which factors stay; None for no bounds.

    Raises:
        RequestError: A level without a target or a target without records, or totals that cannot be met.
    """
    met = np.flatnonzero(table.columns[0].records > 0)
    start = table.columns[0].estimate[met]
    levels = [tuple(level.label for level in table.levels_of(int(cell))) for cell in met]
    names = [dimension.variable.name for dimension in table.dimensions]
    codes = [tuple(level.code for level in table.levels_of(int(cell))) for cell in met]
    margins = [_margin(target, names, levels, codes) for target in targets]
    margins, shares = _as_totals(margins, float(start.sum()))
    found = calibrated(start, margins, bounds)
    groups = []
    for target, margin in zip(targets, margins, strict=True):
        label = " × ".join(table.dimensions[names.index(name)].variable.label for name in target.columns)
        records = np.bincount(margin.of_cell, table.columns[0].records[met], len(margin.totals))
        before = np.bincount(margin.of_cell, start, len(margin.totals))
        rows = zip(margin.groups, records.tolist(), before.tolist(), margin.totals.tolist(), strict=True)
        groups += [Group(label, level, int(n), float(weight), float(total)) for level, n, weight, total in rows]
    records = table.columns[0].records[met]
    effects = np.nan_to_num(table.columns[0].weighting_effect[met], nan=1.0)
    n, mine = float(records.sum()), effects * start**2 / records  # Σw² of each cell, from its own effect
    after = start * found.factors
    kish = (n * mine.sum() / start.sum() ** 2, n * (mine * found.factors**2).sum() / after.sum() ** 2)
    factors = dict(zip(levels, found.factors.tolist(), strict=True))
    return Weighing(factors, tuple(groups), found.rounds, shares, (float(kish[0]), float(kish[1])))


def _margin(
    target: Target, names: Sequence[str], levels: Sequence[tuple[str, ...]], codes: Sequence[tuple[str, ...]]
) -> Margin:
    """The groups of a target, and the group of each cell.

    Raises:
        RequestError: A level of the records has no target, or a target no records.
    """
    axes = [names.index(name) for name in target.columns]
    wanted = list(target.totals)
    of_cell: list[int] = []
    lacking: dict[str, None] = {}
    for label, code in zip(levels, codes, strict=True):
        names_of = [(label[axis], code[axis]) for axis in axes]
        key = next((key for key in product(*names_of) if key in target.totals), None)
        if key is None:
            lacking[", ".join(label[axis] for axis in axes)] = None
            continue
        of_cell.append(wanted.index(key))
    if lacking:
        known = [", ".join(one) for one in wanted]
        raise RequestError(
            f"There is no target for {listed([f'`{name}`' for name in lacking])} of `{target.name}`.",
            nearest(next(iter(lacking)), known)
            or f"Give it one, merge it ({option('recode')}), or leave its records out ({option('except_')}).",
        )
    without = [", ".join(one) for place, one in enumerate(wanted) if place not in of_cell]
    if without:
        raise RequestError(
            f"No record has {listed([f'`{name}`' for name in without])} of `{target.name}`, though a target has it.",
            f"Nothing can be made to stand for it: merge it with a like one ({option('recode')}) and add the totals.",
        )
    totals = np.array([target.totals[one] for one in wanted], dtype=np.float64)
    places = np.array(of_cell, dtype=np.int64)
    return Margin(target.name, tuple(", ".join(one) for one in wanted), places, totals)


def _as_totals(margins: list[Margin], whole: float) -> tuple[list[Margin], bool]:
    """Targets that all add to the same; shares of 100 or of 1 become those of the starting weights.

    Raises:
        RequestError: Their sums differ.
    """
    sums = [float(margin.totals.sum()) for margin in margins]
    shares = all(abs(total - 100) < 0.5 for total in sums) or all(abs(total - 1) < 0.005 for total in sums)
    if not shares and max(sums) > min(sums) * (1 + _APART):
        said = " and ".join(f"{total:,.10g} ({margin.name})" for total, margin in zip(sums, margins, strict=True))
        raise RequestError(f"The targets add to {said}.", "They are totals of the same records, so make them agree.")
    aim = whole if shares else sums[0]
    found = [
        Margin(m.name, m.groups, m.of_cell, m.totals * (aim / total)) for m, total in zip(margins, sums, strict=True)
    ]
    return found, shares
