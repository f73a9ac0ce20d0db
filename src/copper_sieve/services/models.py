"""Models of a project: import, list, link sets to materials, remove."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.codecs.checksums import file_sha256
from copper_sieve.core.errors import ConflictError
from copper_sieve.core.ingest.model_files import read_model_file
from copper_sieve.core.models.model_facts import ModelFacts
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.naming import slug
from copper_sieve.core.untrusted_paths import safe_file_name
from copper_sieve.services import sets
from copper_sieve.services.context import Context
from copper_sieve.services.progress import UNTOLD, Progress, SubProgress
from copper_sieve.store import models as store
from copper_sieve.store import texture_sets
from copper_sieve.store.disk_use import delete_unused
from copper_sieve.store.models import LinkedSet, StoredModel
from copper_sieve.store.projects import get_project
from copper_sieve.store.sources import read_chunks


@dataclass(frozen=True, slots=True)
class ModelView:
    """A model, and the sets linked to it.

    tied : linked sets, last changed first
    serves : sets that use it as high-poly model
    proposed : for a material without a set, the set with the same name
    """

    model: StoredModel
    tied: tuple[LinkedSet, ...]
    serves: tuple[LinkedSet, ...]
    proposed: dict[str, int]


def import_model(
    context: Context, project_slug: str, path: Path, name: str, progress: Progress = UNTOLD
) -> ModelView:
    """Store a model file, or an archive with a model and the files that it refers to.

    A file that was analyzed before, in any project, isn't analyzed again.
    Raises MeshError with the file's own name; then nothing is stored.
    """
    renamed = path.with_name(safe_file_name(name))
    path.rename(renamed)
    sha256 = file_sha256(renamed)
    with context.database.transaction() as connection:
        known = store.of_sources(connection, [sha256]).get(sha256)
    facts = known.facts if known else _analyzed(context, renamed, progress)
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        kept = store.add_model(
            connection, project.id, renamed, sha256=sha256, name=renamed.name, facts=facts
        )
        progress.finish(connection, {"model_id": kept.id})
    return next(one for one in list_views(context, project_slug) if one.model.id == kept.id)


def _analyzed(context: Context, path: Path, progress: Progress) -> ModelFacts:
    inside = path.parent / "inside"
    inside.mkdir()
    reading = SubProgress(progress, 0.05, 0.9)
    progress.report(0.05, f"Reading {path.name}")
    mesh = read_model_file(
        path, inside, context.settings.model_limits,
        on_progress=lambda share: reading.report(share, f"Reading {path.name}"),
    )  # fmt: skip
    progress.report(0.9, f"Analyzing {mesh.count:,} triangles")
    return ModelFacts.of(mesh)


def list_views(context: Context, project_slug: str) -> list[ModelView]:
    """Return the models of a project by name, with the linked sets."""
    with context.database.transaction() as connection:
        project = get_project(connection, project_slug)
        models = store.list_models(connection, project.id)
        tied = store.linked_sets(connection, project.id)
        sets = texture_sets.list_sets(connection, project.id)
    match_by_name = {one.name.lower(): one.id for one in reversed(sets)}
    views = []
    for model in models:
        own = tuple(one for one in tied if one.source == model.sha256)
        served = tuple(one for one in tied if one.high_poly == model.sha256)
        has_set = {one.material for one in own}
        proposed = {
            material.name: match_by_name[name]
            for material in model.facts.materials
            if material.name not in has_set
            and (name := slug(material.name).lower()) in match_by_name
        }
        views.append(ModelView(model, own, served, proposed))
    return views


def get(context: Context, model_id: int) -> StoredModel:
    """Return a model. Raises NotFoundError."""
    with context.database.transaction() as connection:
        return store.get_model(connection, model_id)


def original(context: Context, model: StoredModel) -> Iterator[bytes]:
    """Yield the original file in chunks."""
    return read_chunks(context.database, model.sha256)


def link_model(context: Context, set_id: int, wanted: ModelLink | None) -> None:
    """Link a set to a model, or unlink it, as a change of the set that can be undone.

    Raises NotFoundError, ConflictError for a material or UV set that the model doesn't have,
    PlanError if maps of the set come from the unlinked model.
    """
    with context.database.transaction() as connection:
        kept = texture_sets.get_set(connection, set_id)
        if wanted:
            models = {one.sha256: one for one in store.list_models(connection, kept.project_id)}
            check_link(wanted, models)
        definition = kept.definition().model_copy(update={"model": wanted})
    sets.change(context, set_id, kept.version, definition)


def check_link(wanted: ModelLink, models: dict[str, StoredModel]) -> None:
    """Check that a link refers to an existing model, material and UV set. Raises ConflictError.

    models : those of the set's project by the SHA-256 of their files
    """
    if missing := wanted.sources() - set(models):
        raise ConflictError(f"the model {min(missing)[:12]} isn't in this project. Import it")
    model = models[wanted.source]
    has = [one.name for one in model.facts.materials]
    if wanted.material is not None and wanted.material not in has:
        raise ConflictError(
            f"{model.name} has no material named {wanted.material}. It has: {', '.join(has[:20])}"
        )
    if wanted.uv_set >= max(1, model.facts.uv_sets):
        raise ConflictError(f"{model.name} has {model.facts.uv_sets} UV sets")


def delete(context: Context, model_id: int) -> None:
    """Remove a model from its project. Raises ConflictError while sets are linked to it."""
    with context.database.transaction() as connection:
        model = store.get_model(connection, model_id)
        tied = [
            one.name for one in store.linked_sets(connection, model.project_id)
            if model.sha256 in (one.source, one.high_poly)
        ]  # fmt: skip
        if tied:
            more = f" and {len(tied) - 1} more" if len(tied) > 1 else ""
            raise ConflictError(
                f"{model.name} can't be removed, because {tied[0]}{more} is linked to it. "
                "Unlink it first"
            )
        sha256 = store.delete_model(connection, model_id)
        delete_unused(connection, seconds=0, only=[sha256])
