"""All that work needs and that takes time to load: workers load it once, before anything is asked of them."""

from skalto.core.output.pdf import layering
from skalto.core.output.u3d import coder
from skalto.core.projection import mesh_lines, raster, reference, single, view, watch
from skalto.core.sources.drawings.dxf import reading as dxf_reading
from skalto.core.sources.drawings.svg import reading as svg_reading
from skalto.core.sources.models import exchange, locating, meshes, tessellation
from skalto.services import scenes, tasks

__all__ = [
    "coder", "dxf_reading", "exchange", "layering", "locating", "mesh_lines", "meshes", "raster", "reference", "scenes",
    "single", "svg_reading", "tasks", "tessellation", "view", "watch",
]  # fmt: skip
