"""A house's own style: its file found, read and checked, with the fonts and the logo it names."""

import io
import tomllib
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from grainstack.chart.chart_requests import NumbersRequest
from grainstack.chart.look.style import Style
from grainstack.chart.look.style_file import HouseStyle, style_from, typefaces_of
from grainstack.chart.marks import Weight
from grainstack.chart.picture_request import PictureRequest
from grainstack.chart.writing.fonts import characters
from grainstack.errors import RequestError, reason_of
from grainstack.option_names import option
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests

_NEEDED = "0123456789%.,–−…†‡§*()abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"  # what charts write themselves


def styled(requests: Requests) -> tuple[Requests, Path | None]:
    """The requests in the style file they name, or in the `style.toml` beside their records where they name no style.

    Args:
        requests: What was asked.

    Returns:
        The requests, and the file that was found without being named.

    Raises:
        RequestError: The file, a font or the logo cannot be read, or says what cannot be.
    """
    picture = requests[PictureRequest]
    if picture.style is not None:
        return (
            (in_style(requests, _read(Path(picture.style)), Path(picture.style)), None)
            if picture.in_file
            else (requests, None)
        )
    first = next(iter(requests.usual(RecordsRequest).file), "-")
    beside = Path(first.partition("#")[0]).parent / "style.toml"
    if first == "-" or "://" in first or not beside.is_file():
        return requests, None
    return in_style(requests, _read(beside), beside), beside


def _read(path: Path) -> Mapping[str, Any]:
    """What a style file says, not yet checked."""
    try:
        return tomllib.loads(path.read_text("utf-8-sig"))
    except FileNotFoundError:
        raise RequestError(
            f"{option('style')}: there is no file {path}.", "Draft one: grainstack palettes --style-draft FILE."
        ) from None
    except (OSError, UnicodeDecodeError) as error:
        raise RequestError(f"{path} cannot be read: {reason_of(error)}.", "Name another style.") from None
    except tomllib.TOMLDecodeError as error:
        raise RequestError(f"{path} is no TOML: {error}.", "Mend it there.") from None


def in_style(requests: Requests, content: Mapping[str, Any], path: Path) -> Requests:
    """The requests drawn in a style.

    Args:
        requests: What was asked.
        content: What a style file, or the style of a plan, says.
        path: Where it stands; files are found beside it.

    Raises:
        RequestError: As `styled`.
    """
    style = _with_paths(style_from(content, path.name), path)
    for typeface in typefaces_of(style):
        for weight in Weight:
            _check_glyphs(
                Path(typeface.face(weight).path), typeface.face(weight).name, characters(typeface.face(weight))
            )
    logo, ratio = _logo(style, path) if style.logo else (b"", 1.0)
    picture, numbers = requests[PictureRequest], requests[NumbersRequest]
    if style.size and "size" not in picture.given():
        picture = replace(picture, size=style.size)
    if style.format and not numbers.format:
        numbers = replace(numbers, format=style.format)
    if style.locale and not numbers.locale:
        numbers = replace(numbers, locale=style.locale)
    return requests.having(picture, numbers, HouseStyle(style, logo, ratio))


def _with_paths(style: Style, path: Path) -> Style:
    """The style with its files found beside its own."""

    def found(name: str) -> str:
        file = path.parent / name
        if name and not file.is_file():
            raise RequestError(f"{path.name}: there is no file {file}.", "Name it as it lies beside the style file.")
        return str(file) if name else ""

    return replace(
        style,
        font=found(style.font),
        font_semibold=found(style.font_semibold),
        fallback=tuple(map(found, style.fallback)),
        logo=found(style.logo),
    )


def _check_glyphs(path: Path, name: str, known: frozenset[int]) -> None:
    """Refuses a typeface without what every chart writes; other gaps are filled by the fonts behind it."""
    missing = [character for character in _NEEDED if ord(character) not in known]
    if len(missing) > len(_NEEDED) // 2:
        raise RequestError(
            f"The font {path.name} ({name}) lacks {''.join(missing[:12])} and more of what charts write.",
            "Name it as a fallback.",
        )


def _logo(style: Style, path: Path) -> tuple[bytes, float]:
    """The bytes of the logo as a PNG, and its width by its height."""
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415

    try:
        with Image.open(style.logo) as picture:
            target = io.BytesIO()
            picture.convert("RGBA").save(target, "PNG")
            return target.getvalue(), picture.width / picture.height
    except (OSError, UnidentifiedImageError):
        raise RequestError(
            f"{path.name}: the logo {style.logo} is no picture.", "Name a PNG or another bitmap."
        ) from None
