"""Which cell a record belongs to: one combination of levels, numbered in the order of appearance."""

import math
from collections.abc import Sequence

import numpy as np
import numpy.typing as npt

from grainstack.compiled import compiled

kernel = compiled("grainstack.summary.sums.kernel")
Cells = npt.NDArray[np.int64]
_DENSE = 1 << 22
_MOST_AT_ONCE = 16  # dimensions the compiled part has room for


def in_order(keys: npt.NDArray[np.int64]) -> npt.NDArray[np.int64]:
    """Combinations sorted by their first number, then the next, shape (keys, dimensions)."""
    return keys[np.lexsort(keys.T[::-1])] if len(keys) else keys


class CellIndex:
    """Numbers the combinations of levels that occur.

    Only combinations that occur take room, so a deep nesting with thousands of leaves costs what its leaves cost.
    """

    def __init__(self, dimensions: int) -> None:
        self._sizes = [1] * dimensions
        self._cells: dict[tuple[int, ...], int] = {}
        self._lookup = np.full(1, -1, dtype=np.int64)

    def __len__(self) -> int:
        return len(self._cells)

    @property
    def keys(self) -> npt.NDArray[np.int64]:
        """The level places of every cell, shape (cells, dimensions)."""
        return np.array(list(self._cells), dtype=np.int64).reshape(len(self._cells), len(self._sizes))

    def place(self, codes: Sequence[npt.NDArray[np.integer]]) -> Cells:
        """The cell of every record, shape (records,); -1 where a level is missing.

        Args:
            codes: Level places, one array of shape (records,) per dimension.
        """
        if kernel is not None and len(codes) <= _MOST_AT_ONCE and math.prod(self._sizes) <= _DENSE:
            cells = self._compiled(codes)
            if cells is not None:
                return cells
        sizes = self._sizes_with(codes)
        flat = codes[0].astype(np.int64)
        for size, code in zip(sizes[1:], codes[1:], strict=True):
            flat *= size
            flat += code
        answered = None
        if any(int(code.min(initial=0)) < 0 for code in codes):
            answered = np.logical_and.reduce([code >= 0 for code in codes])
            flat[~answered] = 0
        cells = (
            self._dense(flat, answered, sizes) if math.prod(sizes) <= _DENSE else self._sparse(flat, answered, sizes)
        )
        return cells if answered is None else np.where(answered, cells, -1)

    def add(self, keys: npt.NDArray[np.int64]) -> Cells:
        """The numbers of these combinations, shape (keys,), with new numbers for new ones."""
        if len(keys):
            reach = (keys.max(axis=0) + 1).tolist()
            self._sizes = [max(size, most) for size, most in zip(self._sizes, reach, strict=True)]
        self._lookup = np.full(0, -1, dtype=np.int64)
        return np.array([self._cells.setdefault(tuple(key), len(self._cells)) for key in keys.tolist()], dtype=np.int64)

    def _compiled(self, codes: Sequence[npt.NDArray[np.integer]]) -> Cells | None:
        """By a table of all combinations: one look per record; None where the table would be too large."""
        whole = [code if code.flags.c_contiguous else np.ascontiguousarray(code) for code in codes]
        cells = np.empty(len(codes[0]), dtype=np.int64)
        self._enlarge(self._sizes)
        unknown = kernel.place(whole, self._sizes, self._lookup, cells)
        if unknown < 0:
            sizes = self._sizes_with(codes)
            if math.prod(sizes) > _DENSE:
                return None
            roomy = [1 << (size - 1).bit_length() for size in sizes]  # so that it is not made anew for each new level
            sizes = roomy if math.prod(roomy) <= _DENSE else sizes
            self._enlarge(sizes)
            unknown = kernel.place(whole, sizes, self._lookup, cells)
        if unknown:
            self._number(np.unique(-2 - cells[cells < -1]), self._sizes)
            kernel.place(whole, self._sizes, self._lookup, cells)
        return cells

    def _sizes_with(self, codes: Sequence[npt.NDArray[np.integer]]) -> list[int]:
        """How many levels each dimension has, with those of more records."""
        return [max(size, int(code.max(initial=-1)) + 1) for size, code in zip(self._sizes, codes, strict=True)]

    def _dense(self, flat: Cells, answered: npt.NDArray[np.bool_] | None, sizes: list[int]) -> Cells:
        """The same with numpy alone."""
        self._enlarge(sizes)
        cells = self._lookup[flat]
        unknown = cells < 0
        if answered is not None:
            unknown &= answered
        if unknown.any():
            self._number(np.flatnonzero(np.bincount(flat[unknown], minlength=1)), sizes)
            cells = self._lookup[flat]
        return cells

    def _enlarge(self, sizes: list[int]) -> None:
        """Makes the table of all combinations anew where dimensions have more levels than before."""
        if sizes != self._sizes or len(self._lookup) != math.prod(sizes):
            self._sizes = sizes
            self._lookup = np.full(math.prod(sizes), -1, dtype=np.int64)
            if self._cells:
                self._lookup[np.ravel_multi_index(list(self.keys.T), sizes)] = np.arange(len(self._cells))

    def _number(self, new: npt.NDArray[np.int64], sizes: list[int]) -> None:
        """Numbers combinations that have no cell yet."""
        keys = zip(*(part.tolist() for part in np.unravel_index(new, sizes)), strict=True)
        for place, key in zip(new, keys, strict=True):
            self._lookup[place] = self._cells[key] = len(self._cells)

    def _sparse(self, flat: Cells, answered: npt.NDArray[np.bool_] | None, sizes: list[int]) -> Cells:
        """By sorting, where a table of all combinations would be too large."""
        answered = np.ones(len(flat), dtype=bool) if answered is None else answered
        self._sizes = sizes
        different, back = np.unique(flat[answered], return_inverse=True)
        keys = zip(*(part.tolist() for part in np.unravel_index(different, sizes)), strict=True)
        numbers = np.array([self._cells.setdefault(key, len(self._cells)) for key in keys], dtype=np.int64)
        cells = np.full(len(flat), -1, dtype=np.int64)
        cells[answered] = numbers[back]
        return cells
