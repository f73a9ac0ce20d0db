"""Plan: a texture set and a size become a graph of nodes with content keys.

Equal key means equal pixels, so anything computed may be thrown away and built again, and the
same plan serves a preview, a delivery and the headless command.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

from copper_sieve.core.errors import MissingMapError, PlanError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.operations import Surface, get_operation
from copper_sieve.core.presets.texture_set import Constant, Derived, Imported, SetDefinition

_IMPORT_VERSION = 1  # a change of how files become maps needs a new one


@dataclass(frozen=True, slots=True)
class Node:
    """One map to compute: how, from which other nodes, at which size."""

    key: str
    kind: MapKind
    definition: Imported | Derived | Constant
    inputs: dict[MapKind, str]
    size: tuple[int, int]
    surface: Surface
    settled: dict[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Plan:
    """Nodes in an order in which each comes after its inputs, and the keys that are wanted."""

    nodes: dict[str, Node]
    outputs: dict[MapKind, str]


def native_size(
    texture_set: SetDefinition, sizes: Mapping[str, tuple[int, int]]
) -> tuple[int, int]:
    """Width and height of the set: those of its base color, else of its largest picture."""
    imported = [d for d in texture_set.maps.values() if isinstance(d, Imported)]
    base = texture_set.maps.get(MapKind.BASE_COLOR)
    if isinstance(base, Imported):
        return sizes[base.source]
    if imported:
        return max((sizes[d.source] for d in imported), key=lambda size: size[0] * size[1])
    return 1024, 1024


def plan(
    texture_set: SetDefinition,
    sizes: Mapping[str, tuple[int, int]],
    *,
    wanted: Iterable[MapKind] | None = None,
    longer_side: int | None = None,
) -> Plan:
    """Work out what must be computed for the wanted maps (default: all of the set).

    sizes : width and height of each source by its SHA-256
    longer_side : texels of the longer side of every result; default: as the source
    Raises MissingMapError, PlanError (a circle), ParameterError.
    """
    size = fit_size(*native_size(texture_set, sizes), longer_side)
    surface = texture_set.surface.surface()
    nodes: dict[str, Node] = {}
    keys: dict[MapKind, str] = {}
    open_kinds: list[MapKind] = []

    def visit(kind: MapKind, asked_by: str) -> str:
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
        inputs: dict[MapKind, str] = {}
        settled: dict[str, Any] = {}
        reads: dict[str, Any] = {}
        if isinstance(definition, Derived):
            found = get_operation(definition.operation)
            inputs = {source: visit(source, kind) for source in found.inputs}
            settled = found.settle(definition.parameters)
            reads = {name: getattr(surface, name) for name in found.surface_reads}
            origin: dict[str, Any] = {"operation": found.name, "version": found.version}
        else:
            origin = {"definition": definition.model_dump(mode="json"), "import": _IMPORT_VERSION}
            if isinstance(definition, Imported) and kind.facts.meaning != "normal":
                origin["definition"].pop("normal_y")
        key = _key({**origin, "as": kind.facts.meaning, "size": size, "parameters": settled,
                    "surface": reads, "inputs": inputs})  # fmt: skip
        open_kinds.pop()
        keys[kind] = key
        nodes.setdefault(key, Node(key, kind, definition, inputs, size, surface, settled))
        return key

    outputs = {kind: visit(kind, "the target") for kind in wanted or list(texture_set.maps)}
    return Plan(nodes, outputs)


def _key(content: Mapping[str, Any]) -> str:
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()
