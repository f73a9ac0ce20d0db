"""Maps as each file of a target contains them: padded, resized, with mip levels."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Mapping
from pathlib import Path

import numpy as np

from copper_sieve.core.codecs import CODECS, FORMATS, reopen, write_picture
from copper_sieve.core.export.channels import Conventions, pack_codes
from copper_sieve.core.export.export_plan import ExportPlan, PackedFile
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Sizes
from copper_sieve.core.graph.node import Plan
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.padding import Index, Mask, gather, nearest_covered_texels
from copper_sieve.core.image.raster import Codes, Picture, Raster
from copper_sieve.core.image.reduction import mip_chain, reduce_picture
from copper_sieve.core.image.wrap import as_wrap
from copper_sieve.core.targets.target_preset import FileSpec

Maps = Mapping[MapKind, Raster]


def graph_of(export: ExportPlan, sizes: Sizes, wanted: Iterable[MapKind] | None = None) -> Plan:
    """Return the operations required for the files of a target, at the size of the largest file.

    Parameters
    ----------
    export : plan of the files
    sizes : width and height of each source in texels, by SHA-256
    wanted : only these maps; None: all

    Returns
    -------
    Plan
    """
    return plan(
        export.texture_set,
        sizes,
        wanted=export.wanted if wanted is None else wanted,
        longer_side=export.computed,
        reduction=export.reduction,
        geometry=export.geometry,
    )


class FileMaps:
    """Evaluated maps of a target, and the codes of its files.

    For sets with tiles, the maps of one tile are kept at a time: request its files together.
    """

    def __init__(self, export: ExportPlan, rasters: Maps) -> None:
        self._packing = export
        self._conventions = Conventions.of(export)
        self._sizes: dict[tuple[int, int], Maps] = {}
        self._chains: dict[tuple[int, int], list[dict[MapKind, Raster]]] = {}
        self._rasters, self._tile = rasters, export.files[0].tile if export.files else None
        with computing:
            width, height = next(iter(rasters.values())).size if rasters else (1, 1)
            islands = export.coverage
            self._covered = islands.at(width, height) if islands else None
            self._maps = self._of_tile()

    def _turn_to(self, tile: int | None) -> None:
        if tile != self._tile:
            self._tile = tile
            self._sizes, self._chains = {}, {}
            self._maps = self._of_tile()

    def _of_tile(self) -> Maps:
        sheet = self._packing.geometry.sheet
        if self._tile is None or sheet is None:
            return self._padded(self._rasters, self._covered)
        cut = {
            kind: Raster(sheet.cut(one.pixels, self._tile), one.meaning)
            for kind, one in self._rasters.items()
        }
        box = sheet.box(self._tile, next(iter(self._rasters.values())).size)
        return self._padded(cut, None if self._covered is None else self._covered[box])

    def _padded(self, rasters: Maps, islands: Mask | None) -> Maps:
        """Pad around the UV islands and the mask; the mask itself only around islands."""
        padding = self._packing.preset.padding
        mask = rasters.get(padding.mask)
        if padding.mode == "none" or (mask is None and islands is None):
            return rasters
        width, height = next(iter(rasters.values())).size
        covered = np.ones((height, width), dtype=np.bool_) if islands is None else islands.copy()
        grown = dict(rasters)
        if mask is not None:
            if islands is not None:
                grown[padding.mask] = self._grown(mask, self._nearest(covered))
            covered &= mask.pixels[:, :, 0] > padding.above
        found = self._nearest(covered)
        for kind, one in rasters.items():
            if one is not mask:
                grown[kind] = self._grown(one, found)
        return grown

    def _nearest(self, covered: Mask) -> Index:
        """Return the nearest covered texels; UV islands end at the border, masks may wrap."""
        padding = self._packing.preset.padding
        alone = self._packing.coverage or self._packing.geometry.sheet
        wrap = False if alone else self._packing.texture_set.surface.wrap
        reach = padding.texels if padding.mode == "texels" else None
        return nearest_covered_texels(covered, reach=reach, wrap=as_wrap(wrap))

    @staticmethod
    def _grown(one: Raster, found: Index) -> Raster:
        return Raster(gather(one.pixels, found), one.meaning)

    def at(self, size: tuple[int, int]) -> Maps:
        """Return all maps at the size of a file."""
        with computing:
            return self._at(size)

    def _at(self, size: tuple[int, int]) -> Maps:
        if size not in self._sizes:
            same = all(one.size == size for one in self._maps.values())
            how = self._packing.reduction
            self._sizes[size] = self._maps if same else reduce_picture(self._maps, *size, how)
        return self._sizes[size]

    def picture(self, file: PackedFile) -> Picture:
        """Return the codes of a file."""
        with computing:
            self._turn_to(file.tile)
            return pack_codes(file, self._at(file.size), self._conventions)

    def mips(self, file: PackedFile) -> list[Codes]:
        """Return the codes of the mip levels after the first, largest first."""
        if not file.spec.mips:
            return []
        with computing:
            self._turn_to(file.tile)
            return self._mips(file)

    def _mips(self, file: PackedFile) -> list[Codes]:
        if file.size not in self._chains:
            maps = self._at(file.size)
            self._chains[file.size] = list(mip_chain(maps, self._packing.reduction))
        levels = []
        for maps in self._chains[file.size]:
            size = next(iter(maps.values())).size
            small = PackedFile(file.name, file.spec, file.slots, size)
            levels.append(pack_codes(small, maps, self._conventions).codes)
        return levels


def quantized_as_written(picture: Picture, spec: FileSpec) -> Picture:
    """Return the codes that a reader decodes from a file; unchanged for lossless formats."""
    known = FORMATS[spec.format]
    if not known.loses(spec.writing.compression):
        return picture
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"one{CODECS[spec.format].ending}"
        write_picture(path, picture, spec.writing)
        codes = reopen(path)[:, :, : picture.codes.shape[2]]
    return Picture(np.ascontiguousarray(codes), picture.channels, picture.encoding)
