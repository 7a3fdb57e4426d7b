"""A plan beside the page: its entries as states, kept, put in order and copied, with what others change in them."""

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from msgspec import Struct

from grainstack.editing.state import State, state_of, typed
from grainstack.making.kind import Product
from grainstack.making.kinds import kind_named
from grainstack.plan.file.arranging import duplicated, reordered
from grainstack.plan.file.history import keep
from grainstack.plan.file.plan import Formats, Plan, PlanEntry, PlanError
from grainstack.plan.file.reading import read_plan
from grainstack.plan.file.saving import NewEntry, extended
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import filled
from grainstack.whole_files import write_whole


class ChangedTwiceErrorError(PlanError):
    """An entry that was changed in the plan and on the page."""


class SheetEntry(Struct, frozen=True):
    """An entry of the plan.

    Attributes:
        name: Its name.
        state: What it asks for.
        source: Its records and their codebook, as options.
    """

    name: str
    state: State
    source: dict[str, Any]


class PlanSheet:
    """A plan, read again whenever it may have changed.

    Args:
        path: Its file, which there need not be yet.
        formats: The formats that tables and charts can be written in.
    """

    def __init__(self, path: Path, formats: Formats) -> None:
        self.path, self.formats = path, formats
        self.entries: dict[str, SheetEntry] = {}
        self.faults: tuple[str, ...] = ()
        self.plan: Plan | None = None

    def read(self) -> dict[str, SheetEntry]:
        """Reads it; what was read before stays where it has faults now.

        Returns:
            The entries as they were before.
        """
        before = self.entries
        if not self.path.exists():
            self.entries, self.faults, self.plan = {}, (), None
            return before
        try:
            plan = read_plan(self.path, self.formats)
        except PlanError as error:
            self.faults = error.faults
            return before
        self.faults = plan.faults
        if not plan.faults:
            self.plan = plan
            self.entries = {one.name: _sheet_entry(one) for one in plan.entries}
        return before

    def keep(self, state: State, source: dict[str, Any], name: str, *, over: bool) -> str:
        """Keeps what is shown as an entry; one of its name is replaced, and what it says alike stays as it is written.

        Args:
            state: What is shown.
            source: Its records and their codebook.
            name: The name of the entry; empty to derive one.
            over: Whether it replaces what somebody else has changed in it since it was opened.

        Returns:
            What is told of it.

        Raises:
            ChangedTwiceErrorError: Somebody else has.
            GrainStackError: It cannot be kept there.
        """
        known = self.read().get(name)
        now = self.entries.get(name)
        if known is not None and now is not None and now.state not in (known.state, state) and not over:
            self.entries[name] = known  # until somebody says which of them counts
            raise ChangedTwiceErrorError(
                f"{name} was changed in {self.path.name} since it was opened here.", "Choose one of them."
            )
        kind = kind_named(state.kind)
        opened = None
        if now is not None and now.state.kind == state.kind:
            opened = filled(kind.models, {**typed(now.state), **source})
        formats = ("svg",) if kind.product is Product.CHART and now is None else ()
        request = filled(kind.models, {**typed(state), **source})
        sentences = extended(self.path, NewEntry(kind, request, formats, name or None, opened)).write()
        self.read()
        return " ".join(sentences)

    def reorder(self, names: Sequence[str]) -> None:
        """Puts the entries in another order.

        Raises:
            PlanError: They cannot be moved.
            OutputError: The plan cannot be written.
        """
        self._write(reordered(self._text(), names))

    def duplicate(self, name: str) -> str:
        """Adds a copy of an entry behind it.

        Returns:
            What the copy is called.

        Raises:
            PlanError: It cannot be copied.
            OutputError: The plan cannot be written.
        """
        number = 2
        while f"{name}-{number}" in self.entries:
            number += 1
        new = f"{name}-{number}"
        self._write(duplicated(self._text(), name, new))
        return new

    def _text(self) -> str:
        return self.path.read_text("utf-8-sig")

    def _write(self, text: str) -> None:
        keep(self.path, text)
        write_whole(self.path, text.encode())
        self.read()


def _sheet_entry(entry: PlanEntry) -> SheetEntry:
    records = entry.requests[RecordsRequest]
    codebook = {"codebook": records.codebook} if records.codebook else {}
    return SheetEntry(entry.name, state_of(entry.kind, entry.requests), {"file": records.file, **codebook})
