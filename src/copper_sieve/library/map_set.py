"""A set of maps of one surface, made of files: looked at, changed, delivered."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from pathlib import Path
from typing import Any

from copper_sieve.core.codecs import Limits
from copper_sieve.core.codecs.meshes.limits import ModelLimits
from copper_sieve.core.codecs.meshes.reading import read_model
from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.export.deliver import Delivered, deliver
from copper_sieve.core.export.export_plan import ExportPlan
from copper_sieve.core.export.planning import plan_export
from copper_sieve.core.graph.evaluate import Cache, evaluate
from copper_sieve.core.graph.geometry import geometry_of
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture, Raster
from copper_sieve.core.measuring.light_directions import Lamp
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.naming import slug
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.recipe import Recipe, apply_recipe
from copper_sieve.core.models.source_card import SourceCard
from copper_sieve.core.models.texture_set import Constant, Derived, SetDefinition, compose
from copper_sieve.core.operations import get_operation
from copper_sieve.core.targets.target_preset import TargetPreset
from copper_sieve.library import detection, documents, importing
from copper_sieve.library.deriving import (
    kind_of,
    raster_to_picture,
    with_parameters,
    with_surface,
)
from copper_sieve.library.importing import WrapChoice
from copper_sieve.library.light_captures import measured_set
from copper_sieve.library.sources import LocalSources, Note


@dataclass(frozen=True)
class MapSet:
    """Maps of one surface. Changes return a new set.

    definition : source of each map; see `SetDefinition`
    files : file of each imported map
    notes : guesses, measurements, and skipped parts of recipes
    coverage : UV islands of its model
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
        """A set of a photo of a surface, and of further maps that their names tell apart.

        What is missing is derived: a set of one photo has a height, normals, an occlusion, a
        roughness and a metallic. Files of tiles ("wall_color.1001.png") are recognized.

        name : of the set; default: what the photo's name leaves
        normal_y : direction of green of normal maps; default: as measured, and noted
        wrap : which borders meet: True, False, "across", "down"; default: as measured, and noted
        relief : degrees of mean tilt where nothing tells the depth, or the word for an amount
        Raises PictureError, PlanError, ParameterError.
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
        """A set of files whose kinds are stated, the first of which gives it its name.

        For the rest see `from_files`. Raises PictureError, PlanError, ParameterError.
        """
        sources = LocalSources(limits)
        files = {kind_of(kind): Path(path) for kind, path in maps.items()}
        stated = NormalY(normal_y) if normal_y else None
        imported = importing.import_files(files, sources, stated)
        facts = [(kind, sources.facts[one.source]) for kind, one in imported.items()]
        surface, notes = importing.surface_of(facts, wrap=wrap, relief=relief)
        first = next(iter(files.values()))
        own_name = slug(name or importing.set_name_of(first))
        definition = compose(own_name, imported, surface)
        return cls(definition, sources, files, (*sources.notes, *notes))

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
        """Create a set from files whose types are detected from names and content, including packed
        files.

        A single undetermined file is treated as a photo.
        cards : source cards; the one that matches the names determines the types
        See `from_files`. Raises PictureError, PlanError, ParameterError.
        """
        sources = LocalSources(limits)
        stated = NormalY(normal_y) if normal_y else None
        found = detection.detect_files([Path(one) for one in files], sources, cards, stated)
        facts = [(kind, sources.facts[one.source]) for kind, one in found.imported.items()]
        given = relief if relief is not None or found.card is None else found.card.relief
        surface, notes = importing.surface_of(facts, wrap=wrap, relief=given)
        definition = compose(slug(name or found.name), found.imported, surface)
        if found.card:
            origin = Origin(
                card=found.card.name, licence=found.card.licence, where=found.card.where
            )
            definition = definition.model_copy(update={"origin": origin})
        return cls(definition, sources, found.files, (*found.notes, *sources.notes, *notes))

    @classmethod
    def from_shots(
        cls,
        pictures: Sequence[Path | str],
        lamps: Sequence[Lamp] = (),
        *,
        name: str | None = None,
        limits: Limits | None = None,
        **how: Any,
    ) -> MapSet:
        """A set that is measured from pictures of one surface under several lights.

        lamps : where each came from; none: by a ball that all pictures show, else guessed
        name : default: what the files' names share
        how : ball, still, white, paper; see `measure`
        Raises PictureError, MeasureError.
        """
        sources = LocalSources(limits)
        paths = [Path(one) for one in pictures]
        definition, notes = measured_set(paths, sources, lamps=lamps, name=name, **how)
        return cls(definition, sources, {}, (*notes, *sources.notes))

    @property
    def name(self) -> str:
        """As its files and folders are called."""
        return self.definition.name

    @property
    def kinds(self) -> list[MapKind]:
        """The maps that it has."""
        return list(self.definition.maps)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height in texels, after preparation."""
        return geometry_of(self.definition, self.sources.sizes).size

    def map(self, kind: MapKind | str, longer_side: int | None = None) -> Raster:
        """Compute one map: its `pixels` are (H, W, C) float32, row 0 at the top.

        Colors are in linear light, data is from 0 to 1, normals are unit vectors with y up.
        longer_side : texels; default: as the set
        Raises MissingMapError, PlanError.
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
        """Return one map as file codes: colors in sRGB, normals encoded with the green direction
        `normal_y`.

        bits : 8 or 16, or 32 for floating point in linear light
        """
        return raster_to_picture(self.map(kind, longer_side), bits, bits == 32, NormalY(normal_y))

    def with_surface(self, **given: Any) -> MapSet:
        """With its surface as stated: tile_size and depth in metres, relief in degrees, wrap.

        Raises ParameterError.
        """
        surface = with_surface(self.definition.surface, given)
        return self._with(self.definition.model_copy(update={"surface": surface}))

    def with_parameters(self, kind: MapKind | str, **parameters: Any) -> MapSet:
        """With parameters of the operation that makes a map. Raises ParameterError."""
        wanted = kind_of(kind)
        if wanted not in self.definition.maps:
            raise MissingMapError(f"{self.name} has no {wanted} map. Derive it first")
        return self._with(with_parameters(self.definition, wanted, parameters))

    def with_derived(self, kind: MapKind | str, operation: str, **parameters: Any) -> MapSet:
        """With a map made by an operation of that name. Raises ParameterError, PlanError."""
        wanted, found = kind_of(kind), get_operation(operation)
        made = self.definition.with_map(wanted, Derived(operation=found.name))
        return self._with(with_parameters(made, wanted, parameters))

    def with_value(self, kind: MapKind | str, *value: float) -> MapSet:
        """With a map of one value: a number, or red, green and blue in linear light."""
        return self._with(self.definition.with_map(kind_of(kind), Constant(value=value)))

    def with_recipe(self, recipe: Recipe | Path | str) -> MapSet:
        """Apply a recipe; parts that don't apply are noted.

        recipe : a recipe, or its JSON file. Raises RecipeError.
        """
        read = recipe if isinstance(recipe, Recipe) else documents.recipe(Path(recipe))
        applied = apply_recipe(read, self.definition, known_sources=())
        notes = [Note(f"recipe, {kind}: {reason}") for kind, reason in applied.kept.items()]
        return self._with(applied.texture_set, *notes)

    def prepared(self, preparation: Preparation | Path | str) -> MapSet:
        """Prepare the pictures: frame, blemishes, delighting, tiling, size.

        preparation : a preparation, its JSON file, or a delivery's manifest
        Raises RecipeError.
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
        """Pad around the UV islands of a model.

        material : whose UV islands; default: the one with the set's name, else all, with a note
        Raises MeshError.
        """
        path = Path(model)
        mesh = read_model(path, limits)
        chosen, notes = material, []
        if material is None and len(mesh.material_names) > 1:
            chosen = next((one for one in mesh.material_names if slug(one) == self.name), None)
            count, whose = len(mesh.material_names), chosen or "all of them"
            said = f"{path.name} has {count} materials: padded by the UV islands of {whose}"
            notes = [Note(said, "material")]
        label = path.name if chosen is None else f"{path.name}, {chosen}"
        coverage = Coverage.of(mesh, label, chosen, uv_set, self.definition.sheet)
        return replace(self, coverage=coverage, notes=(*self.notes, *notes))

    def plan(self, target: TargetPreset | Path | str, longer_side: int | None = None) -> ExportPlan:
        """Plan the files of a target without computing or writing anything.

        target : id of a built-in target, a target, or its JSON file
        longer_side : texels, overrides the target
        Raises MissingMapError, NamePatternError, UnknownTargetError.
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
        """Compute, pack, write, reopen and compare every channel, and put the folder in place.

        folder : replaced as a whole where an earlier delivery lies there; files of others stay
        cache : keeps maps that a further target may want as well
        Raises ForeignFileError, DeliveryError and what `plan` raises; then nothing has changed.
        """
        given = target if isinstance(target, ExportPlan) else self.plan(target, longer_side)
        return deliver(
            given, Path(folder), sizes=self.sources.sizes, load_source=self.sources.load,
            token=documents.token(), cache=cache, on_progress=on_progress,
        )  # fmt: skip

    def _with(self, definition: SetDefinition, *notes: Note) -> MapSet:
        return replace(self, definition=definition, notes=(*self.notes, *notes))
