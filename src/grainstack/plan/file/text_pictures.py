"""Pictures in the texts of a report: read from the folder of the plan, and put into the text itself."""

import re
from base64 import b64encode
from collections.abc import Callable
from pathlib import Path

from grainstack.errors import RequestError, reason_of

_PICTURE = re.compile(r"!\[(?P<alt>[^\]\n]*)\]\(\s*<?(?P<file>[^)>\n\"]+?)>?\s*(?:\"[^\"\n]*\"\s*)?\)")
_KINDS = {b"\x89PNG\r\n\x1a\n": "png", b"\xff\xd8\xff": "jpeg"}
_LARGEST = 10 << 20  # bytes: more is no picture for a report, and would be in it three times


def with_pictures(text: str, folder: Path, beside: Callable[[str], str], fault: Callable[[str], None]) -> str:
    """A text in CommonMark with its pictures as data in the place of their files.

    Args:
        text: The text.
        folder: The folder of the plan, outside of which nothing is read.
        beside: The path of a file that is named from there.
        fault: Told of a picture that cannot be there, in a sentence.
    """

    def embedded(match: "re.Match[str]") -> str:
        try:
            return f"![{match['alt']}]({_data_of(match['file'], folder, beside)})"
        except RequestError as error:
            fault(f"{error.message} {error.remedy}")
            return str(match["alt"])

    return _PICTURE.sub(embedded, text) if "![" in text else text


def _data_of(file: str, folder: Path, beside: Callable[[str], str]) -> str:
    """A picture as an address that holds it.

    Raises:
        RequestError: It lies elsewhere, cannot be read, or is no picture that documents take.
    """
    if ":" in file:
        raise RequestError(f"the picture {file} lies elsewhere.", "Put it into the folder of the plan.")
    path = Path(beside(file)).resolve()
    if not path.is_relative_to(folder.resolve()):
        raise RequestError(f"the picture {file} lies outside the folder of the plan.", "Put it into that folder.")
    try:
        content = path.read_bytes() if path.stat().st_size <= _LARGEST else b""
    except OSError as error:
        raise RequestError(f"the picture {file} cannot be read: {reason_of(error)}.", "Name another.") from None
    kind = next((kind for start, kind in _KINDS.items() if content.startswith(start)), "")
    if not kind:
        raise RequestError(f"the picture {file} is no PNG or JPEG of at most 10 MB.", "Save it as one of them.")
    return f"data:image/{kind};base64,{b64encode(content).decode()}"
