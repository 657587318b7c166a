"""The files of the front end."""

from __future__ import annotations

import re

from fastapi.staticfiles import StaticFiles
from starlette.datastructures import Headers
from starlette.exceptions import HTTPException
from starlette.responses import Response
from starlette.types import Scope

TAKES_GZIP = re.compile(r"\bgzip\b(?!\s*;\s*q=0(\.0*)?\s*(,|$))")
YEAR = 365 * 24 * 3600


class Assets(StaticFiles):
    """Files whose names change with what they hold: a browser asks for each of them once. Texts go out compressed, as the build has put them beside
    the plain ones, to who takes them so."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, or the compressed one that stands for it."""
        packed = bool(TAKES_GZIP.search(Headers(scope=scope).get("accept-encoding", "")))
        try:
            response = await super().get_response(f"{path}.gz" if packed else path, scope)
        except HTTPException:
            if not packed:
                raise
            packed, response = False, await super().get_response(path, scope)
        if packed:
            response.headers["Content-Encoding"] = "gzip"
        response.headers["Vary"] = "Accept-Encoding"
        response.headers["Cache-Control"] = f"public, max-age={YEAR}, immutable"
        return response
