"""Text as numbers, without guessing: what is not a number is reported, never dropped."""

import math
from collections.abc import Iterable

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.records.arrow import Numbers, places_of


def parsed(text: str) -> float | None:
    """The number a text stands for, NaN when it is blank, None when it is something else.

    `nan` and `inf` are not numbers anybody measured. Neither is `1,234`: in one country it is a thousand times what it
    is in another, so it is reported rather than guessed.
    """
    plain = text.strip()
    if not plain:
        return math.nan
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if math.isfinite(value) else None


def numbers_in(values: pa.DictionaryArray) -> tuple[Numbers, list[tuple[int, str]]]:
    """Text in dictionary form as numbers.

    Returns:
        The numbers, shape (records,), NaN where blank or wrong; and where wrong text stands (record, text).
    """
    texts = values.dictionary.to_pylist()
    own = [parsed(text or "") for text in texts]
    lookup = np.array([math.nan if value is None else value for value in own] + [math.nan])
    places = places_of(values)
    wrong = [index for index, value in enumerate(own) if value is None]
    strays = [(int(record), str(texts[places[record]])) for record in np.flatnonzero(np.isin(places, wrong))]
    return lookup[places], strays


def stray_text(column: str, source: str, strays: Iterable[tuple[str, str]], more: int) -> RecordsError:
    """The error for a number column that holds other text.

    Args:
        column: The column's name.
        source: The file's name.
        strays: Where it stands and what it says, the first few.
        more: How many more there are.
    """
    shown = [f'"{text}" ({place})' for place, text in strays]
    tail = f" and {more:,} more" if more else ""
    return RecordsError(
        f"`{column}` of {source} should hold numbers but holds {listed(shown)}{tail}.",
        "Mend these values or leave them empty, or use the column as a category.",
    )
