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
def add_wholes(cells: Integers, columns: Sequence[Integers], levels: Sequence[Integers], small: bool) -> None: ...
def add_numbers(cells: Integers, columns: Sequence[Floats], levels: Sequence[Integers], lowest: int) -> None: ...
def count_values(cells: Integers, values: Integers, lowest: int, reach: int, table: npt.NDArray[np.int64]) -> None: ...
