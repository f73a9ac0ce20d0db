"""Check a set with all rules; the most severe findings come first."""

from __future__ import annotations

import hashlib
import json
from collections.abc import Callable, Mapping

from copper_sieve.core.checklist.normals import NormalStatistics, check_normals
from copper_sieve.core.checklist.pictures import check_relief, check_sizes, check_tiling
from copper_sieve.core.checklist.uvs import check_islands
from copper_sieve.core.checklist.values import check_color, check_roughness
from copper_sieve.core.detection.content import measure_content
from copper_sieve.core.detection.normal_direction import Loss, detect_compression
from copper_sieve.core.graph.evaluate import Cache, LoadModel, LoadSource, evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.models.file_facts import FileFacts
from copper_sieve.core.models.finding import Finding, Fix
from copper_sieve.core.models.texture_set import Derived, Imported, MapDefinition, SetDefinition
from copper_sieve.core.operations import get_operation

RULES_VERSION = 2  # version of the rules; findings of other versions are computed again
_SIDE = 1024  # texels of the longer side at which sets are checked
_LOOKED_AT = (
    MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS, MapKind.OPACITY, MapKind.NORMAL,
    MapKind.HEIGHT, MapKind.AMBIENT_OCCLUSION,
)  # fmt: skip
_RANK = ("error", "warning", "info")


def checklist_key(texture_set: SetDefinition) -> str:
    """Return a key that is equal for sets with equal findings.

    Names, alternatives and origins don't affect it.
    """
    content = texture_set.model_dump(mode="json", exclude={"name", "shelf", "origin"})
    text = json.dumps([RULES_VERSION, content], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:32]


def check_set(  # noqa: PLR0917
    texture_set: SetDefinition,
    files: Mapping[str, FileFacts],
    load: LoadSource,
    cache: Cache,
    loss_of: Callable[[str], Loss] = lambda _: "none",
    load_model: LoadModel | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> list[Finding]:
    """Return the findings of a set, most severe first.

    Parameters
    ----------
    texture_set : the set
    files : facts of its sources by SHA-256
    load : reads a source by its SHA-256
    cache : of computed maps
    loss_of : returns the compression loss of a source
    load_model : reads the linked model, whose UV islands are checked
    is_cancelled : returns True to cancel

    Raises
    ------
    PictureError : if a source can't be read
    PlanError : if a map can't be derived
    CancelledError
    """
    sizes = {sha: (one.width, one.height) for sha, one in files.items()}
    geometry = geometry_of(texture_set, sizes)
    wanted = [kind for kind in _LOOKED_AT if kind in texture_set.maps]
    if geometry.guide and geometry.guide[0] not in wanted:
        wanted.append(geometry.guide[0])
    graph = plan(
        texture_set, sizes, wanted=wanted, longer_side=min(_SIDE, max(geometry.size)),
        compute_side=_SIDE, geometry=geometry,
    )  # fmt: skip
    rasters = evaluate(graph, load, load_model, cache=cache, is_cancelled=is_cancelled)
    maps = {kind: one.pixels for kind, one in rasters.items()}
    names = {sha: one.file_name for sha, one in files.items()}
    found = _normal_findings(texture_set, load, loss_of)
    on_model = texture_set.model is not None or geometry.sheet is not None
    with computing:
        found += [
            *check_sizes(texture_set, sizes, geometry),
            # Textures for UV islands of a model aren't tiled.
            *([] if on_model else check_tiling(texture_set, geometry, maps)),
            *([] if found else check_relief(texture_set, maps)),
            *check_color(texture_set, maps),
            *check_roughness(texture_set, maps, names),
        ]
    if texture_set.model and load_model:
        model = load_model(texture_set.model.source)
        with computing:
            found += check_islands(texture_set, model, min(_SIDE, max(geometry.tile)))
    return sorted(found, key=lambda one: _RANK.index(one.weight))


def _normal_findings(
    texture_set: SetDefinition, load: LoadSource, loss_of: Callable[[str], Loss]
) -> list[Finding]:
    """Return the findings of all imported normal maps; equal ones of several tiles are merged."""
    found: list[Finding] = []
    for kind, slot, picture in _normals_of(texture_set):
        rules = {one.rule for one in found}
        for file in picture.files:
            loaded, lost = load(file), loss_of(file)
            with computing:
                loss = detect_compression(lost, measure_content(loaded))
                seen = _of_normals(texture_set, kind, slot, picture, loaded, loss)
            found += [one for one in seen if one.rule not in rules or file == picture.source]
            rules |= {one.rule for one in seen}
    return found


def _normals_of(texture_set: SetDefinition) -> list[tuple[MapKind, str | None, Imported]]:
    """Return the imported normal maps, with the input of the operation that adjusts them."""
    found: list[tuple[MapKind, str | None, Imported]] = []
    for kind, way in texture_set.maps.items():
        if isinstance(way, Imported) and kind is MapKind.NORMAL:
            found.append((kind, None, way))
        elif isinstance(way, Derived):
            slots = {one.name: one for one in get_operation(way.operation, kind).slots}
            found += [
                (kind, name, filling) for name, filling in way.slots.items()
                if isinstance(filling, Imported)
                and slots[name].takes.facts.meaning is Meaning.NORMAL
            ]  # fmt: skip
    return found


def _of_normals(  # noqa: PLR0917
    texture_set: SetDefinition, kind: MapKind, slot: str | None, imported: Imported,
    picture: Picture, loss: Loss,
) -> list[Finding]:  # fmt: skip
    def fix(seen: NormalStatistics) -> Fix | None:
        if seen.better is None:
            return None
        way: MapDefinition = seen.better
        before = texture_set.maps[kind]
        if slot is not None and isinstance(before, Derived):
            way = before.model_copy(update={"slots": {**before.slots, slot: seen.better}})
        return Fix(title=seen.does, maps={kind: way})

    return [
        Finding(rule=seen.rule, kind=kind, weight=seen.weight, text=seen.text,
                evidence=seen.evidence, fix=fix(seen))
        for seen in check_normals(picture, imported, loss)
    ]  # fmt: skip
