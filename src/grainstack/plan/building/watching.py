"""The files a plan is made of, watched for a change that somebody saved."""

import time
from collections.abc import Iterable, Sequence
from pathlib import Path
from threading import Event

from grainstack.chart.picture_request import PictureRequest
from grainstack.errors import GrainStackError
from grainstack.plan.file.plan import Plan, PlanEntry
from grainstack.records.opened import inputs_of
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests

_BETWEEN = 0.05  # seconds between two looks: a person does not notice, and a few files cost nothing to look at

Seen = dict[Path, tuple[int, int] | None]


class Watch:
    """Some files, and how they were when they were looked at last.

    Args:
        files: The files; some may not be there yet.
    """

    def __init__(self, files: Iterable[Path]) -> None:
        self._files: set[Path] = set(files)
        self._seen: Seen = {}

    def look(self) -> None:
        """Notes how the files are now, before they are read: what changes from here on counts."""
        self._seen = self._now()

    def go_on_with(self, files: Iterable[Path]) -> None:
        """Watches other files; one that was watched before is not noted anew.

        Args:
            files: The files.
        """
        wanted = set(files)
        self._seen |= {path: _state_of(path) for path in wanted - self._files}
        self._files = wanted

    def wait(self, ended: Event | None = None) -> frozenset[Path]:
        """Waits until a file has changed, and is no longer being written.

        Args:
            ended: Ends the waiting when it is set.

        Returns:
            The files that have changed; none where the waiting was ended.
        """
        while True:
            if ended is None:
                time.sleep(_BETWEEN)
            elif ended.wait(_BETWEEN):
                return frozenset()
            if changed := self._changed():
                break
        now = self._now()
        while True:
            time.sleep(_BETWEEN)
            later = self._now()
            if later == now:
                return changed | self._changed()
            now = later

    def _changed(self) -> frozenset[Path]:
        return frozenset(path for path in self._files if _state_of(path) != self._seen.get(path))

    def _now(self) -> Seen:
        return {path: _state_of(path) for path in self._files}


def files_of_plan(plan: Plan, entries: Sequence[PlanEntry]) -> set[Path]:
    """The files that some entries of a plan are made of, with the plan itself.

    Args:
        plan: The plan.
        entries: The entries.
    """
    templates = set(map(Path, plan.report.templates)) if plan.report else set()
    return {plan.path, *templates, *(file for entry in entries for file in files_of(entry.requests))}


def files_of(requests: Requests) -> list[Path]:
    """The files something is made of; those that may turn up beside its records too.

    Args:
        requests: What is asked for.
    """
    records = requests[RecordsRequest]
    try:
        files = inputs_of(records)
    except GrainStackError:  # no file matches its pattern now
        files = []
    style = requests.usual(PictureRequest).style
    files += [Path(style)] if style and style.endswith(".toml") else []
    return [*files, *(path.parent / name for path in files[:1] for name in ("codebook.toml", "style.toml"))]


def _state_of(path: Path) -> tuple[int, int] | None:
    """The size of a file and when it was changed last; None where there is none."""
    try:
        about = path.stat()
    except OSError:
        return None
    return about.st_size, about.st_mtime_ns
