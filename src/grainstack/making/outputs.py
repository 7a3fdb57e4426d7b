"""What was made, as the content of its files."""

from grainstack.advice import Advice
from grainstack.quick import dataclass


@dataclass(frozen=True, slots=True)
class Outputs:
    """A table or chart in some formats.

    Attributes:
        contents: The bytes, in the order of the formats asked for.
        advice: What only drawing it tells.
    """

    contents: tuple[bytes, ...]
    advice: tuple[Advice, ...] = ()
