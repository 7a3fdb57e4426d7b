"""The limits of a figure, as whatever worked them out hands them on."""

from collections.abc import Sequence
from typing import Protocol

from msgspec import Struct

from grainstack.summary.sums.exact import Floats, Mask


class Limits(Struct, frozen=True):
    """Limits of a figure; arrays have shape (cells,).

    Attributes:
        low: NaN where there is none.
        high: NaN where there is none.
        words: What they are; empty when there are none.
        level: The confidence level they have in percent; None where they have none, or at least one.
        by_student: Whether they go by Student's t.
        degrees: The degrees of freedom they rest on, where these are not those of the figure's standard error.
    """

    low: Floats
    high: Floats
    words: str
    degrees: Floats | None = None
    level: float | None = None
    by_student: bool = False


class DesignSpread(Protocol):
    """Variances, covariances and degrees of freedom of the figures of some cells."""

    @property
    def variance(self) -> Floats:
        """V of each cell, shape (cells,)."""

    @property
    def degrees(self) -> Floats:
        """Degrees of freedom of each cell, shape (cells,)."""

    @property
    def settled(self) -> Mask:
        """Whether nothing is left to chance in a cell, as all there is was drawn, shape (cells,)."""

    def covariances(self, cells: Sequence[int]) -> Floats:
        """The covariances of some cells, shape (cells wanted, cells wanted); the diagonal is not filled."""

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some cells together."""
