"""Where figures come from, in plain words: the sentences under a table and in a chart's footnote."""

from msgspec import Struct

from grainstack.language import in_words, lowered, phrase, phrases, raised, with_signs


class Origin(Struct, frozen=True):
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
        return phrase("Only {noun} {filters}", noun=self.noun, filters=in_words([*first, last])) if last else ""

    def count(self, records: int) -> str:
        """A number of records: `1 record`, `2,400 passengers`.

        Args:
            records: How many.
        """
        if self.noun == phrase("records"):
            return phrases("{n} record", "{n} records", records)
        return f"{with_signs(f'{records:,}')} {self.noun}"


class NoBand(Struct, frozen=True):
    """Records whose value falls in no band.

    Attributes:
        label: The column's label.
        records: How many there are.
        examples: A few of the values, as text.
    """

    label: str
    records: int
    examples: tuple[str, ...]


class Sampling(Struct, frozen=True):
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
        unlike: Whether strata were drawn in unlike shares though all records count alike.
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
    unlike: bool = False
    centred: int = 0

    @property
    def drawn(self) -> bool:
        """Whether records were not simply drawn one by one from all there are."""
        return bool(self.replicates or self.strata or self.cluster)

    def words(self) -> str:
        """All of it, in words within a sentence; empty when records all count the same and were drawn one by one."""
        parts = [phrase("weighted by {column}", column=self.weight)] if self.weight else []
        if self.replicates:
            parts.append(phrase("standard errors from {replicates}", replicates=self.replicates))
        elif self.strata or self.cluster:
            parts.append(self._drawn_as())
        parts += [phrase("with finite population correction")] if self.corrected else []
        parts += [phrase("calibrated to {totals}", totals=self.calibrated)] if self.calibrated else []
        if self.centred and self.cluster:
            parts.append(
                phrases(
                    "{n} stratum of a single cluster centred on the mean of all",
                    "{n} strata of a single cluster centred on the mean of all",
                    self.centred,
                )
            )
        elif self.centred:
            parts.append(
                phrases(
                    "{n} stratum of a single record centred on the mean of all",
                    "{n} strata of a single record centred on the mean of all",
                    self.centred,
                )
            )
        return ", ".join(parts)

    def _drawn_as(self) -> str:
        """What was drawn, stage by stage, and within which strata."""
        stages = [
            phrase("{count} clusters ({name})", count=count, name=name)
            for name, count in zip(self.cluster, self.clusters, strict=True)
        ]
        units = phrase(" and within them ").join(stages) or phrase("records")
        if not self.strata:
            return phrase("drawn as {units}", units=units)
        return phrase(
            "drawn as {units} in {count} strata ({strata})", units=units, count=self.stratum_count, strata=self.strata
        )


class Provenance(Struct, frozen=True):
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
        weightless: Records that stand for nobody, with a weight of 0; values of them where rows were made of records.
        weightless_records: These records, whatever was made of them.
        given: What the figures of the file are, where they are not worked out from records; else empty.
        sampling: How records were weighted and drawn.
        base: What shares are shares of, in words; empty when there are none.
        adds_up: Whether that is that those of one whole add to 100 %.
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
    adds_up: bool = False
    weightless: int = 0
    weightless_records: int = 0

    @property
    def weighted(self) -> bool:
        """Whether records weigh differently."""
        return bool(self.sampling.weight)

    @property
    def base_alone(self) -> str:
        """What figures rest on, without what was left out."""
        return phrase("Base: {base}.", base=self.based_on)

    def sentences(self, *, off: bool = False) -> tuple[str, ...]:
        """Base, records left out and why, weighting, what shares add up to, what limits are, and what was tested.

        Args:
            off: Whether shares that add to 100 % do not as they are written, rounded.
        """
        base = phrase("{adds_up}; rounded figures may not", adds_up=self.base) if self.adds_up and off else self.base
        lines = [phrase("Base: {base}", base=f"{self.based_on}{self._left_out()}")]
        lines += [raised(self.sampling.words()), self.origin.kept, self.nets, self.rest, base]
        if self.several:
            lines.append(phrase("Several answers were possible, so shares may add to more than 100 %"))
        lines += [*self.intervals, *self.tests, self.hidden]
        return tuple(f"{sentence}." for sentence in lines if sentence)

    def sentence(self) -> str:
        """Everything in one sentence: statistic, weighting, interval, base, left-out records, test and adjustment."""
        sampling = self.sampling.words() or phrase("unweighted")
        parts = [
            phrase(
                "{figures} of {file}, {sampling}", figures=self.statistics, file=self.origin.source, sampling=sampling
            )
        ]
        parts += [lowered(interval) for interval in self.intervals] or [phrase("without limits")]
        parts.append(phrase("base {base}", base=f"{self.based_on}{self._left_out()}"))
        extra = (self.origin.kept, self.nets, self.rest, self.base, *self.tests, self.hidden)
        parts += [lowered(part) for part in extra if part]
        return "; ".join(parts) + "."

    def account(self) -> str:
        """Where every record read has gone: the parts add up to the records read."""
        parts = [phrase("{count} used", count=self.used)]
        lacking = (*self.unanswered, *(self.unmeasured if self.apart else ()))
        parts += [_without_answer(label, count) for label, count in lacking if count]
        parts += [
            phrase("{count} in no band of {column}", count=item.records, column=item.label) for item in self.no_band
        ]
        parts += [phrase("{count} with a weight of 0", count=self.weightless)] if self.weightless else []
        parts.append(phrase("{count} filtered away", count=self.origin.filtered))
        what = self.origin.noun
        if self.origin.records is not None:
            what = phrase("values of {count} {noun}", count=self.origin.records, noun=self.origin.noun)
        return phrase("{count} {what} read = {parts}", count=self.origin.read, what=what, parts=" + ".join(parts))

    @property
    def based_on(self) -> str:
        """The records that figures rest on, in words."""
        if self.given:
            return given_figures(self.given, self.used)
        if self.owners is not None:
            values = phrases("{n} value", "{n} values", self.used)
            return phrase("{records} with {values}", records=self.origin.count(self.owners), values=values)
        return self.origin.count(self.used)

    def _left_out(self) -> str:
        lacking = [(name, count) for name, count in self.unanswered if count]
        unmeasured = [(name, count) for name, count in self.unmeasured if count]
        lacking += unmeasured if self.apart else []
        among = ", ".join(_on(name, count) for name, count in unmeasured)
        parts = []
        if lacking:
            answer = lowered(phrase("Answer"))
            (name, count), *others = sorted(lacking, key=lambda one: one[0] == answer)
            parts.append(_without_answer(name, count))
            parts += [_without_answer(what, n) if what == answer else _on(what, n) for what, n in others]
        for item in self.no_band:
            more = " …" if item.records > len(item.examples) else ""
            examples = f" ({', '.join(item.examples)}{more})" if item.examples else ""
            text = phrase("{count} whose {column} is in no band", count=item.records, column=item.label)
            parts.append(f"{text}{examples}")
        if self.weightless_records:
            parts.append(phrase("{count} with a weight of 0", count=self.weightless_records))
        if self.origin.filtered:
            parts.append(phrase("{count} filtered away", count=self.origin.filtered))
        left_out = phrase("; left out: {parts}", parts=", ".join(parts)) if parts else ""
        if among and not self.apart:
            left_out += phrase("; of these without an answer: {parts}", parts=among)
        return left_out


def given_figures(kind: str, count: int) -> str:
    """How many ready-made figures there are.

    Args:
        kind: What they are: one of `GIVEN_AS`, or `value`.
        count: How many.
    """
    by_kind = {
        "count": phrases("{n} given count", "{n} given counts", count),
        "sum": phrases("{n} given sum", "{n} given sums", count),
        "share": phrases("{n} given share", "{n} given shares", count),
        "mean": phrases("{n} given mean", "{n} given means", count),
    }
    return by_kind.get(kind) or phrases("{n} given value", "{n} given values", count)


def _without_answer(label: str, count: int) -> str:
    if label == lowered(phrase("Answer")):
        return phrase("{count} without an answer", count=count)
    return phrase("{count} without an answer on {column}", count=count, column=label)


def _on(label: str, count: int) -> str:
    return phrase("{count} on {column}", count=count, column=label)
