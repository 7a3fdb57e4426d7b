"""Which cell a record belongs to: one combination of levels, numbered in the order of appearance."""

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from grainstack.compiled import compiled

kernel = compiled("grainstack.summary.sums.kernel")
Cells = npt.NDArray[np.int64]
_DENSE = 1 << 22
_SPARSE = 64  # combinations for each that occurs: looking through more takes longer than sorting
_MOST_AT_ONCE = 16  # dimensions the compiled part has room for


def in_order(keys: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """Different combinations sorted by their first number, then the next, shape (keys, dimensions)."""
    if not len(keys):
        return keys
    sizes = (keys.max(axis=0) + 1).tolist()
    if math.prod(sizes) > min(_DENSE, _SPARSE * len(keys)):
        return keys[np.lexsort(keys.T[::-1])]
    occurs = np.zeros(math.prod(sizes), dtype=bool)
    occurs[np.ravel_multi_index(list(keys.T), sizes)] = True
    return np.column_stack(np.unravel_index(np.flatnonzero(occurs), sizes))


class CellIndex:
    """Numbers the combinations of levels that occur.

    Only combinations that occur take room, so a deep nesting with thousands of leaves costs what its leaves cost. Where
    a table of all combinations is small enough, it tells the cell of each; otherwise a dictionary does.
    """

    def __init__(self, dimensions: int) -> None:
        self._sizes = [1] * dimensions
        self._keys = np.zeros((16, dimensions), dtype=np.int64)
        self._count = 0
        self._lookup = np.full(1, -1, dtype=np.int32)  # small, so that most of it stays near the processor
        self._cells: dict[tuple[int, ...], int] = {}  # as far as the table is too large

    def __len__(self) -> int:
        return self._count

    @property
    def keys(self) -> npt.NDArray[np.int64]:
        """The level places of every cell, shape (cells, dimensions)."""
        return self._keys[: self._count]

    def place(self, codes: Sequence[npt.NDArray[np.integer]]) -> Cells:
        """The cell of every record, shape (records,); -1 where a level is missing.

        Args:
            codes: Level places, one array of shape (records,) per dimension.
        """
        if kernel is not None and len(codes) <= _MOST_AT_ONCE and self._is_dense(self._sizes):
            cells = self._compiled(codes)
            if cells is not None:
                return cells
        sizes = self._sizes_with(codes)
        flat = codes[0].astype(np.int64)
        for size, code in zip(sizes[1:], codes[1:], strict=True):
            flat *= size
            flat += code
        answered = np.logical_and.reduce([code >= 0 for code in codes])
        flat[~answered] = 0
        if self._is_dense(sizes):
            self._enlarge(sizes)
            return np.where(answered, self._dense(flat, answered), -1)
        self._sizes = sizes
        different, back = np.unique(flat[answered], return_inverse=True)
        numbers = self._sparse(np.column_stack(np.unravel_index(different, sizes)))
        cells = np.full(len(flat), -1, dtype=np.int64)
        cells[answered] = numbers[back]
        return cells

    def add(self, keys: npt.NDArray[np.int64]) -> Cells:
        """The numbers of these combinations, shape (keys,), with new numbers for new ones, in their order."""
        if not len(keys):
            return np.zeros(0, dtype=np.int64)
        sizes = [max(size, most + 1) for size, most in zip(self._sizes, keys.max(axis=0).tolist(), strict=True)]
        if not self._is_dense(sizes):
            self._sizes = sizes
            return self._sparse(keys)
        self._enlarge(sizes)
        flat = np.ravel_multi_index(list(keys.T), self._sizes)
        new = flat[self._lookup[flat] < 0]
        if len(new):
            order = np.arange(len(new), dtype=np.int32)
            self._lookup[new[::-1]] = order[::-1]  # the last write wins, so the first of those alike stays
            self._number(new[self._lookup[new] == order])
        return np.asarray(self._lookup[flat], dtype=np.int64)

    def _is_dense(self, sizes: list[int]) -> bool:
        """Whether there is room for a table of all combinations."""
        return math.prod(sizes) <= _DENSE

    def _sizes_with(self, codes: Sequence[npt.NDArray[np.integer]]) -> list[int]:
        """How many levels each dimension has, with those of more records."""
        return [max(size, int(code.max(initial=-1)) + 1) for size, code in zip(self._sizes, codes, strict=True)]

    def _compiled(self, codes: Sequence[npt.NDArray[np.integer]]) -> Cells | None:
        """By the table: one look per record; None where it would be too large."""
        whole = [code if code.flags.c_contiguous else np.ascontiguousarray(code) for code in codes]
        cells = np.empty(len(codes[0]), dtype=np.int64)
        self._enlarge(self._sizes)
        unknown = kernel.place(whole, self._sizes, self._lookup, cells)
        if unknown < 0:
            sizes = self._sizes_with(codes)
            if not self._is_dense(sizes):
                return None
            roomy = [1 << (size - 1).bit_length() for size in sizes]  # so that it is not made anew for each new level
            self._enlarge(roomy if self._is_dense(roomy) else sizes)
            unknown = kernel.place(whole, self._sizes, self._lookup, cells)
        if unknown:
            met = np.zeros(len(self._lookup), dtype=bool)
            met[-2 - cells[cells < -1]] = True
            self._number(np.flatnonzero(met))
            kernel.place(whole, self._sizes, self._lookup, cells)
        return cells

    def _dense(self, flat: Cells, answered: npt.NDArray[np.bool_]) -> Cells:
        """The same with numpy alone."""
        cells = self._lookup[flat].astype(np.int64)
        unknown = (cells < 0) & answered
        if unknown.any():
            self._number(np.flatnonzero(np.bincount(flat[unknown], minlength=1)))
            cells = self._lookup[flat].astype(np.int64)
        return cells

    def _enlarge(self, sizes: list[int]) -> None:
        """Makes the table anew where dimensions have more levels than before, or there was none."""
        if sizes != self._sizes or len(self._lookup) != math.prod(sizes):
            self._sizes = sizes
            self._lookup = np.full(math.prod(sizes), -1, dtype=np.int32)
            if self._count:
                self._lookup[np.ravel_multi_index(list(self.keys.T), sizes)] = np.arange(self._count)

    def _number(self, new: npt.NDArray[np.int64]) -> None:
        """Numbers combinations that have no cell yet, given by their place in the table."""
        self._lookup[new] = np.arange(self._count, self._count + len(new))
        self._append(np.column_stack(np.unravel_index(new, self._sizes)))

    def _sparse(self, keys: npt.NDArray[np.int64]) -> Cells:
        """The numbers of combinations where a table would be too large."""
        cells = self._cells
        if len(cells) < self._count:
            cells.update(zip(map(tuple, self.keys.tolist()), range(self._count), strict=True))
        before = len(cells)
        numbers = np.array([cells.setdefault(tuple(key), len(cells)) for key in keys.tolist()], dtype=np.int64)
        new, first = np.unique(numbers, return_index=True)
        self._append(keys[first[new >= before]])
        return numbers

    def _append(self, keys: npt.NDArray[np.int64]) -> None:
        count = self._count + len(keys)
        if count > len(self._keys):
            room = np.zeros((2 * count, self._keys.shape[1]), dtype=np.int64)
            room[: self._count] = self.keys
            self._keys = room
        self._keys[self._count : count] = keys
        self._count = count
