"""Planning: a texture set and a size become a graph of nodes with content keys.

Equal keys mean equal pixels, so results can be discarded and computed again, and previews,
deliveries and the command line use the same plan. Results smaller than their sources are computed
at source size and reduced afterwards, because slopes and occlusion depend on detail that reduced
sources lack. The preparation steps (`preparing`) come first.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import Any

from copper_sieve.core.errors import MissingMapError, PlanError
from copper_sieve.core.graph.geometry import Geometry, Size, Sizes, geometry_of
from copper_sieve.core.graph.measured import LIGHT_VERSION, MEASURED_VERSION
from copper_sieve.core.graph.node import DEPTH, Node, Plan
from copper_sieve.core.graph.preparing import PreparationStep, Preparer
from copper_sieve.core.graph.tiled_resample import TiledResample
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.reduction import Reduction
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromBlendedSet,
    Imported,
    MapDefinition,
    SetDefinition,
)
from copper_sieve.core.operations import Operation, get_operation
from copper_sieve.core.operations.measured.from_captures import MEASURED

_IMPORT_VERSION = 1  # a change of how files become maps needs a new one
_REDUCED_VERSION = 2  # and one of how maps are made smaller
_DEPTH_VERSION = 1  # and one of how the depth of a height is measured
_MODEL_SIDE = 512  # texels at which a preview takes maps from a model


def plan(
    texture_set: SetDefinition,
    sizes: Sizes,
    *,
    wanted: Iterable[MapKind] | None = None,
    longer_side: int | None = None,
    compute_side: int | None = None,
    model_side: int | None = None,
    measured_side: int | None = None,
    reduction: Reduction = "plain",
    geometry: Geometry | None = None,
) -> Plan:
    """Plan the operations required for the wanted maps.

    Parameters
    ----------
    texture_set : the set
    sizes : width and height of each source in texels, by SHA-256
    wanted : map kinds; None: all of the set
    longer_side : texels of the longer side of each result; None: size of the source
    compute_side : largest longer side at which maps are derived before they are reduced, for a
        preview; None: no limit
    model_side : largest longer side at which maps are baked, with one sample, for a preview; None:
        512 with `compute_side`, else no limit
    measured_side : largest longer side at which a surface is measured, for a preview; None: no
        limit
    reduction : method; see `image.reduction`
    geometry : of the set, if known

    Returns
    -------
    Plan

    Raises
    ------
    MissingMapError : if a required map is missing
    PlanError : if maps depend on each other in a cycle
    ParameterError : if a parameter is invalid
    """
    geometry = geometry or geometry_of(texture_set, sizes)
    native = geometry.size
    if compute_side is not None and model_side is None:
        model_side = _MODEL_SIDE
    size = geometry.fit(longer_side)
    working = geometry.fit(max(*size, min(compute_side or max(native), max(native))))
    planner = _Planner(
        texture_set, sizes, geometry, working, reduction, (model_side, measured_side)
    )
    kinds = wanted or list(texture_set.maps)
    outputs = {kind: planner.result(kind, size) for kind in kinds}
    needed = MapKind.HEIGHT in outputs or any(DEPTH in one.inputs for one in planner.nodes.values())
    depth = planner.depth() if needed else None
    return Plan(planner.nodes, outputs, depth)


class _Planner:
    """Collects the nodes of one plan; maps are derived at the working size."""

    def __init__(  # noqa: PLR0917
        self,
        texture_set: SetDefinition,
        sizes: Sizes,
        geometry: Geometry,
        working: Size,
        reduction: Reduction,
        quick: tuple[int | None, int | None] = (None, None),
        nodes: dict[str, Node] | None = None,
    ) -> None:
        self._reduction: Reduction = reduction
        self._quick = quick  # texels per side of baked and measured maps
        self.nodes: dict[str, Node] = {} if nodes is None else nodes
        self._set, self._sizes, self._working = texture_set, sizes, working
        self._native, self._geometry = geometry.size, geometry
        self._parts: dict[str, _Planner] = {}
        self._surface = geometry.surface.surface()
        self._by_measure = self._surface.relief is not None
        self._keys: dict[MapKind, str] = {}
        self._open: list[MapKind] = []
        self._preparer = Preparer(geometry, sizes, working, self._read, self._step)

    @property
    def working(self) -> Size:
        """The size at which maps are derived."""
        return self._working

    def result(self, kind: MapKind, size: Size) -> str:
        """Add a map of the set at the requested size; return its key."""
        definition = self._set.maps.get(kind)
        whole_first = isinstance(definition, Derived) or (
            isinstance(definition, Imported)
            and (self._set.prepare.changes_pixels or self._together(kind))
        )
        if self._working == size or not whole_first:
            return self._visit(kind, "the target", size)
        inputs = {"whole": self._visit(kind, "the target", self._working)}
        how: Reduction = self._reduction
        widened_by = kind.widened_by
        if how == "appearance" and widened_by and widened_by in self._set.maps:
            inputs["normal"] = self._visit(widened_by, kind, self._working)
        elif how == "appearance" and not self._together(kind):
            how = "plain"
        whole = inputs["whole"]
        key = _key({"reduced": _REDUCED_VERSION, "whole": whole, "size": size, "how": how,
                    "by": kind.facts.reduction,
                    **({"normal": inputs["normal"]} if "normal" in inputs else {})})  # fmt: skip
        self.nodes[key] = replace(
            self.nodes[whole],
            key=key,
            kind=kind,  # maps of several kinds may be the same picture
            inputs=inputs,
            size=size,
            parameters={},
            reduction=how,
            link=None,
        )
        return key

    def _together(self, kind: MapKind) -> bool:
        """Return whether the map is reduced by its own method, from the full size."""
        if self._reduction == "nearest":
            return True
        return self._reduction == "appearance" and kind.facts.reduction != "mean"

    def _visit(self, kind: MapKind, asked_by: str, at: Size) -> str:
        if kind in self._keys:
            return self._keys[kind]
        if kind in self._open:
            circle = " -> ".join([*self._open[self._open.index(kind) :], kind])
            raise PlanError(f"{self._set.name}: maps depend on each other in a cycle: {circle}")
        definition = self._set.maps.get(kind)
        if definition is None:
            raise MissingMapError(
                f"{self._set.name} has no {kind} map, which {asked_by} requires. Import or "
                "derive it, or set a constant"
            )
        self._open.append(kind)
        if isinstance(definition, Derived):
            self._keys[kind] = found = self._derive(kind, definition)
        elif isinstance(definition, Imported):
            found = self._picture(kind, definition, at)
        else:
            found = self._read(kind, definition, at)
        self._open.pop()
        return found

    def _picture(self, kind: MapKind, picture: Imported | Derived, at: Size) -> str:
        if self._set.prepare.changes_pixels:
            return self._preparer.picture(kind, picture)
        return self._read(kind, picture, at)

    def _read(self, kind: MapKind, definition: MapDefinition, at: Size) -> str:
        if isinstance(definition, Derived):
            return self._measure(kind, definition, at)
        content = definition.model_dump(mode="json")
        if isinstance(definition, Imported) and kind.facts.meaning != "normal":
            content.pop("normal_y")
        if content.get("curve") == "none":  # keys are older than it
            content.pop("curve")
        origin = {"definition": content, "import": _IMPORT_VERSION, **self._tiles()}
        if isinstance(definition, Imported) and self._reduction == "nearest":
            key = self._add(kind, definition, {**origin, "nearest": True}, {}, {}, at)
            self.nodes[key] = replace(self.nodes[key], nearest=True)
            return key
        return self._add(kind, definition, origin, {}, {}, at)

    def _derive(self, kind: MapKind, definition: Derived) -> str:
        found = get_operation(definition.operation, kind)
        inputs = {source.value: self._visit(source, kind, self._working) for source in found.inputs}
        for slot in found.slots:
            filling = definition.slots.get(slot.name)
            if isinstance(filling, Imported):
                put = self._read if slot.laid_over else self._picture
                inputs[slot.name] = put(slot.takes, filling, self._working)
            elif isinstance(filling, FromBlendedSet):
                inputs[slot.name] = self._of_part(filling)
            elif filling is not None:
                inputs[slot.name] = self._visit(filling.kind, kind, self._working)
            elif slot.required:
                raise MissingMapError(
                    f"{self._set.name}: {kind} by {found.name} requires "
                    f"{slot.label.lower()}. Choose a picture or a map of the set"
                )
        if self._by_measure and DEPTH in found.surface_reads and MapKind.HEIGHT in inputs:
            inputs[DEPTH] = self._depth_of(inputs[MapKind.HEIGHT])
        if found.takes_from == "captures":
            return self._picture(kind, definition, self._working)
        if found.takes_from is not None:
            return self._take(kind, definition, found, inputs)
        parameters = found.resolve(definition.parameters)
        reads = {name: getattr(self._surface, name) for name in found.surface_reads}
        origin = {"operation": found.name, "version": found.version, "surface": reads}
        return self._add(kind, definition, origin, inputs, parameters, self._working)

    def _take(
        self, kind: MapKind, definition: Derived, found: Operation, inputs: dict[str, str]
    ) -> str:
        """Return a map baked from the linked model; small and enlarged for a preview."""
        link, side = self._set.model, self._quick[0]
        if link is None:
            raise PlanError(
                f"{self._set.name}: {kind} by {found.name} requires a model, but none is "
                "linked. Link a model, or choose another source for the map"
            )
        if found.takes_from == "high_poly" and link.high_poly is None:
            raise PlanError(
                f"{self._set.name}: {kind} by {found.name} requires a high-poly model. "
                "Choose one for the set, or choose another source for the map"
            )
        size = self._geometry.fit(min(max(self._working), side or max(self._working)))
        reads = {name: getattr(self._surface, name) for name in found.surface_reads}
        origin = {"operation": found.name, "version": found.version, "surface": reads,
                  "model": link.content(), "quick": side is not None, **self._tiles()}  # fmt: skip
        inputs = {
            name: key if name == DEPTH else self._laid(key, size) for name, key in inputs.items()
        }
        parameters = found.resolve(definition.parameters)
        key = self._add(kind, definition, origin, inputs, parameters, size)
        self.nodes[key] = replace(self.nodes[key], link=link, quick=side is not None)
        return self._laid(key, self._working)

    def _measure(self, kind: MapKind, definition: Derived, at: Size) -> str:
        """Return a map measured at that size from the set's light captures."""
        captures, found = self._set.captures, get_operation(definition.operation)
        if captures is None:
            raise PlanError(
                f"{self._set.name}: {kind} by {found.name} requires light captures, but the "
                "set has none. Choose another source for the map"
            )
        size = fit_size(*at, min(max(at), self._quick[1] or max(at)))
        inputs = {MEASURED: self._measured(captures, definition, size)}
        origin = {"operation": found.name, "version": found.version}
        parameters = found.resolve(definition.parameters)
        return self._laid(self._add(kind, definition, origin, inputs, parameters, size), at)

    def _measured(self, captures: CapturesSpec, asked_by: Derived, at: Size) -> str:
        lights: dict[str, str] = {}
        if at != self._sizes[captures.captures[0].source]:
            for n, capture in enumerate(captures.used):
                lights[str(n)] = key = _key(
                    {
                        "light": LIGHT_VERSION,
                        "source": capture.source,
                        "as": capture.encoding,
                        "size": at,
                    }
                )
                picture = Imported(source=capture.source, encoding=capture.encoding)
                self.nodes.setdefault(
                    key,
                    Node(key, MapKind.BASE_COLOR, picture, {}, at, self._surface, capture=capture),
                )
        key = _key({"measured": MEASURED_VERSION, "captures": captures.content(), "size": at})
        self.nodes.setdefault(
            key, Node(key, MapKind.NORMAL, asked_by, lights, at, self._surface, captures=captures)
        )
        return key

    def _laid(
        self, inner: str, size: Size, kind: MapKind | None = None, repeats: Size = (1, 1)
    ) -> str:
        """Return a map repeated at another size; itself if nothing changes."""
        of = self.nodes[inner]
        if repeats == (1, 1) and of.size == size:
            return inner
        step = TiledResample(*repeats)
        key = _key({**step.content(), "of": inner, "size": size})
        self.nodes[key] = replace(
            of, key=key, kind=kind or of.kind, inputs={"map": inner}, size=size, parameters={},
            step=step, reduction=None, passing=False, link=None,
        )  # fmt: skip
        return key

    def _of_part(self, filling: FromBlendedSet) -> str:
        """Return a map of one of the blended sets, repeated over this set."""
        part = self._set.parts[filling.part]
        planner = self._parts.get(filling.part)
        if planner is None:
            geometry = geometry_of(part.texture_set, self._sizes)
            share = max(self._working) / max(self._native)
            working = geometry.fit(max(1, round(max(geometry.size) * share)))
            planner = _Planner(
                part.texture_set, self._sizes, geometry, working, self._reduction,
                self._quick, self.nodes,
            )  # fmt: skip
            self._parts[filling.part] = planner
        inner = planner.result(filling.kind, planner.working)
        repeats = part.repeat, part.repeat_down or part.repeat
        return self._laid(inner, self._working, filling.kind, repeats)

    def depth(self) -> str | None:
        """Return the key of the measured depth of the set's height, if it is measured."""
        if not self._by_measure or MapKind.HEIGHT not in self._set.maps:
            return None
        return self._depth_of(self._visit(MapKind.HEIGHT, "its depth", self._working))

    def _depth_of(self, height: str) -> str:
        """Return the depth from the matching normals, or else from the stated slope."""
        inputs = {"height": height}
        definition = self._set.maps.get(MapKind.HEIGHT)
        integrated = isinstance(definition, Derived) and (
            MapKind.NORMAL in get_operation(definition.operation).inputs
        )
        if integrated or isinstance(self._set.maps.get(MapKind.NORMAL), Imported):
            inputs["normal"] = self._visit(MapKind.NORMAL, "the height's depth", self._working)
        tilt = None if "normal" in inputs else self._surface.relief
        key = _key({"depth": _DEPTH_VERSION, "inputs": inputs, "tilt": tilt,
                    "wrap": self._surface.wrap.spec})  # fmt: skip
        node = replace(self.nodes[height], key=key, inputs=inputs, size=(1, 1), measures=True,
                       parameters={"tilt": tilt}, reduction=None, step=None, link=None)  # fmt: skip
        self.nodes.setdefault(key, node)
        return key

    def _step(  # noqa: PLR0917
        self,
        step: PreparationStep,
        kind: MapKind,
        picture: Imported | Derived,
        inputs: dict[str, str],
        size: Size,
        passing: bool,
    ) -> str:
        key = _key({**step.content(), "as": kind.facts.meaning, "size": size, "inputs": inputs})
        node = Node(key, kind, picture, inputs, size, self._surface, step=step, passing=passing)
        if key not in self.nodes or not passing:
            self.nodes[key] = node
        return key

    def _add(  # noqa: PLR0917
        self,
        kind: MapKind,
        definition: Imported | Derived | Constant,
        origin: Mapping[str, Any],
        inputs: dict[str, str],
        parameters: dict[str, Any],
        size: Size,
    ) -> str:
        key = _key({**origin, "as": kind.facts.meaning, "size": size, "parameters": parameters,
                    "inputs": inputs})  # fmt: skip
        self.nodes.setdefault(
            key,
            Node(key, kind, definition, inputs, size, self._surface, parameters,
                 sheet=self._geometry.sheet),
        )  # fmt: skip
        return key

    def _tiles(self) -> dict[str, Any]:
        """Return the part of keys that depends on tiles; empty without tiles."""
        return {"sheet": self._geometry.sheet.numbers} if self._geometry.sheet else {}


def _key(content: Mapping[str, Any]) -> str:
    text = json.dumps(content, sort_keys=True, separators=(",", ":"), default=str)
    return hashlib.sha256(text.encode()).hexdigest()
