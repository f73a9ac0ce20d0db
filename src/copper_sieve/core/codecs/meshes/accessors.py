"""Arrays of a glTF file: accessors with types, strides and sparse values."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.gltf_file import GltfFile

_TYPES = {5120: np.int8, 5121: np.uint8, 5122: np.int16, 5123: np.uint16, 5125: np.uint32,
          5126: np.float32}  # fmt: skip
_WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4}


def accessor(file: GltfFile, index: int) -> NDArray[Any]:
    """Return the numbers of an accessor (glTF 2.0, section 3.6.2).

    Parameters
    ----------
    file : glTF file
    index : of the accessor

    Returns
    -------
    (count, width); normalized integers are converted to float32

    Raises
    ------
    ValueError : if it exceeds its buffer
    KeyError, IndexError : if it refers to something that doesn't exist
    """
    found = stored(file, index)
    if file.document["accessors"][index].get("normalized") and found.dtype.kind in "iu":
        largest = (1 << (8 * found.dtype.itemsize - (found.dtype.kind == "i"))) - 1
        found = np.maximum(found.astype(np.float32) / np.float32(largest), -1)
    return found


def stored(file: GltfFile, index: int) -> NDArray[Any]:
    """Return the values in the data type of the file."""
    entry = file.document["accessors"][index]
    kind, width = np.dtype(_TYPES[entry["componentType"]]), _WIDTHS[entry["type"]]
    count = int(entry["count"])
    if count < 0:
        raise ValueError("a negative count")
    if "bufferView" in entry:
        found = _strided(file, entry["bufferView"], entry.get("byteOffset", 0), kind, count, width)
    else:
        _check_sparse(entry, count)
        found = np.zeros((count, width), dtype=kind)
    if "sparse" in entry:
        found = _with_sparse(file, entry["sparse"], found)
    return found


def _check_sparse(entry: dict[str, Any], count: int) -> None:
    """Check the size of an accessor without a view, whose zeros could otherwise fill the memory."""
    stated = int(entry.get("sparse", {}).get("count", 0))
    if count > 1_000_000 and stated * 100 < count:
        raise ValueError(f"{count} values without data")


def _strided(  # noqa: PLR0917
    file: GltfFile, view: int, offset: int, kind: np.dtype[Any], count: int, width: int
) -> NDArray[Any]:
    data = file.view(view)
    each = kind.itemsize * width
    stride = int(file.document["bufferViews"][view].get("byteStride", each))
    if offset < 0 or stride < each or (count and offset + stride * (count - 1) + each > len(data)):
        raise ValueError("an accessor exceeds its buffer")
    return np.ndarray((count, width), kind, data, offset, (stride, kind.itemsize)).copy()


def _with_sparse(file: GltfFile, sparse: dict[str, Any], dense: NDArray[Any]) -> NDArray[Any]:
    count, places, values = int(sparse["count"]), sparse["indices"], sparse["values"]
    kind = np.dtype(_TYPES[places["componentType"]])
    at = _strided(file, places["bufferView"], places.get("byteOffset", 0), kind, count, 1)[:, 0]
    put = _strided(file, values["bufferView"], values.get("byteOffset", 0), dense.dtype, count,
                   dense.shape[1])  # fmt: skip
    if len(at) and int(at.max()) >= len(dense):
        raise ValueError("a sparse index exceeds its accessor")
    dense[at] = put
    return dense
