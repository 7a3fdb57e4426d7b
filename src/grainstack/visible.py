"""Text that people see: what would steer a terminal, break a line or turn text around is shown and does nothing."""

_TURNING = (*range(0x202A, 0x202F), *range(0x2066, 0x206A))  # controls that turn the direction of what follows
_BLANKS = {ord(blank): " " for blank in "\t\n\r\x0b\x0c\x85\u2028\u2029"}
_SHOWN = {
    **{code: f"\\x{code:02x}" for code in (*range(0x20), *range(0x7F, 0xA0))},
    **{code: f"\\u{code:04x}" for code in _TURNING},
    **dict.fromkeys(range(55296, 57344), "�"),  # halves of characters, which no file can hold
}
_IN_LABELS = _SHOWN | _BLANKS
_IN_LINES = {code: text for code, text in _SHOWN.items() if code not in (0x09, 0x0A)}


def visible(text: str) -> str:
    r"""A text in one line, with control characters as they are written in code: `\x1b`.

    Args:
        text: A label, a name, a title.
    """
    return text if text.isprintable() else text.translate(_IN_LABELS)


def visible_lines(text: str) -> str:
    """The same for a text of several lines, which stay.

    Args:
        text: A message, a table.
    """
    return text if text.isprintable() else text.translate(_IN_LINES)
