"""Previews during editing, without a queue; the newest request of a window replaces older ones."""

from __future__ import annotations

import threading
import time
from collections.abc import Collection, Iterable, Sequence
from dataclasses import dataclass

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.graph.evaluate import Cache, Maps, evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Geometry, Sizes, geometry_of
from copper_sieve.core.graph.node import Node, Plan
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.graph.preparing import PreparationStep
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Codes, Float
from copper_sieve.core.models.texture_set import Derived, SetDefinition, SurfaceSpec
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.drafts import draft_for_preview, uses_stored_maps
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import get_set

# Texels of the longer side at which maps are derived at rest: the display is reduced from it and
# agrees with deliveries of any size.
_SETTLED_SIDE = 2048
_MODEL_MOVING = 256  # texels at which maps are taken from a model while a hand waits
_MEASURED_MOVING = 384  # and those at which a surface is measured from pictures
_LEARNS = 0.5  # how much the last time counts against those before


@dataclass(frozen=True, slots=True)
class PreviewMap:
    """A map for display: 8-bit codes (H, W, 1 or 3), None if the client has them."""

    key: str
    size: tuple[int, int]
    codes: Codes | None


@dataclass(frozen=True, slots=True)
class Previewed:
    """Maps of a set, and the result of its preparation.

    surface : of the geometry, with the measured depth
    """

    maps: dict[MapKind, PreviewMap]
    geometry: Geometry
    surface: SurfaceSpec


class _DraftCache:
    """Keeps maps of drafts in memory only, so that moving a slider doesn't fill the disk."""

    def __init__(self, context: Context, wanted: Plan) -> None:
        self._context, self._plan = context, wanted

    def get(self, key: str) -> Float | None:
        return self._context.cache.get(key)

    def put(self, key: str, pixels: Float) -> None:
        is_read = self._plan.nodes[key].is_read
        keeper: Cache = self._context.cache if is_read else self._context.memory
        keeper.put(key, pixels)


@dataclass(frozen=True, slots=True)
class PreviewProgress:
    """Progress of a window's preview.

    step : description of the current step; share : of completed steps, 0 to 1
    seconds : elapsed; seconds_left : estimated from earlier runs, None if a step has none
    """

    step: str
    share: float
    seconds: float
    seconds_left: float | None


class _Progress:
    """Follows one request, and records the time of each kind of step per million texels."""

    def __init__(self, pace: dict[str, float]) -> None:
        self._pace = pace
        self._nodes: Sequence[Node] = ()
        self._at = 0
        self._began = self._stepped = time.monotonic()

    def step(self, nodes: Sequence[Node], at: int) -> None:
        """Record the start of a step."""
        now = time.monotonic()
        if at:
            before = nodes[at - 1]
            took = (now - self._stepped) / _millions(before)
            known = self._pace.get(_sort(before), took)
            self._pace[_sort(before)] = known + (took - known) * _LEARNS
        self._nodes, self._at, self._stepped = nodes, at, now

    def told(self) -> PreviewProgress:
        """Return the current progress."""
        now = time.monotonic()
        nodes, at = self._nodes, self._at
        if not nodes:
            return PreviewProgress("beginning", 0.0, now - self._began, None)
        left = [self._pace.get(_sort(one)) for one in nodes[at:]]
        seconds = None
        if all(one is not None for one in left):
            each = [
                (one or 0) * _millions(node) for one, node in zip(left, nodes[at:], strict=True)
            ]
            seconds = max(sum(each) - (now - self._stepped), sum(each[1:]))
        return PreviewProgress(nodes[at].words, at / len(nodes), now - self._began, seconds)


def _sort(node: Node) -> str:
    """Return a key for nodes that take equally long per texel."""
    made = node.definition.operation if isinstance(node.definition, Derived) else ""
    # The plan of a step, such as where a mark is filled from, is small whatever its picture is.
    step = node.step.name if isinstance(node.step, PreparationStep) else ""
    return f"{node.words} {made} {step}"


def _millions(node: Node) -> float:
    return max(node.size[0] * node.size[1], 1) / 1e6


class Previewer:
    """Computes previews of stored sets and drafts."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._newest: dict[str, int] = {}
        self._under_way: dict[str, _Progress] = {}
        self._pace: dict[str, float] = {}
        self._sizes: dict[str, tuple[int, int]] = {}  # of sources, which never change
        self._lock = threading.Lock()

    def preview(
        self,
        set_id: int,
        draft: SetDefinition | None,
        *,
        kinds: Iterable[MapKind] | None,
        longer_side: int,
        compute_side: int | None = None,
        window: str,
        sequence: int,
        known: Collection[str] = (),
    ) -> Previewed:
        """Compute maps for display (default: all of the set).

        longer_side : texels of the longer side of the result; never enlarged
        compute_side : texels of the longer side at which maps are derived before they are reduced;
        smaller is faster but loses fine relief
        window, sequence : only the newest request of a window is computed
        known : content keys of maps that the client has; they are skipped
        Raises CancelledError for an outdated request, PlanError, ParameterError, NotFoundError.
        """
        with self._lock:
            self._newest[window] = max(sequence, self._newest.get(window, 0))
        texture_set, sizes = self._set_and_sizes(set_id, draft)
        geometry = geometry_of(texture_set, sizes)
        graph = plan(
            texture_set,
            sizes,
            wanted=kinds,
            longer_side=min(longer_side, max(geometry.size)),
            compute_side=compute_side or _SETTLED_SIDE,
            model_side=_MODEL_MOVING if compute_side else None,
            measured_side=_MEASURED_MOVING if compute_side else None,
            geometry=geometry,
        )
        unknown = {kind: key for kind, key in graph.outputs.items() if key not in known}
        cache = _DraftCache(self._context, graph) if draft else self._context.cache
        rasters = self._followed(Plan(graph.nodes, unknown, graph.depth), cache, window, sequence)
        maps = {
            kind: PreviewMap(
                key,
                graph.nodes[key].size,
                displayed(rasters[kind]).codes if kind in rasters else None,
            )
            for kind, key in graph.outputs.items()
        }
        surface = geometry.surface
        if rasters.depth is not None:
            surface = surface.model_copy(update={"depth": rasters.depth})
        return Previewed(maps, geometry, surface)

    def _followed(self, graph: Plan, cache: Cache, window: str, sequence: int) -> Maps:
        """Compute the request of a window, with progress and the option to stop."""
        progress = _Progress(self._pace)
        with self._lock:
            self._under_way[window] = progress
        try:
            with computing.ahead():
                return evaluate(
                    graph,
                    self._context.load_source,
                    self._context.load_model,
                    cache=cache,
                    is_cancelled=lambda: (
                        self._newest[window] > sequence or self._context.closing.is_set()
                    ),
                    on_step=progress.step,
                )
        finally:
            with self._lock:
                if self._under_way.get(window) is progress:
                    del self._under_way[window]

    def under_way(self, window: str) -> PreviewProgress | None:
        """Return the progress of a window's preview; None if none is computed."""
        with self._lock:
            progress = self._under_way.get(window)
        return progress.told() if progress else None

    def stop(self, window: str) -> None:
        """Stop the preview of a window after the current step."""
        with self._lock:
            if window in self._newest:
                self._newest[window] += 1

    def _set_and_sizes(
        self, set_id: int, draft: SetDefinition | None
    ) -> tuple[SetDefinition, Sizes]:
        """Return the definition and the sizes of its sources; known sizes need no database."""
        if draft is not None and uses_stored_maps(draft):
            return draft_for_preview(self._context, set_id, draft)
        if draft is not None and draft.sources() <= set(self._sizes):
            texture_set = draft.checked()
        else:
            with self._context.database.transaction() as connection:
                texture_set = (draft or get_set(connection, set_id).definition()).checked()
                self._sizes |= source_sizes(connection, texture_set.sources())
        if missing := texture_set.sources() - set(self._sizes):
            raise NotFoundError(f"there is no source {min(missing)[:12]}")
        return texture_set, {one: self._sizes[one] for one in texture_set.sources()}
