"""One sitting at the page: its state, every step to it, and what follows from a change. All that a page can ask."""

from collections.abc import Callable, Mapping, Sequence
from pathlib import Path
from threading import Event, Lock, Thread
from typing import Any

from msgspec import Struct

from grainstack.digests import digest_of
from grainstack.editing.codebook_words import levels_called, relabelled, restored
from grainstack.editing.columns import Listing, listing_of
from grainstack.editing.drawing import Drawing, Drawn
from grainstack.editing.forms import FORMS, best_form, change_to, is_form
from grainstack.editing.history import FileChange, History, Step
from grainstack.editing.kept_sums import StoppedError
from grainstack.editing.plan_sheet import PlanSheet
from grainstack.editing.report_text import ReportText, report_text
from grainstack.editing.small_pictures import SmallPictures
from grainstack.editing.state import Change, State, changed, with_level_called
from grainstack.editing.turns import Turns
from grainstack.errors import GrainStackError, RequestError
from grainstack.making.kind import Product
from grainstack.making.kinds import kind_named
from grainstack.making.make import Made
from grainstack.plan.building.watching import Watch, files_of
from grainstack.records.opened import inputs_of
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Kind as ValueKind
from grainstack.report.output_formats import outputs_of
from grainstack.requests import filled
from grainstack.whole_files import check_targets, write_all

_FIRST_KEPT = 10  # of many levels: as many bars as are read at a glance
_TOLD_EVERY = 100_000  # rows: how often the page is told how far reading is

Parse = Callable[[str], State]


class Answer(Struct, frozen=True):
    """What the page is told after a change.

    Attributes:
        number: Of the state shown.
        state: It.
        undo: Whether a step can be taken back.
        redo: Whether one can be done again.
        entry: The entry of the plan that is shown; empty for none.
        drawn: What is shown; None where a later change made it useless.
        form: The name of its form; empty for one that is not among the forms.
        best: The form that suits the columns best.
        message: What happened besides.
        steps: All states of the sitting: their numbers, with what was changed.
    """

    number: int
    state: State
    undo: bool
    redo: bool
    entry: str
    drawn: Drawn | None
    form: str = ""
    best: str = ""
    message: str = ""
    steps: tuple[tuple[int, str], ...] = ()


class Session:
    """One sitting.

    Args:
        source: The records and their codebook, as options.
        sheet: The plan in which charts are kept; perhaps not there yet.
        entry: The name of the entry to begin with; empty to begin with the records.
        parse: A typed command as a state.
    """

    def __init__(self, source: Mapping[str, Any], sheet: PlanSheet, entry: str, parse: Parse) -> None:
        self.sheet, self._parse = sheet, parse
        self.entry = entry
        self._drawings: dict[str, Drawing] = {}
        self._source = dict(source)
        self._histories: dict[str, History] = {}
        self._changing, self.turns = Lock(), Turns()
        self._pictures = SmallPictures(self.turns)
        self._listeners: list[Callable[[Mapping[str, Any]], None]] = []
        self._ended = Event()
        self._listing: dict[str, Listing] = {}
        self._watch = Watch(self._files())

    # What is shown.

    @property
    def source(self) -> dict[str, Any]:
        """The records of what is shown, and their codebook."""
        entry = self.sheet.entries.get(self.entry)
        return entry.source if entry else self._source

    @property
    def drawing(self) -> Drawing:
        """What draws them."""
        return self._drawing_of(self.source)

    def _drawing_of(self, source: Mapping[str, Any]) -> Drawing:
        """What draws some records; opened once."""
        return self._drawings.setdefault(repr(sorted(source.items())), Drawing(source))

    @property
    def history(self) -> History:
        """The steps of what is shown."""
        if self.entry not in self._histories:
            entry = self.sheet.entries.get(self.entry)
            first = entry.state if entry else self._first()
            self._histories[self.entry] = History(
                self.folder / (self.entry or f"records-{digest_of(self.source)}"), first
            )
        return self._histories[self.entry]

    @property
    def folder(self) -> Path:
        """Where the sitting keeps its states: beside the plan, or the records where there is none."""
        return self.sheet.path.with_name(f".{self.sheet.path.name}.sitting")

    def listing(self) -> Listing:
        """The columns of the records.

        Raises:
            RecordsError: Records that cannot be read.
        """
        key = repr(sorted(self.source.items()))
        if key not in self._listing:
            self._listing[key] = listing_of(self.drawing.opened())
        return self._listing[key]

    def _first(self) -> State:
        """What the page begins with: bars of the first column that has a few levels, else what the first one suits."""
        columns = self.listing().columns
        few = next((one for one in columns if 1 < len(one.levels) <= len(one.bars)), None)
        if few is not None:
            return State("bar", {"by": [few.name]})
        many = next((one for one in columns if len(one.levels) > len(one.bars)), None)
        if many is not None:
            return State("bar", {"by": [many.name], "keep_top": _FIRST_KEPT})
        number = next((one for one in columns if one.kind == ValueKind.NUMBER), None)
        return State("bar", {}) if number is None else State("distribution", {"measure": [number.name]})

    # Changes.

    def show(self) -> Answer:
        """What is shown now."""
        with self._changing:
            step = self.history.current
        return self._answer(step)

    def change(self, change: Change, about: str = "") -> Answer:
        """Makes a change and draws what follows.

        Args:
            change: The change.
            about: What it is, in a few words.

        Raises:
            RequestError: There is no such option.
        """
        with self._changing:
            state = changed(self.history.current.state, change)
            step = self.history.current
            if state != step.state:
                step = self.history.add(state, about or _about(change))
        return self._answer(step)

    def typed(self, command: str) -> Answer:
        """Shows what a typed command asks for.

        Args:
            command: The command.

        Raises:
            RequestError: It is none of a table or chart.
        """
        state = self._parse(command)
        with self._changing:
            step = self.history.add(state, "typed")
        return self._answer(step)

    def take_form(self, name: str) -> Answer:
        """Shows another form.

        Raises:
            RequestError: There is none of the name.
        """
        return self.change(change_to(_form(name), self.history.current.state), name)

    def undo(self) -> Answer:
        """Takes the last step back, and what it wrote."""
        with self._changing:
            step = self.history.back()
            message = self._rewrite(step.written, undone=True) if step else ""
            now = self.history.current
        return self._answer(now, message)

    def redo(self) -> Answer:
        """Does the next step again, and what it wrote."""
        with self._changing:
            step = self.history.forth()
            message = self._rewrite(step.written, undone=False) if step else ""
            now = self.history.current
        return self._answer(now, message)

    def go_to(self, number: int) -> Answer:
        """Goes back to any state of the sitting; the codebook stays as it is.

        Raises:
            RequestError: There is none of the number.
        """
        with self._changing:
            found = self.history.steps.get(number)
            if found is None:
                raise RequestError("There is no such state any more.", "Choose another.")
            step = self.history.add(found.state, found.about)
        return self._answer(step)

    def rename(self, column: str, code: str | None, name: str) -> Answer:
        """Calls a level or a column otherwise, in the codebook.

        Args:
            column: The column.
            code: The level; None for the column itself.
            name: What it is to be called.

        Raises:
            GrainStackError: The codebook cannot be changed.
        """
        name = name.strip()
        if not name:
            raise RequestError("A name is empty.", "Write one.")
        with self._changing:
            records = filled((RecordsRequest,), self.source)[RecordsRequest]
            opened = self.drawing.opened(records)
            known = opened.codebook.variable(column)
            listed = next((one.levels for one in self.listing().columns if one.name == column), ())
            levels = [] if code is None else levels_called(listed if not known.levels else (), code, name)
            path = self._codebook(opened.beside)
            change = relabelled(path, column, levels, name if code is None else None)
            state = self.history.current.state
            if code is not None and (level := known.level(code)):
                state = with_level_called(state, level.label, name)
            self._forget()
            step = self.history.add(state, f"renamed {name}", change)
            self._see()
        return self._answer(step, f"Written to {path.name}; undo takes it back.")

    def _codebook(self, beside: Path | None) -> Path:
        """The codebook of the records, or the one that would be theirs."""
        if codebook := self.source.get("codebook"):
            return Path(codebook)
        first = Path(self.source["file"][0])
        return beside or first.parent / "codebook.toml"

    # The plan.

    def keep(self, name: str, *, over: bool = False) -> Answer:
        """Keeps what is shown in the plan.

        Args:
            name: The name of the entry; empty to derive one.
            over: Whether it replaces what somebody else has changed in it.

        Raises:
            ChangedTwiceError: Somebody else has changed the entry.
            GrainStackError: It cannot be kept.
        """
        with self._changing:
            step = self.history.current
            before = set(self.sheet.entries)
            message = self.sheet.keep(step.state, self.source, name, over=over)
            added = next((one for one in self.sheet.entries if one not in before), "")
            if (name or added) != self.entry:
                self._histories[name or added] = self.history  # which goes on under its name
                self.entry = name or added
            self._see()
        return self._answer(step, message)

    def open_entry(self, name: str) -> Answer:
        """Shows an entry of the plan.

        Raises:
            RequestError: There is none of the name.
        """
        with self._changing:
            if name not in self.sheet.entries:
                raise RequestError(f"The plan has no entry `{name}`.", "Choose another.")
            self.entry = name
            step = self.history.current
            self._see()
        return self._answer(step)

    def reorder(self, names: Sequence[str]) -> None:
        """Puts the entries of the plan in another order.

        Raises:
            GrainStackError: They cannot be moved.
        """
        with self._changing:
            self.sheet.reorder(names)
            self._see()

    def duplicate(self, name: str) -> Answer:
        """Adds a copy of an entry, and shows it.

        Raises:
            GrainStackError: It cannot be copied.
        """
        with self._changing:
            new = self.sheet.duplicate(name)
            self._see()
        return self.open_entry(new)

    def take_the_plans(self) -> Answer:
        """Shows the entry as the plan has it now."""
        with self._changing:
            self.sheet.read()
            step = self.history.add(self.sheet.entries[self.entry].state, "as in the plan")
        return self._answer(step)

    def report_text(self) -> ReportText:
        """What the report says around the chart, with the figures of what is shown; nothing where it is in no report.

        Raises:
            GrainStackError: An entry that the text names cannot be made.
        """
        report = self.sheet.plan.report if self.sheet.plan else None
        if report is None or not self.entry:
            return ReportText()

        def make(name: str) -> Made:
            if name == self.entry:
                return self.drawing.worked_out(self.history.current.state, self.turns.check_free_of).made
            if name not in self.sheet.entries:
                raise RequestError(f"The plan has no entry `{name}`.", "Name another in the text.")
            entry = self.sheet.entries[name]
            return self._drawing_of(entry.source).worked_out(entry.state, self.turns.check_free_of).made

        with self.turns.of_small_picture():
            return report_text(report, self.entry, make)

    # Files.

    def content(self, ending: str) -> bytes:
        """What is shown, in a format.

        Args:
            ending: Of its file, with the dot.

        Raises:
            GrainStackError: It cannot be made.
        """
        with self.turns.of_file():
            work = self.drawing.worked_out(self.history.current.state, lambda _: None)
            return outputs_of(work.made, [ending]).contents[0]

    def save(self, name: str) -> str:
        """Writes what is shown into a file in the folder of the plan.

        Args:
            name: The file.

        Returns:
            What is told of it.

        Raises:
            GrainStackError: It cannot be written there.
        """
        if not name or Path(name).name != name:
            raise RequestError(
                f"`{name}` is no name of a file.", "Name it like chart.png: it is written beside the plan."
            )
        target = self.sheet.path.parent / name
        kind = kind_named(self.history.current.state.kind)
        formats = self.sheet.formats[Product.CHART if kind.product is Product.CHART else Product.TABLE]
        inputs = inputs_of(filled((RecordsRequest,), self.source)[RecordsRequest])
        check_targets([target], [*inputs, self.sheet.path], [f".{one}" for one in formats])
        write_all([target], [self.content(target.suffix.lower())])
        return f"Wrote {target}."

    # Small pictures.

    def form_picture(self, name: str) -> tuple[str, str]:
        """What is shown in another form: its picture, or the reason why there is none.

        Raises:
            RequestError: There is no such form.
        """
        form = _form(name)
        now = self.history.current.state
        state = changed(now, change_to(form, now))
        if is_form(now, form):
            return self._pictures.of(now, self.drawing)
        if self.listing_is_large and self.drawing.reads(state):
            return "", "needs to read the records again: press it to see"
        return self._pictures.of(state, self.drawing)

    @property
    def listing_is_large(self) -> bool:
        """Whether reading the records takes longer than anybody waits for a small picture."""
        return not self.listing().complete

    def step_picture(self, number: int) -> str:
        """An earlier state, small; empty where it cannot be drawn."""
        step = self.history.steps.get(number)
        return self._pictures.of(step.state, self.drawing)[0] if step else ""

    def entry_picture(self, name: str) -> str:
        """An entry of the plan, small; empty where it cannot be drawn."""
        entry = self.sheet.entries.get(name)
        if entry is None:
            return ""
        return self._pictures.of(entry.state, self._drawing_of(entry.source))[0]

    # Drawing.

    def _answer(self, step: Step, message: str = "") -> Answer:
        """What the page is told of a state, drawn unless a later change came in between."""
        with self.turns.of_change(step.number):
            drawn = self._drawn(step)
        history = self.history
        form = next((one.name for one in FORMS if is_form(step.state, one)), "")
        best = ""
        if drawn is not None and drawn.figures is not None:
            kinds = {one.name: one.kind for one in self.listing().columns}
            best = best_form(step.state, drawn.figures, kinds)
        steps = tuple((number, one.about) for number, one in history.steps.items())
        self._watch.go_on_with(self._files())
        return Answer(
            step.number, step.state, history.undo, history.redo, self.entry, drawn, form, best, message, steps
        )

    def _drawn(self, step: Step) -> Drawn | None:
        """What a state shows; None where a later one made it useless."""
        read = reported = 0

        def report_rows(count: int) -> None:
            nonlocal read, reported
            self.turns.check_last(step.number)
            read += count
            if read - reported >= _TOLD_EVERY:
                reported = read
                self.tell({"event": "read", "rows": read})

        try:
            self.turns.check_last(step.number)
            return self.drawing.draw(step.state, report_rows)
        except StoppedError:
            return None

    # What others change.

    def listen(self, listener: Callable[[Mapping[str, Any]], None]) -> Callable[[], None]:
        """Tells somebody what happens; gives what ends that."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def tell(self, event: Mapping[str, Any]) -> None:
        """Tells all pages."""
        for listener in list(self._listeners):
            listener(event)

    def watch(self) -> Thread:
        """Watches records, codebook, style and plan, until the sitting ends."""
        self._watch.look()
        thread = Thread(target=self._go_on_watching, daemon=True)
        thread.start()
        return thread

    def end(self) -> None:
        """Ends the sitting."""
        self._ended.set()
        self.turns.stop()

    def _go_on_watching(self) -> None:
        while files := self._watch.wait(self._ended):
            self._watch.look()
            self._changed_outside(files)

    def _changed_outside(self, files: frozenset[Path]) -> None:
        """Takes up what somebody has changed in a file."""
        with self._changing:
            plan = self.sheet.path in files
            before = self.sheet.read() if plan else self.sheet.entries
            others = {file.name for file in files if file != self.sheet.path}
            if others:
                self._forget()
            event: dict[str, Any] = {"event": "files", "files": sorted(others), "plan": plan}
            event["faults"] = list(self.sheet.faults)
            was, now = before.get(self.entry), self.sheet.entries.get(self.entry)
            if plan and was is not None and now is not None and was.state != now.state:
                current = self.history.current.state
                if current == was.state:
                    self.history.add(now.state, "changed in the plan")
                elif current != now.state:
                    self.sheet.entries[self.entry] = was  # until somebody says which of them counts
                    event["twice"] = True
        self.tell(event)

    def _forget(self) -> None:
        """Takes nothing of the records for granted any more."""
        for drawing in self._drawings.values():
            drawing.forget()
        self._listing.clear()
        self._pictures.forget()

    def _see(self) -> None:
        """Takes the files as they are now for ours: what was written here is no change of somebody else's."""
        self._watch.go_on_with(self._files())
        self._watch.look()

    def _files(self) -> set[Path]:
        """The files that what is shown is made of."""
        try:
            state = self.history.current.state if self.entry in self._histories else State("bar", {})
            made_of = files_of(self.drawing.requests(state))
        except GrainStackError:
            made_of = []
        return {self.sheet.path, *made_of, *([Path(self.source["codebook"])] if "codebook" in self.source else [])}

    def _rewrite(self, written: FileChange | None, *, undone: bool) -> str:
        """Gives a file that a step wrote the words it had before, or has since."""
        if written is None:
            return ""
        message = restored(written, undone=undone)
        self._forget()
        self._see()
        return message


def _form(name: str) -> Any:  # noqa: ANN401
    found = next((one for one in FORMS if one.name == name), None)
    if found is None:
        raise RequestError(f"There is no form `{name}`.", "Choose one of those shown.")
    return found


def _about(change: Change) -> str:
    """What a change is, in a few words."""
    if change.kind:
        return change.kind
    return ", ".join(name.replace("_", " ") for name in change.options)
