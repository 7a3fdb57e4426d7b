"""What a survey design tells of the spread of some figures, however it was worked out."""

from collections.abc import Sequence
from typing import Protocol

from grainstack.summary.sums.exact import Floats


class DesignSpread(Protocol):
    """Variances, covariances and degrees of freedom of the figures of some cells."""

    @property
    def variance(self) -> Floats:
        """V of each cell, shape (cells,)."""

    @property
    def degrees(self) -> Floats:
        """Degrees of freedom of each cell, shape (cells,)."""

    def covariance(self, one: int, other: int) -> float:
        """The covariance of two cells."""

    def joint_degrees(self, cells: Sequence[int]) -> float:
        """Degrees of freedom of some cells together."""
