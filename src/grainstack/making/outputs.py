"""What was made, as the content of its files."""

from msgspec import Struct

from grainstack.advice import Advice


class Outputs(Struct, frozen=True):
    """A table or chart in some formats.

    Attributes:
        contents: The bytes, in the order of the formats asked for.
        advice: What only drawing it tells.
    """

    contents: tuple[bytes, ...]
    advice: tuple[Advice, ...] = ()
