"""A 3D model as one HTML file that opens from disk: viewer, styles and model inside, nothing fetched."""

from __future__ import annotations

import base64
import gzip
import html
from pathlib import Path

from skalto.core.errors import InputError

_PAGE = """<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; script-src 'unsafe-inline'; style-src 'unsafe-inline'; font-src data:; img-src data: blob:">
<title>{title}</title>
<style>{style}</style>
</head>
<body>
<div id="review"></div>
<script id="model" type="application/octet-stream">{model}</script>
<script type="module">{script}</script>
</body>
</html>
"""  # noqa: E501


def viewer_files(folder: Path) -> tuple[str, str]:
    """Script and styles of the review viewer as they were built. :raises InputError: when they are not there."""
    try:
        return (folder / "review.js").read_text(), (folder / "review.css").read_text()
    except OSError:
        raise InputError("The review viewer is not built: run make setup, then try again.") from None


def write_page(title: str, pack: bytes, script: str, style: str) -> bytes:
    """The page. :param pack: what :func:`skalto.core.output.review.pack_review` gives."""
    # a script ends where its closing tag stands, wherever that is
    safe = script.replace("</script", "<\\/script").replace("<!--", "<\\!--")
    # packed, it is a third as large, and read the faster
    model = base64.b64encode(gzip.compress(pack, 6, mtime=0)).decode()
    return _PAGE.format(title=html.escape(title), style=style, model=model, script=safe).encode()
