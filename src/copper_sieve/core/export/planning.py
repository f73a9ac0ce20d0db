"""Plan the files of a target for a set, with messages."""

from __future__ import annotations

import re
from collections.abc import Iterable, Mapping, Set

from copper_sieve.core.codecs import CODECS, FORMATS
from copper_sieve.core.errors import MissingMapError
from copper_sieve.core.export.documents import maps_left_out, material_of, values_in_document
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.export.resolver import Resolver
from copper_sieve.core.graph.geometry import (
    Geometry,
    Size,
    Sizes,
    geometry_of,
    prepared_size,
    size_of,
)
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Encoding
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.mesh.coverage import Coverage
from copper_sieve.core.models.naming import check_distinct, check_name, expand, styled
from copper_sieve.core.models.slot import Slot
from copper_sieve.core.models.texture_set import (
    Constant,
    Derived,
    FromMap,
    Imported,
    SetDefinition,
    imported_in,
)
from copper_sieve.core.operations import get_operation
from copper_sieve.core.targets.target_preset import DocumentSpec, FileSpec, TargetPreset

_NAMES_TILES = ("materialx", "usda")  # documents that can reference all tiles together
_SHAPE = 0.02  # tolerance of the aspect ratio, for rounding to texels


def plan_export(
    preset: TargetPreset,
    texture_set: SetDefinition,
    sizes: Sizes,
    *,
    longer_side: int | None = None,
    project: str = "",
    delivery: int = 1,
    geometry: Geometry | None = None,
    coverage: Coverage | None = None,
    switched_off: Set[MapKind] = frozenset(),
) -> ExportPlan:
    """Plan the files of a target for a set, without computing anything.

    Parameters
    ----------
    preset : the target
    texture_set : the set
    sizes : width and height of each source in texels, by SHA-256
    longer_side : texels of the longer side; None: as the target states
    project : value of {project} in names
    delivery : value of {version} in names
    geometry : of the set, if known
    coverage : UV islands of a model, around which files are padded, by default to the border
    switched_off : maps whose files the user excluded, which cause no warning

    Raises
    ------
    MissingMapError : if the target requires a map that the set doesn't contain
    NamePatternError : if a name is invalid or not distinct
    """
    geometry = geometry or geometry_of(texture_set, sizes)
    if coverage is not None and preset.padding.mode == "none":
        padding = preset.padding.model_copy(update={"mode": "border"})
        preset = preset.model_copy(update={"padding": padding})
    rule = preset.size.side(max(geometry.tile))
    size = fit_size(*geometry.tile, rule if longer_side is None else longer_side)
    resolver = Resolver(prepared_size(texture_set, geometry), preset.dielectric_f0)
    if geometry.sheet:
        preset = _for_tiles(resolver, preset, texture_set, geometry.sheet)
    if preset.size.mode == "power_of_two" and (odd := [s for s in size if s & (s - 1)]):
        text = f"{odd[0]} texels isn't a power of two, because the set isn't square"
        resolver.warn("not_power_of_two", text)
    values = {"set": texture_set.name, "target": preset.id, "project": project,
              "version": f"{delivery:03d}", "tile": "1001"}  # fmt: skip
    files = _files_of(resolver, preset, size, values, geometry.sheet)
    values["size"] = str(max(size))
    documents = tuple(_document_name(document, preset, values) for document in preset.documents)
    check_distinct([file.name for file in files] + list(documents))
    _remark_on_size(resolver, texture_set, sizes, geometry, files)
    _remark_on_padding(resolver, preset, coverage)
    told = _remark_on_documents(resolver, preset, size, files, documents)
    _remark_on_left_out(resolver, texture_set, preset, files, switched_off | told)
    return ExportPlan(
        resolver.texture_set, geometry, preset, size, tuple(files), documents,
        tuple(resolver.remarks), coverage,
    )  # fmt: skip


def _for_tiles(
    resolver: Resolver, preset: TargetPreset, texture_set: SetDefinition, sheet: TileLayout
) -> TargetPreset:
    """Return the preset without documents that don't support tiles, with a remark."""
    kept = tuple(one for one in preset.documents if one.format in _NAMES_TILES)
    for one in preset.documents:
        if one not in kept:
            text = f"no {one.ending} document: {one.format} doesn't support tiles"
            resolver.warn(f"tiles:{one.format}", text)
    for kind, way in texture_set.maps.items():
        for picture in imported_in(way):
            lacks = [str(n) for n in sheet.numbers if picture.tiles and n not in picture.tiles]
            if lacks:
                title = kind.facts.title.lower()
                resolver.note(
                    "error",
                    f"{title} has no tile {_listed(lacks)}: filled with its neutral value",
                )
    return preset.model_copy(update={"documents": kept})


def _files_of(
    resolver: Resolver, preset: TargetPreset, size: Size, values: Mapping[str, str],
    sheet: TileLayout | None,
) -> list[PackedFile]:  # fmt: skip
    """Return every file with available maps, named. Raises MissingMapError if there is none."""
    files: list[PackedFile] = []
    gaps: list[str] = []
    for spec in preset.files:
        if missing := resolver.omitted(spec):
            title = missing.facts.title.lower()
            name = spec.suffix or spec.name
            gaps.append(title if name.replace("_", " ") == title else f"{name} ({title})")
            continue
        present = {letter: resolver.resolved(slot) for letter, slot in spec.channels.items()}
        slots: dict[str, Slot] = {c: slot for c, slot in present.items() if slot}
        file_size = fit_size(*size, spec.size.side(max(size)))
        maps = dict.fromkeys(kind.value for slot in slots.values() for kind in slot.maps)
        values = {**values, "suffix": spec.suffix, "depth": str(spec.bits), "map": "_".join(maps),
                  "size": str(max(file_size))}  # fmt: skip
        for tile in sheet.numbers if sheet else (None,):
            name, pattern = _names_of(spec, preset, values, tile)
            files.append(PackedFile(name, spec, slots, file_size, tile, pattern))
        _remark_on(resolver, spec, slots)
        _remark_on_encoding(resolver, spec, slots)
    if gaps:
        resolver.note("info", f"not written, because the set lacks the map: {', '.join(gaps)}")
    if not files:
        raise MissingMapError(
            f"{resolver.texture_set.name} has none of the maps that {preset.title} writes. "
            "Import or derive one"
        )
    return files


def _names_of(
    spec: FileSpec, preset: TargetPreset, values: Mapping[str, str], tile: int | None
) -> tuple[str, str | None]:
    """Return the name of a file, and the pattern for all tiles.

    The tile number is the last word unless the preset states its position.
    """

    def named(number: str) -> str:
        stem = styled(
            expand(spec.name, {**values, "tile": number}), preset.names.case, preset.names.separator
        )
        places = "{tile}" in spec.name
        ending = CODECS[spec.format].ending
        return f"{stem}{ending}" if places or tile is None else f"{stem}.{number}{ending}"

    if tile is None:
        return check_name(named("1001")), None
    name = check_name(named(str(tile)))
    return name, re.sub(r"(?i)<udim>", "<UDIM>", named("<UDIM>"))  # case-insensitive


def _remark_on(resolver: Resolver, spec: FileSpec, slots: dict[str, Slot]) -> None:
    """Warn about valid but unusual settings."""
    title = spec.suffix or spec.name
    if list(slots) == ["R", "G", "B"] and len({slot.words() for slot in slots.values()}) == 1:
        text = f"R, G and B of {title} are identical; a single channel is enough"
        resolver.warn(f"same_channels:{title}", text)
    normal = any(slot.map and slot.map.facts.meaning is Meaning.NORMAL for slot in slots.values())
    if normal and FORMATS[spec.format].loses(spec.writing.compression) and not spec.block:
        text = f"{title}: lossy compression distorts normals; use a lossless format"
        resolver.warn(f"lossy:{title}", text)
    if spec.block in ("bc1", "bc3") and normal:
        text = f"{title}: {spec.block} distorts normals; bc5 keeps x and y, bc7 all channels"
        resolver.warn(f"lossy:{title}", text)


def _remark_on_encoding(resolver: Resolver, spec: FileSpec, slots: dict[str, Slot]) -> None:
    """Report files whose encoding doesn't match their maps."""
    title = spec.suffix or spec.name
    colors: dict[str, None] = {}
    data: dict[str, None] = {}
    for letter, slot in slots.items():
        for kind in slot.maps if letter != "A" else ():
            is_color = kind.facts.meaning is Meaning.COLOR and slot.component != "l"
            (colors if is_color else data)[kind.facts.title.lower()] = None
    floating = spec.bits in FORMATS[spec.format].floating_bits
    if colors and spec.encoding is Encoding.LINEAR and not floating:
        resolver.note(
            "error",
            f"{title} is a data file but contains {_listed(colors)}; programs that read it "
            "as data show the color darker or banded. Set the file to sRGB",
        )
    if data and spec.encoding is Encoding.SRGB:
        resolver.note(
            "error",
            f"{title} is an sRGB file but contains {_listed(data)}; programs that read it as "
            "color change the values. Set the file to data",
        )


def _remark_on_size(
    resolver: Resolver,
    texture_set: SetDefinition,
    sizes: Sizes,
    geometry: Geometry,
    files: list[PackedFile],
) -> None:
    """Report enlarged maps, and maps with another aspect ratio."""
    largest, own = max(max(file.size) for file in files), max(geometry.tile)
    if largest > own:
        resolver.warn("enlarged", f"enlarged from the set's {own} to {largest} texels")
    sheet = geometry.sheet
    width, height = sheet.tile_size(geometry.source) if sheet else geometry.source
    for kind in dict.fromkeys(_written(files)):
        way = texture_set.maps.get(kind)
        if not isinstance(way, Imported):
            continue
        (across, down), title = size_of(way, sizes, None), kind.facts.title.lower()
        if abs(across * height / (down * width) - 1) > _SHAPE:
            resolver.warn(
                f"aspect:{kind}",
                f"{title} has another aspect ratio ({across} x {down}) and is stretched to "
                f"that of the set ({width} x {height})",
            )
        elif max(across, down) < min(largest, own):
            resolver.warn(
                f"enlarged:{kind}",
                f"{title} is enlarged from {max(across, down)} to {largest} texels",
            )


def _written(files: list[PackedFile]) -> list[MapKind]:
    return [kind for file in files for slot in file.slots.values() for kind in slot.maps]


def _remark_on_padding(resolver: Resolver, preset: TargetPreset, coverage: Coverage | None) -> None:
    mask = preset.padding.mask
    if preset.padding.mode == "none":
        return
    beyond = [f"the UV islands of {coverage.label}"] if coverage else []
    beyond += [f"the {mask.facts.title.lower()}"] if mask in resolver.texture_set.maps else []
    far = f"{preset.padding.texels} texels" if preset.padding.mode == "texels" else "to the border"
    if beyond:
        resolver.note("info", f"padded beyond {' and '.join(beyond)}, {far}")


def _remark_on_left_out(
    resolver: Resolver,
    texture_set: SetDefinition,
    preset: TargetPreset,
    files: list[PackedFile],
    switched_off: Set[MapKind],
) -> None:
    """Report maps of the set that no file contains, except for inputs of other maps."""
    written = set(_written(files))
    written |= {slot.times.map for file in files for slot in file.slots.values() if slot.times}
    behind = _inputs_of(resolver.texture_set, written)
    left = [kind for kind in texture_set.maps if kind not in written]
    if feeding := [kind for kind in left if kind in behind]:
        resolver.note("info", f"{_titles(feeding)}: used as input, not written as a file")
    expected = behind | switched_off | _other_workflow(written)
    plain = [kind for kind in left if kind not in expected and not _is_neutral(texture_set, kind)]
    if plain:
        cause = "no_channel:" + ",".join(sorted(plain))
        resolver.warn(cause, f"{preset.title} has no channel for {_titles(plain)}: not written")


def _other_workflow(written: set[MapKind]) -> set[MapKind]:
    """Return the maps that a target of this workflow never contains."""
    specular = {MapKind.DIFFUSE, MapKind.SPECULAR_COLOR, MapKind.GLOSSINESS}
    metallic = {MapKind.BASE_COLOR, MapKind.METALLIC, MapKind.ROUGHNESS}
    if written & {MapKind.SPECULAR_COLOR, MapKind.DIFFUSE}:
        return metallic
    return specular if written & {MapKind.BASE_COLOR, MapKind.METALLIC} else set()


def _inputs_of(texture_set: SetDefinition, kinds: set[MapKind]) -> set[MapKind]:
    """Return all maps that these are made of, directly or indirectly."""
    found: set[MapKind] = set()
    waiting = list(kinds)
    while waiting:
        way = texture_set.maps.get(waiting.pop())
        if not isinstance(way, Derived):
            continue
        fillings = [one.kind for one in way.slots.values() if isinstance(one, FromMap)]
        for kind in (*get_operation(way.operation).inputs, *fillings):
            if kind not in found:
                found.add(kind)
                waiting.append(kind)
    return found


def _remark_on_documents(
    resolver: Resolver,
    preset: TargetPreset,
    size: Size,
    files: list[PackedFile],
    documents: tuple[str, ...],
) -> set[MapKind]:
    """Report maps that a document can't refer to; return the maps that are values in documents."""
    if not documents:
        return set()
    values: dict[MapKind, None] = {}
    material = material_of(resolver.texture_set, preset, size, files)
    for name, document in zip(documents, preset.documents, strict=True):
        if kinds := maps_left_out(material, document, files):
            titles = " and ".join(kind.facts.title.lower() for kind in kinds)
            text = f"{name} doesn't refer to {titles}, which it needs in other channels"
            resolver.warn(f"document:{document.format}:{','.join(kinds)}", text)
        there = values_in_document(material, document)
        values |= dict.fromkeys(k for k in there if not _is_neutral(resolver.texture_set, k))
    if values:
        resolver.note("info", f"{_titles(list(values))}: a value in the documents, not a file")
    return set(values)


def _is_neutral(texture_set: SetDefinition, kind: MapKind) -> bool:
    way = texture_set.maps[kind]
    return isinstance(way, Constant) and way.value == kind.facts.neutral


def _titles(kinds: list[MapKind]) -> str:
    return _listed({kind.facts.title.lower(): None for kind in kinds})


def _listed(words: Iterable[str]) -> str:
    *first, last = words
    return f"{', '.join(first)} and {last}" if first else last


def _document_name(document: DocumentSpec, preset: TargetPreset, values: Mapping[str, str]) -> str:
    stem = styled(expand(document.name, values), preset.names.case, preset.names.separator)
    return check_name(stem + document.ending)
