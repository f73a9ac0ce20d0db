"""Normal maps that are stored wrongly in a known way: told, and read rightly once mended."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest

from copper_sieve.core.checklist.normals import NormalStatistics, check_normals
from copper_sieve.core.graph.evaluate import picture_to_map
from copper_sieve.core.image.encoding import linear_to_srgb, srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Encoding, Picture
from copper_sieve.core.models.texture_set import Imported
from tests.core.operating import angles
from tests.core.recognition.maps import FIELDS, blended, encoded, normals, relief

SIDE = 256
Codes = np.ndarray


def stored(name: str, strength: float = 1.0) -> Codes:
    """A normal map, Y up, as 8-bit codes."""
    return encoded(normals(relief(name, 3, SIDE), strength, down=False))


def picture(codes: Codes) -> Picture:
    channels = ("R", "G", "B", "A")[: codes.shape[2]]
    return Picture(np.ascontiguousarray(codes), channels, Encoding.LINEAR)


def read(given: Picture, imported: Imported) -> np.ndarray:
    return picture_to_map(given, MapKind.NORMAL, imported).pixels


def through(codes: Codes, curve: Callable[..., np.ndarray]) -> Codes:
    return np.round(curve(codes / 255.0) * 255).astype(np.uint8)


def alpha_green(codes: Codes) -> Codes:
    white = np.full(codes.shape[:2], 255, np.uint8)
    return np.dstack([white, codes[:, :, 1], white, codes[:, :, 0]])


PLAIN = Imported(source="0" * 64, encoding=Encoding.LINEAR)
# How it is stored, the rule that finds it, and how far the mended reading may be off at most.
WRONGS: dict[str, tuple[Callable[[Codes], Codes], str, float]] = {
    "lighter": (lambda c: through(c, linear_to_srgb), "transfer_curve", 1.0),
    "darker": (lambda c: through(c, srgb_to_linear), "transfer_curve", 4.0),
    "backwards": (lambda c: c[:, :, ::-1], "channel_order", 1.0),
    "z in px, median": (lambda c: c[:, :, [0, 2, 1]], "channel_order", 1.0),
    "alpha and green": (alpha_green, "channel_order", 2.0),
    "swapped_channels": (lambda c: c[:, :, [1, 0, 2]], "swapped_channels", 1.0),
    "Y− (green down)": (lambda c: np.dstack([c[:, :, 0], 255 - c[:, :, 1], c[:, :, 2]]),
                   "green_direction", 1.0),
}  # fmt: skip


@pytest.mark.parametrize("field", ["pebbles", "bricks", "stones"])
@pytest.mark.parametrize("wrong", WRONGS)
def test_what_is_stored_wrongly_is_told_and_read_rightly_once_mended(
    field: str, wrong: str
) -> None:
    change, rule, off = WRONGS[wrong]
    codes = stored(field)
    right = read(picture(codes), PLAIN)
    given = picture(change(codes))
    first = check_normals(given, PLAIN, "none")[0]
    assert first.rule == rule, first
    assert first.weight == "error"
    assert first.better is not None
    assert np.median(angles(read(given, first.better), right)) < off
    assert rule not in {one.rule for one in check_normals(given, first.better, "none")}


@pytest.mark.parametrize("field", FIELDS)
@pytest.mark.parametrize("strength", [0.1, 0.5, 1.5])
def test_nothing_is_said_of_maps_that_are_right(field: str, strength: float) -> None:
    assert check_normals(picture(stored(field, strength)), PLAIN, "none") == []


def test_a_map_read_with_green_down_is_right_where_it_is_so() -> None:
    codes = stored("pebbles")
    codes[:, :, 1] = 255 - codes[:, :, 1]
    down = PLAIN.model_copy(update={"normal_y": NormalY.DOWN})
    assert check_normals(picture(codes), down, "none") == []


def test_two_channels_are_no_swizzle_and_have_no_length() -> None:
    codes = stored("pebbles")
    codes[:, :, 2] = 255
    two = PLAIN.model_copy(update={"channels": "RG"})
    assert check_normals(picture(codes), two, "none") == []


def test_a_flat_map_has_nothing_wrong() -> None:
    codes = np.full((64, 64, 3), (128, 128, 255), np.uint8)
    assert check_normals(picture(codes), PLAIN, "none") == []


def test_sixteen_bits_and_floats_are_judged_alike() -> None:
    codes = stored("bricks")[:, :, [1, 0, 2]]
    for same in (codes.astype(np.uint16) * 257, (codes / 255).astype(np.float32)):
        assert check_normals(picture(same), PLAIN, "none")[0].rule == "swapped_channels"


def test_green_in_both_directions_is_told_without_a_mend() -> None:
    coarse, fine = relief("hammered", 5, SIDE), relief("weave", 6, SIDE)
    a, b = normals(coarse, 1.0, down=False), normals(fine, 1.0, down=True)
    mixed = blended(a, b)
    seen = check_normals(picture(encoded(mixed)), PLAIN, "none")
    assert [(one.rule, one.better) for one in seen] == [("mixed_green", None)]


def by_rule(seen: list[NormalStatistics], rule: str) -> NormalStatistics:
    return next(one for one in seen if one.rule == rule)


def test_vectors_off_length_are_told_with_their_share_and_get_a_new_z() -> None:
    codes = stored("pebbles").astype(np.float64) / 255 * 2 - 1
    codes[:, :, 2] = codes[:, :, 2] * 0.5 + 0.4  # half a relief mixed into blue
    short = np.round((codes / 2 + 0.5) * 255).astype(np.uint8)
    found = by_rule(check_normals(picture(short), PLAIN, "none"), "vector_length")
    error = np.abs(np.linalg.norm(short / 255 * 2 - 1, axis=2) - 1).mean()
    assert f"{error:.1%}" in found.evidence
    assert found.better is not None
    right = read(picture(stored("pebbles")), PLAIN)
    assert angles(read(picture(short), found.better), right).max() < 6


def test_x_and_y_that_leave_the_circle_get_none() -> None:
    codes = stored("pebbles").astype(np.float64)
    codes[:, :, :2] = np.clip((codes[:, :, :2] - 127.5) * 2.5 + 127.5, 0, 255)
    found = by_rule(
        check_normals(picture(codes.round().astype(np.uint8)), PLAIN, "none"), "vector_length"
    )
    assert found.weight == "warning"
    assert found.better is None
