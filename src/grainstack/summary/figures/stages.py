"""The stages a sample was drawn in: which units were drawn of how many, and what is left of them in a cell.

At the first stage units are drawn within strata; at each later one within the units drawn before (Cochran 1977,
chapter 11). The last stage may draw single records.
"""

from collections.abc import Sequence

import numpy as np
import numpy.typing as npt
from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.option_names import option
from grainstack.summary.sums.design import DesignSums
from grainstack.summary.sums.exact import Floats, Integers


class Stage(Struct, frozen=True):
    """One stage of drawing.

    Attributes:
        drawn: Units drawn in each group (a stratum, later a unit drawn before), shape (groups,).
        fraction: The share of its units that were drawn in each group, 0 where that is not known, shape (groups,).
        reached: The product of the fractions of all stages before, shape (groups,).
        group_of: The group of each part, shape (parts,). A part is a unit drawn, or all records of a group together.
        part_of: The part each unit of the design's sums belongs to, shape (units,).
        of_records: Whether single records were drawn: a part is then a whole group.
    """

    drawn: Integers
    fraction: Floats
    reached: Floats
    group_of: Integers
    part_of: Integers
    of_records: bool

    @property
    def factor(self) -> Floats:
        """What squared deviations in each group are multiplied by, shape (groups,).

        The fractions of the stages before times (1 − f) · n / (n − 1); without n / (n − 1) in a group of one unit.
        """
        spread = np.where(self.drawn > 1, self.drawn / np.maximum(self.drawn - 1, 1), 1.0)
        return np.asarray(self.reached * (1 - self.fraction) * spread)

    def spread_of(self, amounts: Floats) -> float:
        """What amounts per unit of the sums add to a variance or covariance."""
        return float(self.factor @ self.by_group(self.by_part(amounts[:, None]))[:, 0])

    def by_part(self, amounts: npt.NDArray[np.generic]) -> Floats:
        """Amounts per unit of the sums added up per part, shape (parts, cells)."""
        return _added(amounts, self.part_of, len(self.group_of))

    def by_group(self, amounts: npt.NDArray[np.generic]) -> Floats:
        """Amounts per part added up per group, shape (groups, cells)."""
        return _added(amounts, self.group_of, len(self.drawn))


def stages_of(design: DesignSums, names: tuple[str, ...]) -> tuple[Stage, ...]:
    """The stages that a design's sums tell of, the first one first.

    Args:
        design: The sums.
        names: The name of each stratum, by its code.

    Raises:
        RequestError: A group of one unit without a rule for it, or population sizes that cannot be.
    """
    request, keys = design.request, design.units.keys
    clusters = len(request.cluster)
    units = np.arange(len(keys), dtype=np.int64)
    reached = np.ones(int(keys[:, 0].max(initial=0)) + 1)
    group_of_unit = keys[:, 0]  # at the first stage the groups are the strata, by their codes
    stages = []
    for depth in range(max(clusters, 1) if not request.draws_records else clusters + 1):
        of_records = depth == clusters
        if of_records:
            parts, part_of = units, units
        else:
            _, parts, back = np.unique(keys[:, : depth + 2], axis=0, return_index=True, return_inverse=True)
            part_of = np.asarray(back).reshape(-1)
        group_of = group_of_unit[parts]
        groups = len(reached)
        drawn = np.bincount(group_of, design.seen if of_records else None, groups).astype(np.int64)
        where = _Where(design, depth, names, "record" if of_records else "cluster")
        fraction = np.zeros(groups)
        if depth < len(request.population):
            fraction = where.fractions(group_of_unit, drawn)
        where.check_single(drawn, fraction, group_of_unit)
        stages.append(Stage(drawn, fraction, reached, group_of, part_of, of_records))
        reached, group_of_unit = (reached * fraction)[group_of], part_of
    return tuple(stages)


def domain_degrees(stages: Sequence[Stage], records: Integers) -> Floats:
    """Degrees of freedom of each domain: units that hold a record of it less the groups that do.

    Korn & Graubard 1999, section 5.2. Where all units of a group were drawn, nothing varies from unit to unit and the
    stage below counts in its place.

    Args:
        stages: The stages.
        records: Records of each domain in each unit of the design's sums, shape (units, domains).

    Returns:
        Shape (domains,), never below 0.
    """
    degrees = np.zeros(records.shape[1])
    counting = np.ones(len(stages[0].drawn), dtype=bool)
    for place, stage in enumerate(stages):
        parts = stage.by_part(records)
        units = stage.by_group(parts if stage.of_records else (parts > 0).astype(np.float64))
        below = (stage.fraction >= 1) & (place + 1 < len(stages))
        here = counting & ~below
        degrees += np.maximum(units[here] - 1, 0).sum(axis=0)
        counting = (counting & below)[stage.group_of]
    return degrees


class _Where(Struct, frozen=True):
    """One stage in messages and checks."""

    design: DesignSums
    depth: int
    names: tuple[str, ...]
    unit: str

    def fractions(self, group_of_unit: Integers, drawn: Integers) -> Floats:
        """Units drawn of all there are, shape (groups,).

        Raises:
            RequestError: A population that differs within a group, or is smaller than what was drawn of it.
        """
        column = self.design.request.population[self.depth]
        low, high = np.full(len(drawn), np.inf), np.full(len(drawn), -np.inf)
        np.minimum.at(low, group_of_unit, self.design.lowest[:, self.depth])
        np.maximum.at(high, group_of_unit, self.design.highest[:, self.depth])
        for group in np.flatnonzero(low < high).tolist():
            raise RequestError(
                f"`{column}` has different values in {self._named(group, group_of_unit)}: {low[group]:g} and "
                f"{high[group]:g}.",
                f"It has to give the same number of {self.unit}s for every record of a {self._group}.",
            )
        for group in np.flatnonzero((high < drawn) & (drawn > 0)).tolist():
            raise RequestError(
                f"`{column}`: {high[group]:g} {self.unit}s in {self._named(group, group_of_unit)}, but "
                f"{drawn[group]:,} were drawn.",
                "Correct the population sizes.",
            )
        with np.errstate(invalid="ignore", divide="ignore"):
            return np.where(drawn > 0, drawn / high, 0.0)

    def check_single(self, drawn: Integers, fraction: Floats, group_of_unit: Integers) -> None:
        """Refuses groups of a single unit, unless it was said what to do with them.

        Raises:
            RequestError: Names the first.
        """
        lone = np.flatnonzero((drawn == 1) & (fraction < 1))
        if len(lone) and self.design.request.single_cluster == "error":
            named = self._named(int(lone[0]), group_of_unit)
            raise RequestError(
                f"{named[:1].upper()}{named[1:]} has a single {self.unit}, so it has no variance.",
                f"Merge it with a like {self._group} ({option('recode')}), or {option('single_cluster', 'centred')}.",
            )

    @property
    def _group(self) -> str:
        return "cluster" if self.depth else "stratum"

    def _named(self, group: int, group_of_unit: Integers) -> str:
        if not self.depth:
            return f"stratum {self.names[group]}" if self.names else "the sample"
        key = self.design.units.keys[int(np.flatnonzero(group_of_unit == group)[0])]
        within = f" of stratum {self.names[key[0]]}" if self.names else ""
        return f"a cluster (`{self.design.request.cluster[self.depth - 1]}`){within}"


def _added(amounts: npt.NDArray[np.generic], places: Integers, count: int) -> Floats:
    """Rows of amounts added up by place, shape (count, cells)."""
    columns = [np.bincount(places, column, count) for column in np.asarray(amounts, dtype=np.float64).T]
    return np.column_stack(columns) if columns else np.zeros((count, 0))
