"""The files a plan is made of, watched for a change that somebody saved."""

import time
from collections.abc import Sequence
from pathlib import Path

from grainstack.chart.picture_request import PictureRequest
from grainstack.errors import GrainStackError
from grainstack.plan.file.plan import Plan, PlanEntry
from grainstack.records.opened import inputs_of
from grainstack.records.records_request import RecordsRequest

_BETWEEN = 0.05  # seconds between two looks: a person does not notice, and a few files cost nothing to look at

Seen = dict[Path, tuple[int, int] | None]


class Watch:
    """Some files, and how they were when they were looked at last.

    Args:
        plan: The file of the plan.
    """

    def __init__(self, plan: Path) -> None:
        self._plan = plan
        self._files: set[Path] = {plan}
        self._seen: Seen = {}

    def look(self) -> None:
        """Notes how the files are now, before they are read: what changes from here on counts."""
        self._seen = self._now()

    def go_on_with(self, plan: Plan, entries: Sequence[PlanEntry]) -> None:
        """Watches what these entries are made of.

        Args:
            plan: The plan as it is now.
            entries: Its entries that are built.
        """
        files = {self._plan}
        files |= set(map(Path, plan.report.templates)) if plan.report else set()
        for entry in entries:
            files |= set(_files_of(entry))
        new = files - self._files
        self._files = files
        self._seen |= {path: _state_of(path) for path in new}

    def wait(self) -> None:
        """Waits until a file has changed, and is no longer being written."""
        before = {path: self._seen.get(path) for path in self._files}
        while self._now() == before:
            time.sleep(_BETWEEN)
        now = self._now()
        while True:
            time.sleep(_BETWEEN)
            later = self._now()
            if later == now:
                return
            now = later

    def _now(self) -> Seen:
        return {path: _state_of(path) for path in self._files}


def _files_of(entry: PlanEntry) -> list[Path]:
    """The files an entry is made of; those that may turn up beside its records too."""
    records = entry.requests[RecordsRequest]
    try:
        files = inputs_of(records)
    except GrainStackError:  # no file matches its pattern now
        files = []
    style = entry.requests.usual(PictureRequest).style
    files += [Path(style)] if style and style.endswith(".toml") else []
    return [*files, *(path.parent / name for path in files[:1] for name in ("codebook.toml", "style.toml"))]


def _state_of(path: Path) -> tuple[int, int] | None:
    """The size of a file and when it was changed last; None where there is none."""
    try:
        about = path.stat()
    except OSError:
        return None
    return about.st_size, about.st_mtime_ns
