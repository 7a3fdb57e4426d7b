"""One pass: filters, level lists, numbers, and an account of every record."""

from collections.abc import Mapping, Sequence
from typing import TYPE_CHECKING, Any

import numpy as np
import pytest

from grainstack.errors import RecordsError, RequestError
from grainstack.records.batch import Batch, Needs
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.reading import blocks_of
from grainstack.records.records_request import RecordsRequest
from grainstack.records.sources import open_source
from grainstack.records.variable import LevelOrder
from grainstack.records.view import View

if TYPE_CHECKING:
    from tests.conftest import Records

WAITS = {"route": ["b", "a", "", "b"], "wait": ["4", "", "7", "2.5"]}


def scanned(
    records: "Records",
    needs: Needs,
    columns: Mapping[str, Sequence[object]] = WAITS,
    **options: Any,  # noqa: ANN401
) -> tuple[View, list[Batch]]:
    path = str(records.write(columns))
    source = open_source([path])
    view = View(RecordsRequest((path,), **options), needs, source, Codebook())
    batches = [view.typed(block) for block in blocks_of(source, view.raw)]
    view.check()
    return view, batches


def test_levels_become_places_in_one_list_and_numbers_become_floats(records: "Records") -> None:
    view, [batch] = scanned(records, Needs(("route",), ("wait",)))
    assert batch.codes("route").tolist() == [0, 1, -1, 0]
    np.testing.assert_array_equal(batch.numbers("wait"), [4, np.nan, 7, 2.5])
    assert batch.records.column("levels:route").to_pylist() == ["b", "a", None, "b"]
    assert view.facts().coded["route"] == ("b", "a")
    assert view.account.read == 4


def test_codes_stay_text_and_numbers_are_ordered_as_numbers(records: "Records") -> None:
    view, _ = scanned(records, Needs(("code",)), {"code": ["10", "9", "00123", " 9 "]})
    variable = view.facts().variables["code"]
    assert [level.code for level in variable.levels] == ["9", "10", "00123"]
    assert variable.order is LevelOrder.NUMBERS


@pytest.mark.parametrize(
    ("options", "kept"),
    [
        ({"only": ("route=b",)}, [4, 2.5]),
        ({"only": ("route=a,b",)}, [4, np.nan, 2.5]),
        ({"except_": ("route=b",)}, [np.nan, 7]),
        ({"only": ("route=a,b",), "except_": ("wait=4",)}, [np.nan, 2.5]),
    ],
)
def test_levels_are_kept_and_left_out(
    records: "Records", options: dict[str, tuple[str, ...]], kept: list[float]
) -> None:
    view, [batch] = scanned(records, Needs((), ("wait",)), WAITS, **options)
    np.testing.assert_array_equal(batch.numbers("wait"), kept)
    assert view.account.read - view.account.filtered == len(kept)


def test_an_unknown_level_or_column_is_refused_with_the_nearest_names(records: "Records") -> None:
    with pytest.raises(RequestError, match="no level `c`"):
        scanned(records, Needs(("route",)), only=("route=c",))
    with pytest.raises(RequestError) as failure:
        scanned(records, Needs(("rout",)))
    assert failure.value.remedy == "Did you mean `route`?"
    with pytest.raises(RequestError, match="names no levels"):
        scanned(records, Needs(("route",)), only=("route",))


def test_stray_text_in_a_number_column_is_named_with_its_lines(records: "Records") -> None:
    columns = {"wait": ["1", "soon", "3", "4,5", "inf", "late", "2"]}
    with pytest.raises(RecordsError) as failure:
        scanned(records, Needs((), ("wait",)), columns)
    assert '"soon" (line 3), "inf" (line 6), "late" (line 7)' in str(failure.value)


def test_stray_text_in_records_left_out_does_not_matter(records: "Records") -> None:
    columns = {"kind": ["x", "y"], "wait": ["soon", "3"]}
    _, [batch] = scanned(records, Needs((), ("wait",)), columns, except_=("kind=x",))
    assert batch.numbers("wait").tolist() == [3]


def test_a_column_of_identifiers_is_no_category(records: "Records") -> None:
    with pytest.raises(RecordsError, match="more than 50,000 different values"):
        scanned(records, Needs(("id",)), {"id": range(50_001)})
