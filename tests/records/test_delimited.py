"""CSV as it arrives: encodings, separators, quotes, headers, ragged rows."""

from pathlib import Path

import pytest

from grainstack.errors import RecordsError, RequestError
from grainstack.records.sources import open_source


def rows_of(path: Path) -> list[tuple[str, ...]]:
    source = open_source([str(path)])
    rows: list[tuple[str, ...]] = []
    for batch in source.batches(source.columns):
        rows += zip(*(batch.column(name).to_pylist() for name in source.columns), strict=True)
    return rows


def written(folder: Path, content: bytes) -> Path:
    path = folder / "records.csv"
    path.write_bytes(content)
    return path


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "utf-16-le", "utf-16-be", "cp1252"])
def test_text_is_read_in_every_usual_encoding(tmp_path: Path, encoding: str) -> None:
    text = "route,wait\nPell Isle,4\nÖsk Hafen,12\n"
    assert rows_of(written(tmp_path, text.encode(encoding))) == [("Pell Isle", "4"), ("Ösk Hafen", "12")]


def test_an_assumed_encoding_is_said_and_a_certain_one_is_not(tmp_path: Path) -> None:
    for content, notes in ((b"name\n\xd6sk\n", 1), ("name\nÖsk\n".encode(), 0), (b"name\nOsk\n", 0)):
        source = open_source([str(written(tmp_path, content))])
        for _ in source.batches(source.columns):
            pass
        assert len(source.notes) == notes


def test_windows_bytes_far_into_an_ascii_file_are_still_recognised(tmp_path: Path) -> None:
    rows = b"name\n" + b"plain\n" * 400_000 + b"caf\xe9\n"
    source = open_source([str(written(tmp_path, rows))])
    last = ""
    for batch in source.batches(["name"]):
        last = batch.column("name")[-1].as_py()
    assert last == "café"
    assert "Windows-1252" in source.notes[0]


@pytest.mark.parametrize("before", [0, 400_000])
def test_a_few_wrong_bytes_spoil_their_own_values_only(tmp_path: Path, before: int) -> None:
    # early ones are met before most of the letters that are UTF-8, late ones after a first chunk without any fault
    rows = b"name\n" + "Ösk\n".encode() * 150 + b"plain\n" * before + b"caf\xe9\n" + "Ösk\n".encode() * 150
    source = open_source([str(written(tmp_path, rows))])
    names = [name for batch in source.batches(["name"]) for name in batch.column("name").to_pylist()]
    assert set(names) == {"Ösk", "plain", "caf\ufffd"} if before else {"Ösk", "caf\ufffd"}
    assert names.count("Ösk") == 300
    assert source.notes == ("1 byte of records.csv is no UTF-8; \ufffd stands in the place of each.",)


@pytest.mark.parametrize("line", [1, 3000])
def test_a_byte_of_nothing_is_read_wherever_it_stands(tmp_path: Path, line: int) -> None:
    rows = b"name,n\n" + b"Pell,1\n" * line + b"D\x00un,2\n" + b"Pell,1\n" * 30
    assert rows_of(written(tmp_path, rows)).count(("D\x00un", "2")) == 1


def test_a_file_in_two_encodings_is_an_error_with_its_line(tmp_path: Path) -> None:
    rows = "name\nÖsk\n".encode() + b"plain\n" * 400_000 + b"caf\xe9\n"
    source = open_source([str(written(tmp_path, rows))])
    with pytest.raises(RecordsError, match="near line 400003"):
        list(source.batches(["name"]))


@pytest.mark.parametrize("separator", [",", ";", "\t", "|"])
def test_the_separator_is_found(tmp_path: Path, separator: str) -> None:
    text = (
        f"route{separator}note\n1{separator}a, b; c\n2{separator}d\n"
        if separator in "\t|"
        else (f'route{separator}note\n1{separator}"a, b; c"\n2{separator}d\n')
    )
    assert rows_of(written(tmp_path, text.encode())) == [("1", "a, b; c"), ("2", "d")]


def test_quotes_line_breaks_carriage_returns_and_empty_last_lines(tmp_path: Path) -> None:
    content = b'a,b\r\n"one\r\nline","say ""hi"""\r\n00123,\r\n\r\n\r\n'
    assert rows_of(written(tmp_path, content)) == [("one\r\nline", 'say "hi"'), ("00123", "")]


def test_a_header_alone_has_no_rows(tmp_path: Path) -> None:
    assert rows_of(written(tmp_path, b"a,b\n")) == []
    assert rows_of(written(tmp_path, b"a,b")) == []


def test_one_column_needs_no_separator(tmp_path: Path) -> None:
    assert rows_of(written(tmp_path, b"only\nx\ny\n")) == [("x",), ("y",)]


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (b"", "is empty"),
        (b"  \n\n", "is empty"),
        (b"a,,c\n1,2,3\n", r"line 1: column 2 \(2 …\) has no name"),
        (b"a,,\n1,2,3\n", r"columns 2 \(2 …\), 3 \(3 …\) have no name"),
        (b"a,b,a\n1,2,3\n", r"`a` \(columns 1, 3\)"),
    ],
)
def test_headers_that_name_nothing_are_refused(tmp_path: Path, content: bytes, message: str) -> None:
    with pytest.raises(RecordsError, match=message):
        open_source([str(written(tmp_path, content))])


@pytest.mark.parametrize(
    ("content", "message"),
    [
        (b"a,b\n1,2\n3\n", "line 3: 1 value, but the header names 2 columns"),
        (b"a,b\n1,2\n3,4,5\n", "line 3: 3 values, but"),
        (b'a,b\n"x\ny",2\n\n3\n', "line 5: 1 value"),
        (b'a,b\n1,"open\n3,4\n5,6\n', "line 2 or later is never closed"),
    ],
)
def test_ragged_rows_are_an_error_with_their_line(tmp_path: Path, content: bytes, message: str) -> None:
    source = open_source([str(written(tmp_path, content))])
    with pytest.raises(RecordsError, match=message):
        list(source.batches(source.columns))


def test_places_are_lines_of_the_file(tmp_path: Path) -> None:
    source = open_source([str(written(tmp_path, b'a,b\n"x\ny",2\n\n3,4\n'))])
    assert [source.place(record) for record in (0, 1, 7)] == ["line 2", "line 5", "record 8"]


def test_folders_and_missing_files_are_refused_with_what_is_near(tmp_path: Path) -> None:
    written(tmp_path, b"a\n1\n")
    with pytest.raises(RequestError) as failure:
        open_source([str(tmp_path)])
    assert "records.csv" in failure.value.remedy
    with pytest.raises(RequestError) as failure:
        open_source([str(tmp_path / "record.csv")])
    assert f"`{tmp_path / 'records.csv'}`" in failure.value.remedy
    with pytest.raises(RequestError, match="no file"):
        open_source([str(tmp_path / "nowhere" / "record.csv")])
