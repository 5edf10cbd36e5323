"""What a 3D field goes out as, and what decides its scene."""

from __future__ import annotations

from skalto.core.scene.choices import SceneSpec
from skalto.core.scene.field import FieldSpec
from skalto.services.stored.context import ContextSpec

KINDS = {".u3d": "model/u3d", ".glb": "model/gltf-binary", ".html": "text/html; charset=utf-8"}
"""What a 3D field goes out as, with its media type."""


def spec_of(field: FieldSpec, context: ContextSpec) -> SceneSpec:
    """What decides the scene of a field: its choices, and what the job says of parts and colours."""
    return SceneSpec(choices=field.choices, parts=context.parts, colours=context.colours)
