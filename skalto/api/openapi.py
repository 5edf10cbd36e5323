"""Print the OpenAPI document, from which the page's client is generated: ``python -m skalto.api.openapi``."""

from __future__ import annotations

import json
import sys

from fastapi import FastAPI

from skalto.api.desk_routes import router as desk_router
from skalto.api.drawing_routes import router as drawing_router
from skalto.api.output_routes import router as output_router
from skalto.api.pen_routes import router as pen_router
from skalto.api.proof_routes import router as proof_router
from skalto.api.routes import router
from skalto.api.solid_routes import router as solid_router


def document() -> dict[str, object]:
    """The OpenAPI document of the routes."""
    app = FastAPI(title="Skalto", version="1", separate_input_output_schemas=False)
    app.include_router(router)
    app.include_router(desk_router)
    app.include_router(drawing_router)
    app.include_router(pen_router)
    app.include_router(output_router)
    app.include_router(proof_router)
    app.include_router(solid_router)
    return app.openapi()


if __name__ == "__main__":
    json.dump(document(), sys.stdout, indent=1, sort_keys=True)
    sys.stdout.write("\n")
