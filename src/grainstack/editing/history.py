"""Every state of a sitting: what can be undone, done again, and gone back to; kept beside the plan or the records."""

import json
from pathlib import Path
from typing import Any

import msgspec
from msgspec import Struct

from grainstack.editing.state import State
from grainstack.errors import OutputError
from grainstack.whole_files import make_folder, write_whole

_MOST = 300  # states: further back, nobody looks for one


class FileChange(Struct, frozen=True):
    """A file that a step wrote besides: the codebook.

    Attributes:
        path: The file.
        before: What it held; None where there was none.
        after: What it holds since.
    """

    path: str
    before: str | None
    after: str


class Step(Struct, frozen=True):
    """A step from one state to the next.

    Attributes:
        number: Of the state it leads to, from 1.
        state: That state.
        about: What was changed, in a few words.
        written: A file that was written with it; None for none.
    """

    number: int
    state: State
    about: str = ""
    written: FileChange | None = None


class History:
    """The states of a sitting.

    Args:
        folder: Where they are kept; what is there already goes on.
        first: The state to begin with where there is none.
    """

    def __init__(self, folder: Path, first: State) -> None:
        self._file = folder / "states.jsonl"
        self.is_kept = True
        self.steps: dict[int, Step] = {}
        self._line: list[int] = []
        self._place = 0
        self._read()
        if not self._line:  # which is kept with the first change: who only looks leaves nothing behind
            self.steps, self._line = {1: Step(1, first)}, [1]

    @property
    def current(self) -> Step:
        """Where the sitting is."""
        return self.steps[self._line[self._place]]

    @property
    def undo(self) -> bool:
        """Whether there is a step to take back."""
        return self._place > 0

    @property
    def redo(self) -> bool:
        """Whether there is one to do again."""
        return self._place + 1 < len(self._line)

    def add(self, state: State, about: str, written: FileChange | None = None) -> Step:
        """Goes on to another state; what was undone before is left, and stays among all states.

        Args:
            state: The state.
            about: What was changed.
            written: A file that was written with it.
        """
        step = Step(max(self.steps, default=0) + 1, state, about, written)
        self.steps[step.number] = step
        self._line = [*self._line[: self._place + 1], step.number]
        self._place = len(self._line) - 1
        self._keep(step)
        return step

    def back(self) -> Step | None:
        """Takes the last step back.

        Returns:
            The step that was taken back; None where there is none.
        """
        if not self.undo:
            return None
        step = self.current
        self._place -= 1
        self._keep()
        return step

    def forth(self) -> Step | None:
        """Does the next step again.

        Returns:
            That step; None where there is none.
        """
        if not self.redo:
            return None
        self._place += 1
        self._keep()
        return self.current

    def _read(self) -> None:
        """Takes up what was kept; a line that was cut off when a sitting ended is left out."""
        try:
            lines = self._file.read_text("utf-8").splitlines()
        except OSError:
            return
        for line in lines:
            try:
                found = json.loads(line)
                if "step" in found:
                    step = msgspec.convert(found["step"], Step)
                    self.steps[step.number] = step
                self._line, self._place = found["line"], found["place"]
            except (ValueError, KeyError, msgspec.ValidationError):
                continue
        self._line = [number for number in self._line if number in self.steps]
        self._place = min(self._place, len(self._line) - 1)
        if len(self.steps) > _MOST:
            self._shorten()

    def _shorten(self) -> None:
        """Leaves the oldest states that are not on the way to the current one."""
        way = set(self._line[-_MOST:])
        self._place = max(self._place - max(len(self._line) - _MOST, 0), 0)
        self._line = self._line[-_MOST:]
        self.steps = {number: step for number, step in self.steps.items() if number in way}
        text = "".join(self._written(step) for step in self.steps.values())
        try:
            write_whole(self._file, text.encode())
        except OutputError:
            self.is_kept = False

    def _keep(self, step: Step | None = None) -> None:
        """Adds a line to the file; where that cannot be, the sitting goes on without, which is told once."""
        if not self.is_kept:
            return
        try:
            make_folder(self._file.parent)
            new = not self._file.exists()
            with self._file.open("a", encoding="utf-8") as file:
                file.write("".join(map(self._written, self.steps.values())) if new else self._written(step))
        except (OSError, OutputError):
            self.is_kept = False

    def _written(self, step: Step | None) -> str:
        content: dict[str, Any] = {"line": self._line, "place": self._place}
        if step is not None:
            content["step"] = msgspec.to_builtins(step)
        return json.dumps(content, ensure_ascii=False) + "\n"
