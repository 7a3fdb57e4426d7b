"""How a plan names things."""

from grainstack.option_names import Naming


def _as_key(name: str, value: str | None) -> str:
    """A field as a line of a plan: whole numbers as they are, all else between quotes."""
    key = name.rstrip("_")
    if value is None:
        return key
    return f"{key} = {value}" if value.isdecimal() else f'{key} = "{value}"'


PLANNED = Naming(field=_as_key, kind=lambda name: f'kind = "{name}"')
