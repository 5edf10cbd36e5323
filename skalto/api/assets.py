"""The built page's files: packed where the browser takes that, and kept by it for good."""

from __future__ import annotations

from pathlib import Path

from starlette.responses import FileResponse, Response
from starlette.staticfiles import StaticFiles
from starlette.types import Scope

_KEPT = "public, max-age=31536000, immutable"
_KINDS = {".js": "text/javascript", ".mjs": "text/javascript", ".css": "text/css"}


class Assets(StaticFiles):
    """Files whose names carry a hash of what is in them (RFC 9111, section 5.2.2; RFC 8246 for “immutable”)."""

    async def get_response(self, path: str, scope: Scope) -> Response:
        """The file, from its packed twin where there is one and the browser takes gzip (RFC 9110, section 12.5.3)."""
        plain = Path(str(self.directory)) / path
        kind = _KINDS.get(plain.suffix)
        takes = next((value for name, value in scope["headers"] if name == b"accept-encoding"), b"")
        twin, stat = self.lookup_path(f"{path}.gz") if kind else ("", None)
        if kind and stat and b"gzip" in takes:
            response: Response = FileResponse(twin, stat_result=stat, media_type=kind, headers={"Content-Encoding": "gzip"})
        else:
            response = await super().get_response(path, scope)
        if response.status_code in (200, 304):
            response.headers["Cache-Control"] = _KEPT
            response.headers["Vary"] = "Accept-Encoding"
        return response
