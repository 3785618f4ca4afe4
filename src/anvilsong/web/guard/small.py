"""Pages, styles and scripts go over the wire compressed; what a script asks again and again does not wait
for that.
"""

from __future__ import annotations

from starlette.middleware.gzip import GZipMiddleware

from anvilsong.web.asgi import App, Receive, Scope, Send

LEAST_BYTES, LEVEL = 1000, 5
AS_THEY_ARE = ("/api/", "/healthz", "/book/export.json", "/book/backup", "/book/sheets/")


class SmallGuard:
    """Compresses what is answered, but for JSON and for files that are handed on whole."""

    def __init__(self, app: App) -> None:
        self.app = app
        self.small = GZipMiddleware(app, minimum_size=LEAST_BYTES, compresslevel=LEVEL)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        plain = (
            scope["type"] != "http"
            or scope["path"].startswith(AS_THEY_ARE)
            or scope["path"].endswith(".woff2")
        )
        await (self.app if plain else self.small)(scope, receive, send)
