"""Each state drawn as its command would draw it: records opened once, sums kept, and all that stands beside it."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

from msgspec import Struct

from grainstack.advice import Advice
from grainstack.chart.frame.left_out_advice import advice_on_scene
from grainstack.chart.picture_request import POINTS_PER, PictureRequest
from grainstack.chart.scene import Scene
from grainstack.editing.described import ON_PAGE
from grainstack.editing.figure_rows import FigureRows, figure_rows
from grainstack.editing.kept_sums import KeptSums, StoppedError
from grainstack.editing.state import Change, State, changed, plain, typed
from grainstack.errors import GrainStackError, IdleError
from grainstack.language import speaking
from grainstack.making.blocks import make_blocks
from grainstack.making.command_line import command_line
from grainstack.making.house_style import styled
from grainstack.making.kind import Kind, Product
from grainstack.making.kinds import KINDS, kind_named
from grainstack.making.make import Begun, Made, finished, settled, unread
from grainstack.option_names import proposed_in, worded
from grainstack.paint.painters import painted_in
from grainstack.plan.file.saving import NewEntry, first_plan
from grainstack.records.opened import Opened, open_records
from grainstack.records.records_request import SOURCE_FIELDS, RecordsRequest
from grainstack.report.documents.page import table_html
from grainstack.report.print_request import table_printed
from grainstack.requests import Requests, filled
from grainstack.summary.options import LanguageRequest


class AdviceShown(Struct, frozen=True):
    """A piece of advice beside the chart.

    Attributes:
        name: By which it is silenced; empty for a note that is none.
        text: What is told.
        proposed: The options that do what it recommends, each alone, with their values where these are not left open.
    """

    name: str
    text: str
    proposed: tuple[tuple[str, str | None], ...] = ()


class Drawn(Struct, frozen=True):
    """What the page shows.

    Attributes:
        picture: The chart as SVG, or the table as HTML; empty where it could not be made.
        fault: Why it could not be made, and what to do; empty otherwise.
        proposed: The options that mend the fault, each alone.
        notes: What made no difference, what was assumed while reading, and advice.
        command: The command that makes the same.
        entry: The plan that makes the same.
        unsuited: The kinds that cannot show what is asked for, with the reason.
        figures: The figures beneath; none where nothing could be made.
        size: Width and height of the chart in millimetres; zero for a table.
    """

    picture: str = ""
    fault: str = ""
    proposed: tuple[tuple[str, str | None], ...] = ()
    notes: tuple[AdviceShown, ...] = ()
    command: str = ""
    entry: str = ""
    unsuited: Mapping[str, str] = {}
    figures: FigureRows | None = None
    size: tuple[float, float] = (0, 0)


class Work(Struct, frozen=True):
    """A state worked out.

    Attributes:
        request: What was asked for, without what makes no difference.
        made: The table or chart.
        scene: The chart as a picture; None for a table.
        idle: What made no difference.
    """

    request: Requests
    made: Made
    scene: Scene | None
    idle: tuple[str, ...]


class Drawing:
    """Draws the states of one sitting.

    Args:
        source: The records and their codebook, as options.
    """

    def __init__(self, source: Mapping[str, Any]) -> None:
        self.source = dict(source)
        self._opened: dict[tuple[Any, ...], Opened] = {}
        self._sums = KeptSums()

    def forget(self) -> None:
        """Opens and reads the records anew when they are needed next: a file has changed."""
        self._opened.clear()
        self._sums.forget()

    def opened(self, records: RecordsRequest | None = None) -> Opened:
        """The records, opened once for each way of opening them.

        Args:
            records: What is asked of them; nothing if it is not given.

        Raises:
            RecordsError: They cannot be opened.
        """
        records = records or filled((RecordsRequest,), self.source)[RecordsRequest]
        key = tuple(getattr(records, name) for name in SOURCE_FIELDS)
        if key not in self._opened:
            self._opened[key] = open_records(records)
        return self._opened[key]

    def draw(self, state: State, report_rows: Callable[[int], None]) -> Drawn:
        """What is asked for, as the command would make it; a fault is told and leaves the page as it is.

        Args:
            state: What is asked for.
            report_rows: Told how many rows were read each time some were; what it raises stops the reading.

        Raises:
            StoppedError: The reading was stopped.
        """
        kind = kind_named(state.kind)
        try:
            work = self.worked_out(state, report_rows)
            picture, advice = _shown(work)
        except GrainStackError as error:
            if isinstance(error, StoppedError):
                raise
            return Drawn(fault=fault_of(error), proposed=_proposed(error.remedy), unsuited=self._unsuited(state))
        request, made, scene = work.request, work.made, work.scene
        with speaking(request.usual(LanguageRequest).language):
            notes = [AdviceShown("", on_page(note)) for note in (*work.idle, *made.notes)]
            notes += [AdviceShown(one.name, on_page(one.text), _proposed(one.text)) for one in advice]
            figures = figure_rows(made)
        command = command_line(kind.name, request[RecordsRequest].file, request)
        if self.opened(request[RecordsRequest]).codebook.defaults:
            command += " --no-defaults"  # which are no part of what the page shows
        sides = (scene.width / POINTS_PER["mm"], scene.height / POINTS_PER["mm"]) if scene else (0.0, 0.0)
        entry = first_plan(NewEntry(kind, request))
        return Drawn(picture, "", (), tuple(notes), command, entry, self._unsuited(state), figures, sides)

    def picture(self, state: State, report_rows: Callable[[int], None]) -> tuple[str, str]:
        """The chart alone, or the table; or why it cannot be made.

        Args:
            state: What is asked for.
            report_rows: As for `draw`.
        """
        try:
            return _shown(self.worked_out(state, report_rows))[0], ""
        except StoppedError:
            raise
        except GrainStackError as error:
            return "", fault_of(error)

    def reads(self, state: State) -> bool:
        """Whether records would be read to draw a state."""
        kind = kind_named(state.kind)
        try:
            requests = self.requests(state)
            return self._sums.known(settled(kind, requests, self.opened(requests[RecordsRequest]))) is None
        except GrainStackError:
            return False

    def requests(self, state: State) -> Requests:
        """What is asked for, as the command would hold it.

        Raises:
            RequestError: It cannot be.
        """
        return filled(kind_named(state.kind).models, {**typed(state), **self.source})

    def worked_out(self, state: State, report_rows: Callable[[int], None]) -> Work:
        """What is asked for, without the options that make no difference, which are told.

        Args:
            state: What is asked for.
            report_rows: As for `draw`.

        Raises:
            GrainStackError: It cannot be made.
        """
        kind = kind_named(state.kind)
        values = {**typed(state), **self.source}
        idle: list[str] = []
        while True:
            try:
                request = filled(kind.models, values)
                with speaking(request.usual(LanguageRequest).language):
                    if kind.product is Product.TABLE:  # which may stand side by side, each with sums of its own
                        made = make_blocks(kind, request, self.opened(request[RecordsRequest]))
                        return Work(request, made, None, tuple(idle))
                    made = self._charted(kind, styled(request)[0], report_rows)
                    return Work(request, made, made.picture(), tuple(idle))
            except IdleError as error:
                name = next(iter(error.fields), "")
                if name not in values or name in self.source:
                    raise
                del values[name]
                idle.append(f"No effect: {error.message}")

    def _charted(self, kind: Kind, requests: Requests, report_rows: Callable[[int], None]) -> Made:
        """The figures, arranged; records are read only for sums that no earlier request has left."""
        opened = self.opened(requests[RecordsRequest])
        requests = settled(kind, requests, opened)
        partial = self._sums.known(requests)
        if partial is None:
            partial = self._sums.read(unread(kind, requests, opened), opened, report_rows)
        return finished(Begun(kind, requests, partial), opened)

    def _unsuited(self, state: State) -> dict[str, str]:
        """The kinds that could not show what is asked for, found without reading a record."""
        found = {}
        for name in KINDS:
            try:
                kind_named(name).settle(self.requests(changed(state, Change(kind=name))))
            except IdleError:
                continue
            except GrainStackError as error:
                found[name] = on_page(error.message)
        return {} if state.kind in found else found  # a fault of the request is none of the other kinds


def _shown(work: Work) -> tuple[str, Sequence[Advice]]:
    """The chart as SVG or the table as HTML, with advice."""
    made, scene = work.made, work.scene
    with speaking(work.request.usual(LanguageRequest).language):
        if scene is None:
            return "".join(map(table_html, table_printed(made))), made.advice
        [content] = painted_in(scene, [".svg"], made.requests[PictureRequest].dpi)
        return content.decode(), tuple(dict.fromkeys((*made.advice, *advice_on_scene(scene, tips=True))))


def _proposed(text: str) -> tuple[tuple[str, str | None], ...]:
    """The options a message proposes, as the page names them."""
    return tuple((plain(name), value) for name, value in proposed_in(text))


def fault_of(error: GrainStackError) -> str:
    """A fault with what to do, as the page tells it."""
    return on_page(f"{error.message} {error.remedy}".strip())


def on_page(text: str) -> str:
    """A message with options named as the page names them."""
    return worded(text, ON_PAGE)
