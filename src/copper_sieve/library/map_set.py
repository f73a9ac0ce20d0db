"""A texture set built from files: maps are computed, changed, prepared and delivered through it."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs import Limits
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.export.deliver import deliver
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.export.stager import Delivered
from copper_sieve.core.graph.evaluate import Cache, evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture, Raster
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe, apply_recipe
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import Derived, SetDefinition
from copper_sieve.core.operations import get_operation
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.library import attaching, detection, documents, importing
from copper_sieve.library.arguments import constant_of, kind_of
from copper_sieve.library.deriving import raster_to_picture, with_parameters, with_surface
from copper_sieve.library.importing import WrapChoice
from copper_sieve.library.light_captures import measured_set
from copper_sieve.library.sources import LocalSources, Note


@dataclass(frozen=True)
class MapSet:
    """A texture set of one surface. Every change returns a new set.

    Attributes
    ----------
    definition : the source of each map; see `SetDefinition`
    sources : the files that the maps are read from
    files : path of each imported map
    notes : guesses, measurements, and skipped parts of recipes
    coverage : UV islands of the model that the set belongs to, or None
    """

    definition: SetDefinition
    sources: LocalSources
    files: Mapping[MapKind, Path] = field(default_factory=dict)
    notes: tuple[Note, ...] = ()
    coverage: Coverage | None = None

    @classmethod
    def from_files(
        cls,
        photo: Path | str,
        *maps: Path | str,
        name: str | None = None,
        normal_y: NormalY | str | None = None,
        wrap: WrapChoice = "auto",
        relief: float | str | None = None,
        limits: Limits | None = None,
    ) -> MapSet:
        """Create a set from a photo of a surface and optional further maps.

        Missing maps are derived: a set of one photo has height, normal, ambient occlusion,
        roughness and metallic maps. UV tiles ("wall_color.1001.png") are grouped. Measured
        values are noted.

        Parameters
        ----------
        photo : Path or str, photo of the surface, used as base color
        maps : Path or str, further files; their names determine their map kinds
        name : str, optional, name of the set. Default: the photo's name without its map kind
        normal_y : NormalY or {"up", "down"}, optional, green of normal maps. Default: measured
        wrap : True, False, "across", "down" or "auto", tiling directions. Default: measured
        relief : float or str, optional, mean slope in degrees, 0 to 60, or a preset's name
        limits : Limits, optional, largest size of a file in bytes and texels

        Raises
        ------
        PictureError : if a file can't be read
        PlanError : if the map kind of a file is unknown, or two files are the same map
        ParameterError : if `relief` is out of range
        """
        paths = [Path(photo), *(Path(one) for one in maps)]
        if importing.are_tiles(paths):
            return cls.from_recognized(
                paths, name=name, normal_y=normal_y, wrap=wrap, relief=relief, limits=limits
            )
        kinds, notes = importing.kinds_by_name(paths[0], paths[1:])
        made = cls.from_maps(
            {kind: path for path, kind in kinds.items()}, name=name, normal_y=normal_y, wrap=wrap,
            relief=relief, limits=limits,
        )  # fmt: skip
        return replace(made, notes=(*notes, *made.notes))

    @classmethod
    def from_maps(
        cls,
        maps: Mapping[MapKind, Path] | Mapping[str, Path | str],
        *,
        name: str | None = None,
        normal_y: NormalY | str | None = None,
        wrap: WrapChoice = "auto",
        relief: float | str | None = None,
        limits: Limits | None = None,
    ) -> MapSet:
        """Create a set from files with stated map kinds.

        Parameters
        ----------
        maps : mapping of MapKind or str to Path or str, file of each map; the first names the set
        name, normal_y, wrap, relief, limits : see `from_files`, also for errors
        """
        sources = LocalSources(limits)
        files = {kind_of(kind): Path(path) for kind, path in maps.items()}
        definition, notes = importing.set_of_maps(
            files, sources, name=name, normal_y=normal_y, wrap=wrap, relief=relief
        )
        return cls(definition, sources, files, notes)

    @classmethod
    def from_recognized(
        cls,
        files: Sequence[Path | str],
        *,
        name: str | None = None,
        cards: Sequence[SourceCard] = (),
        normal_y: NormalY | str | None = None,
        wrap: WrapChoice = "auto",
        relief: float | str | None = None,
        limits: Limits | None = None,
    ) -> MapSet:
        """Create a set from files whose map kinds are detected from names and content.

        Packed files are split. A single file whose kind can't be detected is used as a photo.

        Parameters
        ----------
        files : sequence of Path or str, files of one set
        cards : sequence of SourceCard, optional; the one that matches the file names is applied
        name, normal_y, wrap, relief, limits : see `from_files`, also for errors
        """
        sources, paths = LocalSources(limits), [Path(one) for one in files]
        found, definition, notes = detection.set_of_files(
            paths, sources, cards, name=name, normal_y=normal_y, wrap=wrap, relief=relief
        )
        return cls(definition, sources, found.files, notes)

    @classmethod
    def from_captures(
        cls,
        pictures: Sequence[Path | str],
        lights: Sequence[Lamp] = (),
        *,
        name: str | None = None,
        limits: Limits | None = None,
        **options: Any,
    ) -> MapSet:
        """Create a set measured from pictures of one surface under different lights.

        Parameters
        ----------
        pictures : sequence of Path or str, at least 3 of one size, from one camera position
        lights : sequence of Lamp, optional. Default: determined from a ball, else estimated
        name : str, optional, name of the set. Default: the common part of the file names
        limits : Limits, optional, largest size of a file in bytes and texels
        options : `ball`, `static_camera`, `white` and `flat_field` as in `measure`

        Raises
        ------
        PictureError : if a file can't be read
        MeasureError : if the pictures can't be measured, or pictures and lights differ in number
        """
        sources = LocalSources(limits)
        paths = [Path(one) for one in pictures]
        definition, notes = measured_set(paths, sources, lamps=lights, name=name, **options)
        return cls(definition, sources, {}, (*notes, *sources.notes))

    @property
    def name(self) -> str:
        """Name of the set, used for its folders and files."""
        return self.definition.name

    @property
    def kinds(self) -> list[MapKind]:
        """Kinds of the maps in the set."""
        return list(self.definition.maps)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels, after preparation."""
        return geometry_of(self.definition, self.sources.sizes).size

    def map(self, kind: MapKind | str, longer_side: int | None = None) -> Raster:
        """Compute one map.

        Parameters
        ----------
        kind : MapKind or str, kind of the map
        longer_side : int, optional, texels of the longer side. Default: the size of the set

        Returns
        -------
        Raster, `pixels` (H, W, C) float32, row 0 at the top: colors in linear light, data in
            [0, 1], normals as unit vectors in [-1, 1] with Y up

        Raises
        ------
        MissingMapError : if the set doesn't contain the map
        PlanError : if the map can't be computed from the files
        """
        wanted = kind_of(kind)
        graph = plan(self.definition, self.sources.sizes, wanted=[wanted], longer_side=longer_side)
        return evaluate(graph, self.sources.load)[wanted]

    def picture(
        self,
        kind: MapKind | str,
        longer_side: int | None = None,
        *,
        bits: int = 8,
        normal_y: NormalY | str = NormalY.UP,
    ) -> Picture:
        """Compute one map as the codes of a file. Errors as in `map`.

        Parameters
        ----------
        kind : MapKind or str, kind of the map
        longer_side : int, optional, texels of the longer side. Default: the size of the set
        bits : {8, 16, 32}, bits per channel; 32 is floating point in linear light
        normal_y : NormalY or {"up", "down"}, green direction of a normal map

        Returns
        -------
        Picture, codes (H, W, C): colors sRGB (linear at 32 bits), normals 0.5 * n + 0.5
        """
        return raster_to_picture(self.map(kind, longer_side), bits, bits == 32, normal_y)

    def with_surface(self, **given: Any) -> MapSet:
        """Change the surface.

        Parameters
        ----------
        given : `tile_size` in meters, > 0; `depth` in meters, >= 0; `relief` in degrees, 0 to 60;
            `wrap`: True, False, "across" or "down"

        Raises
        ------
        ParameterError : if a name is unknown or a value is out of range
        """
        surface = with_surface(self.definition.surface, given)
        return self._with(self.definition.model_copy(update={"surface": surface}))

    def with_parameters(self, kind: MapKind | str, **parameters: Any) -> MapSet:
        """Change parameters of the operation that derives a map.

        Parameters
        ----------
        kind : MapKind or str, kind of the derived map
        parameters : parameters by name; `operations()` lists them with ranges and defaults

        Raises
        ------
        MissingMapError, ParameterError : if the map or a name is unknown, or a value out of range
        """
        wanted = kind_of(kind)
        if wanted not in self.definition.maps:
            raise MissingMapError(f"{self.name} has no {wanted} map. Derive it first")
        return self._with(with_parameters(self.definition, wanted, parameters))

    def with_derived(self, kind: MapKind | str, operation: str, **parameters: Any) -> MapSet:
        """Derive a map with a named operation.

        Parameters
        ----------
        kind : MapKind or str, kind of the map
        operation : str, name of the operation; see `operations()`
        parameters : parameters of the operation by name

        Raises
        ------
        PlanError : if the operation is unknown
        ParameterError : if a parameter is unknown or out of range
        """
        wanted, found = kind_of(kind), get_operation(operation)
        made = self.definition.with_map(wanted, Derived(operation=found.name))
        return self._with(with_parameters(made, wanted, parameters))

    def with_value(self, kind: MapKind | str, *value: float) -> MapSet:
        """Replace a map by a constant.

        Parameters
        ----------
        kind : MapKind or str, kind of the map
        value : float, a number, or linear red, green and blue; otherwise raises ParameterError
        """
        return self._with(self.definition.with_map(*constant_of(kind, value)))

    def with_recipe(self, recipe: Recipe | Path | str) -> MapSet:
        """Apply a recipe. Parts that don't apply are noted.

        Parameters
        ----------
        recipe : Recipe, Path or str, a recipe, or an exported recipe file

        Raises
        ------
        RecipeError : if the file can't be read or isn't a recipe
        """
        read = recipe if isinstance(recipe, Recipe) else documents.recipe(Path(recipe))
        applied = apply_recipe(read, self.definition, known_sources=())
        notes = [Note(f"recipe, {kind}: {reason}") for kind, reason in applied.kept.items()]
        return self._with(applied.texture_set, *notes)

    def prepared(self, preparation: Preparation | Path | str) -> MapSet:
        """Prepare the pictures: frame, blemishes, delighting, tiling, size.

        Parameters
        ----------
        preparation : Preparation, Path or str, a preparation, its JSON file, or a manifest

        Raises
        ------
        RecipeError : if the file can't be read or isn't a preparation
        """
        given = preparation
        read = given if isinstance(given, Preparation) else documents.preparation(Path(given))
        return self._with(self.definition.model_copy(update={"prepare": read}))

    def for_model(
        self,
        model: Path | str,
        *,
        material: str | None = None,
        uv_set: int = 0,
        limits: ModelLimits | None = None,
    ) -> MapSet:
        """Pad the maps around the UV islands of a model.

        Parameters
        ----------
        model : Path or str, glTF, OBJ, PLY or STL file with UVs
        material : str, optional, whose UV islands. Default: named like the set, else all, noted
        uv_set : int, number of the UV set, from 0
        limits : ModelLimits, optional, largest size of the model

        Raises
        ------
        MeshError : if the model can't be read or has no such material or UV set
        """
        coverage, notes = attaching.coverage_of(
            Path(model), self.definition, material, uv_set, limits
        )
        return replace(self, coverage=coverage, notes=(*self.notes, *notes))

    def plan(self, target: TargetPreset | Path | str, longer_side: int | None = None) -> ExportPlan:
        """Plan the files of a target without computing or writing anything.

        Parameters
        ----------
        target : TargetPreset, Path or str, a target, a built-in target's id, or a JSON file
        longer_side : int, optional, texels of the longer side. Default: as the target states

        Raises
        ------
        UnknownTargetError : if there is no target with this id
        MissingMapError : if the target requires a map that the set doesn't contain
        NamePatternError : if two files would have the same name
        """
        preset = documents.target(target)
        return plan_export(
            preset, self.definition, self.sources.sizes, longer_side=longer_side,
            coverage=self.coverage,
        )  # fmt: skip

    def deliver(
        self,
        target: TargetPreset | ExportPlan | Path | str,
        folder: Path | str,
        longer_side: int | None = None,
        *,
        cache: Cache | None = None,
        on_progress: Callable[[float, str], None] | None = None,
    ) -> Delivered:
        """Compute, pack and write the files of a target, then reopen and verify each of them.

        The folder is replaced atomically: after an error, it is unchanged.

        Parameters
        ----------
        target : TargetPreset, ExportPlan, Path or str, a target as in `plan`, or a plan
        folder : Path or str, output folder. Earlier deliveries are replaced, other files kept
        longer_side : int, optional, texels of the longer side. Default: as the target states
        cache : Cache, optional, keeps maps that further targets use
        on_progress : callable, optional, called with the completed share in [0, 1] and the step

        Returns
        -------
        Delivered, the manifest and the numbers of written and unchanged files

        Raises
        ------
        ForeignFileError : if another program's file has the name of an output file
        DeliveryError : if a file doesn't contain the planned codes after writing
        MissingMapError, NamePatternError, UnknownTargetError : see `plan`
        """
        given = target if isinstance(target, ExportPlan) else self.plan(target, longer_side)
        return deliver(
            given, Path(folder), sizes=self.sources.sizes, load_source=self.sources.load,
            token=documents.token(), cache=cache, on_progress=on_progress,
        )  # fmt: skip

    def _with(self, definition: SetDefinition, *notes: Note) -> MapSet:
        return replace(self, definition=definition, notes=(*self.notes, *notes))
