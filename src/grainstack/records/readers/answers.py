"""Questions with several answers, in one column or in a set of 0/1 columns."""

from collections.abc import Sequence

import numpy as np
import pyarrow as pa

from grainstack.errors import RecordsError, listed
from grainstack.records.arrow import Codes, level_lists, places_of
from grainstack.records.codebook.codebook import CodebookVariable
from grainstack.records.readers.levels import LevelList, Rows, first_rows_of
from grainstack.records.readers.nets import Net
from grainstack.records.readers.plain import Coding, Places, coding_of
from grainstack.records.values import Strays, as_texts
from grainstack.records.variable import Kind, LevelOrder, Variable

_CHOSEN = frozenset(("1", "1.0", "yes", "true", "x", "ja", "oui", "y"))
_NOT_CHOSEN = frozenset(("0", "0.0", "no", "false", "nein", "non", "n"))


class SeparatedAnswers:
    """Reads a column whose values hold several answers, such as `cafe;lounge`."""

    steady = True
    by_frequency = False

    def __init__(self, variable: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = (variable.name,)
        self._variable = variable
        self.levels = levels

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """A list of levels for each record, each once; null where there is no answer, unless that is a level."""
        values = as_texts(batch.column(self._variable.name), self._variable.name)
        places, texts = places_of(values), values.dictionary.to_pylist()
        first = first_rows_of(places, len(texts)).tolist()
        lists = [
            self._places(text or "", rows.number(row)) if row >= 0 else None
            for text, row in zip(texts, first, strict=True)
        ]
        empty = places < 0
        lists.append(_no_answer(self.levels, rows.number(int(np.argmax(empty)))) if empty.any() else None)
        return answer_lists(lists, places, self.levels.column), []

    def variable(self) -> Variable:
        """What is known of it."""
        levels, order = self.levels.ordered()
        return Variable(self._variable.name, Kind.MULTI, self._variable.label, "", levels, order)

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return coding_of(self.levels)

    def merge(self, other: "SeparatedAnswers") -> Places:
        """Learns the answers of another reader."""
        return self.levels.merge(other.levels)

    def _places(self, text: str, record: int) -> list[int] | None:
        parts = [part for part in text.split(self._variable.separator) if part.strip()]
        places = dict.fromkeys(self.levels.place(part, (record, number)) for number, part in enumerate(parts))
        places.pop(-1, None)
        return list(places) or _no_answer(self.levels, record)


class AnswerColumns:
    """Reads a set of 0/1 columns as one question with several answers."""

    steady = False  # its levels are its columns
    by_frequency = False

    def __init__(self, variable: CodebookVariable, levels: LevelList) -> None:
        self.raw: tuple[str, ...] = variable.columns
        self._variable = variable
        self.levels = levels

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """A list of levels for each record; null where none of the columns was answered, unless that is a level."""
        chosen = np.zeros((batch.num_rows, len(self.raw)), dtype=bool)
        answered = np.zeros(batch.num_rows, dtype=bool)
        for column, name in enumerate(self.raw):
            values = as_texts(batch.column(name), name)
            states = [self._state(text or "", name) for text in values.dictionary.to_pylist()] + [-1]
            state = np.array(states)[places_of(values)]
            chosen[:, column] = state == 1
            answered |= state >= 0
        mine = [self.levels.place(name, (0, number)) for number, name in enumerate(self.raw)]
        lists = [[mine[column] for column in np.flatnonzero(row)] for row in chosen]
        missing = None if answered.all() else _no_answer(self.levels, rows.number(int(np.argmin(answered))))
        parts: list[list[int] | None] = [part if yes else missing for part, yes in zip(lists, answered, strict=True)]
        return answer_lists(parts, np.arange(batch.num_rows, dtype=np.int32), self.levels.column), []

    def variable(self) -> Variable:
        """What is known of it."""
        levels, _ = self.levels.ordered()
        order = LevelOrder.CODEBOOK if self._variable.levels else LevelOrder.AS_FOUND
        return Variable(self._variable.name, Kind.MULTI, self._variable.label, "", levels, order)

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return coding_of(self.levels)

    def merge(self, other: "AnswerColumns") -> Places:
        """Learns the answers of another reader."""
        return self.levels.merge(other.levels)

    def _state(self, text: str, name: str) -> int:
        plain = text.strip().casefold()
        if not plain or self._variable.is_missing(text.strip()):
            return -1
        if plain in _CHOSEN or plain in _NOT_CHOSEN:
            return int(plain in _CHOSEN)
        raise RecordsError(
            f"`{name}` should hold 0 or 1, for an answer chosen or not, but holds `{text.strip()}`.",
            f"Known are {listed(sorted(_CHOSEN | _NOT_CHOSEN), 20)}; name other codes under `missing`.",
        )


class AnswersWithNets:
    """Reads a question with several answers, and nets of them as answers of their own: a person is in each once.

    Args:
        answers: What reads the question.
        nets: The nets, whose parts are named by label or code.
    """

    steady = False
    by_frequency = False

    def __init__(self, answers: "SeparatedAnswers | AnswerColumns", nets: Sequence[Net]) -> None:
        self.raw, self.levels = answers.raw, answers.levels
        self._answers, self._nets = answers, tuple(nets)

    def read(self, batch: pa.RecordBatch, rows: Rows) -> tuple[pa.Array, Strays]:
        """A list of levels for each record, with the nets it is in; null where there is no answer."""
        column, strays = self._answers.read(batch, rows)
        lengths = np.diff(column.offsets.to_numpy())
        places = places_of(column.values)
        owners = np.repeat(np.arange(len(column)), lengths)
        found, of_whom = [places], [owners]
        for net in self._nets:
            parts = [
                place for place in range(len(self.levels)) if set(self.levels.names(place)).intersection(net.parts)
            ]
            members = np.unique(owners[np.isin(places, parts)])
            if len(members):
                place = self.levels.net_place(net.name, (rows.number(int(members[0])), 0))
                found.append(np.full(len(members), place, dtype=np.int32))
                of_whom.append(members)
        owner = np.concatenate(of_whom)
        order = np.argsort(owner, kind="stable")
        offsets = np.concatenate([[0], np.cumsum(np.bincount(owner, minlength=len(column)))]).astype(np.int32)
        answered = column.is_valid().to_numpy(zero_copy_only=False)
        return level_lists(np.concatenate(found)[order], offsets, answered, self.levels.column), strays

    def variable(self) -> Variable:
        """What is known of it; nets stand last."""
        return self._answers.variable()

    def coding(self) -> Coding:
        """What its dictionary places stand for."""
        return self._answers.coding()

    def merge(self, other: "AnswersWithNets") -> Places:
        """Learns the answers of another reader."""
        return self.levels.merge(other.levels)


def _no_answer(levels: LevelList, record: int) -> list[int] | None:
    """What stands for no answer: nothing, or the level of that name where it is wanted."""
    place = levels.place("", (record, 0))
    return None if place < 0 else [place]


def answer_lists(own: Sequence[Sequence[int] | None], which: Codes, codes: pa.StringArray) -> pa.ListArray:
    """Lists of levels as an Arrow column.

    Args:
        own: Different lists of places; None for no answer.
        which: The list of each record, shape (records,); -1 is the last one.
        codes: What the places stand for.
    """
    sizes = np.array([0 if part is None else len(part) for part in own], dtype=np.int64)
    starts = np.concatenate([[0], np.cumsum(sizes)])
    flat = np.array([place for part in own if part is not None for place in part], dtype=np.int32)
    which = np.where(which < 0, len(own) - 1, which)
    lengths = sizes[which]
    offsets = np.concatenate([[0], np.cumsum(lengths)]).astype(np.int32)
    within = np.arange(offsets[-1]) - np.repeat(offsets[:-1], lengths)
    places = flat[np.repeat(starts[which], lengths) + within]
    answered = np.array([part is not None for part in own], dtype=bool)[which]
    return level_lists(places, offsets, answered, codes)
