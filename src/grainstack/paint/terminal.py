"""Terminal text from a screen: block characters, with colours where the terminal has them."""

from msgspec import Struct

from grainstack.chart.look.color import PAPER
from grainstack.chart.terminal.screen import Bar, Characters, Post, Screen, Whisker
from grainstack.visible import visible

_EIGHTHS = " ▏▎▍▌▋▊▉"
_FULL = "█"
_PATTERNS = "█░▓▒▚═╳∙┃▞◆○▲□+~"  # told apart without colour, the most different ones first
_RESET = "\x1b[0m"


class _Cell(Struct):
    """One character with its colours."""

    character: str = " "
    fill: str = ""
    ground: str = ""
    bold: bool = False


def paint(screen: Screen, *, colors: bool) -> str:
    """The screen as lines of text; with `colors`, in 24-bit colour."""
    rows = [[_Cell() for _ in range(screen.columns + 1)] for _ in range(screen.rows + 1)]
    for mark in screen.marks:
        row = rows[mark.row]
        if isinstance(mark, Bar):
            _paint_bar(row, mark, colors=colors)
        elif isinstance(mark, Whisker):
            _paint_whisker(row, mark)
        elif isinstance(mark, Post):
            _paint_post(row, mark)
        else:
            _paint_characters(row, mark)
    return "\n".join(_line(row, colors=colors) for row in rows).rstrip() + "\n"


def _paint_bar(row: list[_Cell], bar: Bar, *, colors: bool) -> None:
    """Full blocks, with eighths for the end; without colours, whole columns of its pattern."""
    first = round(bar.start)
    eighths = round((bar.start + bar.width - first) * 8)
    whole, rest = divmod(max(eighths, 1 if bar.width > 0 else 0), 8)
    block = _FULL if colors else _PATTERNS[bar.pattern % len(_PATTERNS)]
    if block != _FULL:
        whole, rest = whole + (rest >= 4), 0
    for column in range(first, min(first + whole, len(row))):
        row[column] = _Cell(block, bar.fill)
    if rest and first + whole < len(row):
        row[first + whole] = _Cell(_EIGHTHS[rest], bar.fill)


def _paint_whisker(row: list[_Cell], whisker: Whisker) -> None:
    first, last = int(whisker.start), min(int(whisker.end), len(row) - 1)
    ends = {first: "├", last: "┤"}
    for column in range(first, last + 1):
        under = row[column]
        ground = under.fill if under.character == _FULL else ""
        stroke = ends.get(column, "─") if first < last else "│"
        row[column] = _Cell(stroke, PAPER if ground else whisker.ink, ground)


def _paint_post(row: list[_Cell], post: Post) -> None:
    """An upright stroke where nothing else stands."""
    if post.column < len(row) and row[post.column].character == " ":
        row[post.column] = _Cell("┆")


def _paint_characters(row: list[_Cell], text: Characters) -> None:
    for column, character in enumerate(visible(text.content), text.column):
        if 0 <= column < len(row):
            row[column] = _Cell(character, text.fill, text.ground, text.bold)


def _line(row: list[_Cell], *, colors: bool) -> str:
    while row and row[-1].character == " " and not row[-1].ground:
        row.pop()
    if not colors:
        return "".join(cell.character for cell in row)
    parts, before = [], ""
    for cell in row:
        wanted = _code(cell)
        if wanted != before:
            parts.append(_RESET + wanted if before else wanted)
            before = wanted
        parts.append(cell.character)
    return "".join(parts) + (_RESET if before else "")


def _code(cell: _Cell) -> str:
    parts = ["1"] if cell.bold else []
    if cell.fill:
        parts.append(f"38;2;{_channels(cell.fill)}")
    if cell.ground:
        parts.append(f"48;2;{_channels(cell.ground)}")
    return f"\x1b[{';'.join(parts)}m" if parts else ""


def _channels(color: str) -> str:
    return ";".join(str(int(color[place : place + 2], 16)) for place in (1, 3, 5))
