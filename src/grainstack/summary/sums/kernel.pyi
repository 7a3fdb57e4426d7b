from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

Floats: TypeAlias = npt.NDArray[np.float64]
Integers: TypeAlias = npt.NDArray[np.int64]

MISSING: int
OTHER: int

def scaled(numbers: Floats) -> tuple[Integers, float, int, int]: ...
def exponents(numbers: Floats) -> tuple[int, int]: ...
def add_wholes(
    cells: Integers,
    columns: Sequence[Integers],
    steps: Sequence[tuple[int, int, bool]],
    targets: Sequence[tuple[int, Sequence[Integers]]],
) -> None: ...
def add_numbers(cells: Integers, columns: Sequence[Floats], levels: Sequence[Integers], lowest: int) -> None: ...
def place(
    codes: Sequence[npt.NDArray[np.integer]], sizes: Sequence[int], lookup: npt.NDArray[np.int32], cells: Integers
) -> int: ...
def span(wholes: Integers) -> tuple[int, int, int]: ...
def value_places(cells: Integers, wholes: Integers, least: int, unit: int, reach: int, places: Integers) -> None: ...
def count_places(places: Integers, counts: Integers) -> None: ...
