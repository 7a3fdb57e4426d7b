"""Where the figures of one table come from: the facts its sentences are made of."""

from collections.abc import Sequence

import numpy as np
from msgspec.structs import replace

from grainstack.errors import listed
from grainstack.language import in_words, phrase, phrases, with_signs
from grainstack.records.column_facts import ColumnFacts
from grainstack.records.readers.nets import nets_by_column
from grainstack.records.variable import EVERYTHING
from grainstack.summary.figures.small import least_shown
from grainstack.summary.levels.grouping import base_axes, base_of
from grainstack.summary.levels.shown_cells import ShownCells
from grainstack.summary.options import DesignRequest
from grainstack.summary.provenance import Origin, Provenance, Sampling
from grainstack.summary.statistics import GIVEN_AS
from grainstack.summary.summary_request import Purpose, SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator
from grainstack.summary.sums.design import Pair
from grainstack.summary.sums.exact import Floats, Integers
from grainstack.summary.table import Column, Flag, Role

_ALIKE = 1.05  # times the least share of a stratum that was drawn: closer ones are alike up to rounding


def provenance_of(
    totals: Accumulator,
    facts: ColumnFacts,
    origin: Origin,
    cells: ShownCells,
    columns: Sequence[Column],
) -> Provenance:
    """How a table was worked out, but for what was tested.

    Args:
        totals: All sums.
        facts: What is known of the columns.
        origin: Where the records came from.
        cells: The cells shown.
        columns: Their figures, those of hidden cells left out.
    """
    request = totals.request
    labels = {name: variable.in_sentence for name, variable in facts.variables.items()}
    shares = any(item.figure.statistic.name == "share" for item in columns)
    columns = [item for item in columns if item.figure.purpose is Purpose.SHOWN]
    pairs = {(item.figure.measure, item.figure.per) for item in columns}
    counted = next(iter(pairs)) if len(pairs) == 1 and (None, None) not in pairs else None
    by = [d.variable.in_sentence for d in cells.dimensions if d.variable.name != EVERYTHING]
    base, adds_up = _base_sentence(totals, origin, cells) if shares else ("", False)
    return Provenance(
        origin=origin,
        statistics=f"{', '.join(dict.fromkeys(item.title for item in columns))}{_by(by)}",
        unanswered=tuple(
            (labels[name], count) for name, count in totals.account.unanswered.items() if name != EVERYTHING
        ),
        unmeasured=_unmeasured(totals, facts, counted, {name for pair in pairs for name in pair if name}),
        apart=counted is not None,
        no_band=cells.no_band,
        used=totals.account.used.get(counted, 0),
        sampling=replace(_sampling(totals, facts), calibrated=_calibrated_in_words(totals, facts)),
        base=base,
        adds_up=adds_up,
        intervals=_intervals_in_words(columns),
        nets=_nets_in_words(cells, request),
        rest=cells.rest,
        hidden=_hidden_in_words(columns, least_shown(request)),
        several=shares and any(d.several for d in cells.dimensions),
        owners=totals.account.owners.get(counted) if totals.account.owners else None,
        given=_given(request.value_is) if request.value and not request.pools_values else "",
        weightless=totals.account.weightless,
        weightless_records=totals.account.weightless_owners or totals.account.weightless,
    )


def _by(names: Sequence[str]) -> str:
    return phrase(" by {names}", names=", ".join(names)) if names else ""


def _nets_in_words(cells: ShownCells, request: SummaryRequest) -> str:
    """What each net adds up: `Satisfied: good and very good together`; of several answers those not shown too."""
    nets = nets_by_column(request.net, request.dimensions)
    return "; ".join(
        phrase(
            "{net}: {parts} together",
            net=net.name,
            parts=in_words(
                [
                    level.label
                    for level in (one.all_levels if one.several else one.levels)
                    if {level.label, level.code} & set(net.parts)
                ]
            ),
        )
        for one in cells.dimensions
        for net in nets.get(one.variable.name, ())
        if any(level.is_net and level.label == net.name for level in one.levels)
    )


def why_empty(totals: Accumulator, origin: Origin) -> str:
    """Why no record is left to sum up, as a sentence."""
    if not origin.read:
        return f"{origin.source} holds no records."
    if origin.filtered == origin.read:
        return f"No record is left: all {origin.read:,} of {origin.source} were filtered away."
    if totals.account.weightless == origin.read - origin.filtered:
        return f"No record of {origin.source} stands for anybody: every weight is 0."
    lacking = [f"`{name}`" for name, count in totals.account.unanswered.items() if count]
    weight = " and a weight above 0" if totals.account.weightless else ""
    return f"No record of {origin.source} has an answer in {listed(lacking)}{weight}."


def _given(value_is: str | None) -> str:
    """What ready-made figures are called."""
    return value_is if value_is in GIVEN_AS and value_is != "other" else "value"


def _unmeasured(
    totals: Accumulator, facts: ColumnFacts, counted: Pair | None, measured: set[str]
) -> tuple[tuple[str, int], ...]:
    """Measures with how many of the records lack a number; for a rate those that lack the second one only."""
    used, numbers = totals.account.used, facts.numbers
    everything = used.get(None, 0)
    lacking = {name: everything - used.get((name, None), 0) for name in totals.request.measures if name in measured}
    if counted is not None and counted[1]:
        lacking[counted[1]] = used.get((counted[0], None), 0) - used.get(counted, 0)
    return tuple((numbers[name].in_sentence, count) for name, count in lacking.items())


def _hidden_in_words(columns: Sequence[Column], least: int) -> str:
    """How many figures were left out, and why."""
    count = sum(int((item.flags & Flag.HIDDEN > 0).sum()) for item in columns)
    if not count:
        return ""
    return phrases(
        "{n} figure is left out: those on fewer than {least} records, and those that would give them away",
        "{n} figures are left out: those on fewer than {least} records, and those that would give them away",
        count,
        least=least,
    )


def _sampling(totals: Accumulator, facts: ColumnFacts) -> Sampling:
    design, sums = totals.request.design, totals.design
    replicates = _replicates_in_words(design) if totals.wanted.replicates else ""
    if replicates or sums is None or not (design.strata or design.cluster):
        corrected = bool(design.population) and sums is not None
        return Sampling(design.weight or "", replicates, corrected=corrected)
    keys = sums.units.keys
    outer = _distinct(keys[:, :2])  # strata, or the units drawn first
    drawn = np.bincount(outer[:, 0], None if design.cluster else sums.seen)
    sizes = np.zeros(len(drawn))
    if design.population:
        np.maximum.at(sizes, keys[:, 0], sums.highest[:, 0])
    clusters, strata = np.unique(outer[:, 1], return_counts=True) if design.cluster else (outer[:0, 0], outer[:0, 0])
    names = facts.design_labels(design.cluster[0]) if design.cluster else ()
    return Sampling(
        design.weight or "",
        across=tuple(names[cluster] for cluster in clusters[strata > 1].tolist()),
        census=int(((sizes > 0) & (sizes <= drawn)).sum()),
        cluster=design.cluster,
        clusters=tuple(len(_distinct(keys[:, : depth + 2])) for depth in range(len(design.cluster))),
        strata=design.strata or "",
        stratum_count=len(_distinct(keys[:, :1])),
        corrected=bool(design.population),
        unlike=bool(design.population) and not design.weight and _are_unlike(drawn, sizes),
        centred=int((drawn == 1).sum()) if design.single_cluster == "centred" else 0,
    )


def _are_unlike(drawn: Integers, sizes: Floats) -> bool:
    """Whether strata were drawn in shares so unlike that their records stand for unlike numbers."""
    fractions = drawn[sizes > 0] / sizes[sizes > 0]
    return len(fractions) > 1 and float(fractions.max()) > _ALIKE * float(fractions.min())


def _distinct(keys: Integers) -> Integers:
    """The different ones of combinations that stand in their order, shape (different ones, dimensions)."""
    new = np.ones(len(keys), dtype=bool)
    new[1:] = (keys[1:] != keys[:-1]).any(axis=1)
    return keys[new]


def _calibrated_in_words(totals: Accumulator, facts: ColumnFacts) -> str:
    """The totals that weights were made to meet, where limits take account of it."""
    if totals.calibration is None or not len(totals.calibration.whole):
        return ""
    named = [" × ".join(facts.design[name].in_sentence for name in names) for names in totals.request.design.calibrated]
    return phrase("known totals of {columns}", columns=in_words(named))


def _replicates_in_words(design: DesignRequest) -> str:
    """How many replicate weights there are, how they were made and what they are scaled by."""
    scales = sorted(set(design.scales))
    low, high = (with_signs(f"{scale:.4g}") for scale in (scales[0], scales[-1]))
    scale = phrase("scale {scale}", scale=low)
    if len(scales) > 1:
        scale = phrase("scales from {low} to {high}", low=low, high=high)
    center = phrase(", around their mean") if design.replicate_center == "mean" else ""
    method = f"{design.replicate_method}, {scale}{center}"
    return phrase("{count} replicate weights ({method})", count=len(design.scales), method=method)


def _base_sentence(totals: Accumulator, origin: Origin, cells: ShownCells) -> tuple[str, bool]:
    """What shares are shares of, and whether those shown add up to it."""
    request = totals.request
    base = base_of(request, totals.several)
    roles = {"category": (Role.CATEGORY,), "series": (Role.SERIES,), "measures": (Role.CATEGORY, Role.SERIES)}
    named = [dimension for dimension in cells.dimensions if dimension.variable.name != EVERYTHING]
    inner = [one.variable.in_sentence for one in named if one.role in roles.get(base, ())]
    outer = [one.variable.in_sentence for one in named if one.role is Role.PANEL and base != "all"]
    if any(d.several for d in cells.dimensions):
        return _shares_of_those_that_answered(origin, inner, outer), False
    whole = " × ".join(inner or outer)
    if request.comparison.relative_to:  # changes add up to nothing
        told = phrase("Shares of each {whole}", whole=whole)
        return told if whole else phrase("Shares of all {noun}", noun=origin.noun), False
    of_base = {cells.dimensions[axis].role for axis in base_axes(request, base)}
    dropped = {one.role for one in cells.dimensions if one.dropped}
    if dropped - of_base and base != "measures":
        part = phrase("Shares of each {whole}, those left out included", whole=whole)
        return part if whole else phrase("Shares of all {noun}, those left out included", noun=origin.noun), False
    if inner and outer:
        return phrase("Within each {outer}, each {whole} adds to 100 %", outer=outer[0], whole=whole), True
    return phrase("Each {whole} adds to 100 %", whole=whole) if whole else phrase(
        "All shares together add to 100 %"
    ), True


def _shares_of_those_that_answered(origin: Origin, inner: Sequence[str], outer: Sequence[str]) -> str:
    """What shares of several answers are shares of."""
    if not (inner or outer):
        return phrase("Shares of the {noun} that answered", noun=origin.noun)
    within = " × ".join([*outer, *inner])
    return phrase("Shares of the {noun} that answered, within each {within}", noun=origin.noun, within=within)


def _intervals_in_words(columns: Sequence[Column]) -> tuple[str, ...]:
    """What the limits of each figure are; whose they are is said where they differ or some figures have none."""
    titles: dict[str, list[str]] = {}
    for column in columns:
        titles.setdefault(column.interval or column.without_limits, []).append(column.title)
    if len(titles) < 2:
        return tuple(interval for interval in titles if interval)
    return tuple(f"{', '.join(dict.fromkeys(whose))}: {interval}" for interval, whose in titles.items() if interval)
