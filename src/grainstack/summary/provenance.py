"""Where figures come from, in plain words: the sentences under a table and in a chart's footnote."""

from grainstack.quick import dataclass
from grainstack.records.request import ANSWER


@dataclass(frozen=True, slots=True)
class Origin:
    """Which records reached the summary.

    Attributes:
        source: The file they were read from.
        read: Records read.
        filtered: Records left out on request.
        filters: Which records were kept, in words: `with season summer`, `where wait > 3`.
        noun: What a record is, in the plural.
        records: Records the rows were made of, where each gave several; None where each row is a record.
    """

    source: str
    read: int
    filtered: int
    filters: tuple[str, ...] = ()
    noun: str = "records"
    records: int | None = None

    @property
    def kept(self) -> str:
        """Which records were kept, as a sentence; empty where all were."""
        *first, last = self.filters or ("",)
        return f"Only {self.noun} {', '.join(first)}{' and ' if first else ''}{last}" if last else ""


@dataclass(frozen=True, slots=True)
class NoBand:
    """Records whose value falls in no band.

    Attributes:
        label: The column's label.
        records: How many there are.
        examples: A few of the values, as text.
    """

    label: str
    records: int
    examples: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Sampling:
    """How records were drawn and what each of them stands for.

    Attributes:
        weight: The column of weights; empty where every record counts alike.
        replicates: How many replicate weights there are, how they were made and what they are scaled by, in words.
        cluster: The columns of the units drawn, stage by stage; empty where records were drawn one by one.
        clusters: How many units there are at each stage.
        strata: The column of the groups sampled on their own; empty for none.
        stratum_count: How many such groups there are.
        across: Clusters, by their code, that occur in several strata.
        census: How many strata had all their clusters drawn.
        calibrated: What weights were made to meet, in words; empty where limits take no account of it.
        corrected: Whether variances are corrected for a finite population.
        centred: How many strata have a single unit and are centred on the mean of all.
    """

    weight: str = ""
    replicates: str = ""
    cluster: tuple[str, ...] = ()
    clusters: tuple[int, ...] = ()
    strata: str = ""
    stratum_count: int = 0
    across: tuple[str, ...] = ()
    census: int = 0
    calibrated: str = ""
    corrected: bool = False
    centred: int = 0

    @property
    def drawn(self) -> bool:
        """Whether records were not simply drawn one by one from all there are."""
        return bool(self.replicates or self.strata or self.cluster)

    def words(self) -> str:
        """All of it, in words; empty when records all count the same and were drawn one by one."""
        parts = [f"Weighted by {self.weight}"] if self.weight else []
        if self.replicates:
            parts.append(f"standard errors from {self.replicates}")
        elif self.strata or self.cluster:
            stages = [f"{n:,} clusters ({name})" for name, n in zip(self.cluster, self.clusters, strict=True)]
            units = " and within them ".join(stages) or "records"
            strata = f" in {self.stratum_count:,} strata ({self.strata})" if self.strata else ""
            parts.append(f"drawn as {units}{strata}")
        parts += ["with finite population correction"] if self.corrected else []
        parts += [f"calibrated to {self.calibrated}"] if self.calibrated else []
        if self.centred:
            strata = "1 stratum" if self.centred == 1 else f"{self.centred:,} strata"
            parts.append(f"{strata} of a single {'cluster' if self.cluster else 'record'} centred on the mean of all")
        return ", ".join(parts)[:1].upper() + ", ".join(parts)[1:]


@dataclass(frozen=True, slots=True)
class Provenance:
    """How a table was worked out.

    Attributes:
        origin: Which records reached the summary.
        statistics: What is shown, in words: `Mean waiting time by route`.
        unanswered: Columns without an answer, with how many of the remaining records lack one.
        unmeasured: Measures without a number, with how many of the remaining records lack one.
        apart: Whether records without a number stand apart from those used; where several measures are shown they are
            among them.
        no_band: Columns with values in no band.
        used: Records that stand in the table, or values of them where rows were made of records.
        owners: Records they come from, where rows were made of records.
        weightless: Records that stand for nobody, with a weight of 0.
        given: What the figures of the file are, where they are not worked out from records; else empty.
        sampling: How records were weighted and drawn.
        base: What shares are shares of, in words; empty when there are none.
        intervals: What the limits of each figure are, in words.
        tests: What was compared and how, in words.
        nets: What each net adds up, in words; empty where there are none.
        rest: What became of levels that are not shown one by one, in words; empty when all are.
        hidden: How many figures were left out because of small bases.
        several: Whether shares may add to more than 100 % because a record may have several answers.
    """

    origin: Origin
    statistics: str
    unanswered: tuple[tuple[str, int], ...]
    no_band: tuple[NoBand, ...]
    used: int
    sampling: Sampling
    base: str
    intervals: tuple[str, ...]
    tests: tuple[str, ...] = ()
    nets: str = ""
    rest: str = ""
    hidden: str = ""
    several: bool = False
    owners: int | None = None
    given: str = ""
    unmeasured: tuple[tuple[str, int], ...] = ()
    apart: bool = True
    weightless: int = 0

    @property
    def weighted(self) -> bool:
        """Whether records weigh differently."""
        return bool(self.sampling.weight)

    @property
    def base_alone(self) -> str:
        """What figures rest on, without what was left out."""
        return f"Base: {self._base()}."

    def sentences(self) -> tuple[str, ...]:
        """Base, records left out and why, weighting, what shares add up to, what limits are, and what was tested."""
        said = [f"Base: {self._base()}{self._left_out()}"]
        said += [self.sampling.words(), self.origin.kept, self.nets, self.rest, self.base]
        if self.several:
            said.append("Several answers were possible, so shares may add to more than 100 %")
        said += [*self.intervals, *self.tests, self.hidden]
        return tuple(f"{sentence}." for sentence in said if sentence)

    def sentence(self) -> str:
        """Everything in one sentence: statistic, weighting, interval, base, left-out records, test and adjustment."""
        parts = [f"{self.statistics} of {self.origin.source}, {self._lower(self.sampling.words()) or 'unweighted'}"]
        parts += [self._lower(interval) for interval in self.intervals] or ["without limits"]
        parts.append(f"base {self._base()}{self._left_out()}")
        extra = (self.origin.kept, self.nets, self.rest, self.base, *self.tests, self.hidden)
        parts += [self._lower(part) for part in extra if part]
        return "; ".join(parts) + "."

    def account(self) -> str:
        """Where every record read has gone: the parts add up to the records read."""
        parts = [f"{self.used:,} used"]
        lacking = (*self.unanswered, *(self.unmeasured if self.apart else ()))
        parts += [f"{count:,} {_without_answer(label)}" for label, count in lacking if count]
        parts += [f"{item.records:,} in no band of {item.label}" for item in self.no_band]
        parts += [f"{self.weightless:,} with a weight of 0"] if self.weightless else []
        parts.append(f"{self.origin.filtered:,} filtered away")
        what = self.origin.noun
        if self.origin.records is not None:
            what = f"values of {self.origin.records:,} {self.origin.noun}"
        return f"{self.origin.read:,} {what} read = {' + '.join(parts)}"

    def _base(self) -> str:
        noun = self.origin.noun
        if self.given:
            return f"{self.used:,} given {self.given}{'' if self.used == 1 else 's'}"
        if self.owners is not None:
            noun = "record" if self.owners == 1 and noun == "records" else noun
            return f"{self.owners:,} {noun} with {self.used:,} value{'' if self.used == 1 else 's'}"
        return f"{self.used:,} {'record' if self.used == 1 and noun == 'records' else noun}"

    def _left_out(self) -> str:
        lacking = [(name, count) for name, count in self.unanswered if count]
        unmeasured = [(name, count) for name, count in self.unmeasured if count]
        lacking += unmeasured if self.apart else []
        among = ", ".join(f"{count:,} on {name}" for name, count in unmeasured)
        parts = []
        if lacking:
            (name, count), *others = sorted(lacking, key=lambda one: one[0] == ANSWER)
            parts.append(f"{count:,} {_without_answer(name)}")
            parts += [f"{n:,} {_without_answer(what) if what == ANSWER else f'on {what}'}" for what, n in others]
        for item in self.no_band:
            more = " …" if item.records > len(item.examples) else ""
            examples = f" ({', '.join(item.examples)}{more})" if item.examples else ""
            parts.append(f"{item.records:,} whose {item.label} is in no band{examples}")
        if self.weightless:
            parts.append(f"{self.weightless:,} with a weight of 0")
        if self.origin.filtered:
            parts.append(f"{self.origin.filtered:,} filtered away")
        left_out = f"; left out: {', '.join(parts)}" if parts else ""
        return left_out + (f"; of these without an answer: {among}" if among and not self.apart else "")

    @staticmethod
    def _lower(text: str) -> str:
        return text[:1].lower() + text[1:] if text[1:2].islower() else text


def _without_answer(label: str) -> str:
    return "without an answer" if label == ANSWER else f"without an answer on {label}"
