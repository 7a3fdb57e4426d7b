"""The records of a plan: each source is opened once, for all entries that are made of it."""

from collections.abc import Mapping
from pathlib import Path

from msgspec import Struct

from grainstack.digests import digest_of
from grainstack.errors import GrainStackError
from grainstack.making.trace import TracedFile
from grainstack.plan.building.record import FileStates
from grainstack.plan.file.plan import PlanEntry, Source
from grainstack.records.opened import Opened, inputs_of, open_records
from grainstack.records.readers.shared import SharedReaders
from grainstack.records.records_request import RecordsRequest

_PATHS = ("file", "codebook")  # of what tells where records are: their content counts, and not where they lie


class SourceRecords(Struct, frozen=True):
    """The records of some entries.

    Attributes:
        opened: The records, opened.
        readers: What reads their columns for all of these entries.
        state: Tells them from any others as long as nobody changes a file without its time.
        files: What is read for them, by names that are the same on every machine; None where one of them is no file.
        how: How they are opened.
        states: The states of files.
    """

    opened: Opened
    readers: SharedReaders
    state: str
    files: Mapping[str, Path] | None
    how: str
    states: FileStates

    @property
    def lasting(self) -> bool:
        """Whether they can be told from others in later builds."""
        return self.files is not None

    @property
    def digest(self) -> str:
        """Tells their content from any other; waits until all of it was looked at."""
        if self.files is None:
            return self.state
        return digest_of({name: self.states.of(path).content for name, path in self.files.items()}, self.how)

    @property
    def traced(self) -> tuple[TracedFile, ...]:
        """They as a trace names them; waits until all of it was looked at."""
        if self.files is None:
            return (TracedFile(self.opened.source.name),)
        states = {path.name: self.states.of(path) for path in self.files.values()}
        return tuple(TracedFile(name, one.size, one.content) for name, one in states.items())


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
        request = entry.requests[RecordsRequest]
        opened = open_records(request)
        how = digest_of({name: value for name, value in entry.source if name not in _PATHS})
        paths = [] if any(file == "-" or "://" in file for file in request.file) else inputs_of(request)
        seen = {self._states.name_of(path): self._states.look(path) for path in paths}
        files = {self._states.name_of(path): path for path in paths} if seen and None not in seen.values() else None
        return SourceRecords(opened, SharedReaders(), digest_of(entry.source, seen), files, how, self._states)
