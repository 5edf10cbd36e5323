"""All that work needs and that takes time to load: workers load it once, before anything is asked of them."""

from skalto.core.output.pdf import layering
from skalto.core.output.u3d import coder
from skalto.core.projection import mesh_lines, raster, reference, single, view, watch
from skalto.core.sources.drawings.dxf import reading as dxf_reading
from skalto.core.sources.drawings.svg import reading as svg_reading
from skalto.core.sources.models import exchange, locating, meshes, tessellation
from skalto.services.results import lines, previews, scenes, writing
from skalto.services.tasks import looking, reading, views

__all__ = [
    "coder",
    "dxf_reading",
    "exchange",
    "layering",
    "lines",
    "locating",
    "looking",
    "mesh_lines",
    "meshes",
    "previews",
    "raster",
    "reading",
    "reference",
    "scenes",
    "single",
    "svg_reading",
    "tessellation",
    "view",
    "views",
    "watch",
    "writing",
]  # fmt: skip
