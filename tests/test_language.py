"""Phrases, the signs of numbers, and catalogues that hold every phrase there is."""

import string
from collections.abc import Sequence
from io import BytesIO
from pathlib import Path

import pytest
from babel.messages import Catalog
from babel.messages.pofile import read_po

from grainstack import catalogues
from grainstack.catalogues.upkeep import every_phrase, main, phrases_in
from grainstack.language import (
    ENGLISH,
    LANGUAGES,
    in_words,
    language_of,
    lowered,
    phrase,
    phrases,
    raised,
    speaking,
    spoken,
    with_signs,
)

FOLDER = Path(catalogues.__file__).parent
OTHERS = [name for name in LANGUAGES if name != ENGLISH]


def test_english_is_spoken_where_nothing_else_is_said() -> None:
    assert spoken().name == ENGLISH
    assert phrase("{count} filtered away", count=2415) == "2,415 filtered away"
    with speaking(None):
        assert spoken().name == ENGLISH


def test_a_language_is_spoken_within_its_block_alone() -> None:
    with speaking("de"):
        assert phrase("Mean {what}", what="Wartezeit") == "Wartezeit im Mittel"
        with speaking(ENGLISH):
            assert phrase("Mean {what}", what="wait") == "Mean wait"
        assert phrase("All") == "Gesamt"
    assert phrase("All") == "All"


def test_it_is_left_again_after_a_failure() -> None:
    with pytest.raises(ValueError, match="of it"), speaking("de"):
        raise ValueError("of it")
    assert spoken().name == ENGLISH


@pytest.mark.parametrize(
    ("fact", "english", "german"),
    [
        (1234567, "1,234,567", "1.234.567"),
        (99.5, "99.5", "99,5"),
        ("1,234.5", "1,234.5", "1,234.5"),
        (True, "True", "True"),
    ],
)
def test_numbers_have_the_signs_of_the_language_and_texts_stay(fact: object, english: str, german: str) -> None:
    assert phrase("n = {base}", base=fact) == f"n = {english}"
    with speaking("de"):
        assert phrase("n = {base}", base=fact) == f"n = {german}"


def test_signs_are_exchanged_at_once() -> None:
    assert with_signs("1,234.5") == "1,234.5"
    with speaking("de"):
        assert with_signs("1,234.5") == "1.234,5"


@pytest.mark.parametrize(
    ("count", "english", "german"), [(1, "1 record", "1 Datensatz"), (0, "0 records", "0 Datensätze")]
)
def test_one_and_many(count: int, english: str, german: str) -> None:
    assert phrases("{n} record", "{n} records", count) == english
    with speaking("de"):
        assert phrases("{n} record", "{n} records", count) == german


def test_labels_start_small_in_english_sentences_alone() -> None:
    assert [lowered(text) for text in ("Waiting time", "GP visits", "A", "")] == ["waiting time", "GP visits", "a", ""]
    assert raised("weighted by w") == "Weighted by w"
    with speaking("de"):
        assert lowered("Wartezeit") == "Wartezeit"


def test_names_in_a_sentence() -> None:
    assert in_words(["a"]) == "a"
    assert in_words(["a", "b", "c"]) == "a, b and c"
    with speaking("de"):
        assert in_words(("a", "b", "c")) == "a, b und c"


@pytest.mark.parametrize(
    ("tag", "language"), [("de", "de"), ("de-AT", "de"), ("DE_ch", "de"), ("en-GB", "en"), ("xx", "en"), ("", "en")]
)
def test_the_catalogue_of_a_tag(tag: str, language: str) -> None:
    assert language_of(tag) == language


def test_phrases_are_found_wherever_they_are_made() -> None:
    source = (
        'def one():\n    return f"{phrase(\'a\', b=1)}" + phrases("c", "d", 2) + marked("e") + phrase(f) + other("g")\n'
    )
    assert list(phrases_in(source)) == ["a", ("c", "d"), "e"]


@pytest.mark.parametrize("name", OTHERS)
def test_a_catalogue_translates_every_phrase_there_is_and_no_other(name: str) -> None:
    catalogue, wanted = _catalogue(name), every_phrase()
    held = {message.id if isinstance(message.id, str) else tuple(message.id) for message in catalogue if message.id}
    assert held == set(wanted)
    for message in catalogue:
        if message.id:
            sources, texts = _texts(message.id), _texts(message.string)
            assert all(texts), f"{message.id} is not translated"
            for text in texts:
                assert _facts(text) <= set().union(*map(_facts, sources)) | {"number"}, message.id
                assert _ends(text) == _ends(sources[0]), message.id


@pytest.mark.parametrize("name", OTHERS)
def test_a_catalogue_stands_as_its_upkeep_writes_it(name: str, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    copy = tmp_path / f"{name}.po"
    copy.write_bytes((FOLDER / f"{name}.po").read_bytes())
    monkeypatch.setattr("grainstack.catalogues.upkeep.__file__", str(tmp_path / "upkeep.py"))
    main()
    assert copy.read_bytes() == (FOLDER / f"{name}.po").read_bytes()


def test_a_new_language_begins_as_an_empty_file(monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    monkeypatch.setattr("grainstack.catalogues.upkeep.__file__", str(tmp_path / "upkeep.py"))
    (tmp_path / "fr.po").touch()
    main()
    begun = read_po(BytesIO((tmp_path / "fr.po").read_bytes()), "fr")
    assert len(list(begun)) > len(every_phrase()) * 0.9
    assert begun.plural_expr == "(n > 1)" or begun.num_plurals >= 2


def _catalogue(name: str) -> Catalog:
    return read_po(BytesIO((FOLDER / f"{name}.po").read_bytes()), name)


def _texts(held: str | Sequence[str] | None) -> list[str]:
    """What a message holds: one text, or one for each number."""
    return [held] if isinstance(held, str) else list(held or ())


def _facts(text: str) -> set[str]:
    return {field for _, field, _, _ in string.Formatter().parse(text) if field}


def _ends(text: str) -> tuple[bool, bool]:
    """Whether a text begins and ends in a blank, which joins it to others."""
    return text[:1] == " ", text[-1:] == " "
