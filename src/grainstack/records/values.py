"""Columns of any Arrow type as text or as numbers, so that every format gives the same records."""

import datetime as dt
import math
from decimal import Decimal

import numpy as np
import pyarrow as pa

from grainstack.compiled import compiled
from grainstack.errors import RecordsError
from grainstack.records.arrow import Numbers, level_column, numbers_of, places_of
from grainstack.records.numerals import TRUTHS, extent_of, parsed

kernel = compiled("grainstack.records.kernel")

_MANY = 1000  # different texts, beyond which reading them all at once pays
Strays = list[tuple[int, str]]


def unlike_values(kind: pa.DataType) -> str:
    """What a column holds that is no single value nor a list of some, in words; empty where it holds values.

    Args:
        kind: Its type.
    """
    if isinstance(kind, pa.BaseExtensionType):
        inner = unlike_values(kind.storage_type)
        return "values of a type of its own" if inner and isinstance(kind, pa.OpaqueType) else inner
    if pa.types.is_struct(kind) or pa.types.is_map(kind):
        return "structures"
    if pa.types.is_binary(kind) or pa.types.is_large_binary(kind) or pa.types.is_fixed_size_binary(kind):
        return "bytes"
    if pa.types.is_list(kind) or pa.types.is_large_list(kind) or pa.types.is_fixed_size_list(kind):
        inner = unlike_values(kind.value_type) or ("lists" if pa.types.is_nested(kind.value_type) else "")
        return f"lists of {inner}" if inner else ""
    return ""


def as_texts(column: pa.Array, name: str) -> pa.DictionaryArray:
    """A column as text in dictionary form.

    Whole numbers are written without a decimal point, whatever type holds them; dates as `2025-01-31`.

    Args:
        column: A column of any type, shape (records,).
        name: What messages call it.

    Raises:
        RecordsError: It holds something that is no single value, such as a structure.
    """
    if unlike := unlike_values(column.type):
        raise RecordsError(f"`{name}` holds {unlike}, not single values.", "Flatten it first.")
    if isinstance(column, pa.ExtensionArray):
        column = column.storage
    if pa.types.is_null(column.type):
        return level_column(np.full(len(column), -1, dtype=np.int32), ())
    if pa.types.is_dictionary(column.type):
        if column.type.index_type == pa.int32() and pa.types.is_string(column.type.value_type):
            return column
        encoded = column
    elif pa.types.is_list(column.type) or pa.types.is_large_list(column.type):
        encoded = pa.array([None if row is None else ";".join(map(_text, row)) for row in column.to_pylist()])
        encoded = encoded.cast(pa.string()).dictionary_encode()
    elif pa.types.is_string(column.type):
        return column.dictionary_encode()
    else:
        encoded = column.dictionary_encode()
    texts = [_text(value) for value in encoded.dictionary.to_pylist()]
    codes = places_of(pa.DictionaryArray.from_arrays(encoded.indices.cast(pa.int32()), encoded.dictionary))
    return level_column(codes, texts)


def as_numbers(column: pa.Array, name: str, decimal: str = ".") -> tuple[Numbers, Strays]:
    """A column as numbers.

    Args:
        column: A column of any type, shape (records,).
        name: What messages call it.
        decimal: The sign before the decimals of text, and behind it the one that parts thousands where that is settled.

    Returns:
        The numbers, shape (records,), NaN where there is none; and where something else stands (record, text).
    """
    kind = column.type
    if pa.types.is_integer(kind) or pa.types.is_floating(kind) or pa.types.is_boolean(kind):
        if kind == pa.float64() and not column.null_count:
            numbers = numbers_of(column)
        else:
            numbers = np.asarray(column.cast(pa.float64(), safe=False).to_numpy(zero_copy_only=False), dtype=np.float64)
        infinite = np.flatnonzero(np.isinf(numbers)) if extent_of(numbers).size == math.inf else ()
        return numbers, [(int(record), str(numbers[record])) for record in infinite]
    if pa.types.is_string(kind) and decimal[0] == ".":
        if kernel is not None and not column.null_count:
            return _read_numbers(column, decimal)
        plain = _plain_numbers(column)
        if plain is not None:
            return plain, []
    return _parsed_texts(as_texts(column, name), decimal)


def as_truths(column: pa.Array, name: str) -> tuple[Numbers, Strays]:
    """A column of `true` and `false` as 1 and 0; arguments and result as of `as_numbers`."""
    values = as_texts(column, name)
    texts = [(text or "").strip() for text in values.dictionary.to_pylist()]
    numbers = np.array([*(TRUTHS.get(text.casefold(), math.nan) for text in texts), math.nan])
    others = np.array([*(bool(text) and text.casefold() not in TRUTHS for text in texts), False])
    places = places_of(values)
    rows = np.flatnonzero(others[places]).tolist()
    return numbers[places], [(row, texts[places[row]]) for row in rows]


def _read_numbers(texts: pa.StringArray, decimal: str) -> tuple[Numbers, Strays]:
    """Texts as numbers: those in usual notation at once, the rest one by one."""
    _, offsets, text = texts.buffers()
    places = np.frombuffer(offsets, dtype=np.int32)[texts.offset : texts.offset + len(texts) + 1]
    numbers, others = kernel.read_numbers(places, np.frombuffer(text or b"", dtype=np.uint8))
    strays: Strays = []
    for row in others.tolist():
        value = parsed(texts[row].as_py(), decimal)
        numbers[row] = math.nan if value is None else value
        if value is None:
            strays.append((row, texts[row].as_py()))
    return numbers, strays


def _plain_numbers(texts: pa.Array) -> Numbers | None:
    """Texts that are all plain finite numbers or empty, NaN for these; None where any is something else.

    A fast way for the usual case: it takes nothing that `parsed` refuses, and reads every number to the same bits.
    """
    import pyarrow.compute as pc  # noqa: PLC0415 - it loads slower than few texts are read

    try:
        numbers = pc.if_else(pc.equal(texts, ""), None, texts).cast(pa.float64())
    except pa.ArrowInvalid:
        return None
    found = np.asarray(numbers.to_numpy(zero_copy_only=False), dtype=np.float64)
    return found if np.isfinite(found).sum() == len(found) - numbers.null_count else None


def _parsed_texts(values: pa.DictionaryArray, decimal: str) -> tuple[Numbers, Strays]:
    many = len(values.dictionary) > _MANY and decimal[0] == "."
    plain = _plain_numbers(values.dictionary) if many else None
    if plain is not None:
        return np.append(plain, math.nan)[places_of(values)], []
    texts = values.dictionary.to_pylist()
    own = [parsed(text or "", decimal) for text in texts]
    lookup = np.array([math.nan if value is None else value for value in own] + [math.nan])
    places = places_of(values)
    wrong = [index for index, value in enumerate(own) if value is None]
    strays = [(int(record), str(texts[places[record]])) for record in np.flatnonzero(np.isin(places, wrong))]
    return lookup[places], strays


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, float):
        return str(int(value)) if value.is_integer() and abs(value) < 2**53 else repr(value)
    if isinstance(value, Decimal):
        return f"{value:f}"
    if isinstance(value, dt.datetime):
        return value.date().isoformat() if value.time() == dt.time(0) else value.isoformat(" ")
    return str(value)
