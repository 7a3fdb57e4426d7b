"""What a table has to hold, worked out row by row in exact fractions.

Nothing here comes from the program: the rules are those of the documentation, and limits use `scipy.stats`.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, field
from fractions import Fraction
from itertools import pairwise, product
from math import ceil, floor, isfinite, nan, sqrt
from typing import Any

from scipy import stats

from tests.oracle.asking import SEVERAL, Asked
from tests.oracle.survey import ITEMS, REGIONS, SCALE, USED, Row, Survey

Label = Any  # a level's label; of bands their place, counted over all bands there could be
Cell = tuple[Label, ...]
ALL, REST, NO_ANSWER = "All", "Other", "No answer"
NETS = {
    "Outer": ("low", "high"),
    "Ab or Cor": ("Ald", "Cor"),
    "Served": ("cafe", "shop"),
    "A or C": ("a", "c"),
}
NOTHING = "\x00nothing"  # what a record has that chose none of several answers: it is in a base and in no cell
LABELS_OF_ITEMS = {"q1": "Staff", "q2": "Room", "q3": "Food"}


@dataclass(slots=True)
class Record:
    """A row that passed the filters.

    Attributes:
        levels: For each dimension the labels it has there: none where it has no answer, several where there are.
        numbers: Its measures.
        weight: Its weight.
        times: How many records it stands for.
        unit: Its stratum, and its cluster at each stage.
        owner: Which row of the file it comes from.
    """

    levels: list[list[Label]]
    numbers: dict[str, Fraction | None]
    weight: Fraction
    times: int
    unit: tuple[str, ...]
    owner: int


@dataclass(slots=True)
class Figure:
    """What a cell of a table has to say; None where it may say anything."""

    estimate: float
    base: int
    error: float | None = None
    low: float | None = None
    high: float | None = None


@dataclass(slots=True)
class Pair:
    """Two figures that are compared.

    Attributes:
        first, second: The figures.
        error: The standard error of their difference; None where they are not drawn by a design, NaN for none.
        log_error: That of the logarithm of their ratio.
        degrees: Degrees of freedom of both.
    """

    first: float
    second: float
    error: float | None = None
    log_error: float | None = None
    degrees: float = nan

    @property
    def p(self) -> float:
        """The two-sided p-value of their difference."""
        assert self.error is not None
        return float(2 * stats.t.sf(abs(self.first - self.second) / self.error, self.degrees))


@dataclass(slots=True)
class Account:
    """What became of the records read.

    Attributes:
        read, filtered, weightless, no_band: How many there are of each.
        unanswered: By column of categories.
        unmeasured: By measure.
    """

    unanswered: dict[str, int]
    unmeasured: dict[str, int]
    read: int = 0
    filtered: int = 0
    weightless: int = 0
    no_band: int = 0


@dataclass(slots=True)
class Expected:
    """A whole table.

    Attributes:
        figures: Each figure by cell, statistic and measure.
        nested: The combinations of categories that some record has.
        sizes: For each dimension of categories what largest first goes by.
        used: How many records stand in the table.
        owners: In long form how many rows of the file these come from.
        account: What became of the others.
    """

    figures: dict[tuple[Cell, str, str | None], Figure]
    nested: set[Cell]
    sizes: dict[int, dict[Label, float]]
    used: int
    owners: int | None
    account: Account


def expected(survey: Survey, asked: Asked) -> Expected:
    """The table a request has to give."""
    return _Table(survey, asked).expected()


def paired(survey: Survey, asked: Asked, one: Cell, other: Cell) -> "Pair":
    """Two cells of a table of a mean or share, side by side."""
    return _Table(survey, asked).pair(one, other)


def number(text: str, *missing: str) -> Fraction | None:
    """A number of the file; None where there is none."""
    return None if text == "" or text in missing else Fraction(text)


def _measure(name: str, row: Row) -> Fraction | None:
    if name != "z":
        return number(row[name], "999" if name == "x" else "")
    x, y = number(row["x"], "999"), number(row["y"])
    if x is None:  # then the condition is not known
        return None
    return Fraction(1) if x <= 5 else None if y is None else x * 2 - y


@dataclass(slots=True)
class _Table:
    survey: Survey
    asked: Asked
    records: list[Record] = field(default_factory=list)
    blurred: bool = False

    @property
    def dimensions(self) -> list[str]:
        asked = self.asked
        panel = [asked["panel"]] if asked.get("panel") else []
        return [*panel, *asked.get("by", ()), *([asked["split"]] if asked.get("split") else [])]

    @property
    def _is_long(self) -> bool:
        return bool(self.asked.get("to_long") or self.asked.get("items"))

    @property
    def categories(self) -> range:
        first = 1 if self.asked.get("panel") else 0
        return range(first, first + len(self.asked.get("by", ())))

    def expected(self) -> Expected:
        account = self._read()
        axes = [*self.categories, *([len(self.dimensions) - 1] if self.asked.get("split") else [])]
        sizes = {axis: self._sizes(axis) for axis in axes}
        shown = self._shown({axis: self._rest(axis, sizes[axis]) for axis in axes})
        figures = {
            (cell, *one): self._figure(cell, *one)
            for cell in product(*(sorted(labels, key=str) for labels in shown))
            for one in self._wanted()
        }
        wanted = self._wanted()
        pairs = {(measure, statistic == "rate") for statistic, measure in wanted}
        one_measure = len(pairs) == 1 and wanted[0][1] is not None
        counted = [record for record in self.records if not one_measure or self._has(record, wanted[0])]
        return Expected(
            figures,
            {cell for record in self.records for cell in self._nested(record)},
            {} if self.blurred else sizes,
            used=sum(record.times for record in counted),
            owners=len({record.owner for record in counted}) if self._is_long else None,
            account=account,
        )

    def _read(self) -> Account:
        """Takes in the records and tells what became of each."""
        asked, names = self.asked, self.dimensions
        account = Account(dict.fromkeys(names, 0), dict.fromkeys(self._shown_measures(), 0))
        for row, owner in self._long_rows():
            count = int(row["times"]) if asked.get("times") else 1
            account.read += count
            if not _passes(row, asked):
                account.filtered += count
                continue
            weight = Fraction(row["weight"]) if asked.get("weight") else Fraction(1)
            if not weight:
                account.weightless += count
                continue
            levels = [self._labels(name, row) for name in names]
            lacking = next((name for name, labels in zip(names, levels, strict=True) if not labels), None)
            if lacking:
                account.unanswered[lacking] += count
                continue
            numbers = {name: _measure(name, row) for name in self._measures()}
            if any(None in labels for labels in levels):
                account.no_band += count
            elif count:
                self._measured(account, numbers, count)
                clusters = [row[name] for name in asked.get("cluster", ())]
                unit = (row["stratum"] if asked.get("strata") else "", *clusters)
                self.records.append(Record(levels, numbers, weight, count, unit, owner))
        return account

    def _shown_measures(self) -> list[str]:
        shown = {measure for _, measure in self._wanted()}
        return [name for name in self._measures() if name in shown or name == self.asked.get("per")]

    def _measured(self, account: Account, numbers: dict[str, Fraction | None], count: int) -> None:
        """Counts what measures a record lacks; of a rate alone the second only where it has the first."""
        rate = {statistic for statistic, _ in self._wanted()} == {"rate"}
        for name in account.unmeasured:
            first_lacks = rate and name == self.asked["per"] and numbers[self.asked["measure"][0]] is None
            account.unmeasured[name] += count * (numbers[name] is None and not first_lacks)

    def _shown(self, rests: dict[int, set[Label]]) -> list[set[Label]]:
        """The labels shown in each dimension; the smallest become the rest."""
        asked, names = self.asked, self.dimensions
        shown = [self._met(axis) - rests.get(axis, set()) for axis in range(len(names))]
        for axis, rest in rests.items():
            for record in self.records:
                merged = [REST if label in rest else label for label in record.levels[axis]]
                record.levels[axis] = list(dict.fromkeys(merged))
            shown[axis] |= {REST} if rest and not asked.get("drop_rest") else set()
        for axis, name in enumerate(names):
            if asked.get("totals") and name != asked.get("panel") and name not in SEVERAL:
                shown[axis].add(ALL)
        for text in asked.get("net", ()):
            column, _, rule = text.partition(":")
            label, axis = rule.partition("=")[0].strip(), names.index(column)
            if any(part in shown[axis] for part in NETS[label]):
                shown[axis].add(label)
        return shown

    # Rows and levels

    def _long_rows(self) -> Iterator[tuple[Row, int]]:
        for owner, row in enumerate(self.survey.rows):
            if self._is_long:
                for item in ITEMS:
                    yield row | {"item": LABELS_OF_ITEMS[item], "score": row[item], "answer": row[item]}, owner
            else:
                yield row, owner

    def _labels(self, name: str, row: Row) -> list[Label]:
        """The labels a row has in a dimension; None among them is a value in no band."""
        text = row.get(name, "")
        labels: list[Label]
        if name == "region":
            labels = [] if text in ("", "9") else [REGIONS[text]]
        elif name in ("town", "grade", "item"):
            labels = [text] if text else []
        elif name in ("score", "answer"):
            labels = [] if text in ("", "9") else [SCALE[text]]
        elif name == "sources":
            labels = text.split(";") if text else []
        elif name == "used":
            return self._used(row)
        else:
            value = number(text, "999" if name == "x" else "")
            labels = [] if value is None else [self._banded(name, value)]
        labels = [_recoded(name, label, self.asked) for label in labels]
        return labels or ([NO_ANSWER] if self.asked.get("missing") == "show" else [])

    def _used(self, row: Row) -> list[Label]:
        """The answers chosen among 0/1 columns; a record that chose none has answered too."""
        if not any(row[column] for column in USED):
            return [NO_ANSWER] if self.asked.get("missing") == "show" else []
        return [column for column in USED if row[column] == "1"] or [NOTHING]

    def _banded(self, name: str, value: Fraction) -> Label:
        """Which band a number is in, by its place; a number without bands is a level itself."""
        how = dict(text.split("=") for text in self.asked.get("band", ())).get(name)
        if how is None:
            return f"{float(value):g}"
        right = self.asked.get("band_closed") == "right"
        edges: list[float | Fraction]
        if "," not in how:
            width = Fraction(how)
            return (ceil(value / width) - 1) if right else floor(value / width)
        named = {"under": -float("inf"), "over": float("inf")}
        edges = [named[edge] if edge in named else Fraction(edge) for edge in how.split(",")]
        for place, (low, high) in enumerate(pairwise(edges), -1 if how.startswith("under") else 0):
            if (low < value <= high) if right else (low <= value < high):
                return place
        return None

    # Which levels

    def _size(self, records: list[Record]) -> float:
        """What largest first goes by, of the records of one level."""
        wanted = self._wanted()
        names = {statistic for statistic, _ in wanted}
        total = len(names) == 1 and names <= {"count", "sum"}
        return sum(self._of(records, *one) for one in (wanted if total else wanted[:1]))

    def _of(self, records: list[Record], statistic: str, measure: str | None) -> float:
        if statistic == "share":
            statistic = "sum" if measure else "count"
        return self._estimate(records, statistic, measure)

    def _sizes(self, axis: int) -> dict[Label, float]:
        labels = self._met(axis)
        several = set(SEVERAL) & set(self.dimensions)
        measured = self._wanted()[0][1] is not None and several - {self.dimensions[axis]}
        twice = len(several) > 1 or (several and (self.asked.get("panel") or self.asked.get("base")))
        if twice or measured:
            self.blurred = True  # what is summed over several answers of a record counts it for each
        return {label: self._size([r for r in self.records if label in r.levels[axis]]) for label in labels}

    def _met(self, axis: int) -> set[Label]:
        """The labels met; of bands those between the lowest and the highest too, though they are empty."""
        labels = {label for record in self.records for label in record.levels[axis]} - {NOTHING}
        bands = [label for label in labels if isinstance(label, int)]
        return labels | set(range(min(bands), max(bands) + 1)) if bands else labels

    def _rest(self, axis: int, sizes: dict[Label, float]) -> set[Label]:
        series = self.asked.get("split") and axis == len(self.dimensions) - 1
        most = self.asked.get("split_keep_top" if series else "keep_top")
        if most is None or not (series or axis == self.categories[0]):
            return set()
        of_first = {label: size for label, size in sizes.items() if label != NO_ANSWER}
        known = sorted((size if isfinite(size) else -float("inf") for size in of_first.values()), reverse=True)
        if len(known) <= most:
            return set()
        least = known[most - 1]
        return {label for label, size in of_first.items() if (size if isfinite(size) else -float("inf")) < least}

    def _nested(self, record: Record) -> Iterator[Cell]:
        levels = [[*_with_nets(record.levels[axis]), ALL] for axis in self.categories]
        return product(*levels)

    # Figures

    def _measures(self) -> list[str]:
        return [*self.asked.get("measure", ()), *([self.asked["per"]] if self.asked.get("per") else [])]

    def _wanted(self) -> list[tuple[str, str | None]]:
        measures = self.asked.get("measure", ())
        named = self.asked.get("stat") or (("mean",) if measures else ("count",))
        wanted: list[tuple[str, str | None]] = []
        of_sum = bool(measures) and (set(named) == {"share"} or "sum" in named)
        for statistic in named:
            measured = statistic not in ("count", "share") or (statistic == "share" and of_sum)
            wanted += [(statistic, measure) for measure in (measures if measured else (None,))]
        return wanted

    def _has(self, record: Record, wanted: tuple[str, str | None]) -> bool:
        statistic, measure = wanted
        if measure is None or statistic == "value":
            return True
        names = [measure, self.asked["per"]] if statistic == "rate" else [measure]
        return all(record.numbers[name] is not None for name in names)

    def _in_cell(self, record: Record, cell: Cell) -> bool:
        return all(
            label == ALL or label in _with_nets(labels) for label, labels in zip(cell, record.levels, strict=True)
        )

    def _base_axes(self) -> list[int]:
        names, asked = self.dimensions, self.asked
        base = asked.get("base")
        if base is None:
            several = any(names[axis] in SEVERAL for axis in self.categories)
            base = "panel" if not asked.get("split") else "series" if several else "category"
        panel = [0] if asked.get("panel") else []
        return {
            "category": [*panel, *self.categories],
            "series": [*panel, len(names) - 1],
            "panel": panel,
            "all": [],
        }[base]

    def _figure(self, cell: Cell, statistic: str, measure: str | None) -> Figure:
        inside = [record for record in self.records if self._in_cell(record, cell)]
        if statistic == "share":
            return self._share(cell, inside, measure)
        records = [record for record in inside if self._has(record, (statistic, measure))]
        figure = Figure(self._estimate(inside, statistic, measure), sum(record.times for record in records))
        if statistic in ("mean", "rate", "sum", "count"):
            self._with_limits(figure, records, statistic, measure)
        return figure

    def _estimate(self, records: list[Record], statistic: str, measure: str | None) -> float:
        if statistic == "count":
            return float(sum(record.weight * record.times for record in records))
        records = [record for record in records if self._has(record, (statistic, measure))]
        values = [(_value(record, measure), record.weight, record.times) for record in records]
        if statistic == "sum":
            return float(sum(x * w * t for x, w, t in values))
        if statistic == "distinct":
            return len({x for x, _, _ in values})
        if not values:
            return nan
        if statistic == "rate":
            below = sum(_value(record, self.asked["per"]) * record.weight * record.times for record in records)
            return float(sum(x * w * t for x, w, t in values) / below) if below else nan
        return _of_values(values, statistic, weighted=bool(self.asked.get("weight")))

    def _share(self, cell: Cell, inside: list[Record], measure: str | None) -> Figure:
        whole = self._whole(cell)
        if measure is not None:
            whole = [record for record in whole if self._has(record, ("sum", measure))]
            inside = [record for record in inside if self._has(record, ("sum", measure))]

        below = sum(_amount(record, measure) for record in whole)
        base = sum(record.times for record in whole)
        if not below:
            return Figure(nan, base)
        share = sum(_amount(record, measure) for record in inside) / below
        figure = Figure(float(share), base)
        if self._complete or measure is not None:
            return figure
        others = [axis for axis in range(len(self.dimensions)) if axis not in self._base_axes()]
        if others and all(cell[axis] == ALL and self.dimensions[axis] not in SEVERAL for axis in others):
            figure.error = figure.low = figure.high = nan  # the whole itself: 1 in whatever sample
            return figure
        level = self.asked.get("confidence", 95.0)
        if not self._designed:
            hits = sum(record.times for record in inside)
            figure.error = sqrt(float(share * (1 - share)) / base)
            interval = stats.binomtest(hits, base).proportion_ci(level / 100, method="wilson")
            figure.low, figure.high = float(interval.low), float(interval.high)
            return figure
        variance = self._variance(_of_share(inside, whole, share))
        degrees = self._domain_degrees(whole)
        figure.error, figure.low, figure.high = sqrt(variance), nan, nan
        if degrees < 1:
            figure.error = nan
        else:
            figure.low, figure.high = _korn_graubard(float(share), variance, base, degrees, level)
        return figure

    def _whole(self, cell: Cell) -> list[Record]:
        """The records a share is of."""
        axes = self._base_axes()
        return [
            record
            for record in self.records
            if all(cell[axis] == ALL or cell[axis] in _with_nets(record.levels[axis]) for axis in axes)
        ]

    def pair(self, one: Cell, other: Cell) -> Pair:
        """Two figures, and how sure their difference and ratio are (Wolter 2007, section 6.2)."""
        self._read()
        ((statistic, measure),) = self._wanted()
        figures = [self._figure(cell, statistic, measure) for cell in (one, other)]
        a, b = (figure.estimate for figure in figures)
        if not self._designed or not (isfinite(a) and isfinite(b)):
            return Pair(a, b)
        of_each = [self._linearised(cell, statistic, measure) for cell in (one, other)]
        if any(figure.error is None or not isfinite(figure.error) for figure in figures):
            return Pair(a, b, nan, nan)
        first, second = of_each
        against = [(record, -z) for record, z in second]
        variances = [self._variance(part) for part in of_each]
        both = [self._domain_degrees([record for record, _ in part]) for part in of_each]
        below = sum(v**2 / n for v, n in zip(variances, both, strict=True))
        joint = self._domain_degrees([record for part in of_each for record, _ in part])
        degrees = max(min(joint, sum(variances) ** 2 / below if below else joint), 1.0)
        log_error = nan
        if a > 0 and b > 0:
            ratio = [(record, z / Fraction(a)) for record, z in first]
            log_error = sqrt(self._variance([*ratio, *((record, z / Fraction(b)) for record, z in against)]))
        return Pair(a, b, sqrt(self._variance([*first, *against])), log_error, degrees)

    def _linearised(self, cell: Cell, statistic: str, measure: str | None) -> list[tuple[Record, Fraction]]:
        """What each record adds to a mean or share, to first order."""
        inside = [record for record in self.records if self._in_cell(record, cell)]
        if statistic == "share":
            whole = self._whole(cell)
            below = sum((_amount(record, measure) for record in whole), Fraction(0))
            return _of_share(inside, whole, sum((_amount(record, measure) for record in inside), Fraction(0)) / below)
        records = [record for record in inside if self._has(record, (statistic, measure))]
        below = sum((record.weight for record in records), Fraction(0))
        mean = sum(record.weight * _value(record, measure) for record in records) / below
        return [(record, record.weight * (_value(record, measure) - mean) / below) for record in records]

    @property
    def _complete(self) -> bool:
        asked = self.asked
        return bool(asked.get("times")) and not (asked.get("error_bars") or asked.get("confidence"))

    @property
    def _designed(self) -> bool:
        return any(self.asked.get(name) for name in ("weight", "strata", "cluster"))

    def _with_limits(self, figure: Figure, records: list[Record], statistic: str, measure: str | None) -> None:
        ratio = statistic in ("mean", "rate")
        if self._complete or not isfinite(figure.estimate) or (ratio and figure.base < 2):
            return
        if not self._designed and statistic != "rate":
            if statistic == "mean":
                values = [_value(record, measure) for record in records for _ in range(record.times)]
                mean = sum(values) / len(values)
                variance = float(sum((x - mean) ** 2 for x in values) / (len(values) - 1) / len(values))
                self._by_student(figure, variance, len(values) - 1)
            return
        if statistic == "rate" and self.asked.get("times"):
            return
        weights = [record.weight for record in records]
        values = [Fraction(1) if statistic == "count" else _value(record, measure) for record in records]
        if ratio:
            per: list[Fraction] = [
                Fraction(1) if statistic == "mean" else _value(record, self.asked["per"]) for record in records
            ]
            below = sum((w * y for w, y in zip(weights, per, strict=True)), Fraction(0))
            rate = sum((w * x for w, x in zip(weights, values, strict=True)), Fraction(0)) / below
            z = [w * (x - rate * y) / below for w, x, y in zip(weights, values, per, strict=True)]
        else:
            z = [w * x for w, x in zip(weights, values, strict=True)]
        degrees = self._domain_degrees(records)
        self._by_student(figure, self._variance(list(zip(records, z, strict=True))), degrees)

    def _by_student(self, figure: Figure, variance: float, degrees: int) -> None:
        figure.error = sqrt(variance)
        if degrees < 1 or figure.base < 2 or figure.error <= 1e-9 * abs(figure.estimate):
            figure.error = nan  # a single unit, or values that are all the same: nothing tells how sure it is
        reach = float(stats.t.ppf(0.5 + self.asked.get("confidence", 95.0) / 200, max(degrees, 1))) * figure.error
        figure.low, figure.high = figure.estimate - reach, figure.estimate + reach

    def _keys(self) -> list[tuple[Any, ...]]:
        """Each unit drawn, filtered or not, by stratum and stage; without a design of the rows kept."""
        asked, keys = self.asked, []
        for row, owner in self._long_rows():
            if not self._designed and not _passes(row, asked):
                continue
            clusters: list[Any] = [row[name] for name in asked.get("cluster", ())]
            keys.append((row["stratum"] if asked.get("strata") else "", *(clusters or [owner])))
        return list(dict.fromkeys(keys))

    def _domain_degrees(self, records: list[Record]) -> int:
        """Units that hold one of the records less the strata that do (Korn & Graubard 1999).

        Where all clusters of a stratum were drawn, they are its strata, and what was drawn within them its units.
        """
        drawn = {(key[0], key[1]) for key in self._keys()}
        units, groups = set(), set()
        for record in records:
            stratum, *inner = record.unit
            depth = 1
            if len(self.asked.get("population", ())) > 1:
                row = next(row for row in self.survey.rows if row["stratum"] == stratum)
                depth += int(row["population"]) == sum(one[0] == stratum for one in drawn)
            units.add((stratum, *inner[:depth]) if inner else (stratum, id(record)))
            groups.add((stratum, *inner[: depth - 1]))
        return len(units) - len(groups)

    def _variance(self, z: list[tuple[Record, Fraction]]) -> float:
        totals: dict[tuple[Any, ...], Fraction] = {}
        for record, value in z:
            key = record.unit if self.asked.get("cluster") else (record.unit[0], f"record {record.owner}")
            totals[key] = totals.get(key, Fraction(0)) + value
        keys = self._keys()
        if not self.asked.get("cluster"):  # each record is drawn by itself, and those without a value have 0
            drawn: dict[Any, int] = {}
            for stratum, _ in keys:
                drawn[stratum] = drawn.get(stratum, 0) + 1
            return float(sum(_of_group([v for k, v in totals.items() if k[0] == h], n, 0) for h, n in drawn.items()))
        every = {key: totals.get(key, Fraction(0)) for key in keys}
        return float(
            sum(self._of_stage({k: v for k, v in every.items() if k[0] == h}, 1) for h in {k[0] for k in every})
        )

    def _of_stage(self, totals: dict[tuple[Any, ...], Fraction], depth: int) -> Fraction:
        """The variance of a total over the units of one group, and over what was drawn within them (Cochran 1977)."""
        units: dict[Any, dict[tuple[Any, ...], Fraction]] = {}
        for key, value in totals.items():
            units.setdefault(key[depth], {})[key] = value
        sums = [sum(inner.values(), Fraction(0)) for inner in units.values()]
        fraction, populations = Fraction(0), self.asked.get("population", ())
        if len(populations) >= depth:
            any_key = next(iter(totals))
            row = next(r for r in self.survey.rows if r["cluster"] == any_key[1])
            fraction = len(units) / Fraction(row[populations[depth - 1]])
        variance = _of_group(sums, len(units), fraction)
        if len(populations) > depth:
            variance += fraction * sum((self._of_stage(inner, depth + 1) for inner in units.values()), Fraction(0))
        return variance


def _of_group(sums: list[Fraction], drawn: int, fraction: Fraction | int) -> Fraction:
    """(1 − f) n / (n − 1) Σ (z − z̄)² of n units, those not named having 0."""
    if drawn < 2:
        return Fraction(0)
    mean = sum(sums, Fraction(0)) / drawn
    squares = sum(((value - mean) ** 2 for value in sums), Fraction(0)) + (drawn - len(sums)) * mean**2
    return (1 - fraction) * drawn / Fraction(drawn - 1) * squares


def _with_nets(labels: list[Label]) -> list[Label]:
    """The labels of a record, and those of the nets it is in."""
    return [*labels, *(net for net, parts in NETS.items() if any(label in parts for label in labels))]


def _amount(record: Record, measure: str | None) -> Fraction:
    """What a record adds to a count or sum."""
    return record.weight * record.times * (Fraction(1) if measure is None else _value(record, measure))


def _of_share(inside: list[Record], whole: list[Record], share: Fraction) -> list[tuple[Record, Fraction]]:
    """What each record adds to a share of records, to first order."""
    chosen = {id(record) for record in inside}
    below = sum((record.weight * record.times for record in whole), Fraction(0))
    return [(record, record.weight * ((id(record) in chosen) - share) / below) for record in whole]


def _value(record: Record, measure: str | None) -> Fraction:
    value = record.numbers[str(measure)]
    assert value is not None
    return value


def _of_values(values: list[tuple[Fraction, Fraction, int]], statistic: str, *, weighted: bool) -> float:
    if statistic in ("min", "max"):
        return float((min if statistic == "min" else max)(x for x, _, _ in values))
    if statistic == "mean":
        return float(sum(x * w * t for x, w, t in values) / sum(w * t for _, w, t in values))
    if statistic in ("sd", "variance"):
        count, weight = sum(t for _, _, t in values), sum(w * t for _, w, t in values)
        if count < 2:
            return nan
        mean = sum(x * w * t for x, w, t in values) / weight
        variance = float(sum(w * t * (x - mean) ** 2 for x, w, t in values) / weight * count / (count - 1))
        return variance if statistic == "variance" else sqrt(variance)
    if statistic == "iqr":
        return _quantile(values, Fraction(3, 4), weighted=weighted) - _quantile(
            values, Fraction(1, 4), weighted=weighted
        )
    part = {"median": Fraction(1, 2), "p75": Fraction(3, 4)}[statistic]
    return _quantile(values, part, weighted=weighted)


def _quantile(values: list[tuple[Fraction, Fraction, int]], part: Fraction, *, weighted: bool) -> float:
    """Hyndman & Fan's definition 7; weighted, where the cumulative weight reaches the part."""
    rising = sorted((x, w) for x, w, t in values for _ in range(t))
    if not weighted:
        rank = part * (len(rising) - 1)
        low = rising[floor(rank)][0]
        return float(low + (rank - floor(rank)) * (rising[ceil(rank)][0] - low))
    wanted, reached = part * sum(w for _, w in rising), Fraction(0)
    different = sorted({x for x, _ in rising})
    for place, x in enumerate(different):
        reached += sum((w for value, w in rising if value == x), Fraction(0))
        if reached == wanted and place + 1 < len(different):
            return float((x + different[place + 1]) / 2)
        if reached >= wanted:
            return float(x)
    return float(different[-1])


def _korn_graubard(share: float, variance: float, base: int, degrees: int, level: float) -> tuple[float, float]:
    """Exact limits on the effective base (Korn & Graubard 1998)."""
    tail = 0.5 - level / 200
    effective = float(base)
    if variance > 0 and 0 < share < 1:
        ratio = float(stats.t.ppf(1 - tail, max(base - 1, 1)) / stats.t.ppf(1 - tail, degrees))
        effective = share * (1 - share) / variance * ratio**2
    hits = share * effective
    low = 0.0 if hits <= 0 else float(stats.beta.ppf(tail, hits, effective - hits + 1))
    high = 1.0 if hits >= effective else float(stats.beta.ppf(1 - tail, hits + 1, effective - hits))
    return low, high


def _recoded(name: str, label: Label, asked: Asked) -> Label:
    for text in asked.get("recode", ()):
        column, _, rules = text.partition(":")
        for rule in rules.split(";"):
            olds, _, new = rule.partition("->")
            if column == name and label in [old.strip() for old in olds.split(",")]:
                return new.strip()
    return label


_PASSES: dict[str, Callable[[Row], bool]] = {
    "region=1,South": lambda row: row["region"] in ("1", "2"),
    "town=Ald,Bren": lambda row: row["town"] in ("Ald", "Bren"),
    "grade=low,high": lambda row: row["grade"] in ("low", "high"),
    "grade=middling": lambda row: row["grade"] != "middling",
    "region=9": lambda row: row["region"] != "9",
    "x > 3": lambda row: (value := number(row["x"], "999")) is not None and value > 3,
    "NOT (town = 'Ald')": lambda row: row["town"] not in ("", "Ald"),
    "y IS NULL OR y <= 6": lambda row: (value := number(row["y"])) is None or value <= 6,
}


def _passes(row: Row, asked: Asked) -> bool:
    conditions = [*asked.get("only", ()), *asked.get("except_", ()), *([asked["where"]] if asked.get("where") else [])]
    return all(_PASSES[condition](row) for condition in conditions)
