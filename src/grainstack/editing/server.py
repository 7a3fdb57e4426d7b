"""The page served to this machine alone: whoever does not know its key gets nothing, and nothing leaves it."""

import asyncio
import json
import mimetypes
import secrets
import socket
from collections.abc import AsyncIterator, Callable, Mapping, Sequence
from contextlib import closing, suppress
from http import HTTPStatus
from http.client import HTTPConnection, HTTPException
from importlib.resources import files
from pathlib import Path
from typing import Any
from urllib.parse import urlsplit

import msgspec
import uvicorn
from starlette.applications import Starlette
from starlette.concurrency import run_in_threadpool
from starlette.requests import Request
from starlette.responses import JSONResponse, RedirectResponse, Response, StreamingResponse
from starlette.routing import Route
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from grainstack.chart.marks import Weight
from grainstack.chart.writing.fonts import typefaces
from grainstack.editing.described import COLORS, SIZES, described, meant
from grainstack.editing.drawing import fault_of
from grainstack.editing.forms import FORMS
from grainstack.editing.kept_sums import StoppedError
from grainstack.editing.parts import PARTS
from grainstack.editing.plan_sheet import ChangedTwiceErrorError
from grainstack.editing.session import Session
from grainstack.editing.state import Change
from grainstack.errors import GrainStackError, RequestError

_HOST = "127.0.0.1"
_LONGEST = 1 << 20  # bytes of a request: options are short
_POLICY = (  # nothing is loaded from elsewhere, and no other script runs
    "default-src 'none'; style-src 'self' 'unsafe-inline'; script-src 'self'; connect-src 'self'; "
    "img-src 'self' data: blob:; font-src 'self' data:; frame-ancestors 'none'; base-uri 'none'; form-action 'none'"
)
_ASSETS = files("grainstack.editing") / "assets"
_FONTS = {"regular.ttf": Weight.REGULAR, "semibold.ttf": Weight.SEMIBOLD}
_ALIVE = 1.0  # seconds: a sitting on this machine answers at once
_LOOK_ROUND = 0.5  # seconds between two looks whether the sitting has ended

Build = Callable[[Path], Sequence[str]]


class EditingServer:
    """The server of one sitting, on a free port.

    Args:
        session: What the page asks.
        build: Builds the plan and gives what is told of it.

    Raises:
        RequestError: The same plan is open in another sitting.
    """

    def __init__(self, session: Session, build: Build | None = None) -> None:
        self.key = secrets.token_urlsafe(18)
        self.session, self._build = session, build
        self._ended = False
        self._socket = socket.socket()
        self._socket.bind((_HOST, 0))
        self._socket.listen()  # so that a page opened at once waits, and is not refused
        self.server_port: int = self._socket.getsockname()[1]
        try:
            self._claim = _claimed(session.folder / "address", self.address)
        except RequestError:
            self._socket.close()
            raise
        config = uvicorn.Config(
            _Guard(self._routes(), self.key, self.server_port),
            log_level="critical",
            access_log=False,
            lifespan="off",
            timeout_graceful_shutdown=1,
        )
        self._server = uvicorn.Server(config)

    @property
    def address(self) -> str:
        """Where the page is, with its key."""
        return f"http://{_HOST}:{self.server_port}/?key={self.key}"

    def serve_forever(self) -> None:
        """Serves the page until it is interrupted or shut down."""
        self.session.watch()
        self._server.run(sockets=[self._socket])

    def shutdown(self) -> None:
        """Ends serving."""
        self._ended = True
        self.session.end()
        self._server.should_exit = True

    def server_close(self) -> None:
        """Gives up the port and the claim on the plan."""
        self._ended = True
        self.session.end()
        self._socket.close()
        if self._claim is not None:
            with suppress(OSError):
                self._claim.unlink()
                self._claim.parent.rmdir()  # as long as nothing was changed

    def _routes(self) -> Starlette:
        routes = [
            Route("/", self._page),
            Route("/assets/{name}", self._asset),
            Route("/begin", self._begin),
            Route("/picture/{of}/{name:path}", self._picture),
            Route("/file/{ending}", self._file),
            Route("/events", self._events),
            Route("/do/{what}", self._do, methods=["POST"]),
        ]
        return Starlette(routes=routes)

    async def _page(self, _: Request) -> Response:
        return Response((_ASSETS / "edit.html").read_bytes(), media_type="text/html; charset=utf-8")

    async def _asset(self, request: Request) -> Response:
        name = request.path_params["name"]
        if name in _FONTS:
            return Response(_font(_FONTS[name]), media_type="font/ttf")
        if name in {one.name for one in _ASSETS.iterdir()}:
            return Response((_ASSETS / name).read_bytes(), media_type=mimetypes.guess_type(name)[0])
        return Response(status_code=HTTPStatus.NOT_FOUND)

    async def _begin(self, _: Request) -> Response:
        return await self._json(self._beginning)

    def _beginning(self) -> dict[str, Any]:
        session = self.session
        return {
            "kinds": described(),
            "colors": COLORS,
            "sizes": SIZES,
            "forms": [msgspec.to_builtins(one) for one in FORMS],
            "parts": {role.value: names for role, names in PARTS.items()},
            **self._around(),
            "answer": _plain(session.show()),
            "builds": self._build is not None,
        }

    def _around(self) -> dict[str, Any]:
        """What stands around the chart: the columns, and the plan."""
        session = self.session
        return {
            "listing": msgspec.to_builtins(session.listing()),
            "file": ", ".join(Path(one).name for one in session.source["file"]),
            "plan": session.sheet.path.name,
            "entries": list(session.sheet.entries),
            "faults": session.sheet.faults,
            "reports": bool(session.sheet.plan and session.sheet.plan.report),
        }

    async def _picture(self, request: Request) -> Response:
        of, name = request.path_params["of"], request.path_params["name"]
        session = self.session
        makes: dict[str, Callable[[], tuple[str, str]]] = {
            "form": lambda: session.form_picture(name),
            "step": lambda: (session.step_picture(int(name)), ""),
            "entry": lambda: (session.entry_picture(name), ""),
        }
        if of not in makes:
            return Response(status_code=HTTPStatus.NOT_FOUND)

        def made() -> dict[str, Any]:
            picture, reason = makes[of]()
            return {"picture": picture, "reason": reason}

        return await self._json(made)

    async def _file(self, request: Request) -> Response:
        ending = request.path_params["ending"]
        try:
            content = await run_in_threadpool(self.session.content, f".{ending}")
        except GrainStackError as error:
            return JSONResponse({"fault": fault_of(error)}, HTTPStatus.BAD_REQUEST)
        return Response(content, media_type=mimetypes.guess_type(f"x.{ending}")[0])

    async def _events(self, request: Request) -> Response:
        return StreamingResponse(self._stream(request), media_type="text/event-stream")

    async def _stream(self, request: Request) -> AsyncIterator[str]:
        """What happens, as it happens."""
        loop, queue = asyncio.get_running_loop(), asyncio.Queue[Mapping[str, Any]]()

        def put(event: Mapping[str, Any]) -> None:
            loop.call_soon_threadsafe(queue.put_nowait, event)

        leave = self.session.listen(put)
        try:
            yield ": here\n\n"
            while not self._ended and not await request.is_disconnected():
                with suppress(TimeoutError):
                    event = await asyncio.wait_for(queue.get(), _LOOK_ROUND)
                    yield f"data: {json.dumps(event)}\n\n"
        finally:
            leave()

    async def _do(self, request: Request) -> Response:
        try:
            content = msgspec.json.decode(await request.body(), type=dict[str, Any])
        except msgspec.DecodeError:
            content = None
        action = self._actions().get(request.path_params["what"])
        if action is None or content is None:
            return Response(status_code=HTTPStatus.BAD_REQUEST)
        return await self._json(lambda: action(content))

    def _actions(self) -> Mapping[str, Callable[[Mapping[str, Any]], Any]]:
        """What the page can ask for, by name."""
        session = self.session
        return {
            "show": lambda _: _plain(session.show()),
            "change": lambda content: _plain(
                session.change(msgspec.convert(content["change"], Change), _text(content, "about"))
            ),
            "form": lambda content: _plain(session.take_form(_text(content, "name"))),
            "undo": lambda _: _plain(session.undo()),
            "redo": lambda _: _plain(session.redo()),
            "go": lambda content: _plain(session.go_to(int(content["number"]))),
            "typed": lambda content: _plain(session.typed(_text(content, "command"))),
            "rename": lambda content: self._with_columns(
                session.rename(_text(content, "column"), content.get("code"), _text(content, "name"))
            ),
            "keep": self._keep,
            "theirs": lambda _: _plain(session.take_the_plans()),
            "open": lambda content: self._with_columns(session.open_entry(_text(content, "name"))),
            "duplicate": lambda content: self._with_columns(session.duplicate(_text(content, "name"))),
            "reorder": self._reorder,
            "around": lambda _: self._around(),
            "stop": self._stop,
            "save": lambda content: {"message": session.save(_text(content, "name"))},
            "find": lambda content: {"found": meant(_text(content, "words"))},
            "text": lambda _: _plain(session.report_text()),
            "build": lambda _: {"message": list(self._build(session.sheet.path)) if self._build else []},
        }

    def _with_columns(self, answer: Any) -> dict[str, Any]:  # noqa: ANN401
        return {**self._around(), "answer": _plain(answer)}

    def _keep(self, content: Mapping[str, Any]) -> dict[str, Any]:
        try:
            answer = self.session.keep(_text(content, "name"), over=bool(content.get("over")))
        except ChangedTwiceErrorError as error:
            return {"twice": fault_of(error)}
        return self._with_columns(answer)

    def _stop(self, _: Mapping[str, Any]) -> dict[str, Any]:
        self.session.turns.stop()
        return {}

    def _reorder(self, content: Mapping[str, Any]) -> dict[str, Any]:
        self.session.reorder([str(one) for one in content["names"]])
        return self._around()

    async def _json(self, make: Callable[[], Any]) -> Response:
        """What is made, or why it is not: a fault ends no sitting."""
        try:
            return JSONResponse(await run_in_threadpool(make))
        except StoppedError:
            return JSONResponse({"later": True})
        except GrainStackError as error:
            return JSONResponse({"fault": fault_of(error)})
        except (KeyError, ValueError, TypeError, msgspec.ValidationError):
            return Response(status_code=HTTPStatus.BAD_REQUEST)
        except Exception as error:  # noqa: BLE001 - a fault of the program is told where it is seen
            message = f"Something went wrong that nobody foresaw: {type(error).__name__}: {error}."
            return JSONResponse({"fault": message})


class _Guard:
    """Lets through what comes from our page, and nothing of another that a browser has open."""

    def __init__(self, app: ASGIApp, key: str, port: int) -> None:
        self._app, self._key, self._port = app, key, port

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            return
        request = Request(scope)

        async def send_guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [
                    *message.get("headers", []),
                    (b"content-security-policy", _POLICY.encode()),
                    (b"cache-control", b"no-store"),
                    (b"referrer-policy", b"no-referrer"),
                    (b"x-content-type-options", b"nosniff"),
                ]
            await send(message)

        answer = self._refusal(request)
        if answer is None:
            await self._app(scope, _limited(receive), send_guarded)
        else:
            await answer(scope, receive, send_guarded)

    def _refusal(self, request: Request) -> Response | None:
        """Why a request gets no further; None for one that does."""
        ours = (f"{_HOST}:{self._port}", f"localhost:{self._port}")
        origin = request.headers.get("origin")
        if request.headers.get("host", "") not in ours or (origin and origin not in [f"http://{one}" for one in ours]):
            return Response(status_code=HTTPStatus.FORBIDDEN)
        cookie = f"grainstack-{self._port}"  # cookies know no ports, and two sittings are two pages
        typed = request.query_params.get("key", "")
        if request.method == "GET" and request.url.path == "/" and self._is_key(typed):
            answer = RedirectResponse("/", HTTPStatus.SEE_OTHER)
            answer.set_cookie(cookie, self._key, httponly=True, samesite="strict")
            return answer
        if not self._is_key(request.cookies.get(cookie, "")):
            return Response(status_code=HTTPStatus.FORBIDDEN)
        if int(request.headers.get("content-length") or 0) > _LONGEST:
            return Response(status_code=HTTPStatus.REQUEST_ENTITY_TOO_LARGE)
        return None

    def _is_key(self, text: str) -> bool:
        return secrets.compare_digest(text.encode(), self._key.encode())


def _limited(receive: Receive) -> Receive:
    """What is sent, cut off where it is longer than anything the page sends."""
    length = 0

    async def received() -> Message:
        nonlocal length
        message = await receive()
        length += len(message.get("body", b""))
        if length > _LONGEST:
            return {"type": "http.disconnect"}
        return message

    return received


def _claimed(file: Path, address: str) -> Path | None:
    """The file that says where a plan is open; None where it cannot be written.

    Raises:
        RequestError: It is open already.
    """
    known = _known(file)
    if known and _answers(known):
        raise RequestError(f"It is open already: {known}", "Go on there, or end that with Ctrl-C.")
    try:
        file.parent.mkdir(parents=True, exist_ok=True)
        file.touch(0o600)
        file.write_text(address, "utf-8")
    except OSError:
        return None
    return file


def _known(file: Path) -> str:
    """The address at which a plan is open, or was; empty for none."""
    try:
        return file.read_text("utf-8")
    except (OSError, UnicodeDecodeError):
        return ""


def _answers(address: str) -> bool:
    """Whether a sitting answers at an address: whoever has its key is led on."""
    place = urlsplit(address)
    there = HTTPConnection(place.hostname or "", place.port, timeout=_ALIVE)
    with suppress(OSError, ValueError, HTTPException), closing(there):
        there.request("GET", f"/?{place.query}")
        return there.getresponse().status == HTTPStatus.SEE_OTHER
    return False


def _font(weight: Weight) -> bytes:
    """The font file in which charts are set: the page has the same."""
    return Path(typefaces()[0].face(weight).path).read_bytes()


def _plain(answer: Any) -> dict[str, Any]:  # noqa: ANN401
    plain: dict[str, Any] = msgspec.to_builtins(answer)
    return plain


def _text(content: Mapping[str, Any], name: str) -> str:
    value = content.get(name, "")
    if not isinstance(value, str):
        raise TypeError(name)
    return value
