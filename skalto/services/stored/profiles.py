"""Profiles of parts to cut, as they are kept."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

import orjson

from skalto.core.artwork import Artwork
from skalto.core.cutting.decorations import Decoration, ExcerptContent
from skalto.core.cutting.section import CutPart
from skalto.core.geometry.profile import Profile
from skalto.core.geometry.profile_data import profile_data, profile_from
from skalto.services.stored import keys
from skalto.store.blobs import Blobs


@dataclass(frozen=True)
class KeptProfile:
    """A profile, and what whoever cuts it should know."""

    profile: Profile
    notes: tuple[str, ...] = ()


def pack_profile(own: KeptProfile) -> bytes:
    return orjson.dumps({"profile": profile_data(own.profile), "notes": own.notes})


def unpack_profile(data: bytes) -> KeptProfile:
    plain = orjson.loads(data)
    return KeptProfile(profile_from(plain["profile"]), tuple(plain["notes"]))


def load_profile(store: Blobs, part: CutPart) -> KeptProfile:
    """A part's profile. :raises KeyError: when it was not made."""
    return unpack_profile(store.get(keys.profile_key(part.origin)))


def load_excerpts(store: Blobs, decorations: Iterable[Decoration]) -> dict[str, Artwork]:
    """What decorations show of drawings, by decoration; those that were not made are left out."""
    found = {}
    for own in decorations:
        if isinstance(own.content, ExcerptContent):
            try:
                found[own.id] = Artwork.from_bytes(store.get(keys.excerpt_key(own.content)))
            except KeyError:
                continue
    return found


def load_profiles(store: Blobs, parts: Iterable[CutPart]) -> dict[str, Profile]:
    """Profiles by part; those that were not made are left out."""
    found = {}
    for part in parts:
        try:
            found[part.id] = load_profile(store, part).profile
        except KeyError:
            continue
    return found
