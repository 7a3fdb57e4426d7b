"""SQL search conditions against a plain reading of SQL's three-valued logic."""

import sqlite3
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from grainstack.errors import RequestError
from grainstack.records.expressions.expression import Condition
from grainstack.records.expressions.operands import Operand, Words

NUMBERS = {"wait": [5.0, 12.0, None, 0.0, 30.0], "spend": [1.5, None, 2.0, 0.0, -4.0]}
TEXTS = {
    "route": ["Pell Isle", "Dunmar", None, "Osk", "Dunmar"],
    "day": ["2025-01-03", None, "2024-12-31", "2025-06-01", "2025-01-04"],
}


def kept(text: str) -> list[int]:
    """The records a condition keeps."""

    def column(name: str) -> Operand:
        if name in NUMBERS:
            return np.array([np.nan if value is None else value for value in NUMBERS[name]])
        names = sorted({value for value in TEXTS[name] if value})
        places = np.array([names.index(value) if value else -1 for value in TEXTS[name]], dtype=np.int32)
        return Words(places, tuple((value, value.upper()) for value in names))

    condition = Condition(text)
    condition.check_columns((*NUMBERS, *TEXTS))
    return np.flatnonzero(condition.holds(column, 5)).tolist()


def by_sqlite(text: str) -> list[int]:
    connection = sqlite3.connect(":memory:")
    connection.execute("CREATE TABLE t (n, wait REAL, spend REAL, route TEXT, day TEXT)")
    rows: list[tuple[Any, ...]] = list(zip(range(5), *NUMBERS.values(), *TEXTS.values(), strict=True))
    connection.executemany("INSERT INTO t VALUES (?, ?, ?, ?, ?)", rows)
    found = [row[0] for row in connection.execute(f"SELECT n FROM t WHERE {text} ORDER BY n")]  # noqa: S608
    connection.close()
    return found


CONDITIONS = [
    "wait > 5",
    "wait = 12 or spend <= 0",
    "not (wait > 5)",
    "route = 'Dunmar' and wait >= 12",
    "route <> 'Dunmar'",
    "route in ('Dunmar', 'Osk')",
    "route not in ('Dunmar', 'Osk')",
    "wait between 5 and 12",
    "wait not between 5 and 12",
    "route is null",
    "spend is not null and route is not null",
    "route like 'P%' or route like '_unm%'",
    "wait + 2 * spend > 8",
    "(wait - spend) / 2 < 3",
    "wait / spend > 1",
    "day >= '2025-01-01' and day < '2025-02-01'",
    "-wait < -10",
    "10 < wait",
    "'Dunmar' = route",
    "wait % 5 = 0",
    "wait = 5 or (route = 'Osk' and not spend > 1)",
    "spend > -5",
]


@pytest.mark.parametrize("text", CONDITIONS)
def test_conditions_keep_what_a_database_would(text: str) -> None:
    assert kept(text) == by_sqlite(text)


@given(
    st.lists(st.sampled_from(CONDITIONS), min_size=2, max_size=4),
    st.lists(st.sampled_from(["and", "or", "and not"]), min_size=3, max_size=3),
)
def test_joined_conditions_keep_what_a_database_would(parts: list[str], words: list[str]) -> None:
    text = f"({parts[0]})" + "".join(f" {word} ({part})" for word, part in zip(words, parts[1:], strict=False))
    assert kept(text) == by_sqlite(text)


def test_levels_are_called_by_label_or_code() -> None:
    assert kept("route = 'DUNMAR'") == kept("route = 'Dunmar'") == [1, 4]


@pytest.mark.parametrize(
    ("text", "said", "mark"),
    [
        ("waits > 3", "no column `waits`", "^^^^^"),
        ("wait > 'soon'", "'soon' is text", "       ^^^^^^"),
        ("route > 'A'", "have no order", "        ^^^"),
        ("wait >", "something is missing", "     ^"),
        ("reverse(route) > 3", "the function reverse", "^"),
        ("wait > (select 1)", "a query cannot be used here", ""),
        ("wait", "`wait` is not true or false", "^^^^"),
        ("route + 1 = 2", "arithmetic needs numbers", "^^^^^"),
        ("wait ~ 3", "`~` is not expected here", "     ^"),
        ("wait like '3%'", "LIKE compares a column of text", "^"),
        ("wait > 1; drop table x", "more than a condition", ""),
        ("wait > 1 group by route", "more than a condition", ""),
        ("wait = route", "numbers are compared with a column of text", "       ^^^^^"),
        ("exists(select 1)", "cannot be used here", ""),
    ],
)
def test_errors_point_at_the_place(text: str, said: str, mark: str) -> None:
    with pytest.raises(RequestError) as failure:
        kept(text)
    assert said in failure.value.message
    if mark:
        *_, shown, pointer = failure.value.message.splitlines()
        assert shown.strip() == text
        assert pointer[4:].startswith(mark)
