"""Where a picture or document comes from, read back from the file."""

import re
import zipfile
from html import unescape
from pathlib import Path
from typing import TYPE_CHECKING

import pyarrow.parquet as pq
from PIL import Image
from pypdfium2 import PdfDocument

from grainstack.errors import RequestError
from grainstack.making.trace import KEYWORD, Trace, trace_from

if TYPE_CHECKING:
    from collections.abc import Callable

_HEAD = 1 << 20  # bytes of a text that are looked at: it stands at its start
_PACKED = ("docProps/custom.xml", re.compile(rf"<property[^>]* name=\"{KEYWORD} (\d+)\"[^>]*>\s*<vt:lpwstr>([^<]*)<"))


def traced(path: Path) -> Trace:
    """Where a file comes from.

    Args:
        path: A picture or a document.

    Raises:
        RequestError: It cannot be read, or carries nothing.
    """
    reader = _READERS.get(path.suffix.lower())
    if reader is None:
        raise RequestError(f"{path.name} is of no kind that carries where it comes from.", f"Name a {_KINDS}.")
    try:
        text = reader(path)
    except FileNotFoundError:
        raise RequestError(f"There is no file {path}.", "Name another.") from None
    except Exception as error:  # noqa: BLE001 - whatever a library finds wrong with somebody's file
        raise RequestError(f"{path} cannot be read: {type(error).__name__}.", "Name another file.") from None
    trace = trace_from(text)
    if trace is None:
        raise RequestError(
            f"{path.name} does not say where it comes from.", "It was made by another program, or saved anew by one."
        )
    return trace


def _of_png(path: Path) -> str:
    with Image.open(path) as picture:
        return str(picture.info.get(KEYWORD, ""))


def _of_svg(path: Path) -> str:
    with path.open("rb") as file:
        match = re.search(r"<metadata>(.*?)</metadata>", file.read(_HEAD).decode("utf-8", "replace"), re.DOTALL)
    return unescape(match[1]) if match else ""


def _of_html(path: Path) -> str:
    with path.open("rb") as file:
        text = file.read(_HEAD).decode("utf-8", "replace")
    match = re.search(rf'<meta name="{KEYWORD.lower()}" content="([^"]*)"', text)
    return unescape(match[1]) if match else ""


def _of_pdf(path: Path) -> str:
    document = PdfDocument(path)
    try:
        return str(document.get_metadata_value("Keywords"))
    finally:
        document.close()


def _of_packed(path: Path) -> str:
    name, pattern = _PACKED
    with zipfile.ZipFile(path) as packed:
        if name not in packed.namelist():
            return ""
        text = packed.read(name).decode("utf-8", "replace")
    found = {int(number): unescape(part) for number, part in pattern.findall(text)}
    return "".join(found[number] for number in sorted(found))


def _of_parquet(path: Path) -> str:
    about = pq.read_schema(path).metadata or {}
    return str(about.get(KEYWORD.lower().encode(), b""), "utf-8")


_READERS: "dict[str, Callable[[Path], str]]" = {
    ".png": _of_png,
    ".svg": _of_svg,
    ".pdf": _of_pdf,
    ".html": _of_html,
    ".parquet": _of_parquet,
    **dict.fromkeys((".docx", ".pptx", ".xlsx"), _of_packed),
}
_KINDS = f"{', '.join(list(_READERS)[:-1])} or {list(_READERS)[-1]}"
