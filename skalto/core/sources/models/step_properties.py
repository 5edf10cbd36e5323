"""What a STEP file says of its products beside their shapes (ISO 10303-41 and the AP242 recommended practices for user defined
attributes, from memory): identifier, description, version, and properties with a name and a value."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from OCP.IFSelect import IFSelect_SelectModelEntities, IFSelect_SelectType
from OCP.StepBasic import StepBasic_Product, StepBasic_ProductDefinition, StepBasic_ProductDefinitionFormation
from OCP.StepRepr import (
    StepRepr_DescriptiveRepresentationItem,
    StepRepr_IntegerRepresentationItem,
    StepRepr_MeasureRepresentationItem,
    StepRepr_PropertyDefinitionRepresentation,
    StepRepr_RealRepresentationItem,
)

from skalto.core.sources.models.model import FileFacts

LONGEST = 200
_MATERIAL = "material property"
_OF_THE_SHAPE = ("geometric validation property", "surface side style", "dimension", "tolerance")
"""Properties that say no more than the shape does."""


_NOTHING = frozenset({"void", "any", "none", "null", "unknown", "not specified", "unspecified", "?", "-", "$", "version"})
"""What writers put where a person gave nothing."""


def _all(session: Any, kind: type[Any]) -> Iterator[Any]:
    """All entities of a kind in the file that was read."""
    chosen = IFSelect_SelectType(kind.get_type_descriptor_s())  # type: ignore[attr-defined]
    chosen.SetInput(IFSelect_SelectModelEntities())
    found = session.EvalSelection(chosen)
    while found.More():
        yield found.Value()
        found.Next()


def _text(text: Any) -> str:
    told = " ".join(str(text.ToCString()).split())[:LONGEST] if text is not None else ""
    return "" if told.casefold() in _NOTHING else told


def _value(item: Any) -> str:
    if isinstance(item, StepRepr_DescriptiveRepresentationItem):
        return _text(item.Description())
    if isinstance(item, StepRepr_MeasureRepresentationItem):
        return f"{item.Measure().ValueComponent():.10g}" if item.Measure() is not None else ""
    if isinstance(item, StepRepr_IntegerRepresentationItem | StepRepr_RealRepresentationItem):
        return f"{item.Value():.10g}"
    return ""


def _product_of(definition: Any) -> Any:
    """The product that a property says something of, None where it is of anything else."""
    if not isinstance(definition, StepBasic_ProductDefinition):
        return None
    formation = definition.Formation()
    return formation.OfProduct() if formation is not None else None


def _properties(session: Any) -> Iterator[tuple[Any, str, str]]:
    """Products with the names and values of their properties."""
    for row in _all(session, StepRepr_PropertyDefinitionRepresentation):
        told = row.Definition().PropertyDefinition()
        used = row.UsedRepresentation()
        if told is None or used is None:
            continue
        product = _product_of(told.Definition().ProductDefinition())
        called = _text(told.Name())
        if product is None or called.casefold() in (*_OF_THE_SHAPE, _MATERIAL):
            continue
        for number in range(1, used.NbItems() + 1):
            item = used.ItemsValue(number)
            value = _value(item)
            if value:
                # the item's own name is the attribute's; some writers leave it empty, and name the property
                yield product, _text(item.Name()) or called, value


def materials_of(session: Any) -> dict[str, str]:
    """The materials of products, by their names: that of a material property, '' for a product that has other properties alone,
    whose names the kernel takes for materials. Products without any property are not named."""
    found: dict[str, str] = {}
    for row in _all(session, StepRepr_PropertyDefinitionRepresentation):
        told, used = row.Definition().PropertyDefinition(), row.UsedRepresentation()
        product = _product_of(told.Definition().ProductDefinition()) if told is not None and used is not None else None
        if product is None:
            continue
        name = _text(product.Name()) or _text(product.Id())
        found.setdefault(name, "")
        if _text(told.Name()).casefold() == _MATERIAL:
            items = (used.ItemsValue(number) for number in range(1, used.NbItems() + 1))
            named = [_text(own.Name()) for own in items if isinstance(own, StepRepr_DescriptiveRepresentationItem)]
            found[name] = next(filter(None, named), found[name])
    return found


def products_of(session: Any) -> dict[str, FileFacts]:
    """What a file that was read into a work session says of its products, by their names."""
    versions = {}
    for formation in _all(session, StepBasic_ProductDefinitionFormation):
        product = formation.OfProduct()
        if product is not None:
            versions[_text(product.Id())] = _text(formation.Id())
    properties: dict[str, dict[str, str]] = {}
    for product, name, value in _properties(session):
        properties.setdefault(_text(product.Id()), {}).setdefault(name, value)
    found: dict[str, FileFacts] = {}
    for product in _all(session, StepBasic_Product):
        number, name = _text(product.Id()), _text(product.Name())
        own = FileFacts(
            number=number if number != name else "",
            description=description if (description := _text(product.Description())) != name else "",
            revision=versions.get(number, ""),
            properties=properties.get(number, {}),
        )
        if own != FileFacts():
            found.setdefault(name or number, own)
    return found
