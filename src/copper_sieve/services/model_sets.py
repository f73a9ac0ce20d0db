"""Sets created from a model's materials, with the maps in its file."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from copper_sieve.core.codecs.gltf_file import UNREADABLE, is_gltf
from copper_sieve.core.codecs.gltf_materials import GltfMaterial, gltf_materials
from copper_sieve.core.errors import ConflictError, SieveError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.ingest.model_files import model_in
from copper_sieve.core.ingest.sources import SourceFacts, examine
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.texture_set import Constant, Imported, MapDefinition, SetDefinition
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services.context import Context
from copper_sieve.services.sources import keep_picture
from copper_sieve.store import models as store
from copper_sieve.store import texture_sets

_USUAL: dict[MapKind, tuple[float, ...]] = {
    MapKind.BASE_COLOR: (0.5, 0.5, 0.5), MapKind.ROUGHNESS: (0.5,), MapKind.METALLIC: (0.0,),
}  # fmt: skip


def create_sets(
    context: Context, model_id: int, materials: list[str]
) -> tuple[dict[str, int], list[str]]:
    """Create a set for each material and link it; unreadable pictures are reported.

    glTF files state the role of each picture. Other formats contain no pictures, and their sets
    start with constants.
    Returns the set ids by material, and remarks. Raises NotFoundError, ConflictError.
    """
    with context.database.transaction() as connection:
        model = store.get_model(connection, model_id)
    unknown = set(materials) - {one.name for one in model.facts.materials}
    if unknown:
        raise ConflictError(f"{model.name} has no material named {min(unknown)}")
    remarks: list[str] = []
    made: dict[str, dict[MapKind, MapDefinition]] = {}
    with context.incoming() as folder:
        path = context.fetch_model(model.sha256, folder)
        inside = folder / "inside"
        inside.mkdir()
        path = model_in(path, inside, context.settings.model_limits)
        found, read = _materials_of(path)
        taken = _Pictures(context, folder, read, remarks)
        for name in materials:
            maps: dict[MapKind, MapDefinition] = {
                kind: Constant(value=value) for kind, value in _USUAL.items()
            }
            if material := found.get(name):
                maps = taken.maps_of(material)
            made[name] = maps
    numbers: dict[str, int] = {}
    with context.database.transaction() as connection:
        for name, maps in made.items():
            link = ModelLink(source=model.sha256, material=name)
            definition = SetDefinition(name=slug(name), maps=maps, model=link).checked()
            numbers[name] = texture_sets.add_set(connection, model.project_id, definition).id
    return numbers, remarks


def _materials_of(
    path: Path,
) -> tuple[dict[str, GltfMaterial], Callable[[int], tuple[bytes, str]]]:
    with path.open("rb") as file:
        head = file.read(64)
    if not is_gltf(head, path.name):
        return {}, lambda image: (b"", "")
    found, read = gltf_materials(path)
    return {one.name: one for one in reversed(found)}, read


class _Pictures:
    """The pictures of a file, each stored once."""

    def __init__(
        self,
        context: Context,
        folder: Path,
        read: Callable[[int], tuple[bytes, str]],
        remarks: list[str],
    ) -> None:
        self._context, self._folder, self._read = context, folder, read
        self._remarks = remarks
        self._kept: dict[int, SourceFacts | None] = {}

    def maps_of(self, material: GltfMaterial) -> dict[MapKind, MapDefinition]:
        self._remarks += material.remarks
        maps: dict[MapKind, MapDefinition] = {}
        for kind in MapKind:
            if (use := material.pictures.get(kind)) and (
                facts := self._keep(use.image, f"{material.name}_{kind}")
            ):
                held = "".join(facts.spec.channels)
                channels = use.channels
                if not set(channels) <= set(held) and len(held) == 1:
                    channels = "R"
                if channels == "A" and "A" not in held:
                    continue  # opaque all over
                maps[kind] = Imported(source=facts.sha256, channels=channels, encoding=use.encoding)
            elif (value := material.constants.get(kind)) is not None:
                maps[kind] = Constant(value=value)
        return maps or {kind: Constant(value=value) for kind, value in _USUAL.items()}

    def _keep(self, image: int, name: str) -> SourceFacts | None:
        if image not in self._kept:
            self._kept[image] = None
            try:
                data, ending = self._read(image)
                path = self._folder / safe_file_name(f"{name}{ending}")
                path.write_bytes(data)
                facts, picture = examine(path, self._context.settings.limits)
                with self._context.database.transaction() as connection:
                    keep_picture(connection, path, facts, picture)
                self._kept[image] = facts
                path.unlink()
            except (SieveError, *UNREADABLE) as error:
                self._remarks.append(f"{name} couldn't be read and was skipped: {error}")
        return self._kept[image]
