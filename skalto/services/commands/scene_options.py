"""How the command line was asked for 3D, as typed, and what comes of it."""

from __future__ import annotations

from pydantic import BaseModel, ConfigDict

from skalto.core.errors import InputError
from skalto.core.scene.building import CLASSES
from skalto.core.scene.choices import Grouping, SceneChoices
from skalto.core.scene.meshing import Quality

_KINDS = {"made": CLASSES[0], "bought": CLASSES[1], "fasteners": CLASSES[2]}
_GROUPINGS = {"material": Grouping.MATERIAL, "colour": Grouping.COLOUR, "color": Grouping.COLOUR, "class": Grouping.KIND}


class SceneOptions(BaseModel):
    """What was asked of the 3D model; *where* is page, field, or '' for none."""

    model_config = ConfigDict(frozen=True)

    where: str = ""
    quality: str = ""
    classes: str = ""

    def asked(self) -> None:
        """:raises InputError: for words that mean nothing, or that want a 3D model which was not asked for."""
        if self.where not in ("", "page", "field"):
            raise InputError(f"“{self.where}” is not a place for a 3D model: write page or field.")
        if not self.where and (self.quality or self.classes):
            raise InputError("--quality and --classes are of a 3D model: ask for one with --3d page or --3d field.")

    def choices(self, hidden: frozenset[str] = frozenset()) -> SceneChoices:
        """What goes in. :raises InputError: for words that mean nothing."""
        known = [quality.value for quality in Quality]
        if self.quality and self.quality not in known:
            raise InputError(f"“{self.quality}” is not a quality: write {', '.join(known[:-1])} or {known[-1]}.")
        quality = Quality(self.quality or "normal")
        words = [word.strip().casefold() for word in self.classes.split(",") if word.strip()]
        grouping, left_out = Grouping.ASSEMBLY, tuple[str, ...]()
        if len(words) == 1 and words[0] in _GROUPINGS:
            grouping = _GROUPINGS[words[0]]
        elif words:
            strange = [word for word in words if word not in _KINDS]
            if strange:
                names = ", ".join((*_KINDS, "class", "material"))
                raise InputError(f"“{strange[0]}” is not a class: write some of {names} or colour.")
            grouping = Grouping.KIND
            left_out = tuple(name for word, name in _KINDS.items() if word not in words)
        return SceneChoices(quality=quality, grouping=grouping, left_out=left_out, hidden=hidden)
