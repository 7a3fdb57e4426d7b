"""Every file format gives the same table to the last digit, and broken files say so."""

import csv
import gzip
import sqlite3
from collections.abc import Callable
from importlib.resources import files
from pathlib import Path
from typing import Any

import odf.opendocument
import odf.table
import odf.text
import openpyxl
import pyarrow as pa
import pytest
from pyarrow import parquet

from grainstack.errors import GrainStackError, RecordsError, RequestError
from grainstack.making.make import read_into
from grainstack.records.codebook.codebook import Codebook
from grainstack.records.codebook.file import read_codebook
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.records.source import Measured
from grainstack.records.sources import open_source
from grainstack.records.view import View
from grainstack.report.cells import as_csv, cell_rows
from grainstack.summary.options import DesignRequest
from grainstack.summary.order import OrderRequest
from grainstack.summary.partial import Partial
from grainstack.summary.summary_request import SummaryRequest
from grainstack.summary.sums.accumulator import Accumulator, needs_of

DATA = files("grainstack.demo").joinpath("data")
NUMBERS = {"weight", "route", "age", "wait", "spend", "cleanliness"}
WANTED = ["route", "ticket", "age", "wait", "weight", "spend", "cleanliness"]
REQUESTS = (
    SummaryRequest(by=("route",), split="ticket", stat=("share",), design=DesignRequest(weight="weight")),
    SummaryRequest(by=("ticket",), measure=("spend", "wait"), stat=("mean", "sum")),
    SummaryRequest(by=("age",), split="cleanliness"),
)


def rows() -> list[dict[str, str]]:
    reader = csv.DictReader(DATA.joinpath("passengers.csv").read_text("utf-8").splitlines())
    return [{name: row[name] for name in WANTED} for row in reader]


def typed(name: str, text: str) -> float | str | None:
    if not text:
        return None
    return float(text) if name in NUMBERS else text


def tables(address: str, codebook: Path, **options: Any) -> list[bytes]:  # noqa: ANN401
    found = []
    for request in REQUESTS:
        opened = Opened(open_source([address], **options), read_codebook(codebook))
        view = View(RecordsRequest((address,)), needs_of(request), opened.source, opened.codebook)
        partial = Partial(view, Accumulator(request))
        read_into([partial], opened)
        found.append(as_csv(cell_rows(partial.table(OrderRequest(), "records"))))
    return found


def write_text(folder: Path) -> str:
    path = folder / "r.tsv"
    with path.open("w", encoding="utf-16") as file:
        writer = csv.DictWriter(file, WANTED, delimiter="\t")
        writer.writeheader()
        writer.writerows(rows())
    return str(path)


def write_gzip(folder: Path) -> str:
    (folder / "r.csv.gz").write_bytes(gzip.compress(_csv_bytes(folder)))
    return str(folder / "r.csv.gz")


def write_zstandard(folder: Path) -> str:
    with pa.CompressedOutputStream(str(folder / "r.csv.zst"), "zstd") as file:
        file.write(_csv_bytes(folder))
    return str(folder / "r.csv.zst")


def write_json_lines(folder: Path) -> str:
    import json  # noqa: PLC0415

    lines = [json.dumps({name: typed(name, text) for name, text in row.items()}) for row in rows()]
    (folder / "r.jsonl").write_text("\n".join(lines))
    return str(folder / "r.jsonl")


def arrow_table() -> pa.Table:
    columns = {name: [typed(name, row[name]) for row in rows()] for name in WANTED}
    return pa.table({**columns, "route": pa.array([int(row["route"]) for row in rows()], pa.int8())})


def write_parquet(folder: Path) -> str:
    parquet.write_table(arrow_table(), folder / "r.parquet", row_group_size=500)
    return str(folder / "r.parquet")


def write_arrow(folder: Path) -> str:
    with pa.ipc.new_file(folder / "r.arrow", arrow_table().schema) as writer:
        writer.write_table(arrow_table(), max_chunksize=700)
    return str(folder / "r.arrow")


def write_arrow_stream(folder: Path) -> str:
    with pa.ipc.new_stream(folder / "r", arrow_table().schema) as writer:
        writer.write_table(arrow_table())
    return str(folder / "r")


def write_xlsx(folder: Path) -> str:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    sheet.append(WANTED)
    for row in rows():
        sheet.append([typed(name, text) for name, text in row.items()])
    book.save(folder / "r.xlsx")
    return str(folder / "r.xlsx")


def write_ods(folder: Path) -> str:
    book = odf.opendocument.OpenDocumentSpreadsheet()
    sheet = odf.table.Table(name="records")
    lines: list[list[float | str | None]] = [[*WANTED], *([typed(n, t) for n, t in row.items()] for row in rows())]
    for values in lines:
        line = odf.table.TableRow()
        for value in values:
            if isinstance(value, float):
                line.addElement(odf.table.TableCell(valuetype="float", value=repr(value)))
            else:
                cell = odf.table.TableCell(valuetype="string")
                cell.addElement(odf.text.P(text=value or ""))
                line.addElement(cell if value else odf.table.TableCell())
        sheet.addElement(line)
    book.spreadsheet.addElement(sheet)
    book.save(str(folder / "r.ods"))
    return str(folder / "r.ods")


def write_sqlite(folder: Path) -> str:
    connection = sqlite3.connect(folder / "r.sqlite")
    connection.execute(
        "CREATE TABLE people (route INTEGER, ticket, age REAL, wait REAL, weight REAL, spend REAL, cleanliness)"
    )
    records = [[typed(name, text) for name, text in row.items()] for row in rows()]
    connection.executemany("INSERT INTO people VALUES (?, ?, ?, ?, ?, ?, ?)", records)
    connection.commit()
    connection.close()
    return f"{folder / 'r.sqlite'}#people"


def _csv_bytes(folder: Path) -> bytes:
    path = folder / "plain.csv"
    with path.open("w", newline="") as file:
        writer = csv.DictWriter(file, WANTED)
        writer.writeheader()
        writer.writerows(rows())
    return path.read_bytes()


@pytest.fixture(scope="module")
def codebook(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("book") / "codebook.toml"
    path.write_bytes(DATA.joinpath("codebook.toml").read_bytes())
    return path


@pytest.fixture(scope="module")
def expected(codebook: Path) -> list[bytes]:
    return tables(str(DATA.joinpath("passengers.csv")), codebook)


@pytest.mark.parametrize(
    "write",
    [
        *(write_text, write_gzip, write_zstandard, write_json_lines, write_parquet, write_arrow, write_arrow_stream),
        *(write_xlsx, write_ods, write_sqlite),
    ],
)
def test_every_format_gives_the_same_table(
    tmp_path: Path, codebook: Path, expected: list[bytes], write: Callable[[Path], str]
) -> None:
    assert tables(write(tmp_path), codebook) == expected


def test_cells_of_a_database_are_read_whatever_type_the_first_ones_have(tmp_path: Path) -> None:
    connection = sqlite3.connect(tmp_path / "r.sqlite")
    connection.execute("CREATE TABLE r (amount NUMERIC, mixed, late, word, raw)")
    early: list[tuple[object, ...]] = [(place, place, None, None, None) for place in range(3000)]
    last = [(0.1, 1 / 3, 7, "seven", b"x"), (2, "none", 8, None, "y")]
    connection.executemany("INSERT INTO r VALUES (?, ?, ?, ?, ?)", [*early, *last])
    connection.commit()
    connection.close()
    source = open_source([str(tmp_path / "r.sqlite")])
    read = pa.Table.from_batches(list(source.batches(("amount", "mixed", "late", "word"))))
    columns = read.to_pydict()
    assert columns["amount"] == [*map(float, range(3000)), 0.1, 2.0]
    assert columns["mixed"][2999] == "2999"
    assert float(columns["mixed"][3000]) == 1 / 3
    assert columns["mixed"][3001] == "none"
    assert columns["late"][-2:] == [7, 8]
    assert columns["word"][-2:] == ["seven", None]
    assert pa.types.is_binary(next(iter(source.batches(("raw",)))).schema.field("raw").type)


def test_several_files_are_read_as_one(tmp_path: Path, codebook: Path, expected: list[bytes]) -> None:
    lines = _csv_bytes(tmp_path).splitlines(keepends=True)
    (tmp_path / "wave_1.csv").write_bytes(b"".join(lines[:900]))
    (tmp_path / "wave_2.csv").write_bytes(b"".join([lines[0], *lines[900:]]))
    assert tables(str(tmp_path / "wave_*.csv"), codebook) == expected
    (tmp_path / "wave_3.csv").write_text("route,tickets\n1,app\n")
    with pytest.raises(
        RecordsError, match=r"wave_3.csv does not go with wave_1.csv: it lacks .* and has tickets besides"
    ):
        open_source([str(tmp_path / "wave_*.csv")])
    with pytest.raises(RequestError, match="No file matches"):
        open_source([str(tmp_path / "nothing_*.csv")])


def test_places_in_several_files_name_the_file(tmp_path: Path) -> None:
    for name, value in (("a.csv", "1"), ("b.csv", "soon")):
        (tmp_path / name).write_text(f"k,n\nx,1\ny,{value}\n")
    request = SummaryRequest(by=("k",), measure=("n",))
    addresses = [str(tmp_path / "a.csv"), str(tmp_path / "b.csv")]
    opened = Opened(open_source(addresses), Codebook())
    view = View(RecordsRequest(tuple(addresses)), needs_of(request), opened.source, opened.codebook)
    with pytest.raises(RecordsError, match=r'"soon" \(b.csv, line 3\)'):
        read_into([Partial(view, Accumulator(request))], opened)


def test_a_query_takes_part_of_a_database(tmp_path: Path) -> None:
    address = write_sqlite(tmp_path).partition("#")[0]
    source = open_source([address], query="SELECT ticket, wait FROM people WHERE route = 6")
    assert source.columns == ("ticket", "wait")
    assert sum(batch.num_rows for batch in source.batches(("wait",))) == 27
    with pytest.raises(RequestError, match="has no table `peple`"):
        open_source([f"{address}#peple"])


@pytest.mark.parametrize("query", ["DELETE FROM people", "SELECT 1; DROP TABLE people", "CREATE TABLE x (y)"])
def test_a_query_that_would_write_is_refused(tmp_path: Path, query: str) -> None:
    address = write_sqlite(tmp_path).partition("#")[0]
    with pytest.raises(RequestError, match="more than read"):
        open_source([address], query=query)


def test_truncated_files_say_so(tmp_path: Path) -> None:
    packed = Path(write_gzip(tmp_path))
    packed.write_bytes(packed.read_bytes()[:2000])
    with pytest.raises(RecordsError, match=r"r\.csv\.gz is broken or cut short"):
        list(open_source([str(packed)]).batches(["route"]))
    stored = Path(write_parquet(tmp_path))
    stored.write_bytes(stored.read_bytes()[:-200])
    with pytest.raises(RecordsError, match=r"r\.parquet is broken or cut short"):
        open_source([str(stored)])
    (tmp_path / "x.xlsx").write_bytes(b"PK\x03\x04nonsense")
    with pytest.raises(RecordsError, match="cannot be read as a spreadsheet"):
        open_source([str(tmp_path / "x.xlsx")])


@pytest.mark.parametrize(
    ("cells", "merged", "message"),
    [
        ([["a", "b", ""], [1, 2, 3]], "B1:C1", "the header cells B1 to C1 are merged"),
        ([["a", "", "b"], [1, 2, 3]], "", "no column name in B1"),
        ([["a", "b", ""], ["", "x", "y"], ["p", 1, 2], ["q", 3, 4]], "", "Rows 1 and 2 look like one header"),
        ([["a", "b", "a"], [1, 2, 3]], "", "stand twice: a"),
        ([["a", "b"], [1, 2, 3]], "", "row 2 has values right of the last named column"),
        ([[]], "", "is empty"),
    ],
)
def test_spreadsheet_headers_that_name_nothing_are_refused(
    tmp_path: Path, cells: list[list[object]], merged: str, message: str
) -> None:
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in cells:
        sheet.append(row)
    if merged:
        sheet.merge_cells(merged)
    book.save(tmp_path / "x.xlsx")
    with pytest.raises(RecordsError) as error:
        open_source([str(tmp_path / "x.xlsx")])
    assert message in str(error.value)


@pytest.mark.parametrize("merged", [True, False])
def test_a_header_of_two_rows_names_columns_by_both(tmp_path: Path, merged: bool) -> None:  # noqa: FBT001
    book = openpyxl.Workbook()
    sheet = book.active
    assert sheet is not None
    for row in (["pier", "2024", None], [None, "cash", "card"], ["Amble", 1, 2], ["Burn", 3, 4]):
        sheet.append(row)
    if merged:
        sheet.merge_cells("B1:C1")
    book.save(tmp_path / "x.xlsx")
    source = open_source([str(tmp_path / "x.xlsx")], header_lines=2)
    assert source.columns == ("pier", "2024 cash", "2024 card")
    [batch] = source.batches(("2024 card",))
    assert batch.column(0).to_pylist() == ["2", "4"]
    assert source.place(0) == "row 3"


def test_units_below_a_header_are_those_of_its_columns(tmp_path: Path) -> None:
    (tmp_path / "x.csv").write_text("pier,wait\n,(minutes)\nAmble,1\nBurn,2\n", "utf-8")
    source = open_source([str(tmp_path / "x.csv")], header_lines=2)
    assert isinstance(source, Measured)
    assert source.units == {"wait": "minutes"}
    assert source.place(1) == "line 4"


def test_cells_without_values_are_counted_and_told(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    first, sheet = book.active, book.create_sheet("wait & see")
    assert first is not None
    first.append(["a"])
    first.append(["=1+1"])
    sheet.append(["k", "x"])
    for row in (["p", 1], ["q", "=B2+1"], ["r", "=B2+2"], ["s", "#N/A"]):
        sheet.append(row)
    book.save(tmp_path / "x.xlsx")
    source = open_source([str(tmp_path / "x.xlsx")], sheet="wait & see")
    [note] = source.notes
    assert "Sheet `wait & see` of x.xlsx has 2 formulas without stored values (B3, B4) and 1 error (B5)" in note
    [batch] = source.batches(("x",))
    assert batch.column(0).to_pylist() == ["1", "", "", ""]
    assert len(open_source([str(tmp_path / "x.xlsx")]).notes) == 2


def test_a_hidden_first_sheet_is_not_chosen(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    hidden = book.active
    assert hidden is not None
    hidden.append(["settings"])
    hidden.append(["x"])
    hidden.sheet_state = "hidden"
    shown = book.create_sheet("records")
    shown.append(["k"])
    shown.append(["1"])
    book.save(tmp_path / "x.xlsx")
    assert open_source([str(tmp_path / "x.xlsx")]).columns == ("k",)


def test_a_sheet_is_chosen_by_name_and_rows_are_named_as_spreadsheets_do(tmp_path: Path) -> None:
    book = openpyxl.Workbook()
    book.create_sheet("second").append(["k"])
    book["second"].append(["00123"])
    first = book.active
    assert first is not None
    first.append(["n"])
    first.append([None])
    first.append(["x"])
    book.save(tmp_path / "x.xlsx")
    source = open_source([str(tmp_path / "x.xlsx")])
    assert source.columns == ("n",)
    assert source.place(0) == "row 3 of sheet `Sheet`"
    assert "others: second" in source.notes[0]
    chosen = open_source([str(tmp_path / "x.xlsx")], sheet="second")
    [batch] = chosen.batches(("k",))
    assert batch.column("k").to_pylist() == ["00123"]
    with pytest.raises(RequestError, match="no sheet `secnd`"):
        open_source([str(tmp_path / "x.xlsx")], sheet="secnd")


@pytest.mark.parametrize(
    ("content", "message"),
    [
        ('{"a": 1}\n{"a": \n', "line 2 is no JSON"),
        ('{"a": 1}\n[1]\n', "line 2 is no JSON object"),
        ('{"a": {"b": 1}}\n', "line 1: `a` holds an object"),
        ("\n", "is empty"),
    ],
)
def test_json_lines_that_are_none_are_refused_with_their_line(tmp_path: Path, content: str, message: str) -> None:
    path = tmp_path / "x.jsonl"
    path.write_text(content)
    with pytest.raises(RecordsError, match=message):
        list(open_source([str(path)]).batches(("a",)))


def test_options_of_another_format_are_refused(tmp_path: Path) -> None:
    path = tmp_path / "x.csv"
    path.write_text("a\n1\n")
    with pytest.raises(RequestError, match="is no database"):
        open_source([str(path)], query="SELECT 1")
    with pytest.raises(RequestError, match="has no sheets"):
        open_source([str(path)], sheet="a")


def test_files_in_storage_are_read_by_their_address(tmp_path: Path) -> None:
    for name in ("b", "a"):
        (tmp_path / f"{name}.csv").write_text(f"k,v\n{name},1\n", "utf-8")
    source = open_source([f"file://{tmp_path}/*.csv"])
    assert [row["k"] for batch in source.batches(("k",)) for row in batch.to_pylist()] == ["a", "b"]
    assert open_source([f"file://{tmp_path}/a.csv"]).columns == ("k", "v")
    for address, message in (
        (f"file://{tmp_path}/none.csv", "Cannot read"),
        (f"file://{tmp_path}/*.parquet", "No file matches"),
        ("nowhere://bucket/a.csv", "Protocol not known"),
        ("https://example.org/a.csv", "nothing is fetched from the web"),
    ):
        with pytest.raises(GrainStackError, match=message):
            open_source([address])
