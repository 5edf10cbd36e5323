"""Models that were read, kept in memory, with what hidden lines need of them."""

from __future__ import annotations

import time
from collections import OrderedDict
from contextlib import suppress

from skalto.core.projection.cutting import Shown
from skalto.core.projection.view import ProjectionSpec, shown_in
from skalto.core.sources.models.bundle import pack_shapes, unpack
from skalto.core.sources.models.features import pack as pack_edges
from skalto.core.sources.models.features import part_edges
from skalto.core.sources.models.model import Model
from skalto.services.stored import keys
from skalto.services.stored.context import load_tree
from skalto.store.blobs import Blobs

_PATIENCE = 20.0
"""Seconds that a view waits for what another worker is about to have."""
_KEPT = 3
_models: OrderedDict[str, Model] = OrderedDict()
_ready: set[str] = set()
"""Of which of these all is made that hidden lines need."""
_last_cut: tuple[Model, ProjectionSpec, Shown] | None = None


def kept_model(store: Blobs, source: str) -> Model:
    """A model that was read, kept in memory, with what hidden lines need of it, where that is made. :raises KeyError: when it
    was not read."""
    if source not in _models:
        tree = load_tree(store, source)
        _models[source] = unpack(tree, store.get(keys.model_key(source, "shapes.bin")))
        while len(_models) > _KEPT:
            left, _ = _models.popitem(last=False)
            _ready.discard(left)
    _models.move_to_end(source)
    if source not in _ready and _models[source].tree.kind != "mesh":
        from skalto.core.projection.ready import unpack_ready

        with suppress(KeyError):
            unpack_ready(_models[source], store.get(keys.facets_key(source)))
            _ready.add(source)
    return _models[source]


def keep_model(store: Blobs, source: str, model: Model, name: str, at_hand: bool = False) -> None:
    """Put a model that was read into the store, its tree last: where that is, all is. With *at_hand* it stays in memory as it
    was read."""
    store.put(keys.model_key(source, "shapes.bin"), pack_shapes(model))
    store.put(keys.model_key(source, "edges.bin"), pack_edges(part_edges(model)))
    tree = model.tree.model_copy(update={"file": name})
    store.put(keys.model_key(source, "tree.json"), tree.model_dump_json().encode())
    if at_hand:
        _models[source] = model


def make_ready(store: Blobs, source: str) -> None:
    """Make what hidden lines need of a model before any view is asked for, once for all workers."""
    key = keys.facets_key(source)
    if load_tree(store, source).kind == "mesh" or store.exists(key):
        return
    from skalto.core.projection.ready import make_ready as made
    from skalto.core.projection.ready import pack_ready

    store.put(f"{key}.begun", repr(time.time()).encode())
    try:
        model = kept_model(store, source)
        if made(model):
            store.put(key, pack_ready(model))
            _ready.add(source)
    finally:
        store.drop(f"{key}.begun")


def await_ready(store: Blobs, source: str) -> None:
    """While another worker makes what hidden lines need of a model, let it: two at it get in each other's way. One that began
    long ago may have been killed."""
    key = keys.facets_key(source)
    while source not in _ready and not store.exists(key):
        try:
            begun = float(store.get(f"{key}.begun"))
        except (KeyError, ValueError):
            return
        if not 0 <= time.time() - begun < _PATIENCE:
            return
        time.sleep(0.05)


def shown_by(model: Model, spec: ProjectionSpec) -> Shown:
    """What a view looks at. A cut takes seconds in a large model, and is asked for twice: for the lines and for the rays."""
    if spec.cut is None:
        return shown_in(model, spec)
    global _last_cut
    if _last_cut is None or _last_cut[0] is not model or _last_cut[1] != spec:
        _last_cut = None
        _last_cut = (model, spec, shown_in(model, spec))
    return _last_cut[2]
