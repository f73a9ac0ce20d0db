"""Previews: the answer to a hand on a slider. No queue; the newest request of a window wins."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass

import cv2
import numpy as np

from copper_sieve.core.errors import NotFoundError, WriteError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.pipeline.evaluate import Cache, evaluate
from copper_sieve.core.pipeline.plan import Plan, plan
from copper_sieve.core.presets.texture_set import Imported, SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.store.sources import source_sizes
from copper_sieve.store.texture_sets import get_set

_PNG_SPEED = [cv2.IMWRITE_PNG_COMPRESSION, 1]
_PLANS_KEPT = 4096


@dataclass(frozen=True, slots=True)
class PreviewMap:
    """Where the picture of one map is to be had: by its content key."""

    key: str
    size: tuple[int, int]


class _DraftCache:
    """Drafts stay in memory, so that a moved slider does not fill the disk; imports are kept."""

    def __init__(self, context: Context, wanted: Plan) -> None:
        self._context, self._plan = context, wanted

    def get(self, key: str) -> Float | None:
        return self._context.cache.get(key)

    def put(self, key: str, pixels: Float) -> None:
        imported = isinstance(self._plan.nodes[key].definition, Imported)
        keeper: Cache = self._context.cache if imported else self._context.memory
        keeper.put(key, pixels)


class Previewer:
    """Computes previews of sets as they are or as a window would have them."""

    def __init__(self, context: Context) -> None:
        self._context = context
        self._newest: dict[str, int] = {}
        self._plans: OrderedDict[str, tuple[Plan, MapKind]] = OrderedDict()
        self._lock = threading.Lock()

    def preview(
        self,
        set_id: int,
        draft: SetDefinition | None,
        *,
        kinds: Iterable[MapKind] | None,
        longer_side: int,
        window: str,
        sequence: int,
    ) -> dict[MapKind, PreviewMap]:
        """Compute maps (default: all of the set) and say under which keys they are to be had.

        window, sequence : of several requests of one window only the newest is worth computing.
        Raises CancelledError when a newer one came, PlanError, ParameterError, NotFoundError.
        """
        with self._lock:
            self._newest[window] = max(sequence, self._newest.get(window, 0))
        with self._context.database.transaction() as connection:
            row = get_set(connection, set_id)
            texture_set = (draft or SetDefinition.model_validate(row["definition"])).checked()
            sizes = source_sizes(connection, texture_set.sources())
        if missing := texture_set.sources() - set(sizes):
            raise NotFoundError(f"there is no source {min(missing)[:12]}")
        wanted = plan(texture_set, sizes, wanted=kinds, longer_side=longer_side)
        cache = _DraftCache(self._context, wanted) if draft else self._context.cache
        evaluate(
            wanted,
            self._context.load_source,
            cache=cache,
            is_cancelled=lambda: self._newest[window] > sequence,
        )
        with self._lock:
            for kind, key in wanted.outputs.items():
                self._plans[key] = (wanted, kind)
                self._plans.move_to_end(key)
            while len(self._plans) > _PLANS_KEPT:
                self._plans.popitem(last=False)
        return {
            kind: PreviewMap(key, wanted.nodes[key].size) for kind, key in wanted.outputs.items()
        }

    def picture(self, key: str) -> bytes:
        """PNG bytes of a previewed map, computed again if it was forgotten.

        Raises NotFoundError for a key that no preview gave (since the server started).
        """
        with self._lock:
            found = self._plans.get(key)
        if found is None:
            raise NotFoundError("this preview is no longer known: ask for it again")
        wanted, kind = found
        single = Plan(wanted.nodes, {kind: key})
        raster = evaluate(single, self._context.load_source, cache=self._context.memory)[kind]
        return fast_png(raster)


def fast_png(raster: Raster) -> bytes:
    """A map as the eye sees it, as a quickly packed PNG."""
    codes = displayed(raster).codes
    if codes.shape[2] == 3:
        codes = np.ascontiguousarray(codes[:, :, ::-1])
    done, data = cv2.imencode(".png", codes, _PNG_SPEED)
    if not done:
        raise WriteError("the preview could not be encoded")
    return data.tobytes()
