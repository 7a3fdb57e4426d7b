"""Keeps the catalogues by the source: `python -m grainstack.catalogues.upkeep` adds what they lack to all of them.

A new language begins as an empty file: `touch src/grainstack/catalogues/fr.po`, then the same command.
"""

import ast
from collections.abc import Iterator
from io import BytesIO
from pathlib import Path

from babel import Locale
from babel.messages import Catalog
from babel.messages.pofile import read_po, write_po

_PACKAGE = Path(__file__).parent.parent
_KEYWORDS = {"phrase": 1, "phrases": 2, "marked": 1}  # how many of their first arguments are phrases
_WIDTH = 118  # of a line of a catalogue
_HEADER = """# What Grain Stack writes in {language}.
msgid ""
msgstr ""
"Language: {name}\\n"
"Plural-Forms: {plurals}\\n"
"Content-Type: text/plain; charset=utf-8\\n"
"Content-Transfer-Encoding: 8bit\\n"

"""
Phrase = str | tuple[str, str]  # one, or one for one thing and one for several


def phrases_in(source: str) -> Iterator[Phrase]:
    """The phrases of some Python, in the order in which they stand there.

    Args:
        source: The source.
    """
    calls = [node for node in ast.walk(ast.parse(source)) if isinstance(node, ast.Call)]
    for call in sorted(calls, key=lambda one: (one.lineno, one.col_offset)):
        name = call.func.id if isinstance(call.func, ast.Name) else ""
        texts = [str(one.value) for one in call.args[: _KEYWORDS.get(name, 0)] if isinstance(one, ast.Constant)]
        if texts and len(texts) == _KEYWORDS[name]:
            yield texts[0] if len(texts) == 1 else (texts[0], texts[1])


def every_phrase(package: Path = _PACKAGE) -> dict[Phrase, str]:
    """The phrases of the program, each with the first file that has it.

    Args:
        package: The folder of its source.
    """
    found: dict[Phrase, str] = {}
    for path in sorted(package.rglob("*.py")):
        for phrase in phrases_in(path.read_text("utf-8")):
            found.setdefault(phrase, path.relative_to(package.parent).as_posix())
    return found


def updated(catalogue: Catalog, wanted: dict[Phrase, str]) -> Catalog:
    """A catalogue with all phrases there are, those it lacks without a translation, and none there is no more.

    Args:
        catalogue: As it was.
        wanted: The phrases, each with a file that has it.
    """
    now = Catalog(catalogue.locale)
    for phrase, place in wanted.items():
        before = catalogue.get(phrase if isinstance(phrase, str) else phrase[0])
        now.add(phrase, before.string if before and before.id == phrase else None, [(place, 0)])
    return now


def main() -> None:
    """Brings every catalogue up to date."""
    wanted = every_phrase()
    for path in sorted(Path(__file__).parent.glob("*.po")):
        with path.open("rb") as file:
            catalogue = read_po(file, path.stem)
        content = BytesIO()
        write_po(content, updated(catalogue, wanted), width=_WIDTH, omit_header=True, include_lineno=False)
        language = Locale.parse(path.stem).get_language_name("en")
        header = _HEADER.format(language=language, name=path.stem, plurals=catalogue.plural_forms)
        path.write_text(header + content.getvalue().decode(), "utf-8")


if __name__ == "__main__":
    main()
