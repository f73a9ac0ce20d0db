"""Parses a file name: set, map type, order of packed channels, green direction, size, tile.

Names are parsed from the end: words without meaning for the map (size, version, tile, depth, color
space) are skipped, then the longest known spelling (`KindFacts.spellings`) wins. Short and common
words have low confidence, since they may be part of the material's name.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from itertools import permutations

from copper_sieve.core.image.map_kind import MapKind, NormalY

_SURE, _USUAL, _SHORT, _WEAK = _LEVELS = 0.97, 0.9, 0.65, 0.5

_KINDS = {
    word: (kind, confidence)
    for kind in MapKind
    for confidence, words in zip(_LEVELS, kind.facts.spellings, strict=False)
    for word in words.split()
}
_LONGEST = 4  # words in the longest spelling

Packed = tuple[MapKind | None, ...]


def _packed_by_extensions() -> dict[str, Packed]:
    """Return the channels of two maps of glTF extensions by names as in `gltf_textures`."""
    found = {}
    for pair in permutations((kind for kind in MapKind if kind.facts.gltf), 2):
        held = [(letter, kind) for kind in pair for letter in _letters(kind)]
        by_letter = dict(held)
        if len(by_letter) == len(held) and set(by_letter.values()) == set(pair):
            last = max("RGBA".index(letter) for letter in by_letter)
            channels = tuple(by_letter.get(letter) for letter in "RGBA"[: last + 1])
            found["".join(pair).replace("_", "")] = channels
    return found


def _letters(kind: MapKind) -> str:
    return kind.facts.gltf.letters if kind.facts.gltf else ""


_O, _R, _M = MapKind.AMBIENT_OCCLUSION, MapKind.ROUGHNESS, MapKind.METALLIC
_LETTERS = {
    "o": _O, "a": _O, "r": _R, "m": _M, "g": MapKind.GLOSSINESS, "s": MapKind.GLOSSINESS,
    "h": MapKind.HEIGHT, "d": MapKind.HEIGHT, "e": MapKind.EMISSIVE_STRENGTH,
}  # fmt: skip
_PACKED_WORDS: dict[str, Packed] = {
    "metallicroughness": (None, _R, _M),
    "metalroughness": (None, _R, _M),
    "metalrough": (None, _R, _M),
    "metallicsmoothness": (_M, None, None, MapKind.GLOSSINESS),
    "metallicgloss": (_M, None, None, MapKind.GLOSSINESS),
    "metalsmooth": (_M, None, None, MapKind.GLOSSINESS),
    "specularglossiness": (MapKind.SPECULAR_COLOR,) * 3 + (MapKind.GLOSSINESS,),
    "maskmap": (_M, _O, MapKind.DETAIL_MASK, MapKind.GLOSSINESS),
}
_PACKED_WORDS |= _packed_by_extensions()
_GREY = {_O, _R, _M, MapKind.GLOSSINESS, MapKind.HEIGHT}
_EVERYDAY = {"arm", "ram", "oar", "rag", "mar", "gem", "mars", "gram", "soar", "roam", "rags"}
_UNORDERED = {"packed", "combined", "channelpacked", "masks", "mixed"}

_DIRECTIONS = {
    **dict.fromkeys(("gl", "ogl", "opengl", "yup", "yplus", "y+"), NormalY.UP),
    **dict.fromkeys(("dx", "directx", "d3d", "ydown", "yminus", "y-"), NormalY.DOWN),
}
_SIZE = re.compile(
    r"\d{1,2}k|\d{2,5}px|\d{2,5}x\d{2,5}|(16|32|64|128|256|512|1024|2048|4096|8192|16384)"
)
_VERSION = re.compile(r"v\d+|ver\d+|version\d*|rev\d+")
_DEPTH = re.compile(r"\d{1,2}bits?|8b|16b|32f|16f")
_TILE = re.compile(r"1\d{3}")
_SAYS_NOTHING = {
    "map", "maps", "tex", "srgb", "linear", "lin", "raw", "data", "final", "copy", "new",
    "seamless", "tile", "tiled", "tileable", "lod0", "lod1", "lod2", "png", "jpg", "k", "low",
    "high", "small", "large", "preview", "lowres", "hires", "inverted",
}  # fmt: skip


@dataclass(frozen=True, slots=True)
class NameReading:
    """Meaning of a file name; None or empty where it states nothing.

    stem : set name, without the understood words
    kind : map kind; None for packed or unknown files
    packed : map of each channel in order, None for unused ones; empty if the name only states that
        the file is packed
    confidence : of kind or packed, in [0, 1]
    reason : the words it is based on
    mark : words that state the map kind, for a source card
    """

    stem: str
    kind: MapKind | None
    packed: Packed | None
    normal_y: NormalY | None
    confidence: float
    reason: str
    mark: str = ""
    tile: int | None = None


def read_name(stem: str) -> NameReading:
    """Detect map kind, set name, green direction and tile number from a file name."""
    words = _words(stem)

    def named(left: list[str]) -> str:
        return _as_written(stem, words, left)

    core, tile = _without_marks(words)
    normal_y = None
    while len(core) > 1 and core[-1] in _DIRECTIONS:
        normal_y = _DIRECTIONS[core.pop()]
        core, more = _without_marks(core)
        tile = tile or more
    if (run := _run_of_maps(core)) is not None:
        listed, left, confidence = run
        return NameReading(
            named(left), None, listed, None, confidence,
            "its name lists the maps of its channels", "_".join(core[len(left) :]), tile,
        )  # fmt: skip
    for count in range(min(_LONGEST, len(core)), 0, -1):
        left, mark = core[:-count], core[-count:]
        found = _spelled("".join(mark), alone=not left)
        if found is None or (found[1] and mark[0] == "metal"):  # the material, as a rule
            continue
        kind, packed, confidence, glued = found
        if glued and kind is MapKind.NORMAL:
            normal_y = glued
        if normal_y and kind is MapKind.NORMAL:
            confidence = max(confidence, _USUAL)
        return NameReading(
            named(left) or named(core), kind, packed, normal_y if kind is MapKind.NORMAL else None,
            confidence, f"its name ends in {'_'.join(mark)}", "_".join(mark), tile,
        )  # fmt: skip
    for count in range(min(_LONGEST, len(core) - 1), 0, -1):
        mark = core[:count]
        found = _spelled("".join(mark), alone=False)
        if found and len("".join(mark)) > 1:
            kind, packed, confidence, _ = found
            return NameReading(
                named(core[count:]), kind, packed, normal_y if kind is MapKind.NORMAL else None,
                min(confidence, _WEAK), f"its name begins with {'_'.join(mark)}", "_".join(mark),
                tile,
            )  # fmt: skip
    return NameReading(
        named(core) or stem, None, None, None, 0.0, "its name doesn't identify the map", "", tile
    )


def kind_from_name(stem: str) -> MapKind | None:
    """Return the map kind of a file name with sufficient confidence; None for packed files."""
    read = read_name(stem)
    return read.kind if read.confidence >= _SHORT else None


def normal_y_from_name(stem: str) -> NormalY | None:
    """Return the green direction that a file name states, or None."""
    return read_name(stem).normal_y


def _words(stem: str) -> list[str]:
    text = re.sub(r"\(\d+\)$", "", stem.strip())
    text = re.sub(r"(?i)\d{1,2}-?bit$", "", text)
    text = re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z0-9])(?=[A-Z][a-z])", "_", text)
    text = re.sub(r"(?i)(?<=[a-z])(y)([+-])$", r"_\1\2", text)
    parts = re.split(r"[_. \[\](),&]+|-(?!$)", text.lower())
    words = [part for part in parts if part.strip("-")]
    return [*words[:-2], "maskmap"] if words[-2:] == ["mask", "map"] else words


def _without_marks(words: list[str]) -> tuple[list[str], int | None]:
    """Remove words without meaning for the map, anywhere after the first word."""
    tile = None
    kept = []
    for n, word in enumerate(words):
        if n and _TILE.fullmatch(word) and not _SIZE.fullmatch(word):
            tile = int(word)
        elif not n or not (
            _SIZE.fullmatch(word) or _VERSION.fullmatch(word) or _DEPTH.fullmatch(word)
            or word in _SAYS_NOTHING
        ):  # fmt: skip
            kept.append(word)
    if len(kept) > 1 and kept[0] in ("t", "tx", "tex", "tex2d"):
        kept = kept[1:]
    # A number behind the map's own word counts pictures: "stone_normal_02".
    if len(kept) > 2 and kept[-1].isdigit() and _spelled(kept[-2], alone=False):
        kept.pop()
    return kept, tile


_Found = tuple[MapKind | None, Packed | None, float, NormalY | None]


def _spelled(word: str, *, alone: bool) -> _Found | None:
    """Return the meaning of joined words; single letters must follow another word."""
    if word in _KINDS:
        kind, confidence = _KINDS[word]
        # A name that is nothing but an everyday word is the surface's own.
        return None if alone and confidence < _USUAL else (kind, None, confidence, None)
    if word in _PACKED_WORDS:
        return None, _PACKED_WORDS[word], _USUAL, None
    if word in _UNORDERED:
        return None, (), _USUAL, None
    for direction, y in _DIRECTIONS.items():
        before = word.removesuffix(direction)
        if before != word and _KINDS.get(before, (None, 0.0))[0] is MapKind.NORMAL:
            return MapKind.NORMAL, None, _SURE, y
    for size in ("1k", "2k", "4k", "8k"):
        if word.endswith(size) and word.removesuffix(size) in _KINDS:
            kind, confidence = _KINDS[word.removesuffix(size)]
            return kind, None, min(confidence, _USUAL), None
    packed = _lettered(word)
    if not packed or alone:
        return None
    return None, packed, _SHORT if word in _EVERYDAY else _USUAL, None


def _lettered(word: str) -> Packed | None:
    """Read names such as ORM: each letter a distinct map, at least roughness and one more."""
    if not 3 <= len(word) <= 4 or any(letter not in _LETTERS for letter in word):
        return None
    maps = tuple(_LETTERS[letter] for letter in word)
    rough = {MapKind.ROUGHNESS, MapKind.GLOSSINESS} & set(maps)
    rest = {_O, _M} & set(maps)
    return maps if len(set(maps)) == len(maps) and rough and rest else None


def _run_of_maps(words: list[str]) -> tuple[Packed, list[str], float] | None:
    """Read three or four consecutive map names after the stem: the channels in this order."""
    kinds: list[MapKind] = []
    left, confidence = list(words), _USUAL
    while len(kinds) < 4:
        for count in (2, 1):
            word = "".join(left[-count:])
            if len(left) > count and len(word) > 1 and _KINDS.get(word, (None,))[0] in _GREY:
                kind, sure = _KINDS[word]
                kinds.insert(0, kind)
                confidence, left = min(confidence, sure), left[:-count]
                break
        else:
            break
    return (tuple(kinds), left, confidence) if len(set(kinds)) == len(kinds) >= 3 else None


def _as_written(stem: str, words: list[str], left: list[str]) -> str:
    """Return the remaining words as in the file name, with their case and separators."""
    spans, cursor, lower = [], 0, stem.lower()
    for word in words:
        at = lower.find(word, cursor)
        if at >= 0:
            spans.append((word, at, at + len(word)))
            cursor = at + len(word)
    chosen: list[tuple[int, int, int]] = []
    rest = list(left)
    for n, (word, start, end) in enumerate(spans):
        if rest and word == rest[0]:
            rest.pop(0)
            chosen.append((n, start, end))
    if not chosen:
        return "_".join(left)
    pieces, start, end, last = [], *chosen[0][1:], chosen[0][0]
    for n, a, b in chosen[1:]:
        if n != last + 1:
            pieces.append(stem[start:end])
            start = a
        end, last = b, n
    return "_".join([*pieces, stem[start:end]])
