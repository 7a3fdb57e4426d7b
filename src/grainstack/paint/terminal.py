"""Terminal text from a scene whose unit is one character cell."""

from dataclasses import dataclass

from grainstack.chart.palette import PAPER
from grainstack.chart.scene import Line, Rect, Scene, Text, Weight

_EIGHTHS = " ▏▎▍▌▋▊▉"
_FULL = "█"
_HATCHES = {"": _FULL, "dense": "▓", "medium": "▒", "light": "░"}
_RESET = "\x1b[0m"


@dataclass(slots=True)
class _Cell:
    """One character with its colours; `wide` cells push the next one aside."""

    character: str = " "
    fill: str = ""
    ground: str = ""
    bold: bool = False


def paint(scene: Scene, *, colors: bool) -> str:
    """The scene as lines of text; with `colors`, in 24-bit colour."""
    rows = [[_Cell() for _ in range(int(scene.width) + 1)] for _ in range(int(scene.height) + 1)]
    for mark in scene.marks:
        if isinstance(mark, Rect):
            _paint_rect(rows, mark, colors=colors)
        elif isinstance(mark, Line):
            _paint_line(rows, mark)
        elif isinstance(mark, Text):
            _paint_text(rows, mark)
    return "\n".join(_line(row, colors=colors) for row in rows).rstrip() + "\n"


def _paint_rect(rows: list[list[_Cell]], mark: Rect, *, colors: bool) -> None:
    """Full blocks, with eighths for the end; without colours, hatched marks in whole cells of their pattern."""
    row = rows[int(mark.y)]
    first = round(mark.x)
    eighths = round((mark.x + mark.width - first) * 8)
    whole, rest = divmod(max(eighths, 1 if mark.width > 0 else 0), 8)
    block = _FULL if colors else _HATCHES[mark.hatch]
    if block != _FULL:
        whole, rest = whole + (rest >= 4), 0
    for column in range(first, min(first + whole, len(row))):
        row[column] = _Cell(block, mark.fill)
    if rest and first + whole < len(row):
        row[first + whole] = _Cell(_EIGHTHS[rest], mark.fill)


def _paint_line(rows: list[list[_Cell]], mark: Line) -> None:
    """A level stroke with ends, over what is there."""
    row = rows[int(mark.y1)]
    first, last = int(mark.x1), min(int(mark.x2), len(row) - 1)
    for column in range(first, last + 1):
        ends = {first: "├", last: "┤"}
        under = row[column]
        ground = under.fill if under.character == _FULL else ""
        row[column] = _Cell(ends.get(column, "─") if first < last else "│", PAPER if ground else mark.stroke, ground)


def _paint_text(rows: list[list[_Cell]], mark: Text) -> None:
    row = rows[int(mark.y)]
    column = int(mark.left)
    ground = mark.ground if mark.ground != PAPER else ""
    bold = mark.weight is Weight.SEMIBOLD
    for character in mark.content:
        if 0 <= column < len(row):
            row[column] = _Cell(character, mark.fill if ground else "", ground, bold)
        column += 1


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
