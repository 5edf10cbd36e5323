"""Routes, a module for each feature: whatever has a ``router`` is served and described."""

from __future__ import annotations

from importlib import import_module
from pkgutil import iter_modules

from fastapi import APIRouter


def routers() -> list[APIRouter]:
    """The router of every module in this folder."""
    modules = (import_module(f"{__name__}.{found.name}") for found in iter_modules(__path__))
    return [module.router for module in modules if hasattr(module, "router")]
