"""`grainstack edit`: the page on this machine where a chart is made while it is seen."""

import webbrowser
from contextlib import suppress
from pathlib import Path
from typing import Any

from grainstack.cli.build import known_formats
from grainstack.cli.command_requests import EditRequest
from grainstack.cli.failing import Ended, say, show
from grainstack.editing.server import EditingServer
from grainstack.editing.session import Session, Wish
from grainstack.errors import RequestError, nearest
from grainstack.plan.file.reading import read_plan
from grainstack.records.records_request import RecordsRequest
from grainstack.requests import Requests


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
        RequestError: An entry that the plan does not have.
        RecordsError: Records that cannot be read.
    """
    if files[0].endswith(".toml"):
        return _of_plan(Path(files[0]), files[1:])
    session = Session(files, codebook)
    return EditingServer(session, session.first())  # what cannot be read is told here, and not in the page


def _of_plan(path: Path, names: tuple[str, ...]) -> EditingServer:
    """The page of an entry of a plan: of the one named, or the first."""
    plan = read_plan(path, known_formats())
    entries = {entry.name: entry for entry in plan.entries}
    name = names[0] if names else next(iter(entries))
    if name not in entries:
        raise RequestError(f"{path} has no entry `{name}`.", nearest(name, list(entries)))
    entry = entries[name]
    records = entry.requests[RecordsRequest]
    values: dict[str, Any] = {}
    for model in entry.requests:
        values |= {key.rstrip("_"): value for key, value in model.asked_for().items() if value is not None}
    shown = {key: value for key, value in values.items() if key not in ("file", "codebook")}
    plain = {key: list(value) if isinstance(value, tuple) else value for key, value in shown.items()}
    session = Session(records.file, records.codebook)
    session.columns()
    session.opened = Wish(entry.kind.name, plain)
    return EditingServer(session, session.opened, (str(path), name))
