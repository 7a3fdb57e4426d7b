"""Levels merged and renamed: `--recode "route: 1, Osk Harbour -> North; Dunmar -> South"`."""

from collections.abc import Mapping

from msgspec import Struct

from grainstack.errors import RequestError
from grainstack.option_fields import names_in
from grainstack.option_names import option


class Recode(Struct, frozen=True):
    """New names for levels of a column.

    Attributes:
        column: The column.
        names: For each old label or code, its new name.
    """

    column: str
    names: Mapping[str, str]


def recode(text: str) -> Recode:
    """The recode in `COLUMN: A, B -> C; D -> E`.

    Raises:
        RequestError: It is not of this form, or gives one level two new names.
    """
    column, colon, rules = text.partition(":")
    how = f'Write {option("recode")} "COLUMN: A, B -> C; D -> E".'
    if not colon or not column.strip():
        raise RequestError(f"`{option('recode')} {text}` names no column.", how)
    names: dict[str, str] = {}
    for rule in rules.split(";"):
        if not rule.strip():
            continue
        old, arrow, new = rule.partition("->")
        olds = names_in(old)
        if not arrow or not new.strip() or not olds:
            raise RequestError(f"`{rule.strip()}` in {option('recode')} says not what becomes what.", how)
        for name in olds:
            if names.setdefault(name, new.strip()) != new.strip():
                raise RequestError(
                    f"{option('recode')} gives `{name}` two names: {names[name]} and {new.strip()}.", how
                )
    if not names:
        raise RequestError(f"`{option('recode')} {text}` changes nothing.", how)
    return Recode(column.strip(), names)
