"""Print the OpenAPI document, from which the page's client is generated: ``python -m skalto.api.openapi``."""

from __future__ import annotations

import json
import sys

from fastapi import FastAPI

from skalto.api.routes import routers


def document() -> dict[str, object]:
    """The OpenAPI document of the routes."""
    app = FastAPI(title="Skalto", version="1", separate_input_output_schemas=False)
    for router in routers():
        app.include_router(router)
    return app.openapi()


if __name__ == "__main__":
    json.dump(document(), sys.stdout, indent=1, sort_keys=True)
    sys.stdout.write("\n")
