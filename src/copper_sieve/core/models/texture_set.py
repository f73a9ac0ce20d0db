"""A texture set as data: its surface and the source of each map."""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Annotated, ClassVar, Literal

from pydantic import AfterValidator, Field, field_validator, model_validator

from copper_sieve.core.errors import ParameterError
from copper_sieve.core.image.encoding import Curve
from copper_sieve.core.image.map_kind import MapKind, Meaning, NormalY
from copper_sieve.core.image.meaning import can_be_read_as
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.image.wrap import WrapSpec, as_wrap
from copper_sieve.core.models.base import Model
from copper_sieve.core.models.light_captures import CapturesSpec
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.origin import Origin
from copper_sieve.core.models.preparation import FrameSpec, Preparation
from copper_sieve.core.models.relief import RELIEF, STEEPEST_RELIEF
from copper_sieve.core.operations import Operation, SurfaceContext, default_operation, get_operation
from copper_sieve.core.operations.former_names import (
    current_inputs,
    current_operation,
    current_parameters,
)

LONGEST_NAME = 100
_Sha256 = Annotated[str, Field(pattern="^[0-9a-f]{64}$")]
NAME_RULE = rf"^[A-Za-z0-9][A-Za-z0-9_.\-]{{0,{LONGEST_NAME - 1}}}$"


class SurfaceSpec(Model):
    """Physical properties of a set; see `operations.SurfaceContext`.

    In a set the width is that of the imported reference map; `graph.geometry.geometry_of` returns
    the prepared one.
    """

    tile_size: float = Field(
        default=1.0,
        gt=0,
        le=1000,
        description="width in meters of the reference map as imported, or of one of its tiles",
    )
    depth: float | None = Field(
        default=None, ge=0, le=100,
        description=(
            "meters between height 0 and 1; null: from the imported normal map, or else from "
            "the mean slope"
        ),
    )  # fmt: skip
    relief: float = Field(
        default=RELIEF, ge=0, le=STEEPEST_RELIEF,
        description="mean slope in degrees where nothing else determines the depth",
    )  # fmt: skip
    wrap: WrapSpec = Field(
        default=False, description="tiling: both directions (true), none (false), across or down"
    )

    def surface(self) -> SurfaceContext:
        """Return the surface as an input of the operations."""
        relief = self.relief if self.depth is None else None
        return SurfaceContext(self.tile_size, self.depth or 0.0, as_wrap(self.wrap), relief)


class Imported(Model):
    """An imported map: a file or some of its channels, by the SHA-256 of the file.

    A set with tiles may have a file per tile; then `source` is the first one's.
    """

    how: Literal["imported"] = "imported"
    source: _Sha256
    tiles: dict[int, _Sha256] = Field(
        default_factory=dict,
        description=(
            "file of each tile by its number (1001 is the first, numbers increase to the right, "
            "tens upward); empty: one file for every tile"
        ),
        exclude_if=lambda tiles: not tiles,  # keys of contents are older than it
    )  # fmt: skip
    channels: str = Field(
        default="RGB",
        pattern="^[RGBA]{1,3}$",
        description=(
            "file channels in the order of the map; normals use x, y and z, or x and y, from "
            "which z is computed"
        ),
    )
    encoding: Encoding = Encoding.SRGB
    normal_y: NormalY = NormalY.UP
    curve: Curve = Field(
        default="none",
        description=(
            "for normals and data: the sRGB curve applied by mistake, which is undone on "
            "reading; encoded made values lighter, decoded darker"
        ),
    )

    @field_validator("channels")
    @classmethod
    def _each_once(cls, channels: str) -> str:
        if len(set(channels)) != len(channels):
            raise ValueError("each channel may appear only once")
        return channels

    @model_validator(mode="after")
    def _first_tile(self) -> Imported:
        if self.tiles and self.source != self.tiles[min(self.tiles)]:
            raise ValueError("the source of a map with tiles must be that of its first tile")
        return self

    @property
    def files(self) -> tuple[str, ...]:
        """SHA-256 of every file."""
        return tuple(self.tiles.values()) or (self.source,)

    def on_tiles(self, tiles: Mapping[int, str]) -> Imported:
        """Return the same map with one file per tile."""
        ordered = dict(sorted(tiles.items()))
        return self.model_copy(update={"tiles": ordered, "source": next(iter(ordered.values()))})


class FromMap(Model):
    """Content of an operation's input: a map of the same set."""

    how: Literal["map"] = "map"
    kind: MapKind


PartName = Literal["below", "above"]


class FromBlendedSet(Model):
    """Content of an operation's input: a map of one of the blended sets."""

    how: Literal["part"] = "part"
    part: PartName
    kind: MapKind


Filling = Annotated[Imported | FromMap | FromBlendedSet, Field(discriminator="how")]


class Derived(Model):
    """A map computed by an operation from other maps of the set.

    `slots` defines the operation's slots by name: a picture, a map of the set, or a map of a
    blended set.
    """

    how: Literal["derived"] = "derived"
    operation: Annotated[str, AfterValidator(current_operation)]
    parameters: Annotated[dict[str, float | bool | str], AfterValidator(current_parameters)] = (
        Field(default_factory=dict)
    )
    slots: Annotated[dict[str, Filling], AfterValidator(current_inputs)] = Field(
        default_factory=dict
    )


class Constant(Model):
    """A constant map: one number, or three for a color (linear light) or a vector."""

    how: Literal["constant"] = "constant"
    value: tuple[float, ...] = Field(min_length=1, max_length=3)

    @field_validator("value")
    @classmethod
    def _finite(cls, value: tuple[float, ...]) -> tuple[float, ...]:
        if not all(math.isfinite(v) and -1 <= v <= 1e4 for v in value):
            raise ValueError("the values must be finite numbers")
        return value


MapDefinition = Annotated[Imported | Derived | Constant, Field(discriminator="how")]


class SetDefinition(Model):
    """One material: its surface and its maps, in the order in which they were added."""

    former_names: ClassVar = {"shots": "captures"}

    name: str = Field(pattern=NAME_RULE)
    surface: SurfaceSpec = SurfaceSpec()
    prepare: Preparation = Field(default=Preparation(), description="how its pictures are prepared")
    maps: dict[MapKind, MapDefinition]
    shelf: dict[MapKind, tuple[MapDefinition, ...]] = Field(
        default_factory=dict,
        description="alternative sources of a map, with their settings",
    )
    origin: Origin | None = Field(default=None, description="the source card of its import")
    parts: dict[PartName, BlendedSet] = Field(
        default_factory=dict, description="snapshots of the two sets that this one blends"
    )
    model: ModelLink | None = Field(
        default=None, description="the linked model",
        exclude_if=lambda link: link is None,  # so that older definitions keep their meaning
    )  # fmt: skip
    captures: CapturesSpec | None = Field(
        default=None, description="the light captures that the set is measured from",
        exclude_if=lambda captures: captures is None,  # so that older definitions read as written
    )  # fmt: skip

    def checked(self) -> SetDefinition:
        """Return the set with all parameters checked.

        Raises
        ------
        ParameterError, PlanError
        """
        for kind, definition in self.maps.items():
            if isinstance(definition, Derived):
                found = get_operation(definition.operation, kind)
                found.resolve(definition.parameters)
                _check_slots(found, definition)
                self._check_parts(definition)
            elif isinstance(definition, Constant):
                wanted = len(kind.facts.components)
                if len(definition.value) != wanted:
                    raise ParameterError(f"a constant {kind} takes {wanted} number(s)")
            else:
                _check_channels(kind, definition)
        self._check_tiles()
        return self

    @property
    def sheet(self) -> TileLayout | None:
        """Return the layout of the UV tiles; None without tiles. A blend has that of its lower set.

        Raises
        ------
        ParameterError : if the tile numbers are invalid or too far apart
        """
        pictures = [one for way in self.maps.values() for one in imported_in(way)]
        numbers = {number for one in pictures for number in one.tiles}
        if numbers:
            return TileLayout.of(numbers)
        below = self.parts.get("below")
        return below.texture_set.sheet if below else None

    def _check_tiles(self) -> None:
        prepare = self.prepare
        if self.sheet and (prepare.frame != FrameSpec() or prepare.seams or prepare.size):
            raise ParameterError(
                f"{self.name} has tiles, which must fit each other and the model's UVs, so "
                "they can't be cropped, rotated, resized or made tileable. Undo these steps"
            )

    def _check_parts(self, definition: Derived) -> None:
        for name, filling in definition.slots.items():
            if isinstance(filling, FromBlendedSet) and filling.part not in self.parts:
                raise ParameterError(
                    f"{definition.operation}: {name} is a map of the set {filling.part}, but "
                    "this set isn't a blend. Choose another map"
                )

    def sources(self) -> set[str]:
        """Return the SHA-256 of every file of the set, including alternatives and models."""
        shelved = [d for ways in self.shelf.values() for d in ways]
        own = {f for d in (*self.maps.values(), *shelved) for p in imported_in(d) for f in p.files}
        own |= self.captures.sources() if self.captures else set()
        return own.union(self.tied(), *(part.texture_set.sources() for part in self.parts.values()))

    def tied(self) -> set[str]:
        """Return the SHA-256 of every model file of the set."""
        own = self.model.sources() if self.model else set()
        return own.union(*(part.texture_set.tied() for part in self.parts.values()))

    def with_map(self, kind: MapKind, definition: Imported | Derived | Constant) -> SetDefinition:
        """Return a copy with one map added or replaced."""
        return self.model_copy(update={"maps": {**self.maps, kind: definition}})


class BlendedSet(Model):
    """One of two blended sets, at the time of blending.

    repeat : number of repetitions across the blend
    repeat_down : repetitions down; None: as across
    """

    texture_set: SetDefinition
    repeat: int = Field(default=1, ge=1, le=160)
    repeat_down: int | None = Field(
        default=None, ge=1, le=160,
        exclude_if=lambda down: down is None,  # so that older definitions keep their meaning
    )  # fmt: skip


SetDefinition.model_rebuild()


def is_measured(definition: Imported | Derived | Constant | None) -> bool:
    """Return True if a map is measured from light captures."""
    if not isinstance(definition, Derived):
        return False
    return get_operation(definition.operation).takes_from == "captures"


def imported_in(definition: Imported | Derived | Constant) -> list[Imported]:
    """Return the pictures that a map is made from directly: itself, or those in its inputs."""
    if isinstance(definition, Imported):
        return [definition]
    if isinstance(definition, Derived):
        return [one for one in definition.slots.values() if isinstance(one, Imported)]
    return []


def _check_channels(kind: MapKind, picture: Imported) -> None:
    """Check the channels: one or all three for colors and data; normals in any order."""
    if kind.facts.meaning is Meaning.NORMAL:
        if len(picture.channels) == 1:
            raise ParameterError(f"{kind} is read from two or three channels, starting with x")
    elif len(picture.channels) > 1 and picture.channels != "RGB":
        raise ParameterError(f"{kind} is read from one channel or from RGB")


def _check_slots(found: Operation, definition: Derived) -> None:
    for name, filling in definition.slots.items():
        slot = found.slot(name)
        if isinstance(filling, Imported):
            _check_channels(slot.takes, filling)
        if isinstance(filling, FromMap | FromBlendedSet) and not can_be_read_as(
            filling.kind.facts.meaning, slot.takes.facts.meaning
        ):
            raise ParameterError(
                f"{found.name}: {filling.kind} can't be used as {slot.label.lower()}, which "
                f"requires {slot.takes.facts.meaning}"
            )


_Sources = tuple[tuple[MapKind, ...], ...]
_SPEC_GLOSS = (MapKind.DIFFUSE, MapKind.SPECULAR_COLOR)
_METAL_ROUGH = (MapKind.BASE_COLOR, MapKind.METALLIC)
# Default maps of a new set, in order of derivation, with their possible inputs.
_USUAL: tuple[tuple[MapKind, _Sources], ...] = (
    (MapKind.BASE_COLOR, (_SPEC_GLOSS,)),
    (MapKind.HEIGHT, ((MapKind.NORMAL,), (MapKind.BASE_COLOR,))),
    (MapKind.NORMAL, ((MapKind.HEIGHT,),)),
    (MapKind.AMBIENT_OCCLUSION, ((MapKind.HEIGHT,),)),
    (
        MapKind.ROUGHNESS,
        ((MapKind.GLOSSINESS,), (MapKind.BASE_COLOR, MapKind.HEIGHT), (MapKind.BASE_COLOR,)),
    ),
    (MapKind.METALLIC, (_SPEC_GLOSS,)),
)
# Maps derived when a target needs them.
_WHEN_ASKED: tuple[tuple[MapKind, _Sources], ...] = (
    (MapKind.DIFFUSE, (_METAL_ROUGH,)),
    (MapKind.SPECULAR_COLOR, (_METAL_ROUGH,)),
    (MapKind.GLOSSINESS, ((MapKind.ROUGHNESS,),)),
    (MapKind.F0, ((MapKind.SPECULAR_LEVEL,),)),
    (MapKind.SPECULAR_LEVEL, ((MapKind.F0,),)),
)


def derive_missing(maps: Mapping[MapKind, MapDefinition], kind: MapKind) -> Derived | None:
    """Return the standard derivation of a map from the existing maps, or None."""
    for sources in dict((*_USUAL, *_WHEN_ASKED)).get(kind, ()):
        found = default_operation(kind, *sources)
        if found and all(source in maps for source in sources):
            return Derived(operation=found.name)
    return None


def compose(
    name: str,
    imported: Mapping[MapKind, Imported | Derived],
    surface: SurfaceSpec | None = None,
) -> SetDefinition:
    """Return a complete set: missing maps are derived by default, metallic is constant 0.

    Parameters
    ----------
    name : of the set
    imported : imported or measured maps
    surface : None: default

    Returns
    -------
    SetDefinition
    """
    order = [kind for kind, _ in _USUAL]
    maps: dict[MapKind, MapDefinition] = dict(imported)
    for kind in order:
        if kind in maps:
            continue
        if derived := derive_missing(maps, kind):
            maps[kind] = derived
        elif kind is MapKind.METALLIC:
            maps[kind] = Constant(value=(0.0,))
    # In order of derivation: imported maps first, further maps last.
    usual = [k for k in order if k in imported] + [k for k in order if k not in imported]
    shown = [k for k in usual if k in maps] + [k for k in maps if k not in order]
    return SetDefinition(
        name=name, surface=surface or SurfaceSpec(), maps={k: maps[k] for k in shown}
    )
