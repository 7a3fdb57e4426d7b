"""The page served to this machine alone: whoever does not know its key gets nothing, and nothing leaves it."""

import json
import secrets
from collections.abc import Callable, Mapping
from http import HTTPStatus
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from importlib.resources import files
from threading import Lock
from typing import Any

import msgspec

from grainstack.editing.described import COLORS, described
from grainstack.editing.session import Session, Wish
from grainstack.errors import GrainStackError
from grainstack.making.kinds import KINDS

_HOST = "127.0.0.1"
_LONGEST = 1 << 20  # bytes of a request: options are short
_POLICY = (  # nothing is loaded from elsewhere, and no other script runs
    "default-src 'none'; style-src 'unsafe-inline'; script-src 'nonce-{key}'; connect-src 'self'; "
    "img-src data:; font-src data:"
)


class EditingServer(ThreadingHTTPServer):
    """The server of one sitting, on a free port.

    Args:
        session: Draws what the page asks for.
        start: What the page shows first.
        plan: The plan in which charts are kept, and the name of the entry; empty for none.
    """

    daemon_threads = True

    def __init__(self, session: Session, start: Wish, plan: tuple[str, str] = ("", "")) -> None:
        self.key = secrets.token_urlsafe(18)
        self._session, self._start, self._plan = session, start, plan
        self._lock = Lock()  # records are read and charts drawn one at a time
        super().__init__((_HOST, 0), _Handler)

    @property
    def address(self) -> str:
        """Where the page is, with its key."""
        return f"http://{_HOST}:{self.server_port}/?key={self.key}"

    def page(self) -> str:
        """The page, with what it needs to begin."""
        assets = files("grainstack.editing") / "assets"
        text = {name: (assets / f"edit.{name}").read_text("utf-8") for name in ("html", "css", "js")}
        with self._lock:
            columns = self._session.columns()
        begin = {
            "kinds": described(),
            "columns": columns,
            "wish": msgspec.to_builtins(self._start),
            "plan": self._plan,
            "colors": COLORS,
        }
        content = json.dumps(begin, ensure_ascii=False).replace("<", "\\u003c")
        page = text["html"].replace("/*css*/", text["css"]).replace("/*key*/", self.key)
        return page.replace("/*begin*/", content).replace("/*js*/", text["js"])

    def answer(self, path: str, asked: Mapping[str, Any]) -> dict[str, Any] | None:
        """What the page is told; None for a path that there is not.

        Args:
            path: `/draw` or `/save`.
            asked: The kind, its values, and for a plan its file and the name of the entry.
        """
        wish = msgspec.convert({"kind": asked.get("kind"), "values": asked.get("values")}, Wish)
        if wish.kind not in KINDS:
            return None
        with self._lock:
            if path == "/draw":
                drawn: dict[str, Any] = msgspec.to_builtins(self._session.draw(wish))
                return drawn
            if path == "/save":
                try:
                    told = self._session.save(wish, str(asked.get("plan", "")), str(asked.get("name", "")))
                except GrainStackError as error:
                    return {"fault": f"{error.message} {error.remedy}".strip()}
                return {"told": told}
        return None


class _Handler(BaseHTTPRequestHandler):
    """One request."""

    server: EditingServer
    protocol_version = "HTTP/1.1"

    def do_GET(self) -> None:
        """The page, for whoever has its key."""
        path, _, query = self.path.partition("?")
        if path != "/" or not self._is_ours(query.removeprefix("key=")):
            self._refuse()
            return
        self._send(self._guarded(self.server.page).encode(), "text/html; charset=utf-8")

    def do_POST(self) -> None:
        """A chart, or a change of the plan."""
        length = int(self.headers.get("Content-Length") or 0)
        if not self._is_ours(self.headers.get("X-Key", "")) or length > _LONGEST:
            self._refuse()
            return
        try:
            asked = json.loads(self.rfile.read(length))
            told = self.server.answer(self.path, asked)
        except (ValueError, KeyError, AttributeError, msgspec.ValidationError):
            told = None
        except Exception as error:  # noqa: BLE001 - a fault of the program is told where it is seen, and ends no sitting
            told = {"fault": f"Something went wrong that nobody foresaw: {type(error).__name__}: {error}."}
        if told is None:
            self._refuse(HTTPStatus.BAD_REQUEST)
            return
        self._send(json.dumps(told, ensure_ascii=False).encode(), "application/json")

    def log_message(self, format: str, *args: object) -> None:  # noqa: A002 - as the base names it
        """Says nothing: the page tells what there is to be told."""

    def _is_ours(self, key: str) -> bool:
        """Whether a request comes from our page, and not from another that a browser has open."""
        host = self.headers.get("Host", "")
        right = host in (f"{_HOST}:{self.server.server_port}", f"localhost:{self.server.server_port}")
        return right and secrets.compare_digest(key.encode(), self.server.key.encode())

    @staticmethod
    def _guarded(make: Callable[[], str]) -> str:
        try:
            return make()
        except GrainStackError as error:
            return f"{error.message} {error.remedy}"

    def _refuse(self, status: HTTPStatus = HTTPStatus.FORBIDDEN) -> None:
        self._send(b"", "text/plain", status)

    def _send(self, content: bytes, kind: str, status: HTTPStatus = HTTPStatus.OK) -> None:
        self.send_response(status)
        self.send_header("Content-Type", kind)
        self.send_header("Content-Length", str(len(content)))
        self.send_header("Cache-Control", "no-store")
        self.send_header("Content-Security-Policy", _POLICY.format(key=self.server.key))
        self.end_headers()
        self.wfile.write(content)
