"""How a caller names fields in messages: as the arguments of a call."""

from grainstack.option_names import Naming, worded

CALLED = Naming(
    field=lambda name, value: name if value is None else f"{name}={value!r}", kind=lambda name: f"grainstack.{name}"
)


def advised(text: str) -> str:
    """A message with fields named as arguments.

    Args:
        text: A message with fields as tokens.
    """
    return worded(text, CALLED)
