"""Only this program's own pages may write, and only under names it knows, so that no other site can use a
visitor's browser.
"""

from __future__ import annotations

import ipaddress
import socket
from urllib.parse import urlsplit

from starlette.requests import Request

from anvilsong.config import Config
from anvilsong.core.said import Words
from anvilsong.core.words import sentence
from anvilsong.web.asgi import WRITES, App, Receive, Scope, Send, header
from anvilsong.web.errors import answer

LOOPBACK = frozenset({"localhost", "127.0.0.1", "::1"})


def host_name(host: str) -> str:
    """The name in a Host header, without port and brackets, in small letters."""
    try:
        return (urlsplit(f"//{host}").hostname or "").lower()
    except ValueError:
        return ""


def is_loopback(name: str) -> bool:
    """Whether a host name means this machine alone."""
    if name in LOOPBACK:
        return True
    try:
        return ipaddress.ip_address(name).is_loopback
    except ValueError:
        return False


class OriginGuard:
    """Checks Host on every request, and Origin and Sec-Fetch-Site on those that write.

    Known names: those of this machine itself, the host served on, and ANVILSONG_HOSTS. When the pages are
    served beyond this
    machine, any IP address is a known name too: a foreign site can lend its name to this machine's
    address, but not a number.
    """

    def __init__(self, app: App, config: Config) -> None:
        own = socket.gethostname().lower()
        extra = {name.strip().lower() for name in config.hosts.split(",") if name.strip()}
        self.app, self.is_local = app, config.is_local
        self.known = (
            LOOPBACK | {config.host.lower()} | extra | (set() if config.is_local else {own, f"{own}.local"})
        )

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "websocket" and not self._may_open(scope):
            await send({"type": "websocket.close", "code": 1008})
            return
        if scope["type"] != "http":
            await self.app(scope, receive, send)
            return
        said = self._refusal(scope)
        if said is None:
            await self.app(scope, receive, send)
            return
        status, title, detail = said
        await answer(Request(scope), status, title, detail)(scope, receive, send)

    def _may_open(self, scope: Scope) -> bool:
        """Whether a socket is opened by a page of ours: every browser says where its page came from."""
        host = header(scope, b"host")
        scheme = "https" if scope["scheme"] == "wss" else "http"
        origin = header(scope, b"origin").lower()
        return self._is_known(host_name(host)) and origin == f"{scheme}://{host.lower()}"

    def _refusal(self, scope: Scope) -> tuple[int, Words, Words] | None:
        host = header(scope, b"host")
        if not self._is_known(host_name(host)):
            return (
                421,
                "Not this program’s name",
                sentence("web.program_does_not_answer"),
            )
        if scope["method"] in WRITES:
            site, origin = header(scope, b"sec-fetch-site"), header(scope, b"origin")
            foreign = site not in ("", "same-origin", "none") or (
                origin and origin.lower() != f"{scope['scheme']}://{host.lower()}"
            )
            if foreign:
                return (
                    403,
                    "Sent from another site",
                    sentence("web.page_another_site_sent"),
                )
        return None

    def _is_known(self, name: str) -> bool:
        if name in self.known:
            return True
        if is_loopback(name):
            return True
        try:
            ipaddress.ip_address(name)
        except ValueError:
            return False
        return not self.is_local
