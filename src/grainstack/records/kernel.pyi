from collections.abc import Sequence
from typing import TypeAlias

import numpy as np
import numpy.typing as npt

Offsets: TypeAlias = npt.NDArray[np.int32]

class RaggedError(ValueError): ...

def keep_memory() -> None: ...
def split(
    text: bytes, separator: int, columns: int, wanted: Sequence[tuple[int, bool]], skip: int, last: bool
) -> tuple[list[tuple[Offsets | None, Offsets, bytes]], int, int]: ...
def read_numbers(
    offsets: Offsets, text: bytes | npt.NDArray[np.uint8]
) -> tuple[npt.NDArray[np.float64], npt.NDArray[np.int64]]: ...
