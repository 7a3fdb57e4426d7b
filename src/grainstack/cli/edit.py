"""`grainstack edit`: the page on this machine where a chart is made while it is seen."""

import shlex
import webbrowser
from collections.abc import Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

from grainstack.cli.build import built_quietly, known_formats
from grainstack.cli.command_requests import EditRequest
from grainstack.cli.failing import Ended, say, show
from grainstack.cli.options import typed_values
from grainstack.earlier_names import typed_now
from grainstack.editing.plan_sheet import PlanSheet
from grainstack.editing.server import EditingServer
from grainstack.editing.session import Session
from grainstack.editing.state import State, entries_of, state_of
from grainstack.errors import RequestError, nearest
from grainstack.making.kinds import KINDS, kind_named
from grainstack.requests import Requests, filled

_PLAN = "plan.toml"  # in which charts are kept where none is named


def run(requests: Requests) -> None:
    """Serves the page until it is interrupted.

    Raises:
        RequestError: An entry that the plan does not have.
        RecordsError: Records that cannot be read.
    """
    request: EditRequest = requests[EditRequest]
    server = open_page(request.file, request.codebook)
    show(server.address)
    if not request.no_browser:
        webbrowser.open(server.address)
    say("The page is open for this machine alone, until Ctrl-C.")
    with suppress(KeyboardInterrupt, Ended):  # which is how a sitting ends
        server.serve_forever()
    server.server_close()


def open_page(files: tuple[str, ...], codebook: str | None) -> EditingServer:
    """The page of some records, or of an entry of a plan; not served yet.

    Args:
        files: The records, or a plan and perhaps the name of an entry.
        codebook: The codebook of the records; None for one beside them.

    Raises:
        RequestError: An entry that the plan does not have, or a plan with faults.
        RecordsError: Records that cannot be read.
    """
    if files[0].endswith(".toml"):
        sheet = PlanSheet(Path(files[0]), known_formats())
        sheet.read()
        if not sheet.entries:
            raise RequestError(*(sheet.faults or (f"There is no plan {files[0]} with an entry.",)))
        name = files[1] if len(files) > 1 else next(iter(sheet.entries))
        if name not in sheet.entries:
            raise RequestError(f"{files[0]} has no entry `{name}`.", nearest(name, list(sheet.entries)))
        session = Session(sheet.entries[name].source, sheet, name, _state_typed)
    else:
        sheet = PlanSheet(Path(_PLAN), known_formats())
        sheet.read()
        source: dict[str, Any] = {"file": files, **({"codebook": codebook} if codebook else {})}
        session = Session(source, sheet, "", _state_typed)
    session.listing()  # what cannot be read is told here, and not in the page
    return EditingServer(session, _build)


def _state_typed(command: str) -> State:
    """What a typed command asks for, but for its records and files.

    Raises:
        RequestError: It is no command of a table or chart, or an option is none.
    """
    try:
        words = shlex.split(command)
    except ValueError as error:
        raise RequestError(f"The command cannot be read: {error}.", "Close the quotation marks.") from None
    words = words[1:] if words[:1] == ["grainstack"] else words
    if not words or words[0] not in KINDS:
        raise RequestError("That is no command of a table or chart.", f"Begin with one of {', '.join(KINDS)}.")
    kind = kind_named(words[0])
    values = typed_values(kind.name, typed_now(words[1:]))
    known = {entry.name for entry in entries_of(kind)}
    return state_of(kind, filled(kind.models, {name: value for name, value in values.items() if name in known}))


def _build(plan: Path) -> Sequence[str]:
    """Builds the plan, and gives what is told of it."""
    return built_quietly(plan)
