"""Print the OpenAPI document, from which the page's client is generated: ``python -m skalto.api.openapi``."""

from __future__ import annotations

import json
import sys

from fastapi import FastAPI

from skalto.api.routes.drawings import router as drawing_router
from skalto.api.routes.jobs import router
from skalto.api.routes.output import router as output_router
from skalto.api.routes.pens import router as pen_router
from skalto.api.routes.proof import router as proof_router
from skalto.api.routes.scenes import router as solid_router
from skalto.api.routes.sheets import router as desk_router


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
