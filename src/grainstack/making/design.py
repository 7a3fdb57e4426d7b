"""The survey design of a request: what was asked, completed by the codebook, and ready for sums."""

from collections.abc import Sequence
from fnmatch import fnmatchcase
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from grainstack.errors import IdleError, RequestError, listed, nearest
from grainstack.option_fields import names_in
from grainstack.option_names import option
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests
from grainstack.summary.options import REPLICATE_METHODS, DesignRequest
from grainstack.summary.summary_request import SummaryRequest
from grainstack.weighing.targets import targets_of

_OF_REPLICATES = ("replicate_method", "replicate_scale", "fay_coefficient", "replicate_center", "degrees")


def with_design(summary: SummaryRequest, opened: Opened) -> SummaryRequest:
    """The request with the codebook's design where it names none of its own; complete records have none.

    A codebook may cover several files; a part of the design counts in those that have its column.

    Args:
        summary: What was asked.
        opened: The records with their codebook.

    Raises:
        RequestError: No column matches the replicate weights, or nobody said how these were made.
    """
    request, known, columns = summary.design, opened.codebook.design, opened.source.columns
    names: dict[str, Any] = {}
    free = not (request.no_design or summary.complete or summary.value or summary.times)
    if free and not request.is_complex:
        names = {part: name for part in ("weight", "strata") if (name := getattr(known, part)) in columns}
        if known.replicates and _matching(known.replicates, columns):
            names["replicates"] = known.replicates
            names["cluster"] = tuple(name for name in known.cluster if name in columns)
        elif set(known.cluster + known.population) <= set(columns):
            names |= {"cluster": known.cluster, "population": known.population}
    weight = names.get("weight", request.weight)
    if free and known.targets and weight and weight == known.weight:
        beside = [str((opened.folder or Path()) / one) if one.endswith(".csv") else one for one in known.targets]
        names["calibrated"] = _calibrated(beside, columns)
    replicates = names.get("replicates", request.replicates)
    if replicates and free and known.replicates:
        given = {name: getattr(known, name) for name in _OF_REPLICATES if getattr(known, name)}
        names |= {name: value for name, value in given.items() if name not in request.given()}
    if replicates:
        matching = _matching(replicates, columns)
        if not matching:
            raise RequestError(
                f"No column matches {option('replicates')} {replicates}.", "Name columns, or a pattern such as rep_*."
            )
        names["replicates"] = ",".join(matching)
        design = replace(request, **names)
        return replace(summary, design=replace(design, scales=scales_of(design, len(matching))))
    idle = [name for name in _OF_REPLICATES if name in request.given()]
    if idle:
        raise IdleError(
            f"{option(idle[0])} makes no difference without replicate weights.",
            f"Name their columns with {option('replicates')}, or leave it out.",
        )
    return replace(summary, design=replace(request, **names)) if names else summary


def _calibrated(targets: Sequence[str], columns: Sequence[str]) -> tuple[tuple[str, ...], ...]:
    """The columns whose known totals weights were made to meet.

    Raises:
        RequestError: A target cannot be read, or speaks of a column there is not.
    """
    found = tuple(target.columns for target in targets_of(targets))
    lacking = next((name for names in found for name in names if name not in columns), None)
    if lacking:
        raise RequestError(
            f"The targets of the codebook speak of `{lacking}`, and there is no such column.",
            nearest(lacking, columns) or f"Leave the design aside: {option('no_design')}.",
        )
    return found


def scales_of(design: DesignRequest, count: int) -> tuple[float, ...]:
    """What the squared difference of each replicate is multiplied by (Wolter 2007; Judkins 1990).

    Args:
        design: How the replicate weights were made.
        count: How many there are.

    Raises:
        RequestError: That was not said, or does not suffice.
    """
    method = design.replicate_method
    if not method:
        raise RequestError(
            "Nobody said how the replicate weights were made, and their variance depends on it.",
            f"Add {option('replicate_method')} {listed(REPLICATE_METHODS, joint=' or ')}, as its handbook says.",
        )
    if design.replicate_scale:
        return _scales_given(design.replicate_scale, count)
    if method == "jkn":
        raise RequestError(
            "Replicates that leave out one cluster of a stratum each (jkn) need a scale each: (n − 1)/n.",
            f"Give them with {option('replicate_scale')}, as a list or a file with one number for each replicate.",
        )
    if method == "fay":
        if design.fay_coefficient is None:
            raise RequestError(
                "Fay's method needs the coefficient by which weights were perturbed.",
                f"Give it with {option('fay_coefficient')}, for example 0.5, or the scale itself with "
                f"{option('replicate_scale')}.",
            )
        return (1 / (count * (1 - design.fay_coefficient) ** 2),) * count
    return ((count - 1) / count if method == "jk1" else 1 / count,) * count


def _scales_given(text: str, count: int) -> tuple[float, ...]:
    """Scales as typed, or in a file.

    Raises:
        RequestError: They are no numbers above 0, or not as many as there are replicates.
    """
    where = option("replicate_scale")
    parts = text.replace(",", " ").split()
    if not _numbers(parts):
        try:
            parts = Path(text).read_text(encoding="utf-8").replace(",", " ").split()
        except (OSError, UnicodeDecodeError):
            parts = []
        if not _numbers(parts):
            raise RequestError(
                f"{where} {text} is neither numbers nor a file of numbers.",
                "Give one number, a list such as 0.5,0.5,0.75, or a text file with one number a line.",
            )
    scales = tuple(map(float, parts))
    if not all(0 < scale < float("inf") for scale in scales):
        raise RequestError(f"{where} {text}: every scale must be above 0.", "Correct it.")
    if len(scales) == 1:
        return scales * count
    if len(scales) != count:
        raise RequestError(
            f"{where} holds {len(scales)} numbers, but there are {count} replicate weights.",
            "Give one for all, or one for each.",
        )
    return scales


def _numbers(parts: Sequence[str]) -> bool:
    try:
        return bool([float(part) for part in parts])
    except ValueError:
        return False


def check_design(summary: SummaryRequest) -> None:
    """Refuses parts of a survey design where nothing depends on how records were drawn.

    Raises:
        RequestError: Names the field.
    """
    given = [name for name in summary.design.given() if name not in ("weight", "no_design")]
    if given and summary.is_complete:
        raise IdleError(
            f"{option(given[0])} makes no difference: these figures are all there is and no estimates.", "Leave it out."
        )
    if given and not summary.needs_errors:
        raise IdleError(
            f"{option(given[0])} makes no difference: no limits, tests or shares are shown.",
            f"Add {option('error_bars', 'confidence')}, or leave it out.",
        )


def _matching(patterns: str, columns: Sequence[str]) -> list[str]:
    wanted = names_in(patterns)
    return [name for name in columns if any(fnmatchcase(name, pattern) for pattern in wanted)]


def check_items(requests: Requests) -> None:
    """Refuses figures in which the answers of one person to several questions would be added together.

    Raises:
        RequestError: Nothing is shown by question.
    """
    columns = requests[RecordsRequest].item_columns
    if columns is None or columns[0] in requests[SummaryRequest].dimensions:
        return
    name = columns[0]
    raise RequestError(
        f"The answers to several questions would be added together: nothing is shown by {name}.",
        f"Show them {option('by', name)}, {option('split', name)} or {option('panel', name)}.",
    )
