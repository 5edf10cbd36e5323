"""What a 3D annotation goes out as, and what decides its scene."""

from __future__ import annotations

from skalto.core.scene.annotation_3d import Annotation3d
from skalto.core.scene.choices import SceneSpec
from skalto.services.stored.context import ContextSpec

KINDS = {".u3d": "model/u3d", ".glb": "model/gltf-binary", ".html": "text/html; charset=utf-8"}
"""What a 3D annotation goes out as, with its media type."""


def spec_of(annotation: Annotation3d, context: ContextSpec) -> SceneSpec:
    """What decides the scene of a 3D annotation: its choices, and what the job says of parts and colours."""
    return SceneSpec(choices=annotation.choices, parts=context.parts, colours=context.colours)
