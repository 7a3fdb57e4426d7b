"""Columns of numbers as both ways of summing see them: compiled, and with numpy alone."""

from abc import ABC, abstractmethod
from collections.abc import Sequence
from typing import Any, Self

import numpy as np
import numpy.typing as npt

from grainstack.summary.sums.exact import ExactSums, Floats, Integers

Factor = Any  # a column ready to be multiplied, as the way chosen keeps it: nobody else looks inside
Product = tuple[Sequence[Factor], list[ExactSums]]  # columns, and what their product is added to


class NumberColumn(ABC):
    """Numbers of some rows; what summing works out of them is worked out once.

    Args:
        numbers: Shape (rows,); NaN where there is none.
    """

    __slots__ = ("numbers",)

    def __init__(self, numbers: Floats) -> None:
        self.numbers = numbers

    @property
    @abstractmethod
    def scaled(self) -> Any:  # noqa: ANN401 - as the way chosen keeps it
        """The numbers as whole numbers of a power of ten, as the way chosen keeps them."""

    def at(self, rows: Integers | slice | npt.NDArray[np.bool_]) -> Self:
        """The numbers of some rows."""
        return type(self)(self.numbers[rows])
