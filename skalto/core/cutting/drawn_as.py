"""What a drawing's layers and colours stand for where its contours are cut."""

from __future__ import annotations

from typing import Annotated

from pydantic import BaseModel, ConfigDict, Field

from skalto.core.typed import Text

Named = Annotated[tuple[Annotated[Text, Field(min_length=1, max_length=200)], ...], Field(max_length=1000)]


class DrawnAs(BaseModel):
    """Layers by pattern, or colours as #rrggbb, that are scored or engraved rather than cut, and such as are left *out*; gaps
    up to *close* mm are closed; with *plate* the outermost contour is the plate that parts are cut from."""

    model_config = ConfigDict(frozen=True)

    close: float = Field(default=0.0, ge=0, le=100)
    score: Named = ()
    engrave: Named = ()
    out: Named = ()
    plate: bool = False
