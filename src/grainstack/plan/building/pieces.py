"""Building a plan: each source is opened and read once, whatever is made of it."""

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec import Struct, field
from msgspec.structs import replace

from grainstack import __version__
from grainstack.advice import Advice
from grainstack.chart.look.style_file import HouseStyle
from grainstack.chart.picture_request import PictureRequest
from grainstack.digests import digest_of, digest_of_file
from grainstack.errors import GrainStackError, RequestError, nearest
from grainstack.language import in_words, phrase
from grainstack.making.blocks import begun_blocks, finished_blocks
from grainstack.making.engine import EngineRequest
from grainstack.making.house_style import in_style, styled
from grainstack.making.kind import Product
from grainstack.making.make import Begun, Filter, Made, Read
from grainstack.making.trace import Trace, TracedPlan, asked_of
from grainstack.option_fields import Request
from grainstack.option_names import option, worded
from grainstack.plan.building.sources import SourceRecords, Sources
from grainstack.plan.file.naming import PLANNED
from grainstack.plan.file.plan import Plan, PlanEntry, PlanError, Source
from grainstack.records.opened import Opened
from grainstack.records.records_request import RecordsRequest
from grainstack.records.variable import Level
from grainstack.requests import Requests
from grainstack.summary.options import SmallBaseRequest
from grainstack.summary.summary_request import SummaryRequest

if TYPE_CHECKING:
    from grainstack.summary.partial import Partial


class Piece(Struct, frozen=True):
    """An entry that waits for its records.

    Attributes:
        entry: What was planned, in the style it is drawn in.
        begun: What takes the records in; a table with side-by-side blocks has several.
        records: What its records are.
        asked: The digest of everything it is made of but the records.
        shared: The levels of its columns that charts of other sources show too.
        plan: Its plan, as a trace names it.
        choices: What readers of a page may choose instead, each by the places of levels; see `Choice`.
    """

    entry: PlanEntry
    begun: tuple[Begun, ...]
    records: SourceRecords
    asked: str
    shared: Mapping[str, tuple[Level, ...]]
    plan: TracedPlan
    choices: tuple[tuple[tuple[int, ...], "Piece"], ...] = ()

    @property
    def every_begun(self) -> tuple[Begun, ...]:
        """All that takes the records in, for what readers may choose too."""
        return (*self.begun, *(one for _, choice in self.choices for one in choice.begun))

    @property
    def opened(self) -> Opened:
        """The records, opened."""
        return self.records.opened

    @property
    def made_of(self) -> str:
        """The digest of everything it is made of; empty where only reading the records would tell."""
        return digest_of(self.records.digest, self.asked) if self.records.lasting else ""

    @property
    def trace(self) -> Trace:
        """Where it comes from, as its files carry it."""
        entry = self.entry
        return Trace(entry.kind.name, asked_of(entry.requests), self.records.traced, self.plan, entry.key, self.asked)


class Built(Struct, frozen=True):
    """A table or chart of a plan.

    Attributes:
        piece: What was planned.
        made: What was made.
    """

    piece: Piece
    made: Made


class Sums:
    """What was made of records so far, by what it is made of.

    Entries that ask for the same share it, and so do builds in a row as long as the records stay the same.
    """

    def __init__(self) -> None:
        self._known: dict[str, Partial] = {}
        self._read: set[str] = set()
        self._lasting: set[str] = set()

    def sharing(self, one: Begun, source: str, *, lasting: bool) -> Begun:
        """A piece with the sums of another that asks for the same, if there is one.

        Args:
            one: The piece.
            source: Tells its records from others.
            lasting: Whether that still does so in a later build.
        """
        key = self._key(one, source)
        if lasting:
            self._lasting.add(key)
        return replace(one, partial=self._known.setdefault(key, one.partial))

    def read(self, pieces: Sequence[Piece], read: Read) -> None:
        """Reads the records of some pieces, each source once, as far as that was not done before.

        Args:
            pieces: The pieces.
            read: Has the records of one source read.

        Raises:
            RecordsError: Records that cannot be read.
        """
        keys = {id(partial): key for key, partial in self._known.items()}
        waiting: dict[int, tuple[Opened, dict[str, Partial]]] = {}
        for piece in pieces:
            _, partials = waiting.setdefault(id(piece.opened), (piece.opened, {}))
            asked = {keys[id(one.partial)]: one.partial for one in piece.every_begun}
            partials.update({key: partial for key, partial in asked.items() if key not in self._read})
        for opened, partials in waiting.values():
            if partials:
                self._known = {key: one for key, one in self._known.items() if key not in partials}
                read(list(partials.values()), opened)  # what fails half-way is not known any more
                self._known |= partials
                self._read |= set(partials)

    def forget_all_but(self, pieces: Sequence[Piece]) -> None:
        """Keeps what these pieces use and a later build can use again."""
        used = {id(one.partial) for piece in pieces for one in piece.every_begun}
        kept = {key for key, one in self._known.items() if id(one) in used and key in self._lasting & self._read}
        self._known = {key: one for key, one in self._known.items() if key in kept}
        self._read &= kept
        self._lasting &= kept

    def _key(self, one: Begun, source: str) -> str:
        return digest_of(source, one.requests[RecordsRequest], one.requests[SummaryRequest])


def chosen(plan: Plan, names: Sequence[str], allowed: Sequence[str] = ()) -> tuple[PlanEntry, ...]:
    """The entries of some names; all of them where none is named.

    Args:
        plan: The plan.
        names: Their names.
        allowed: The database and network addresses they may read.

    Raises:
        PlanError: There is no entry of a name, or one reads an address that is not allowed.
    """
    known = [entry.name for entry in plan.entries]
    unknown = next((name for name in names if name not in known), None)
    if unknown is not None and not plan.faults:  # it may be an entry with a fault
        raise PlanError(f"{plan.path.name} has no entry `{unknown}`.", nearest(unknown, known))
    entries = tuple(entry for entry in plan.entries if not names or entry.name in names)
    for entry in entries:
        for file in entry.requests[RecordsRequest].file:
            if "://" in file and file not in allowed:
                raise PlanError(f"{entry.where} reads {file}, which is no file.", f"Allow it: {option('allow', file)}.")
    return entries


def engine_of(plan: Plan, asked: EngineRequest, allowed: Sequence[str] = ()) -> EngineRequest:
    """Where the records of a plan are read: as the command line says, or else the plan.

    Args:
        plan: The plan.
        asked: What the command line says.
        allowed: The network addresses the plan may use.

    Raises:
        PlanError: The plan names a scheduler that is not allowed.
    """
    if asked.given() or not plan.engine.given():
        return asked
    scheduler = plan.engine.scheduler or ""
    if scheduler and scheduler not in allowed:
        raise PlanError(
            f"{plan.path.name}, [engine] has records read by {scheduler}.", f"Allow it: {option('allow', scheduler)}."
        )
    return plan.engine


class Common(Struct, frozen=True):
    """What the entries of a build have in common.

    Attributes:
        sources: Their records.
        sums: What was made of records before.
        shared: The levels of columns that charts of several sources show.
    """

    sources: Sources
    sums: Sums
    shared: Mapping[str, tuple[Level, ...]] = field(default_factory=dict)

    def shared_by(self, requests: Requests) -> dict[str, tuple[Level, ...]]:
        """As far as an entry shows such columns."""
        summary = requests[SummaryRequest]
        return {name: self.shared[name] for name in filter(None, (*summary.by, summary.split)) if name in self.shared}


def pieces_of(plan: Plan, entries: Sequence[PlanEntry], common: Common, faults: list[str]) -> list[Piece]:
    """Entries before any record is read; those that cannot be are added to the faults.

    Args:
        plan: The plan, for its style.
        entries: What is to be made.
        common: What they have in common.
        faults: What is wrong with them, a line each.
    """
    pieces: list[Piece] = []
    closed: set[Source] = set()  # sources that cannot be opened are told once
    for entry in entries:
        try:
            records = common.sources.of(entry)
        except GrainStackError as error:
            faults += [fault_of(entry, error)] if entry.source not in closed else []
            closed.add(entry.source)
            continue
        try:
            pieces.append(_piece(plan, entry, records, common))
        except GrainStackError as error:
            faults.append(fault_of(entry, error))
    return pieces


def _piece(plan: Plan, entry: PlanEntry, records: SourceRecords, common: Common) -> Piece:
    requests = _in_its_style(plan, entry)
    shared = common.shared_by(requests)
    begun = tuple(
        common.sums.sharing(one, records.state, lasting=records.lasting)
        for one in begun_blocks(entry.kind, requests, records.opened, records.readers)
    )
    if entry.filters and any(one.requests[SmallBaseRequest].hide_small for one in begun):
        raise RequestError(
            f"filters would let readers work out what {option('hide_small')} leaves out.", "Leave one of them out."
        )
    asked = [_without_paths(one) for one in (requests, *(one.requests for one in begun))]
    chosen = [entry.filters] if entry.filters else []
    about = digest_of(__version__, entry.kind.name, entry.formats, asked, _fonts_of(requests), shared, *chosen)
    choices = tuple((one.places, _piece(plan, one.entry, records, common)) for one in entry.choices)
    return Piece(replace(entry, requests=requests), begun, records, about, shared, plan.traced, choices)


def _without_paths(requests: Requests) -> list[Request]:
    """What was asked, but for the paths of files, which say nothing of what is in them."""
    plain: dict[type[Request], Request] = {RecordsRequest: replace(requests[RecordsRequest], file=(), codebook=None)}
    house, picture = requests.usual(HouseStyle), requests.usual(PictureRequest)
    if house.style is not None:
        nameless = replace(house.style, font="", font_semibold="", fallback=(), logo="")
        plain[HouseStyle] = replace(house, style=nameless)
    if picture.in_file:  # what it says is in the house style
        plain[PictureRequest] = replace(picture, style=None)
    return [plain.get(type(one), one) for one in requests]


def _fonts_of(requests: Requests) -> list[str]:
    """The digests of the fonts of a style."""
    style = requests.usual(HouseStyle).style
    named = (style.font, style.font_semibold, *style.fallback) if style else ()
    return [digest_of_file(Path(name)) for name in named if name]


def _in_its_style(plan: Plan, entry: PlanEntry) -> Requests:
    """What an entry is asked for, in the style of the plan where it names none of its own."""
    if entry.kind.product is Product.TABLE:
        return entry.requests
    if plan.style and entry.requests[PictureRequest].style is None:
        return in_style(entry.requests, plan.style, plan.path)
    return styled(entry.requests)[0]


def finished_pieces(pieces: Sequence[Piece], faults: list[str]) -> list[Built]:
    """The tables and charts once their records were read; those that cannot be are added to the faults.

    Args:
        pieces: What has taken the records in.
        faults: What is wrong with them, a line each.
    """
    found = []
    for piece in pieces:
        try:
            found.append(Built(piece, _finished(piece)))
        except GrainStackError as error:
            faults.append(fault_of(piece.entry, error))
    return found


def _finished(piece: Piece) -> Made:
    """A table or chart once its records were read, with what readers of a page may choose instead."""
    made = finished_blocks(piece.begun, piece.entry.requests, piece.opened, piece.shared)
    variables = map(piece.opened.codebook.variable, piece.entry.filters)
    filters = [Filter(*pair) for pair in zip((one.label for one in variables), piece.entry.filter_levels, strict=True)]
    choices, advice = {}, list(made.advice)
    for places, choice in piece.choices:
        try:
            one = _finished(choice)
            one.picture()  # where it cannot be drawn, readers are not offered it
        except GrainStackError as error:
            chosen = [of_it.levels[at - 1] for of_it, at in zip(filters, places, strict=True) if at]
            text = phrase("{levels} cannot be chosen: {reason}", levels=in_words(chosen), reason=error.message)
            advice.append(Advice("left-out", text))
        else:
            choices[places] = one
    return replace(made, trace=piece.trace, filters=tuple(filters), choices=choices, advice=tuple(advice))


def fault_of(entry: PlanEntry, error: GrainStackError) -> str:
    """What is wrong with an entry, in a plan's words.

    Args:
        entry: The entry.
        error: Why it cannot be made.
    """
    return f"{entry.where}: {worded(f'{error.message} {error.remedy}'.rstrip(), PLANNED)}"
