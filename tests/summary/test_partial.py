"""However records are cut, absorbed and merged, the table is the same to the last bit."""

import pickle
from collections import Counter
from collections.abc import Iterator, Sequence
from copy import deepcopy
from dataclasses import dataclass
from itertools import pairwise
from random import Random
from typing import Any

import numpy as np
import pyarrow as pa
import pytest
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from grainstack.errors import GrainStackError
from grainstack.records.arrow import text_column
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.file import codebook_from_toml
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.records_request import RecordsRequest
from grainstack.records.view import Block, View
from grainstack.report.cells import as_json, cell_rows
from grainstack.summary.options import ComparisonRequest, DesignRequest, SmallBaseRequest, SpreadRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.partial import Partial
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator, needs_of
from grainstack.summary.table import SummaryTable
from tests.soak import SOAK

ROUTES = ("Osk", "Pell", "Dunmar", "Tarn", "")
CODEBOOK = codebook_from_toml('[variables.facilities]\nkind = "multi"\n', "codebook.toml")


@dataclass(frozen=True, slots=True)
class Held:
    """Records held in memory."""

    records: pa.RecordBatch
    name: str = "records"
    notes: tuple[str, ...] = ()
    decimal: str = "."

    @property
    def columns(self) -> tuple[str, ...]:
        return tuple(self.records.schema.names)

    def batches(self, columns: Sequence[str]) -> Iterator[pa.RecordBatch]:
        yield self.records.select(list(columns))

    def head(self) -> pa.RecordBatch:
        return self.records

    def place(self, record: int) -> str:
        return f"record {record + 1}"


def records_of(seed: int, count: int) -> Held:
    """Made-up records: text as a file gives it, numbers with and without decimals, designs and replicate weights."""
    random = Random(seed)  # noqa: S311 - made-up data
    names = (
        "route",
        "ticket",
        "facilities",
        "wait",
        "spend",
        "age",
        "weight",
        "stratum",
        "sailing",
        "sailings",
        "times",
    )
    columns: dict[str, list[str]] = {name: [] for name in (*names, "rep_1", "rep_2", "day", "old")}
    for n in range(count):
        stratum = random.randrange(3)
        columns["route"].append(random.choice(ROUTES))
        columns["ticket"].append(random.choice(("app", "web", "desk", "")))
        columns["facilities"].append(random.choice(("cafe;deck", "deck", "", "shop;cafe", "lounge")))
        columns["wait"].append(random.choice(("", *map(str, range(12)), "240")))
        columns["spend"].append(
            random.choice(("", f"{random.random() * 1e3:.3f}", f"{random.gauss(0, 1):.9f}", "1e12", "0.1"))
        )
        columns["age"].append(str(random.randrange(15, 90)))
        columns["weight"].append(f"{random.random() * 3:.6f}")
        columns["stratum"].append(f"s{stratum}")
        columns["sailing"].append(f"c{stratum}{random.randrange(4)}")
        columns["sailings"].append(str(20 + 10 * stratum))
        columns["times"].append(str(random.randrange(3)))
        columns["rep_1"].append(f"{random.random():.4f}")
        columns["rep_2"].append(f"{random.random():.4f}")
        columns["day"].append(f"2025-{1 + n % 12:02}-{1 + n % 28:02}")
        columns["old"].append(str(random.randrange(9)))
    return Held(pa.RecordBatch.from_arrays([text_column(c) for c in columns.values()], names=list(columns)))


FIGURES = ("estimate", "low", "high", "standard_error", "effective_base", "design_effect", "base", "records", "flags")
STATISTICS = ("mean", "sum", "median", "p90", "min", "max", "sd", "variance", "iqr", "distinct")
DESIGNS: tuple[dict[str, Any], ...] = (
    {},
    {"weight": "weight"},
    {"weight": "weight", "strata": "stratum", "cluster": ("sailing",)},
    {"weight": "weight", "strata": "stratum", "cluster": ("sailing",), "population": ("sailings",)},
    {"cluster": ("sailing",)},
    {"weight": "weight", "strata": "stratum"},
    {"weight": "weight", "replicates": "rep_1,rep_2", "replicate_method": "jk1", "scales": (0.5, 0.5)},
)
VIEWS: tuple[dict[str, Any], ...] = (
    {},
    {"only": ("route=Osk,Pell,Tarn",)},
    {"where": "wait < 9 or route = 'Dunmar'"},
    {"recode": ("route: Osk, Pell -> North",)},
    {"missing": "show"},
    {"to_long": "which,minutes=wait,old"},
)
BYS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("route", {}),
    ("facilities", {}),
    ("age", {"band": ("age=10",)}),
    ("age", {"band": ("age=auto",)}),
    ("age", {"band": ("age=20,40,60",)}),
    ("spend", {"band": ("spend=auto",)}),
    ("day", {"band": ("day=quarter",)}),
    ("sailing", {}),
)


@st.composite
def asked(draw: st.DrawFn) -> tuple[RecordsRequest, SummaryRequest, OrderRequest]:
    by, bands = draw(st.sampled_from(BYS))
    view = draw(st.sampled_from(VIEWS))
    if by != "route" and "recode" in view:
        view = {}
    measured = draw(st.booleans())
    long = "to_long" in view
    statistics = draw(st.lists(st.sampled_from(STATISTICS), min_size=1, max_size=3, unique=True)) if measured else []
    statistics += [] if measured else draw(st.sampled_from([["count"], ["share"], ["count", "share"]]))
    design = dict(draw(st.sampled_from(DESIGNS)))
    times = "times" if not design and draw(st.booleans()) else None
    bars = draw(st.sampled_from([None, None, "none", "standard-error"])) if statistics == ["mean"] else "none"
    summary = SummaryRequest(
        by=(by,),
        split=draw(st.sampled_from([None, "ticket"])),
        measure=(("minutes" if long else draw(st.sampled_from(["wait", "spend"]))),) if measured else (),
        stat=tuple(statistics),
        times=times,
        design=DesignRequest(**design),
        spread=SpreadRequest(error_bars=bars),
        comparison=ComparisonRequest(letters=statistics == ["mean"] and draw(st.booleans())),
        small=SmallBaseRequest(),
        totals=draw(st.booleans()) and by != "facilities",
        keep_values=measured and draw(st.booleans()),
    )
    order = OrderRequest(
        order=draw(st.sampled_from([None, "largest-first", "as-found", "alphabetical"])),
        keep_top=draw(st.sampled_from([None, 2])) if by != "facilities" else None,
    )
    return RecordsRequest(("records",), **(view | bands), decimal="point"), summary, order


def begun(
    held: Held,
    records: RecordsRequest,
    summary: SummaryRequest,
    codebook: Codebook = CODEBOOK,
    shared: SharedReaders | None = None,
) -> Partial:
    return Partial(View(records, needs_of(summary), held, codebook, shared), Accumulator(summary))


def bits(table: SummaryTable) -> bytes:
    """Everything a table holds, to the last bit."""
    arrays = [table.keys.tobytes()]
    for column in table.columns:
        arrays += [np.ascontiguousarray(getattr(column, name)).tobytes() for name in FIGURES]
    for cells in table.values.values():
        arrays += [part.tobytes() for cell in cells for part in cell]
    words = [as_json(table, cell_rows(table)), table.provenance.account().encode(), repr(table.shapes).encode()]
    return b"|".join([*arrays, *words, repr(table.cell_shapes).encode(), repr(table.dimensions).encode()])


def outcome(partial: Partial, order: OrderRequest) -> bytes:
    """The finished table with the notes, or why there is none."""
    try:
        return bits(partial.table(order, "records")) + repr(partial.view.notes()).encode()
    except GrainStackError as reason:
        return str(reason).encode()


def merged(parts: list[Partial], random: Random) -> Partial:
    """The parts merged in a random tree, each of them pickled on the way as it would be between machines."""
    while len(parts) > 1:
        one = parts.pop(random.randrange(len(parts)))
        other = parts.pop(random.randrange(len(parts)))
        one.merge(pickle.loads(pickle.dumps(other)))  # noqa: S301 - our own
        parts.append(one)
    return parts[0]


def check_merges(held: Held, request: tuple[RecordsRequest, SummaryRequest, OrderRequest], seed: int) -> None:
    """Cuts, absorbs and merges at random, and compares with one pass."""
    records, summary, order = request
    random = Random(seed)  # noqa: S311 - made-up cuts
    whole = begun(held, records, summary)
    count = held.records.num_rows
    whole.absorb(Block(held.records.select(list(whole.view.raw)), 0, held.place))
    expected = outcome(whole, order)
    cuts = sorted({0, count, *(random.randrange(count + 1) for _ in range(random.randrange(6)))})
    blocks = [
        Block(held.records.select(list(whole.view.raw)).slice(start, end - start), start, held.place)
        for start, end in pairwise(cuts)
    ]
    random.shuffle(blocks)
    parts = [begun(held, records, summary) for _ in range(random.randrange(1, 4))]
    for block in blocks:
        random.choice(parts).absorb(block)
    result = merged(parts, random)
    assert outcome(result, order) == expected


@settings(max_examples=150 * SOAK, suppress_health_check=list(HealthCheck))
@given(asked(), st.integers(0, 10_000), st.integers(1, 120))
def test_any_cut_any_order_and_any_tree_give_the_same_table(
    request: tuple[RecordsRequest, SummaryRequest, OrderRequest], seed: int, count: int
) -> None:
    check_merges(records_of(seed, count), request, seed)


@settings(max_examples=150 * SOAK, suppress_health_check=list(HealthCheck))
@given(asked(), st.integers(0, 10_000), st.integers(1, 120))
def test_different_rows_with_their_counts_give_the_same_table(
    request: tuple[RecordsRequest, SummaryRequest, OrderRequest], seed: int, count: int
) -> None:
    held, (records, summary, order) = records_of(seed, count), request
    whole = begun(held, records, summary)
    raw = held.records.select(list(whole.view.raw))
    assume(whole.takes_counts)
    twice = pa.Table.from_batches([raw, raw.slice(count // 2)]).combine_chunks().to_batches()[0]
    whole.absorb(Block(twice, 0, held.place))
    times = Counter(tuple(row.values()) for row in twice.to_pylist())  # in the order of first rows
    columns = [text_column(column) for column in zip(*times, strict=True)]
    block = Block(
        pa.RecordBatch.from_arrays(columns, names=raw.schema.names), 0, held.place, np.array([*times.values()])
    )
    counted = begun(held, records, summary)
    counted.absorb(block)
    assert outcome(counted, order) == outcome(whole, order)


@pytest.mark.soak
@settings(max_examples=100 * SOAK, suppress_health_check=list(HealthCheck))
@given(st.lists(asked(), min_size=2, max_size=4), st.integers(0, 10_000), st.integers(1, 120))
def test_requests_that_share_their_readers_give_what_each_gives_alone(
    requests: list[tuple[RecordsRequest, SummaryRequest, OrderRequest]], seed: int, count: int
) -> None:
    held, random = records_of(seed, count), Random(seed)  # noqa: S311 - made-up cuts
    alone = []
    for records, summary, order in requests:
        partial = begun(held, records, summary)
        partial.absorb(Block(held.records.select(list(partial.view.raw)), 0, held.place))
        alone.append(outcome(partial, order))
    readers = SharedReaders()
    together = [begun(held, records, summary, shared=readers) for records, summary, _ in requests]
    lists = [together, deepcopy(together), pickle.loads(pickle.dumps(together))]  # noqa: S301 - our own
    cuts = sorted({0, count, *(random.randrange(count + 1) for _ in range(4))})
    for start, end in random.sample(list(pairwise(cuts)), len(cuts) - 1):
        block, partials = Block(held.records.slice(start, end - start), start, held.place), random.choice(lists)
        for partial in partials:
            partial.absorb(block)
    for others in lists[1:]:
        for one, other in zip(together, others, strict=True):
            one.merge(other)
    assert [outcome(one, order) for one, (*_, order) in zip(together, requests, strict=True)] == alone


@pytest.mark.parametrize(
    "design", [DesignRequest(), DesignRequest(weight="weight"), DesignRequest(weight="weight", cluster=("sailing",))]
)
def test_a_partial_goes_on_absorbing_after_a_merge(design: DesignRequest) -> None:
    held = records_of(7, 90)
    records = RecordsRequest(("records",))
    limits = SpreadRequest(error_bars="confidence")
    summary = SummaryRequest(by=("route",), split="ticket", measure=("wait",), design=design, spread=limits)
    whole, one, other = (begun(held, records, summary) for _ in range(3))
    raw = held.records.select(list(whole.view.raw))
    blocks = [Block(raw.slice(at, 30), at, held.place) for at in (0, 30, 60)]
    for block in blocks:
        whole.absorb(block)
    other.absorb(blocks[2])
    one.merge(other)
    one.absorb(blocks[0])
    one.absorb(blocks[1])
    assert outcome(one, OrderRequest()) == outcome(whole, OrderRequest())


def test_levels_are_matched_by_code_not_by_place() -> None:
    held = Held(pa.RecordBatch.from_arrays([text_column(["b", "b", "a", "b"])], names=["k"]))
    records, summary = RecordsRequest(("records",)), SummaryRequest(by=("k",))
    first, second = begun(held, records, summary), begun(held, records, summary)
    first.absorb(Block(held.records.slice(2, 2), 2, held.place))
    second.absorb(Block(held.records.slice(0, 2), 0, held.place))
    first.merge(second)
    table = first.table(OrderRequest(order="as-found"), "records")
    assert [level.label for level in table.dimensions[0].levels] == ["b", "a"]
    assert table.columns[0].estimate.tolist() == [3, 1]


def test_ready_made_figures_tell_rows_of_one_cell_apart_after_a_merge() -> None:
    columns = {"k": ["a", "b", "a"], "year": ["2024", "2024", "2025"], "n": ["1", "2", "3"]}
    held = Held(pa.RecordBatch.from_arrays([text_column(c) for c in columns.values()], names=list(columns)))
    records, summary = RecordsRequest(("records",)), SummaryRequest(by=("k",), value="n")
    parts = [begun(held, records, summary) for _ in range(3)]
    for at, part in enumerate(parts):
        part.absorb(Block(held.records.slice(at, 1), at, held.place))
    parts[2].merge(parts[0])
    parts[2].merge(parts[1])
    with pytest.raises(GrainStackError, match=r"2 rows stand for one bar \(k = a\)(?s:.*)They differ in year"):
        parts[2].table(OrderRequest(), "records")


def test_a_width_by_rule_is_the_same_on_a_grid(monkeypatch: pytest.MonkeyPatch) -> None:
    from grainstack.records.readers import banded  # noqa: PLC0415 - used once

    monkeypatch.setattr(banded, "_MOST_VALUES", 40)
    held = records_of(3, 200)
    request = (RecordsRequest(("records",), band=("spend=auto",)), SummaryRequest(by=("spend",)), OrderRequest())
    for seed in range(12):
        check_merges(held, request, seed)
