"""What tests have found: differences between categories, and the association of two columns."""

import numpy as np
import numpy.typing as npt
from msgspec import Struct
from msgspec.structs import replace


class Difference(Struct, frozen=True):
    """One difference and its test.

    Attributes:
        cell: The cell on the left.
        other: The cell on the right; None for all others of its line together.
        line: Which line of cells (one series of one panel) it belongs to.
        estimate: The first figure less the second.
        low: Lower confidence limit, at the level that the same adjustment leaves it: it holds 0 where the adjusted
            p-value is above the level of the test.
        high: Upper confidence limit.
        p: The p-value of the test by itself.
        adjusted: The p-value adjusted for all tests of its family (Holm 1979).
        test: The test, in words.
        tests: How many tests its family has.
        degrees: Degrees of freedom of the test; NaN where it has none, as those by a normal or exact distribution.
    """

    cell: int
    other: int | None
    line: int
    estimate: float
    low: float
    high: float
    p: float
    adjusted: float
    test: str
    tests: int = 1
    degrees: float = np.nan


class Comparison(Struct, frozen=True):
    """All differences of a table.

    Attributes:
        differences: In the order of their lines and cells.
        letters: The letters of each cell, empty where none are wanted or a cell has no figure, shape (cells,).
        level: Confidence level in percent; its complement is the bound for p.
        words: What was tested and how it was adjusted.
        listed: Whether a list of the differences is wanted, and not their letters only.
        of_series: Whether series were compared with each other, and not categories.
    """

    differences: tuple[Difference, ...]
    letters: tuple[str, ...]
    level: float
    words: str
    listed: bool = True
    of_series: bool = False

    def without(self, hidden: npt.NDArray[np.bool_]) -> "Comparison | None":
        """What tells nothing of some cells: no difference from them, nor from a rest they are part of.

        Args:
            hidden: The cells that are left out, shape (cells,).

        Returns:
            The same with fewer differences; None where none is left.
        """
        broken = {one.line for one in self.differences if hidden[one.cell]}

        def tells(one: Difference) -> bool:
            return bool(hidden[one.cell]) or (one.line in broken if one.other is None else bool(hidden[one.other]))

        kept = tuple(one for one in self.differences if not tells(one))
        letters = tuple("" if out else text for text, out in zip(self.letters, hidden, strict=True))
        return replace(self, differences=kept, letters=letters) if kept else None


class Trend(Struct, frozen=True):
    """A slope along levels that run from low to high.

    Attributes:
        cell: The last cell of the line, whether or not it has a figure.
        estimate: The change per unit.
        low: Lower confidence limit.
        high: Upper confidence limit.
        p: The p-value of no slope.
        steps: How many levels it goes along.
        unit: What their distances are counted in: `year`; `step` where they have an order and no distances.
    """

    cell: int
    estimate: float
    low: float
    high: float
    p: float
    steps: int
    unit: str = "step"


class Association(Struct, frozen=True):
    """A test of independence.

    Attributes:
        statistic: Pearson's X² without a design, else the corrected F.
        degrees: Its degrees of freedom; two for an F.
        p: The p-value.
        strength: Cramér's V, from 0 (none) to 1.
        least_expected: The smallest expected count.
        words: The whole, as a sentence.
        panel: The panel it is of; empty where there are none, and for all of them together.
        answer: The answer it is of, where a record may have several; empty elsewhere.
    """

    statistic: float
    degrees: tuple[float, ...]
    p: float
    strength: float
    least_expected: float
    words: str
    panel: str = ""
    answer: str = ""
