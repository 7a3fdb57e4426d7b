"""Answers to the questions a codebook is made of: from a file of decisions, or typed in the terminal."""

import sys
import tomllib
from pathlib import Path
from typing import TYPE_CHECKING

from grainstack.cli.failing import say
from grainstack.errors import RequestError, nearest, reason_of
from grainstack.option_names import option

if TYPE_CHECKING:
    from grainstack.records.codebook.questions import Question

_YES_NO = {True: "yes", False: "no"}


class Deciding:
    """Whoever answers questions.

    Args:
        decisions: The file of decisions; None where everything is typed.
        is_read: Whether standard input holds the records, so that nothing can be typed.

    Raises:
        RequestError: The file cannot be read, or standard input is to be records and answers.
    """

    def __init__(self, decisions: str | None, *, is_read: bool) -> None:
        self._decided = _decisions_of(Path(decisions)) if decisions else {}
        self._file = decisions or ""
        self._types = not is_read and (not decisions or sys.stdin.isatty())
        self._met: list[str] = []
        self._open: list[Question] = []
        if is_read and not decisions:
            raise RequestError(
                "Records and answers cannot both come from standard input.",
                f"Answer with {option('decisions', 'FILE')}, or name the file of the records.",
            )

    def answer(self, question: "Question") -> str:
        """The answer to a question: as decided, as typed, or as proposed where nobody can be asked."""
        self._met.append(question.key)
        if question.key in self._decided:
            answer = _chosen(self._decided[question.key], question)
            if answer is None:
                raise RequestError(
                    f'{self._file}: "{question.key}" is `{self._decided[question.key]}`.',
                    f"It is one of {', '.join(question.choices)}.",
                )
            return answer
        typed = self._typed(question) if self._types else None
        if typed is None:
            self._open.append(question)
        return typed or question.proposed

    def check(self) -> None:
        """Refuses questions nobody has answered, and tells decisions that answered none.

        Raises:
            RequestError: Gives the lines of a file that answers them.
        """
        if self._open:
            choices = ["  # " + ", ".join(one.choices) if one.choices else "" for one in self._open]
            lines = (
                f'  "{one.key}" = "{one.proposed}"{comment}' for one, comment in zip(self._open, choices, strict=True)
            )
            raise RequestError(
                f"{len(self._open)} question{'' if len(self._open) == 1 else 's'} not answered.",
                f"Answer in a file for {option('decisions', 'FILE')}:\n" + "\n".join(lines),
            )
        for key in self._decided:
            if key not in self._met:
                say(f'No effect: {self._file} answers "{key}", which was not asked. {nearest(key, self._met)}')

    def _typed(self, question: "Question") -> str | None:
        """What is typed, or what is proposed for an empty line; None at the end of what can be read."""
        say(question.text)
        if question.evidence:
            say(f"  {question.evidence}")
        while True:
            choices = f"{' / '.join(question.choices)} " if question.choices else ""
            print(f"  {choices}[{question.proposed}]: ", end="", file=sys.stderr, flush=True)  # noqa: T201 - asked here
            line = sys.stdin.readline()
            if not line:
                self._types = False
                say("")
                return None
            answer = _chosen(line.strip() or question.proposed, question)
            if answer is not None:
                return answer


def _chosen(typed: str, question: "Question") -> str | None:
    """The choice that was typed, or begins so; None where none or several do."""
    if not question.choices:
        return typed
    found = [one for one in question.choices if one.startswith(typed.strip().casefold())]
    return typed if typed in question.choices else found[0] if len(found) == 1 and typed.strip() else None


def _decisions_of(path: Path) -> dict[str, str]:
    """The decisions of a file.

    Raises:
        RequestError: It cannot be read, is no TOML, or holds something that is no answer.
    """
    try:
        content = tomllib.loads(path.read_text("utf-8-sig"))
    except OSError as reason:
        raise RequestError(f"{path} cannot be read: {reason_of(reason)}.", "Check its path.") from reason
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as reason:
        raise RequestError(f"{path} is no TOML: {reason}.", 'Write lines such as "kind of age" = "number".') from reason
    for key, value in content.items():
        if isinstance(value, dict | list):
            raise RequestError(f'{path}: "{key}" is no answer.', 'Write lines such as "kind of age" = "number".')
    return {key: _YES_NO[value] if isinstance(value, bool) else str(value) for key, value in content.items()}
