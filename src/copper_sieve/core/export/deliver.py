"""Deliver a set to a folder for one target.

Everything is written to a hidden sibling folder, reopened and compared there, and then renamed
(`atomic_swap`): after an error, the previous delivery is unchanged.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from pathlib import Path

from copper_sieve.core.errors import (
    DeliveryError,
    ForeignFileError,
)
from copper_sieve.core.export.atomic_swap import StagedFolder, swapped_in
from copper_sieve.core.export.content_store import ContentStore
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.file_maps import graph_of
from copper_sieve.core.export.reuse import (
    disk_states,
    is_intact,
    manifest_in,
)
from copper_sieve.core.export.shared_folder import staged_folder_for
from copper_sieve.core.export.stager import (
    NOTHING,
    USUAL,
    Delivered,
    DeliveryOptions,
    Staged,
    Stager,
)
from copper_sieve.core.graph.evaluate import Cache, LoadModel, LoadSource


def deliver(
    export: ExportPlan,
    folder: Path,
    *,
    sizes: Mapping[str, tuple[int, int]],
    load_source: LoadSource,
    token: str,
    cache: Cache | None = None,
    options: DeliveryOptions = USUAL,
    on_progress: Callable[[float, str], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
) -> Delivered:
    """Compute, pack, write, reopen and verify the files, then swap the folder in.

    Parameters
    ----------
    export : plan of the files
    folder : output folder; unchanged files and unrelated files are kept
    sizes : width and height of each source in texels, by SHA-256
    load_source : reads a source by its SHA-256
    token : name of the hidden working folder, by which later runs find the remains of a dead
        process
    cache : keeps maps for further targets
    options : delivery options
    on_progress : called with the completed share in [0, 1] and the step
    is_cancelled : returns True to cancel

    Returns
    -------
    Delivered

    Raises
    ------
    ForeignFileError : if another program's file has the name of an output file
    DeliveryError : if a file can't be written or verified
    CancelledError : if `is_cancelled` returned True; after any error, the folder is unchanged
    """
    report = on_progress or (lambda share, text: None)
    staged = stage(
        export, folder, sizes=sizes, load_source=load_source, token=token, cache=cache,
        options=options, on_progress=report, is_cancelled=is_cancelled,
    )  # fmt: skip
    try:
        report(0.97, "replacing the folder")
        swap_in(staged, is_cancelled=is_cancelled)
    finally:
        staged.place.discard()
    report(1.0, "done")
    return staged.delivered


def swap_in(staged: Staged, *, is_cancelled: Callable[[], bool] | None = None) -> None:
    """Swap the staged files into their folder; raises the errors of `swapped_in`."""
    with swapped_in([] if staged.is_same else [staged.place], is_cancelled=is_cancelled):
        pass


def stage(
    export: ExportPlan,
    folder: Path,
    *,
    sizes: Mapping[str, tuple[int, int]],
    load_source: LoadSource,
    token: str,
    cache: Cache | None = None,
    options: DeliveryOptions = USUAL,
    on_progress: Callable[[float, str], None] | None = None,
    is_cancelled: Callable[[], bool] | None = None,
    stock: ContentStore = NOTHING,
    load_model: LoadModel | None = None,
    root: Path | None = None,
) -> Staged:
    """Compute, write and verify the files of a delivery in a hidden folder; see `deliver`.

    Parameters
    ----------
    export, folder, sizes, load_source, token, cache, options : see `deliver`
    on_progress, is_cancelled : see `deliver`
    stock : cached files, used instead of computing them
    load_model : reads a model by its SHA-256
    root : folder that all files must stay inside; see `StagedFolder`
    """
    if folder.exists() and not folder.is_dir():
        raise ForeignFileError(f"{folder} is a file. Move it or choose another folder")
    graph = graph_of(export, sizes)
    try:
        place = staged_folder_for(folder, token, options.manifest_name, root)
    except OSError as error:
        raise _unwritable(folder, error) from error
    try:
        manifest = manifest_in(place.folder, options.manifest_name)
        for name, state in disk_states(
            place.folder, manifest, export, options.manifest_name
        ).items():
            if state == "foreign":
                raise ForeignFileError(
                    f"{folder / name} already exists and wasn't written by a delivery. Move "
                    "it or choose another folder"
                )
        earlier = is_intact(
            place.folder, manifest, export, graph,
            proven=options.proven, rewrite=options.rewrite, delete_obsolete=options.delete_obsolete,
        )  # fmt: skip
        stager = Stager(
            export, graph, place, earlier, load_source, cache, on_progress, is_cancelled,
            NOTHING if options.rewrite else stock, load_model,
        )  # fmt: skip
        return stager.untouched() or stager.staged()
    except OSError as error:
        _leave(place)
        raise _unwritable(folder, error) from error
    except BaseException:
        _leave(place)
        raise


def _leave(place: StagedFolder) -> None:
    place.discard()
    place.close()


def _unwritable(folder: Path, error: OSError) -> DeliveryError:
    return DeliveryError(
        f"couldn't write to {folder} ({error.strerror}). Check free space and permissions. "
        "Nothing was changed"
    )


def unchanged_delivery(
    export: ExportPlan,
    folder: Path,
    *,
    sizes: Mapping[str, tuple[int, int]],
    options: DeliveryOptions = USUAL,
) -> Staged | None:
    """Return the existing delivery if the folder already contains all planned files, else None.

    Nothing is computed or written.

    Raises
    ------
    PlanError, MissingMapError
    """
    place = staged_folder_for(folder, "", options.manifest_name)
    manifest = manifest_in(folder, options.manifest_name)
    if manifest is None or options.rewrite:
        return None
    graph = graph_of(export, sizes)
    proven, obsolete = options.proven, options.delete_obsolete
    earlier = is_intact(
        place.folder, manifest, export, graph, proven=proven, delete_obsolete=obsolete
    )
    return Stager(export, graph, place, earlier).untouched()
