"""Differences between categories, tested: pairs, each against the rest, or each against one."""

from collections.abc import Hashable, Sequence
from itertools import combinations

import numpy as np
from msgspec import Struct
from msgspec.structs import replace

from grainstack.errors import RequestError
from grainstack.language import in_words, phrase, with_signs
from grainstack.option_names import option
from grainstack.summary.comparison.compared_cells import Line
from grainstack.summary.comparison.letters import column_letter, comparison_letters
from grainstack.summary.comparison.pair_tests import PairTests
from grainstack.summary.comparison.tested import Comparison, Difference
from grainstack.summary.figures.estimator import Estimator
from grainstack.summary.figures.inference import Inference, inferred
from grainstack.summary.figures.small import SMALL_BASE
from grainstack.summary.levels.grouping import joined

_MOST = 20_000  # comparisons in a table: two hundred categories in pairs, which nobody reads to the end


class _Pair(Struct, frozen=True):
    """Two cells that are compared.

    Attributes:
        tests: Tests of these figures.
        first: The place of the first among them.
        second: The place of the second.
        cell: The cell of the table on the left.
        other: The cell on the right; None for all others of its line together.
        line: Which line they belong to.
        test: What is tested; the same for a yes and its no.
        family: Which tests are adjusted together.
    """

    tests: PairTests
    first: int
    second: int
    cell: int
    other: int | None
    line: int
    test: Hashable
    family: Hashable


def compared(figures: Inference, lines: Sequence[Line]) -> Comparison:
    """Compares the cells of each line as the request asks.

    Args:
        figures: Means, shares or rates.
        lines: The cells compared with each other.

    Raises:
        RequestError: There are fewer than two cells to compare.
    """
    estimator, request = figures.estimator, figures.estimator.request
    count = sum(_how_many(figures, line) for line in lines)
    if count > _MOST:
        raise RequestError(
            f"That would be {count:,} comparisons, and a table has up to {_MOST:,}.",
            f"Compare each with the rest ({option('compare', 'rest')}), or keep fewer: {option('keep_top', '20')}, "
            f"{option('only')}.",
        )
    pairs = [pair for number, line in enumerate(lines) for pair in _pairs(figures, line, number)]
    if not pairs and request.comparison.of_columns:
        least = request.small.min_base or SMALL_BASE
        words = phrase("No columns were compared: fewer than two rest on {least} records", least=least)
        return Comparison((), tuple("" for _ in figures.estimate), request.spread.confidence, words, listed=False)
    if not pairs:
        raise RequestError("There are no two figures to compare.", "At least two categories need a standard error.")
    if request.comparison.family == "table":
        pairs = [replace(pair, family="table") for pair in pairs]
    tests: dict[Hashable, dict[Hashable, float]] = {}
    tested = [pair.tests.p_value(pair.first, pair.second) for pair in pairs]
    for pair, (p, _) in zip(pairs, tested, strict=True):
        tests.setdefault(pair.family, {}).setdefault(pair.test, p)
    adjust = list if request.comparison.family == "none" else holm
    adjusted = {family: dict(zip(own, adjust(list(own.values())), strict=True)) for family, own in tests.items()}
    together = {family: 1 if request.comparison.family == "none" else len(own) for family, own in tests.items()}
    differences = tuple(
        _difference(pair, test, adjusted[pair.family][pair.test], together[pair.family], request.spread.confidence)
        for pair, test in zip(pairs, tested, strict=True)
    )
    letters = tuple("" for _ in figures.estimate)
    if request.comparison.of_columns:
        letters = _letters_of_columns(differences, lines, len(letters), estimator)
    elif request.comparison.letters:
        letters = _letters(differences, lines, figures, 1 - request.spread.confidence / 100)
    words = _words(differences, {len(own) for own in tests.values()}, len(tests), estimator)
    once: dict[tuple[Hashable, Hashable], Difference] = {}  # of a yes and its no, the first
    for pair, one in zip(pairs, differences, strict=True):
        once.setdefault((pair.family, pair.test), one)
    return Comparison(
        tuple(once.values()), letters, request.spread.confidence, words, listed=request.comparison.compare is not None
    )


def holm(p_values: Sequence[float]) -> list[float]:
    """P-values adjusted by Holm's step-down method (Holm 1979).

    Args:
        p_values: The p-values of one family of tests.
    """
    order = sorted(range(len(p_values)), key=p_values.__getitem__)
    adjusted = [1.0] * len(p_values)
    largest = 0.0
    for rank, place in enumerate(order):
        largest = max(largest, min(1.0, (len(p_values) - rank) * p_values[place]))
        adjusted[place] = largest
    return adjusted


def _known(figures: Inference, line: Line) -> list[int]:
    """The cells of a line that can be tested; of lettered columns, those on enough records."""
    request = figures.estimator.request
    least = (request.small.min_base or SMALL_BASE) if request.comparison.of_columns else 0
    solid, base = figures.solid, figures.base
    return [int(cell) for cell in line.cells if solid[cell] and base[cell] >= least]


def _how_many(figures: Inference, line: Line) -> int:
    """How many pairs are compared in a line, at most."""
    known = len(_known(figures, line))
    return known * (known - 1) // 2 if figures.estimator.request.comparison.in_pairs else known


def _pairs(figures: Inference, line: Line, number: int) -> list[_Pair]:
    """What is compared in a line."""
    known = _known(figures, line)
    wanted = figures.estimator.request.comparison.wanted
    places = {cell: line.place(cell) for cell in known}
    tests = PairTests(figures)

    def pair(one: int, other: int) -> _Pair:
        test = (line.twin, places[one], places[other])
        return _Pair(tests, one, other, one, other, number, test, line.twin)

    if wanted == "rest":
        return _against_rest(figures, line, number, known)
    if figures.estimator.request.comparison.in_pairs:
        return [pair(one, other) for one, other in combinations(known, 2)]
    one = line.reference
    return [] if one is None or one not in known else [pair(cell, one) for cell in known if cell != one]


def _against_rest(figures: Inference, line: Line, number: int, known: Sequence[int]) -> list[_Pair]:
    """Each cell against all other cells of its line together."""
    if len(known) < 2:
        return []
    members = [np.array([cell]) for cell in known]
    members += [np.array([other for other in known if other != cell]) for cell in known]
    both = figures.estimator.regrouped(joined(figures.estimator.grouping, members))
    sides = PairTests(inferred(figures.figure, both))
    return [
        _Pair(sides, at, len(known) + at, cell, None, number, (line.twin, line.place(cell)), line.twin)
        for at, cell in enumerate(known)
    ]


def _difference(pair: _Pair, tested: tuple[float, str], adjusted: float, tests: int, level: float) -> Difference:
    p, test = tested
    estimates = pair.tests.figures.estimate
    steps = adjusted / p if p > 0 else tests  # by how many tests the level is divided at the step of this one
    low, high = pair.tests.limits(pair.first, pair.second, 100 - (100 - level) / steps)
    estimate = float(estimates[pair.first] - estimates[pair.second])
    degrees = pair.tests.degrees(pair.first, pair.second) if "t-test" in test else float("nan")
    return Difference(pair.cell, pair.other, pair.line, estimate, low, high, p, adjusted, test, tests, degrees)


def _words(differences: Sequence[Difference], sizes: set[int], families: int, estimator: Estimator) -> str:
    """What was compared and how it was adjusted."""
    comparison, level = estimator.request.comparison, estimator.request.spread.confidence
    tests = in_words([phrase(test) for test in dict.fromkeys(difference.test for difference in differences)])
    least, most = min(sizes), max(sizes)
    if most == 1:
        many = phrase("one comparison") if families == 1 else phrase("one comparison in each line")
    else:
        number = phrase("{least} to {most}", least=least, most=most) if least < most else with_signs(f"{most:,}")
        many = phrase("{number} comparisons adjusted by Holm's method", number=number)
        if comparison.family == "none":
            many = phrase("{number} comparisons in each line without adjustment", number=number)
        elif families > 1:
            many = phrase("{number} comparisons in each line adjusted by Holm's method", number=number)
        many += phrase(", with limits of the same steps") if comparison.compare else ""
    words = phrase("Compared by {tests}, {many}", tests=tests, many=many)
    if comparison.of_columns:
        many = phrase("without adjustment") if comparison.family == "none" else _adjusted_together(comparison.family)
        return f"{phrase('Compared by {tests}, {many}', tests=tests, many=many)}; {_about_columns(estimator)}"
    if comparison.letters:
        bound = with_signs(f"{(100 - level) / 100:g}")
        words += phrase("; no difference was found at {bound} between those that share a letter", bound=bound)
    return words


def _adjusted_together(family: str) -> str:
    """Which tests of lettered columns are adjusted together, in words."""
    if family == "table":
        return phrase("those under one heading adjusted together by Holm's method")
    return phrase("those of one line under one heading adjusted together by Holm's method")


def _about_columns(estimator: Estimator) -> str:
    """What the letters of columns mean, and which columns have none."""
    request = estimator.request
    bounds = [with_signs(f"{round(100 - level, 9) / 100:g}") for level in _levels(estimator)]
    told = phrase(
        "a letter stands at the higher of two figures and names the column of the lower, at {bound}", bound=bounds[0]
    )
    if len(bounds) > 1:
        told = phrase(
            "a letter stands at the higher of two figures and names the column of the lower, a capital at {strict}, a "
            "small one at {loose}",
            strict=bounds[0],
            loose=bounds[1],
        )
    least = request.small.min_base or SMALL_BASE
    return f"{told}; {phrase('figures on fewer than {least} records are not tested', least=least)}"


def _levels(estimator: Estimator) -> list[float]:
    """The confidence levels of letters, the stricter one first."""
    request = estimator.request
    looser = request.comparison.looser_level
    return [request.spread.confidence] if looser is None else sorted((request.spread.confidence, looser), reverse=True)


def _letters_of_columns(
    differences: Sequence[Difference], lines: Sequence[Line], count: int, estimator: Estimator
) -> tuple[str, ...]:
    """At the higher of two figures that differ the letter of the column of the lower, small at a looser level.

    Args:
        differences: What was tested.
        lines: The cells compared with each other, whose last key is the place of their column.
        count: How many cells there are.
        estimator: Their sums.
    """
    bounds = [1 - level / 100 for level in _levels(estimator)]
    found: list[dict[int, str]] = [{} for _ in range(count)]
    for one in differences:
        passed = next((place for place, bound in enumerate(bounds) if one.adjusted < bound), None)
        if one.other is None or passed is None:
            continue
        high, low = (one.cell, one.other) if one.estimate > 0 else (one.other, one.cell)
        place = lines[one.line].place(low)[-1]
        letter = column_letter(place)
        found[high][place] = letter.lower() if passed else letter
    return tuple("".join(letters[place] for place in sorted(letters)) for letters in found)


def _letters(
    differences: Sequence[Difference], lines: Sequence[Line], figures: Inference, bound: float
) -> tuple[str, ...]:
    letters = ["" for _ in figures.estimate]
    for number, line in enumerate(lines):
        known = [int(cell) for cell in line.cells if figures.solid[cell]]
        places = {cell: place for place, cell in enumerate(known)}
        pairs = [
            (places[one.cell], places[one.other])
            for one in differences
            if one.line == number and one.other is not None and one.adjusted < bound
        ]
        for cell, text in zip(known, comparison_letters(len(known), pairs), strict=True):
            letters[cell] = text
    return tuple(letters)
