"""Who may ask: nobody but our own pages and scripts, with the key where one is set.

A browser sends what any open page wants sent, to this machine, too. So a change needs a header that no other
site can make a browser send without asking first, which is answered with no; and what a browser says of where
a request comes from must be here. Where a key is set, all but the pages themselves need it.
"""

from __future__ import annotations

import hashlib
import hmac
import time
from collections import OrderedDict
from collections.abc import Callable
from math import ceil
from urllib.parse import urlsplit

import orjson
from starlette.datastructures import Headers, MutableHeaders
from starlette.requests import HTTPConnection
from starlette.responses import Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from aimtrue.api.views import Problem
from aimtrue.settings import OWN_HEADER, settings

COOKIE = "aimtrue_key"
_CHANGES_NOTHING = ("GET", "HEAD", "OPTIONS")
_OPEN = ("/api/health", "/api/key")
"""Asked before anybody can have given the key."""
_HEADERS = {
    # Controls have their styles set by script, as attributes and as rules; nothing else is written inline.
    "Content-Security-Policy": (
        "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
        "worker-src 'self' blob:; object-src 'none'; base-uri 'none'; form-action 'self'; "
        "frame-ancestors 'none'"
    ),
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
}


class Guard:
    """Middleware in front of everything.

    Args:
        app: what is guarded.
        key: the key that is wanted; empty for none.
    """

    def __init__(self, app: ASGIApp, key: str) -> None:
        self.app, self.key = app, key

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass a request on, or answer it with what is wrong."""
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in _HEADERS.items():
                    headers.setdefault(name, value)
            await send(message)

        wrong = _foreign(scope) or self._without_key(scope)
        await (wrong or self.app)(scope, receive, with_headers)

    def _without_key(self, scope: Scope) -> Response | None:
        path = scope["path"]
        if not self.key or not path.startswith("/api/") or path in _OPEN:
            return None
        headers = Headers(scope=scope)
        if any(same(given, token_of(self.key)) for given in _cookies(headers)):
            return None
        who = who_asks(HTTPConnection(scope))
        if scripted := headers.get("authorization", ""):
            if wait := TRIES.wait(who):
                return refused(
                    429, "key-tries", f"too many wrong keys; wait {ceil(wait)} s", "then try again"
                )
            if same(scripted.removeprefix("Bearer "), self.key):
                return None
            TRIES.wrong(who)
        return refused(401, "key-wanted", "this server wants its key", "ask whoever runs it, and give it")


def _cookies(headers: Headers) -> list[str]:
    """Return what cookies of our name say, whatever others on this machine may look like."""
    pairs = (pair.strip().partition("=") for line in headers.getlist("cookie") for pair in line.split(";"))
    return [value.strip('"') for name, _, value in pairs if name == COOKIE]


def who_asks(request: HTTPConnection) -> str:
    """Return the address that a request comes from; behind a proxy that is known, the one that it tells.

    Only what a known proxy added itself counts: whoever asks may have written anything before that.
    """
    who = request.client.host if request.client else ""
    addresses = [
        address.strip()
        for address in request.headers.get("x-forwarded-for", "").split(",")
        if address.strip()
    ]
    known = settings().known_proxies
    while who in known and addresses:
        who = addresses.pop()
    return who


def _foreign(scope: Scope) -> Response | None:
    """Refuse what comes from elsewhere."""
    headers = Headers(scope=scope)
    site, origin = headers.get("sec-fetch-site"), headers.get("origin")
    elsewhere = site not in (None, "same-origin", "none") or (
        origin is not None and urlsplit(origin).netloc != headers.get("host")
    )
    if scope["method"] in _CHANGES_NOTHING:
        # A link from elsewhere may lead to a page; it has no business with what the pages ask for.
        by_link = headers.get("sec-fetch-mode") == "navigate" or not scope["path"].startswith("/api/")
        wrong = elsewhere and not by_link
        return refused(403, "foreign", "another site asked for this", "open it here") if wrong else None
    if elsewhere:
        return refused(403, "foreign", "another site asked for this; nothing was done", "do it here yourself")
    if OWN_HEADER not in headers:
        says = f"a change needs the header {OWN_HEADER}; nothing was done"
        return refused(403, "header-missing", says, f"send {OWN_HEADER}: 1 with it")
    return None


def refused(status: int, code: str, says: str, remedy: str, where: str = "") -> Response:
    """Answer with what is wrong, where, and what to do."""
    problem = Problem(code=code, says=says, where=where, remedy=remedy)
    return Response(orjson.dumps(problem.model_dump()), status, media_type="application/json")


def token_of(key: str) -> str:
    """Return what a browser keeps in place of the key."""
    return hmac.new(key.encode(), b"a browser that was given the key", hashlib.sha256).hexdigest()


def same(given: str, wanted: str) -> bool:
    """Compare without telling by the time it takes how much of it is right."""
    return hmac.compare_digest(given.encode(errors="replace"), wanted.encode())


class KeyTries:
    """How often a wrong key was given of late, by whom and by all.

    Args:
        clock: seconds; goes only forward.
    """

    BY_ONE, BY_ALL, SECONDS = 5, 50, 60.0
    _REMEMBERED = 1000

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self._clock = clock
        self._wrong: OrderedDict[str, list[float]] = OrderedDict()

    def wait(self, who: str) -> float:
        """Return for how many seconds somebody has to wait before the next try; 0 for not at all."""
        since = self._clock() - self.SECONDS
        for address, times in list(self._wrong.items()):
            self._wrong[address] = [at for at in times if at > since]
            if not self._wrong[address]:
                del self._wrong[address]
        own = self._wrong.get(who, [])
        every = sorted(at for times in self._wrong.values() for at in times)
        full = [own[-self.BY_ONE]] if len(own) >= self.BY_ONE else []
        full += [every[-self.BY_ALL]] if len(every) >= self.BY_ALL else []
        return max((at - since for at in full), default=0.0)

    def wrong(self, who: str) -> None:
        """Note a wrong key."""
        self._wrong.setdefault(who, []).append(self._clock())
        while len(self._wrong) > self._REMEMBERED:
            self._wrong.popitem(last=False)


TRIES = KeyTries()
