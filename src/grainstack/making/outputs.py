"""What was made, as the content of its files."""

from msgspec import Struct

from grainstack.advice import Advice
from grainstack.words import Medium, switch


class Outputs(Struct, frozen=True):
    """A table or chart in some formats.

    Attributes:
        contents: The bytes, in the order of the formats asked for.
        advice: What only drawing it tells.
    """

    contents: tuple[bytes, ...]
    advice: tuple[Advice, ...] = ()


def plain_csv() -> bool:
    """The option of commands that write text to CSV."""
    help_text = "Write text to .csv as it is, even where spreadsheets would take it for a formula."
    field: bool = switch(help_text, group="Output", medium=Medium.CSV)
    return field
