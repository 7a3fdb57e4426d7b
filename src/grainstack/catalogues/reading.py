"""A language read from its catalogue."""

from gettext import GNUTranslations
from io import BytesIO
from pathlib import Path

from babel import Locale
from babel.messages.mofile import write_mo
from babel.messages.pofile import read_po
from babel.numbers import get_decimal_symbol, get_group_symbol

from grainstack.language import Language

_CATALOGUES = Path(__file__).parent


def language_from(name: str, lowered: str) -> Language:
    """The language of a catalogue.

    Args:
        name: As the catalogue is named: `de`.
        lowered: The phrase that stays as it is where labels start small within a sentence.
    """
    compiled = BytesIO()
    with (_CATALOGUES / f"{name}.po").open("rb") as file:
        write_mo(compiled, read_po(file, name))
    compiled.seek(0)
    catalogue, locale = GNUTranslations(compiled), Locale.parse(name)
    return Language(
        name,
        catalogue.gettext,
        catalogue.ngettext,
        get_group_symbol(locale),
        get_decimal_symbol(locale),
        catalogue.gettext(lowered) == lowered,
        tuple(locale.months["stand-alone"]["abbreviated"][month] for month in range(1, 13)),
        tuple(locale.days["stand-alone"]["wide"][day] for day in range(7)),
    )
