"""Models with the textures of a delivery embedded."""

from __future__ import annotations

import shutil
from collections.abc import Iterator
from contextlib import ExitStack
from dataclasses import dataclass
from pathlib import Path
from typing import Literal

from copper_sieve.core.errors import NotFoundError
from copper_sieve.core.models.manifest import FILE_NAME
from copper_sieve.core.models.texture_set import SetDefinition
from copper_sieve.library.attaching import attach
from copper_sieve.services.context import Context
from copper_sieve.services.delivered import files_of_part
from copper_sieve.services.deliveries import get
from copper_sieve.store import models
from copper_sieve.store.delivery_rows import StoredPart
from copper_sieve.store.models import StoredModel

Ending = Literal["glb", "usdz"]
# Model formats by document format, and the accepted input formats; None: any.
_WRITTEN: dict[Ending, tuple[set[str], tuple[str, ...] | None]] = {
    "glb": ({"glb", "gltf"}, (".glb", ".gltf")),
    "usdz": ({"usda"}, None),
}
_CHUNK = 1 << 20


@dataclass(frozen=True, slots=True)
class TexturedModel:
    """A model that a delivery has textures for, with one of its targets.

    ending : file extension, glb or usdz
    parts : parts of the delivery by material; None is the whole model
    missing : materials for which the delivery has no set
    """

    model: StoredModel
    target_id: str
    ending: Ending
    parts: dict[str | None, StoredPart]
    missing: tuple[str, ...]

    @property
    def file_name(self) -> str:
        """Return the file name of the model with all textures."""
        return f"{Path(self.model.name).stem}.{self.target_id}.{self.ending}"


def textured_models(context: Context, delivery_id: int) -> list[TexturedModel]:
    """Return the models linked to sets of a delivery whose target writes glTF or USD.

    Raises NotFoundError.
    """
    found: dict[tuple[str, str, Ending], dict[str | None, StoredPart]] = {}
    for part in get(context, delivery_id).parts:
        definition = SetDefinition.model_validate(part.definition)
        link = definition.model
        if link is None or definition.sheet:  # one file does not hold pictures by tiles
            continue
        formats = {one["format"] for one in (part.manifest or {}).get("documents", ())}
        for ending, (kinds, _) in _WRITTEN.items():
            if formats & kinds:
                found.setdefault((link.source, part.target_id, ending), {})[link.material] = part
    with context.database.transaction() as connection:
        known = models.of_sources(connection, {source for source, *_ in found})
    dressed = []
    for (source, target_id, ending), parts in found.items():
        model = known.get(source)
        endings = _WRITTEN[ending][1]
        if model and (endings is None or model.name.lower().endswith(endings)):
            names = (one.name for one in model.facts.materials)
            missing = () if None in parts else tuple(one for one in names if one not in parts)
            dressed.append(TexturedModel(model, target_id, ending, parts, missing))
    return sorted(dressed, key=lambda one: (one.model.name, one.target_id, one.ending))


def find_textured_model(
    context: Context, delivery_id: int, model_id: int, target_id: str, ending: Ending
) -> TexturedModel:
    """Return one model of a delivery. Raises NotFoundError."""
    for one in textured_models(context, delivery_id):
        if (one.model.id, one.target_id, one.ending) == (model_id, target_id, ending):
            return one
    raise NotFoundError(f"delivery {delivery_id} has no textures for this model as {ending}")


def textured_model(
    context: Context, dressed: TexturedModel, *, tangents: bool = False
) -> tuple[str, int, Iterator[bytes]]:
    """Return name, size and bytes of a model with the delivered textures embedded.

    tangents : write MikkTSpace tangents, glb only
    Raises ReplacedError if a delivered file was changed, MeshError.
    """
    with ExitStack() as stack:
        folder = stack.enter_context(context.incoming())
        source = context.fetch_model(dressed.model.sha256, folder)
        folders: dict[str, Path] = {}
        for n, (material, part) in enumerate(dressed.parts.items()):
            copied = _copied(context, part, folder / f"part{n}")
            names = [one.name for one in dressed.model.facts.materials]
            folders |= dict.fromkeys(names if material is None else [material], copied)
        out = folder / "out" / dressed.file_name
        out.parent.mkdir()
        uv_set = _uv_set(dressed)
        attach(source, folders, out, uv_set=uv_set, tangents=tangents)
        kept = stack.pop_all()
    return dressed.file_name, out.stat().st_size, _pieces(kept, out)


def _uv_set(dressed: TexturedModel) -> int:
    first = next(iter(dressed.parts.values()))
    link = SetDefinition.model_validate(first.definition).model
    return link.uv_set if link else 0


def _copied(context: Context, part: StoredPart, folder: Path) -> Path:
    """Copy the files of a part into a folder, from their location or the content store."""
    folder.mkdir()
    for name, path in files_of_part(context, part).items():
        shutil.copyfile(path, folder / (FILE_NAME if name == part.manifest_name else name))
    return folder


def _pieces(kept: ExitStack, path: Path) -> Iterator[bytes]:
    with kept, path.open("rb") as file:
        while piece := file.read(_CHUNK):
            yield piece
