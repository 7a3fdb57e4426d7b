"""The records of a plan: each source is opened once, for all entries that are made of it."""

from grainstack.errors import GrainStackError
from grainstack.plan.digests import digest_of
from grainstack.plan.plan import PlanEntry, Source
from grainstack.plan.record import FileStates
from grainstack.quick import dataclass
from grainstack.records.opened import Opened, inputs_of, open_records
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.request import RecordsRequest

_PATHS = ("file", "codebook")  # of what tells where records are: their content counts, and not where they lie


@dataclass(frozen=True, slots=True)
class SourceRecords:
    """The records of some entries.

    Attributes:
        opened: The records, opened.
        readers: What reads their columns for all of these entries.
        digest: Tells them from any others in this build.
        lasting: Whether it tells them from any others in later builds too: their content is known.
    """

    opened: Opened
    readers: SharedReaders
    digest: str
    lasting: bool


class Sources:
    """The sources of a plan, opened when an entry of them is met first.

    Args:
        states: The states of the files that are read.
    """

    def __init__(self, states: FileStates) -> None:
        self._states = states
        self._opened: dict[Source, SourceRecords | GrainStackError] = {}

    def of(self, entry: PlanEntry) -> SourceRecords:
        """The records of an entry.

        Raises:
            RequestError: There is no such file, or an option does not suit it.
            RecordsError: Records or codebook cannot be read.
        """
        if entry.source not in self._opened:
            try:
                self._opened[entry.source] = self._open(entry)
            except GrainStackError as error:
                self._opened[entry.source] = error
        found = self._opened[entry.source]
        if isinstance(found, GrainStackError):
            raise found
        return found

    def _open(self, entry: PlanEntry) -> SourceRecords:
        asked = entry.requests[RecordsRequest]
        opened = open_records(asked)
        content = None if any(file == "-" or "://" in file for file in asked.file) else self._content(asked)
        how = {name: value for name, value in entry.source if name not in _PATHS}
        known = digest_of(entry.source) if content is None else digest_of(content, how)
        return SourceRecords(opened, SharedReaders(), known, lasting=content is not None)

    def _content(self, asked: RecordsRequest) -> list[tuple[str, str]] | None:
        """The names and digests of the files that are read; None where one of them is none."""
        states = [(self._states.name_of(path), self._states.of(path)) for path in inputs_of(asked)]
        found = [(name, state.content) for name, state in states if state is not None]
        return found if len(found) == len(states) else None
