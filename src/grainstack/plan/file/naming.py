"""How a plan names things."""

from grainstack.option_names import Naming


def _said(name: str, value: str | None) -> str:
    key = name.rstrip("_")
    return key if value is None else f'{key} = "{value}"'


PLANNED = Naming(field=_said, kind=lambda name: f'kind = "{name}"')
