"""What every answer tells a browser: where its content may come from, and who may show it."""

from __future__ import annotations

from starlette.datastructures import MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

POLICY = "; ".join(
    (
        "default-src 'self'",
        # No script stands in a page; styles of single elements do.
        "script-src 'self'",
        "style-src 'self' 'unsafe-inline'",
        "img-src 'self' data: blob:",
        "media-src 'self' blob:",
        "worker-src 'self' blob:",
        "object-src 'none'",
        "base-uri 'none'",
        "form-action 'self'",
        "frame-ancestors 'none'",
    )
)
HEADERS = {
    "Content-Security-Policy": POLICY,
    "X-Content-Type-Options": "nosniff",
    "X-Frame-Options": "DENY",
    "Referrer-Policy": "no-referrer",
    "Permissions-Policy": "camera=(), geolocation=(), microphone=()",
    "Cross-Origin-Opener-Policy": "same-origin",
    "Cross-Origin-Resource-Policy": "same-origin",
}


class Headers:
    """Adds them to every answer, refusals among them."""

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Pass on, and add them on the way back."""

        async def with_headers(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                for name, value in HEADERS.items():
                    headers.setdefault(name, value)
                # What the API tells stays in the page: no cache keeps it for the next who sits there.
                if scope["path"].startswith("/api"):
                    headers.setdefault("Cache-Control", "no-store")
                # An answer that somebody is led to by its address is a file, never a page.
                if headers.get("Content-Type", "").startswith("application/json"):
                    headers.setdefault("Content-Disposition", 'attachment; filename="answer.json"')
            await send(message)

        await self._app(scope, receive, with_headers)
