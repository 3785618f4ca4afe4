"""Headers that every answer carries: what a page of ours may load and do, and who may show it."""

from __future__ import annotations

from anvilsong.web.asgi import App, Message, Receive, Scope, Send

# Styles stand in attributes where a place is computed (a tab on its lane); scripts never stand in a page.
POLICY = (
    "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "
    "media-src 'self' blob:; "
    "object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
)
ALWAYS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
)


class HeaderGuard:
    """Adds the headers to whatever is answered."""

    def __init__(self, app: App) -> None:
        self.app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def adding(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", ()), *ALWAYS]
            await send(message)

        await self.app(scope, receive, adding)
