"""Advice on a survey's design: what its columns leave out, or seem to say without meaning it."""

from typing import TYPE_CHECKING

import numpy as np

from grainstack.advice import Advice
from grainstack.chart.writing.numbers import number_style
from grainstack.language import phrase, phrases
from grainstack.option_names import option
from grainstack.records.sample import numbered_anew
from grainstack.requests import Requests
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.table import Column, SummaryTable

if TYPE_CHECKING:
    from collections.abc import Callable

    import pyarrow as pa


def advice_on_design(
    table: SummaryTable, requests: Requests, head: "Callable[[], pa.RecordBatch]", most: int
) -> list[Advice]:
    """What an analyst should know of how the design was read.

    Args:
        table: The table.
        requests: What was asked for.
        head: Gives the first rows of the source.
        most: How many lines of one advice are read.
    """
    if not any(column.interval or column.without_limits for column in table.shown) and table.comparison is None:
        return []
    return [
        *_across_strata(table),
        *_numbered_anew(requests, head),
        *_census_of_clusters(table, requests),
        *_unlike_strata(table, requests),
        *[one for column in table.shown for one in _skewed(table, column)][:most],
    ]


def _across_strata(table: SummaryTable) -> list[Advice]:
    sampling = table.provenance.sampling
    if not sampling.across:
        return []
    cluster, strata = sampling.cluster[0], sampling.strata
    count = len(sampling.across)
    facts = {"code": sampling.across[0], "cluster": cluster, "strata": strata}
    if count == 1:
        text = phrase(
            "`{code}` of `{cluster}` occurs in more than one stratum and counts as a cluster of its own in each. That "
            "is right where clusters are numbered anew in every stratum; if not, `{strata}` is not what was sampled "
            "in.",
            **facts,
        )
    else:
        text = phrase(
            "{count} codes of `{cluster}` occur in more than one stratum, such as `{code}`, and count as clusters of "
            "their own in each. That is right where clusters are numbered anew in every stratum; if not, `{strata}` is "
            "not what was sampled in.",
            count=count,
            **facts,
        )
    return [Advice("clusters-across-strata", text)]


def _numbered_anew(requests: Requests, head: "Callable[[], pa.RecordBatch]") -> list[Advice]:
    design = requests[SummaryRequest].design
    if design.strata or not design.cluster or design.replicates:
        return []

    name = design.cluster[0]
    code = numbered_anew(head(), name)
    if not code:
        return []
    return [
        Advice(
            "clusters-numbered-anew",
            phrase(
                "the codes of `{column}` rise and start again, as if clusters were numbered anew within strata; all "
                "records with `{code}` count as one cluster. If they are several, name what they are numbered in: "
                "{strata}.",
                column=name,
                code=code,
                strata=option("strata"),
            ),
        )
    ]


def _census_of_clusters(table: SummaryTable, requests: Requests) -> list[Advice]:
    sampling, design = table.provenance.sampling, requests[SummaryRequest].design
    if not sampling.census or not design.weight or len(design.population) > len(design.cluster):
        return []
    where = phrase("every stratum")
    if sampling.census < sampling.stratum_count:
        where = phrases("{n} stratum", "{n} strata", sampling.census)
    return [
        Advice(
            "sampled-within",
            phrase(
                "all clusters of {where} were drawn, so nothing varies from cluster to cluster there; that records "
                "were sampled within them, as the weights say, is left aside. Give how many there were: {population} "
                "once more.",
                where=where,
                population=option("population"),
            ),
        )
    ]


def _unlike_strata(table: SummaryTable, requests: Requests) -> list[Advice]:
    """Strata drawn in unlike shares, in which records that all count alike do not stand for the same number."""
    if not table.provenance.sampling.unlike:
        return []
    text = phrase(
        "strata were drawn in unlike shares of `{population}`, and all records count alike: figures lean towards the "
        "strata drawn most. Name their weights: {weight}.",
        population=requests[SummaryRequest].design.population[0],
        weight=option("weight"),
    )
    return [Advice("unlike-strata", text)]


def _skewed(table: SummaryTable, column: Column) -> list[Advice]:
    """Means whose limits hold the truth less often than they say (Cochran 1977, section 2.15: n below 25 G₁²)."""
    if column.figure.statistic.name != "mean" or not column.by_student or not column.figure.measure:
        return []
    found = []
    for cell, shape in enumerate(table.cell_shapes.get(column.figure.measure, ())):
        if shape is None or shape.pulled or shape.valley or np.isnan(column.low[cell]):
            continue
        needed = 25 * shape.skewness**2
        if column.base[cell] < needed:
            names = ", ".join(level.label for level in table.levels_of(cell))
            write = number_style([shape.skewness])
            found.append(
                Advice(
                    "skewed-mean",
                    phrase(
                        "the limits of the mean of {names} may hold the truth less often than they say: its values are "
                        "skewed (G₁ = {skewness}), which takes about {count} records. Use {median}.",
                        names=names,
                        skewness=write(shape.skewness),
                        count=round(needed),
                        median=option("stat", "median"),
                    ),
                )
            )
    return found
