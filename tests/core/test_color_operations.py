"""Operations on color: keys, light taken out, emitted light, opacity, ranges."""

from __future__ import annotations

import numpy as np
import pytest

from copper_sieve.core.errors import ParameterError, ShapeError
from copper_sieve.core.image.encoding import linear_to_srgb, luminance, srgb_to_linear
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.meaning import as_meaning
from copper_sieve.core.operations import SurfaceContext, get_operation
from copper_sieve.core.operations.color.color_key import _oklab, measure_key_uncertainty
from tests.core.operating import TILE, band_limited, grey, run


def _codes(*colors: str) -> np.ndarray:
    """One row of #rrggbb texels in linear light."""
    codes = [[int(one[i : i + 2], 16) for i in (1, 3, 5)] for one in colors]
    return srgb_to_linear(np.array([codes]) / 255)


def test_oklab_against_published_values() -> None:
    # The table in Ottosson's article, from XYZ (0.950, 1.000, 1.089): white; and linear sRGB red,
    # worked out by hand from the two matrices.
    assert _oklab(np.float32(1), np.float32(1), np.float32(1)) == pytest.approx((1, 0, 0), abs=1e-4)
    red = _oklab(np.float32(1), np.float32(0), np.float32(0))
    assert red == pytest.approx((0.62796, 0.22486, 0.12585), abs=2e-4)


def test_metal_is_what_has_a_picked_color() -> None:
    picture = _codes("#b87333", "#b57031", "#808080", "#2f6e3a", "#ffd700")
    metal = run("metallic_from_color", picture, colors="#b87333", tolerance=0.05, softness=0.02,
                even=0)  # fmt: skip
    np.testing.assert_allclose(metal[0, :, 0], [1, 1, 0, 0, 0], atol=1e-6)
    both = run("metallic_from_color", picture, colors="#b87333,#FFD700", softness=0, even=0)
    np.testing.assert_allclose(both[0, :, 0], [1, 1, 0, 0, 1], atol=1e-6)
    assert not run("metallic_from_color", picture).any()  # nothing picked, nothing is metal


def test_a_key_may_look_past_light_and_shade() -> None:
    copper = _codes("#b87333")
    shaded = np.concatenate([copper, copper * 0.35], axis=1)
    # Half of the light off is a darker color; by hue and purity it is nearly the same one.
    key = {"colors": "#b87333", "tolerance": 0.06, "softness": 0.001, "even": 0}
    assert run("metallic_from_color", shaded, light_counts=1, **key)[0, 1] == 0
    assert run("metallic_from_color", shaded, light_counts=0, **key)[0, 1] == 1


def test_softness_fades_over_its_width() -> None:
    ramp = grey(np.linspace(0, 1, 101, dtype=np.float32)[None] ** 3)  # Oklab lightness 0 to 1
    out = run("metallic_from_color", ramp, colors="#000000", tolerance=0.2, softness=0.4,
              light_counts=1, even=0)[0, :, 0]  # fmt: skip
    assert out[20] == pytest.approx(1, abs=1e-3)
    assert out[40] == pytest.approx(0.5, abs=1e-2)
    assert out[60] == pytest.approx(0, abs=1e-3)
    assert (np.diff(out) <= 1e-6).all()


def _plate(side: int = 128) -> tuple[np.ndarray, np.ndarray]:
    """Bare steel with grain, light and shade, and rust of nearly its lightness: color, truth."""
    rng = np.random.default_rng(3)
    y, x = np.mgrid[0:side, 0:side] / side
    rust = (np.hypot(x - 0.5, y - 0.5) < 0.3)[..., None]
    flat = np.where(rust, [0.46, 0.36, 0.30], [0.44, 0.45, 0.47])
    codes = flat * (0.7 + 0.6 * y[..., None]) + rng.normal(0, 0.03, (side, side, 3))
    return srgb_to_linear(np.clip(codes, 0, 1).astype(np.float32)), rust[..., 0]


def test_one_click_on_metal_and_one_on_what_is_not_tell_them_apart() -> None:
    color, rust = _plate()
    metal = run("metallic_from_color", color, colors="#707378", others="#755c4d", even=0.01)[..., 0]
    assert ((metal > 0.5) == ~rust).mean() > 0.985
    assert ((metal > 0.05) & (metal < 0.95)).mean() < 0.2
    alone = run("metallic_from_color", color, colors="#707378")[..., 0]
    assert (alone > 0.5)[rust].mean() > 0.9  # one color takes nearly everything


def test_the_uncertainty_of_a_key_names_the_color_to_click_next() -> None:
    picture = np.repeat(_codes("#b87333", "#2f6e3a", "#e8e0ff", "#e6deff"), 8, axis=0)
    key = {"tolerance": 0.08, "softness": 0.05, "use_lightness": 0.5}
    doubt = measure_key_uncertainty(picture, "#b87333", "#2f6e3a", **key)
    assert (doubt.near, doubt.uncertain) == (0.75, 0.5)
    assert doubt.like in {"#e7dfff", "#e7e0ff", "#e8e0ff", "#e6deff"}
    sure = measure_key_uncertainty(picture, "#b87333", "#2f6e3a,#e7dfff", **key)
    assert (sure.near, sure.uncertain, sure.like) == (0.25, 0.0, None)
    assert measure_key_uncertainty(picture, "", "", **key).near == 0


@pytest.mark.parametrize(
    "given", ["red", "#12345", "#123456;#000000", ",".join(["#000000"] * 9), 5]
)
def test_colors_are_checked(given: object) -> None:
    with pytest.raises(ParameterError, match=r"at most 8 color\(s\) as #rrggbb"):
        get_operation("metallic_from_color").resolve({"colors": given})


def test_colors_are_kept_in_one_spelling() -> None:
    settled = get_operation("metallic_from_color").resolve({"colors": " #B87333, #00ff00 ,"})
    assert settled["colors"] == "#b87333,#00ff00"


def test_opacity_by_color_key_and_the_other_way() -> None:
    picture = _codes("#00ff00", "#804020")
    key = {"colors": "#00ff00", "tolerance": 0.1, "softness": 0}
    np.testing.assert_array_equal(run("opacity_from_color", picture, **key)[0, :, 0], [0, 1])
    kept = run("opacity_from_color", picture, invert=True, **key)
    np.testing.assert_array_equal(kept[0, :, 0], [1, 0])
    assert run("opacity_from_color", picture).min() == 1  # nothing picked, no hole


def test_opacity_white_stays_black_is_a_hole() -> None:
    values = np.array([[0, 0.2, 0.45, 0.5, 0.55, 1]], np.float32)[:, :, None]
    out = run("opacity_from_picture", values, softness=0)[0, :, 0]
    np.testing.assert_array_equal(out, [0, 0, 0, 1, 1, 1])
    whole = run("opacity_from_picture", values, softness=0, threshold=0)
    np.testing.assert_array_equal(whole, 1)
    codes = srgb_to_linear(values)
    light = run("opacity_from_lightness", np.repeat(codes, 3, axis=2), softness=0, invert=True)
    np.testing.assert_array_equal(light[0, :, 0], [1, 1, 1, 0, 0, 0])


def test_emitted_light_is_mask_times_color_times_strength() -> None:
    color = np.full((1, 3, 3), 0.25, np.float32)
    mask = np.array([[0, 0.5, 1]], np.float32)[:, :, None]
    out = run("emissive_from_color", color, also={"mask": mask}, softness=0, threshold=0.4,
              tint="#ff0000", own_color=0, strength=3)  # fmt: skip
    np.testing.assert_allclose(out[0], [[0, 0, 0], [3, 0, 0], [3, 0, 0]], atol=1e-6)
    own = run("emissive_from_color", color, also={"mask": mask}, softness=0, strength=2)
    np.testing.assert_allclose(own[0, 2], 0.5, atol=1e-6)
    bright = run("emissive_from_color", grey(np.array([[0.05, 0.9]])), threshold=0.6, softness=0)
    np.testing.assert_allclose(bright[0, :, 0], [0, 0.9], atol=1e-6)


def test_a_range_of_any_map() -> None:
    ramp = np.linspace(0, 1, 11, dtype=np.float32)[None, :, None]
    stretched = run("mask_1_from_range", ramp, low=0.2, high=0.6)
    np.testing.assert_allclose(stretched[0, :, 0], np.clip((ramp[0, :, 0] - 0.2) / 0.4, 0, 1),
                               atol=1e-6)  # fmt: skip
    inside = run("detail_mask_from_range", ramp, take="inside", low=0.25, high=0.55, softness=0)
    np.testing.assert_array_equal(inside[0, :, 0], [0, 0, 0, 1, 1, 1, 0, 0, 0, 0, 0])
    other = run("thickness_from_range", ramp, take="inside", low=0.25, high=0.55, softness=0,
                invert=True, least=0.1, most=0.7)  # fmt: skip
    np.testing.assert_allclose(other[0, :4, 0], [0.7, 0.7, 0.7, 0.1], atol=1e-6)
    open_end = run("mask_2_from_range", ramp, take="inside", low=0.5, high=1)
    assert open_end[0, -1, 0] == 1  # an end of the whole range does not fade


def test_maps_read_as_another_meaning() -> None:
    color = _codes("#808080", "#ffffff")
    data = as_meaning(color, Meaning.COLOR, Meaning.DATA)
    np.testing.assert_allclose(data[0, :, 0], [128 / 255, 1], atol=1e-5)
    leaning = np.array([[[0, 0, 1], [np.sqrt(0.5), 0, np.sqrt(0.5)]]], np.float32)
    tilt = as_meaning(leaning, Meaning.NORMAL, Meaning.DATA)
    np.testing.assert_allclose(tilt[0, :, 0], [0, 0.5], atol=1e-5)
    np.testing.assert_array_equal(as_meaning(data, Meaning.DATA, Meaning.COLOR)[:, :, 2:], data)
    with pytest.raises(ShapeError, match="can't be used as normal"):
        as_meaning(data, Meaning.DATA, Meaning.NORMAL)


def _lit_photo(side: int = 256) -> tuple[np.ndarray, np.ndarray]:
    """Even stone under light that falls off to one side, and the stone itself."""
    stone = 0.18 + 0.1 * (band_limited(8, side) - 0.5)
    light = np.linspace(1.6, 0.5, side)[None, :]
    return grey(stone * light), grey(stone)


def test_large_scale_light_is_taken_out_and_the_color_stays() -> None:
    photo, stone = _lit_photo()
    tinted = photo * np.array([1.0, 0.8, 0.6], np.float32)
    plain = {"crevices": 0, "glints": 0, "limit": False}
    out = run("base_color_from_photo", tinted, SurfaceContext.of(wrap=False), evenness=1, **plain)
    ratio = out / out[:, :, :1]
    np.testing.assert_allclose(ratio, np.broadcast_to([1, 0.8, 0.6], ratio.shape), rtol=1e-4)
    halves = [luminance(out)[:, part].mean() for part in (slice(0, 128), slice(128, None))]
    assert halves[0] == pytest.approx(halves[1], rel=0.05)  # 2.1 to 1 before
    untouched = run("base_color_from_photo", tinted, evenness=0, **plain)
    np.testing.assert_allclose(untouched, tinted, rtol=1e-5)
    assert np.corrcoef(luminance(out).ravel(), stone[:, :, 0].ravel())[0, 1] > 0.6


def test_crevices_and_glints_are_eased_apart() -> None:
    field = np.full((128, 128), 0.3, np.float32)
    field[:, 20:23] = 0.05
    field[:, 80:83] = 0.9
    plain = {"evenness": 0, "limit": False, "hollow": 0.02}
    dark = run("base_color_from_photo", grey(field), crevices=0.8, glints=0, **plain)[64, :, 0]
    assert dark[21] > 0.1
    assert dark[81] == pytest.approx(0.9, rel=1e-3)
    bright = run("base_color_from_photo", grey(field), crevices=0, glints=0.8, **plain)[64, :, 0]
    assert bright[81] < 0.6
    assert bright[21] == pytest.approx(0.05, rel=1e-3)


def test_exposure_white_and_saturation() -> None:
    picture = _codes("#806040", "#c0c0c0")
    plain = {"evenness": 0, "crevices": 0, "glints": 0, "limit": False}
    up = run("base_color_from_photo", picture, exposure=1, **plain)
    np.testing.assert_allclose(up, 2 * picture, rtol=1e-4)
    neutral = run("base_color_from_photo", picture, white="#806040", **plain)[0, 0]
    np.testing.assert_allclose(neutral, neutral.mean(), rtol=1e-4)
    pale = run("base_color_from_photo", picture, saturation=0, **plain)
    np.testing.assert_allclose(pale[0, 0], luminance(picture)[0, 0], rtol=1e-4)
    warm = run("base_color_from_photo", picture, warmth=1, **plain)[0, 1]
    assert warm[0] > warm[1] > warm[2]
    assert luminance(warm[None, None])[0, 0] == pytest.approx(luminance(picture)[0, 1], rel=1e-3)


def test_the_limit_eases_into_what_real_things_reflect() -> None:
    ramp = np.linspace(0, 1, 256, dtype=np.float32)
    picture = grey(srgb_to_linear(ramp)[None])
    plain = {"evenness": 0, "crevices": 0, "glints": 0}
    out = linear_to_srgb(run("base_color_from_photo", picture, **plain))[0, :, 0] * 255
    assert (np.diff(out) >= -1e-3).all()
    assert out[255] <= 240.5
    assert out[1:].min() > 20
    np.testing.assert_allclose(out[60:200], np.arange(60, 200), atol=0.05)  # the middle stays
    vivid = run("base_color_from_photo", _codes("#ff0000"), exposure=3, **plain)
    assert vivid.max() <= 1


def test_specular_color_is_the_base_color_of_metal() -> None:
    color = _codes("#b87333", "#b87333")
    metal = np.array([[0, 1]], np.float32)[:, :, None]
    out = run("specular_color_from_color", color, also={MapKind.METALLIC: metal}, f0=0.05)
    np.testing.assert_allclose(out[0, 0], 0.05, atol=1e-6)
    np.testing.assert_allclose(out[0, 1], color[0, 1], atol=1e-6)


def test_roughness_is_moved_about_its_median_and_limited() -> None:
    rough = band_limited(9, 64)[:, :, None]
    np.testing.assert_array_equal(run("roughness_from_picture", rough), rough)
    moved = run("roughness_from_picture", rough, set_median=True, middle=0.3, contrast=0.5)
    assert np.median(moved) == pytest.approx(0.3, abs=1e-6)
    assert moved.std() == pytest.approx(rough.std() / 2, rel=0.05)
    limited = run("roughness_from_picture", rough, invert=True, low=0.4, high=0.5)
    np.testing.assert_allclose(limited, np.clip(1 - rough, 0.4, 0.5), atol=1e-6)
    smooth = run("roughness_from_picture", rough, smoothing=0.02)
    assert smooth.std() < rough.std()


def test_roughness_from_color_hits_its_median() -> None:
    picture = grey(0.1 + 0.5 * band_limited(10, 128))
    for invert in (False, True):
        out = run("roughness_from_color", picture, TILE, middle=0.4, invert=invert)
        assert np.median(out) == pytest.approx(0.4, abs=1e-4)
    down = run("roughness_from_color", picture, middle=0.5)
    up = run("roughness_from_color", picture, middle=0.5, invert=True)
    np.testing.assert_allclose(down + up, 1, atol=1e-4)
