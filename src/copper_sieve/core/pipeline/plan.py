"""Plan: a texture set and a size become a graph of nodes with content keys.

Equal key means equal pixels, so anything computed may be thrown away and built again, and the
same plan serves a preview, a delivery and the headless command. A result smaller than its sources
is computed at their size and reduced afterwards: slopes and shade come from detail that a smaller
source would not have any more.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from copper_sieve.core.errors import MissingMapError, PlanError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.operations import Surface, get_operation
from copper_sieve.core.presets.texture_set import (
    Constant,
    Derived,
    Imported,
    SetDefinition,
    imported_in,
)

_IMPORT_VERSION = 1  # a change of how files become maps needs a new one
_REDUCED_VERSION = 1  # and one of how maps are made smaller


@dataclass(frozen=True, slots=True)
class Node:
    """One map to compute: how, from which other nodes, at which size.

    reduced : it is the one input, which is the same map at a larger size, made smaller
    """

    key: str
    kind: MapKind
    definition: Imported | Derived | Constant
    inputs: dict[str, str]
    size: tuple[int, int]
    surface: Surface
    settled: dict[str, Any] = field(default_factory=dict)
    reduced: bool = False


@dataclass(frozen=True, slots=True)
class Plan:
    """Nodes in an order in which each comes after its inputs, and the keys that are wanted."""

    nodes: dict[str, Node]
    outputs: dict[MapKind, str]


def native_size(
    texture_set: SetDefinition, sizes: Mapping[str, tuple[int, int]]
) -> tuple[int, int]:
    """Width and height of the set: those of its base color, else of its largest picture."""
    base = texture_set.maps.get(MapKind.BASE_COLOR)
    for one in imported_in(base) if base else []:
        return sizes[one.source]
    imported = [one for d in texture_set.maps.values() for one in imported_in(d)]
    if imported:
        return max((sizes[d.source] for d in imported), key=lambda size: size[0] * size[1])
    return 1024, 1024


def plan(
    texture_set: SetDefinition,
    sizes: Mapping[str, tuple[int, int]],
    *,
    wanted: Iterable[MapKind] | None = None,
    longer_side: int | None = None,
    working_side: int | None = None,
) -> Plan:
    """Work out what must be computed for the wanted maps (default: all of the set).

    sizes : width and height of each source by its SHA-256
    longer_side : texels of the longer side of every result; default: as the source
    working_side : texels at most of the longer side at which maps are derived before they are
        reduced to the result, for a quicker preview; default: as the source
    Raises MissingMapError, PlanError (a circle), ParameterError.
    """
    native = native_size(texture_set, sizes)
    size = fit_size(*native, longer_side)
    working = fit_size(*native, max(*size, min(working_side or max(native), max(native))))
    surface = texture_set.surface.surface()
    nodes: dict[str, Node] = {}
    keys: dict[MapKind, str] = {}
    open_kinds: list[MapKind] = []

    def result(kind: MapKind) -> str:
        definition = texture_set.maps.get(kind)
        if working == size or not isinstance(definition, Derived):
            return visit(kind, "the target", size)
        whole = visit(kind, "the target", working)
        key = _key({"reduced": _REDUCED_VERSION, "whole": whole, "size": size})
        nodes[key] = replace(
            nodes[whole], key=key, inputs={"whole": whole}, size=size, settled={}, reduced=True
        )
        return key

    def visit(kind: MapKind, asked_by: str, at: tuple[int, int] = working) -> str:
        if kind in keys:
            return keys[kind]
        if kind in open_kinds:
            circle = " -> ".join([*open_kinds[open_kinds.index(kind) :], kind])
            raise PlanError(f"{texture_set.name}: maps feed each other in a circle: {circle}")
        definition = texture_set.maps.get(kind)
        if definition is None:
            raise MissingMapError(
                f"{texture_set.name} has no {kind} map, which {asked_by} needs: "
                "take one in, derive it, or set a value"
            )
        open_kinds.append(kind)
        if isinstance(definition, Derived):
            keys[kind] = found = derive(kind, definition)
        else:
            found = leaf(kind, definition, at)
        open_kinds.pop()
        return found

    def leaf(kind: MapKind, definition: Imported | Constant, at: tuple[int, int] = working) -> str:
        content = definition.model_dump(mode="json")
        if isinstance(definition, Imported) and kind.facts.meaning != "normal":
            content.pop("normal_y")
        origin = {"definition": content, "import": _IMPORT_VERSION}
        return add(kind, definition, origin, {}, {}, at=at)

    def derive(kind: MapKind, definition: Derived) -> str:
        found = get_operation(definition.operation)
        inputs: dict[str, str] = {source: visit(source, kind) for source in found.inputs}
        for slot in found.slots:
            filling = definition.slots.get(slot.name)
            if isinstance(filling, Imported):
                inputs[slot.name] = leaf(slot.takes, filling)
            elif filling is not None:
                inputs[slot.name] = visit(filling.kind, kind)
            elif slot.required:
                raise MissingMapError(
                    f"{texture_set.name}: {kind} by {found.name} needs {slot.label.lower()}: "
                    "choose a picture or a map of the set for it"
                )
        settled = found.settle(definition.parameters)
        reads = {name: getattr(surface, name) for name in found.surface_reads}
        origin = {"operation": found.name, "version": found.version, "surface": reads}
        return add(kind, definition, origin, inputs, settled, at=working)

    def add(
        kind: MapKind,
        definition: Imported | Derived | Constant,
        origin: Mapping[str, Any],
        inputs: dict[str, str],
        settled: dict[str, Any],
        *,
        at: tuple[int, int],
    ) -> str:
        key = _key({**origin, "as": kind.facts.meaning, "size": at, "parameters": settled,
                    "inputs": inputs})  # fmt: skip
        nodes.setdefault(key, Node(key, kind, definition, inputs, at, surface, settled))
        return key

    outputs = {kind: result(kind) for kind in wanted or list(texture_set.maps)}
    return Plan(nodes, outputs)


def _key(content: Mapping[str, Any]) -> str:
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()
