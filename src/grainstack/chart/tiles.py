"""How pies and treemaps are to look."""

from dataclasses import dataclass

from grainstack.chart.request import LABELS
from grainstack.errors import RequestError
from grainstack.words import names_in, switch, word

_PIE = "Pie"
_TREE = "Treemap"
COLOR_STATS = ("mean", "median", "sum", "min", "max")


@dataclass(frozen=True, slots=True)
class PieRequest:
    """How a pie is drawn and labelled.

    Raises:
        RequestError: An unknown kind of label.
    """

    label: str = word(
        "share",
        f"What is written at a slice: {', '.join(LABELS)}, a list of them, or none.",
        group=_PIE,
        metavar="WHAT",
    )
    turn: float = word(0.0, "Where the first slice starts, clockwise from the top.", group=_PIE, metavar="DEGREES")
    ring: bool = switch("Draw a ring with the total in its middle.", group=_PIE)
    set_apart: str | None = word(None, "Slices that stand apart.", group=_PIE, metavar="LEVELS")
    panel_columns: int | None = word(None, "How many pies stand side by side.", group=_PIE, metavar="N")

    def __post_init__(self) -> None:
        check_labels(self.label)

    @property
    def apart(self) -> tuple[str, ...]:
        """The levels set apart."""
        return names_in(self.set_apart) if self.set_apart else ()


@dataclass(frozen=True, slots=True)
class TreemapRequest:
    """How a treemap is coloured and labelled.

    Raises:
        RequestError: An unknown kind of label, or a middle without a measure.
    """

    label: str = word(
        "value", f"What is written under a name: {', '.join(LABELS)}, or none.", group=_TREE, metavar="WHAT"
    )
    root_label: str | None = word(None, "A title bar over the whole, with its total.", group=_TREE, metavar="TEXT")
    color_by: str | None = word(None, "A number that gives each tile its colour.", group=_TREE, metavar="COLUMN")
    color_stat: str = word("mean", "What is shown of it.", group=_TREE, metavar="STAT", choices=COLOR_STATS)
    color_middle: float | None = word(
        None, "The value at the middle of a two-sided ramp; 0 where it has both signs.", group=_TREE, metavar="NUMBER"
    )

    def __post_init__(self) -> None:
        check_labels(self.label)
        if not self.color_by and (self.color_middle is not None or self.color_stat != "mean"):
            raise RequestError(
                "--color-middle and --color-stat belong to --color-by.", "Name the number that gives the colour."
            )


def check_labels(label: str) -> None:
    """Refuses a kind of label there is not.

    Raises:
        RequestError: Names those there are.
    """
    unknown = [kind for kind in names_in(label) if kind not in (*LABELS, "none")]
    if unknown:
        raise RequestError(f"--label {unknown[0]} is not known.", f"Choose from {', '.join(LABELS)}, or none.")
