"""Between Arrow columns and numpy arrays by way of their buffers.

Arrow's own conversions load its compute functions, and pandas where it is installed; together they take longer than
reading a usual file.
"""

from collections.abc import Sequence
from itertools import accumulate

import numpy as np
import numpy.typing as npt
import pyarrow as pa

HEAD_ROWS = 2000  # the first rows of a source, which tell what its columns seem to hold

Codes = npt.NDArray[np.int32]
Numbers = npt.NDArray[np.float64]


def places_of(column: pa.DictionaryArray) -> Codes:
    """The dictionary places of a column, shape (records,); -1 for null."""
    indices = column.indices
    validity, data = indices.buffers()
    part = slice(indices.offset, indices.offset + len(indices))
    places = np.frombuffer(data, dtype=np.int32)[part] if len(indices) else np.zeros(0, dtype=np.int32)
    if not indices.null_count:
        return places
    valid = np.unpackbits(np.frombuffer(validity, dtype=np.uint8), bitorder="little")[part]
    return np.where(valid == 1, places, np.int32(-1))


def level_column(codes: Codes, levels: Sequence[str] | pa.StringArray) -> pa.DictionaryArray:
    """Dictionary-coded text; negative codes become null.

    Args:
        codes: Places in `levels`, -1 for none, shape (records,).
        levels: The codes of the levels.
    """
    texts = levels if isinstance(levels, pa.Array) else strings(levels)
    return pa.DictionaryArray.from_arrays(_integers(codes), texts, safe=False)


def number_column(numbers: Numbers) -> pa.Array:
    """Floats; NaN stays NaN and stands for `no answer`."""
    data = np.ascontiguousarray(numbers, dtype=np.float64)
    return pa.Array.from_buffers(pa.float64(), len(data), [None, pa.py_buffer(data)])


def numbers_of(column: pa.Array) -> Numbers:
    """The floats of a column made by `number_column`, shape (records,)."""
    data = np.frombuffer(column.buffers()[1], dtype=np.float64) if len(column) else np.zeros(0)
    return data[column.offset : column.offset + len(column)]


def level_lists(
    codes: Codes,
    offsets: npt.NDArray[np.int32],
    answered: npt.NDArray[np.bool_],
    levels: Sequence[str] | pa.StringArray,
) -> pa.ListArray:
    """Lists of levels.

    Args:
        codes: The places of all answers, record by record, shape (answers,).
        offsets: Where the answers of each record start, and the last one's end, shape (records + 1,).
        answered: Whether each record answered at all, shape (records,).
        levels: What the places stand for.
    """
    values = level_column(codes, levels)
    bits = pa.py_buffer(np.packbits(answered, bitorder="little"))
    kind = pa.list_(values.type)
    return pa.ListArray.from_buffers(kind, len(answered), [bits, pa.py_buffer(offsets)], children=[values])


def _integers(codes: Codes) -> pa.Array:
    data = np.ascontiguousarray(codes, dtype=np.int32)
    bits = None if data.min(initial=0) >= 0 else pa.py_buffer(np.packbits(data >= 0, bitorder="little"))
    return pa.Array.from_buffers(pa.int32(), len(data), [bits, pa.py_buffer(data)])


def strings(texts: Sequence[str]) -> pa.StringArray:
    """Texts as an Arrow column."""
    encoded = [text.encode() for text in texts]
    offsets = np.fromiter(accumulate(map(len, encoded), initial=0), dtype=np.int32, count=len(encoded) + 1)
    return pa.Array.from_buffers(
        pa.string(), len(encoded), [None, pa.py_buffer(offsets), pa.py_buffer(b"".join(encoded))]
    )


def texts_from_bytes(
    places: Codes | None, offsets: npt.NDArray[np.int32], text: bytes
) -> pa.StringArray | pa.DictionaryArray:
    """Texts from their bytes.

    Args:
        places: Which of the texts each row has, shape (rows,); None where each row has its own.
        offsets: Where the texts start, and the last one ends, shape (texts + 1,).
        text: The bytes.
    """
    buffers = [None, pa.py_buffer(offsets), pa.py_buffer(text)]
    texts = pa.Array.from_buffers(pa.string(), len(offsets) - 1, buffers)
    if places is None:
        return texts
    kind = pa.dictionary(pa.int32(), pa.string())
    return pa.DictionaryArray.from_buffers(kind, len(places), [None, pa.py_buffer(places)], texts)


def text_column(texts: Sequence[str]) -> pa.DictionaryArray:
    """Texts in dictionary form, as sources that hold plain values give them."""
    places: dict[str, int] = {}
    codes = np.fromiter((places.setdefault(text, len(places)) for text in texts), dtype=np.int32, count=len(texts))
    return level_column(codes, tuple(places))


def valid_rows(column: pa.Array) -> npt.NDArray[np.bool_]:
    """Where a column is not null, shape (records,)."""
    validity = column.buffers()[0]
    if validity is None or not column.null_count:
        return np.ones(len(column), dtype=bool)
    bits = np.unpackbits(np.frombuffer(validity, dtype=np.uint8), bitorder="little")
    return np.asarray(bits[column.offset : column.offset + len(column)] == 1)


def list_offsets(column: pa.ListArray) -> npt.NDArray[np.int32]:
    """Where the items of each list start, and the last one ends, shape (records + 1,)."""
    data = np.frombuffer(column.buffers()[1], dtype=np.int32)
    return data[column.offset : column.offset + len(column) + 1]


def empty_head(columns: Sequence[str]) -> pa.RecordBatch:
    """The first rows of a source that has none."""
    return pa.RecordBatch.from_arrays([text_column([]) for _ in columns], names=list(columns))


def text_rows(rows: Sequence[Sequence[str]], columns: Sequence[str]) -> pa.RecordBatch:
    """Rows of text as a batch; a row that is too short is blank at its end."""
    count = len(columns)
    filled = [[*row, *[""] * (count - len(row))] for row in rows]
    arrays = [text_column([row[place] for row in filled]) for place in range(count)]
    return pa.RecordBatch.from_arrays(arrays, names=list(columns))
