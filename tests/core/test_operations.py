"""Operations against analytic fields and brute force, and what they declare of themselves."""

from __future__ import annotations

import shutil
import subprocess
import sys
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from copper_sieve.core.errors import ParameterError, UnknownOperationError
from copper_sieve.core.image.map_kind import KindGroup, MapKind, Meaning
from copper_sieve.core.operations import (
    OPERATIONS,
    Operation,
    OperationInput,
    Parameter,
    SurfaceContext,
    declaration,
    default_operation,
    get_operation,
)
from copper_sieve.core.operations.declaration import operation
from copper_sieve.core.operations.numerics.spectrum import blur, filter_spectrum, gaussian_response
from tests.core.operating import TILE, angles, any_inputs, band_limited, on_ball, run, slopes


def waves(side: int = 256, cycles: int = 3) -> tuple[np.ndarray, np.ndarray]:
    """A tiling field, (H, W, 1) in [0, 1], and its true normals for TILE."""
    r, c = (np.mgrid[0:side, 0:side] + 0.0) / side
    a = 2 * np.pi * cycles
    height = 0.5 + 0.25 * np.sin(a * c) + 0.25 * np.cos(a * r)
    dx = TILE.depth * 0.25 * a * np.cos(a * c)
    dr = -TILE.depth * 0.25 * a * np.sin(a * r)
    normals = np.stack([-dx, dr, np.ones_like(dx)], axis=2)
    normals /= np.linalg.norm(normals, axis=2, keepdims=True)
    return height[:, :, None].astype(np.float32), normals


def test_normals_of_an_analytic_field() -> None:
    height, truth = waves()
    error = angles(run("normal_from_height", height), truth)
    assert error.mean() < 0.1
    assert error.max() < 0.5
    border = np.concatenate([error[0], error[-1], error[:, 0], error[:, -1]])
    assert border.max() < 0.5  # the wrap is no worse than the inside


@pytest.mark.parametrize("wrap", [True, False])
@pytest.mark.parametrize("sigma", [0.02, 0.05, 0.125])
def test_a_wide_blur_on_a_reduced_copy_is_the_same(sigma: float, wrap: bool) -> None:
    field = np.random.default_rng(1).random((512, 1024)).astype(np.float32)
    field += np.linspace(0, 1, 1024, dtype=np.float32)
    exact = filter_spectrum(field, gaussian_response(sigma), wrap=wrap)
    quick = blur(field, sigma, wrap=wrap)
    assert np.abs(quick - exact).max() < 2e-3 * np.ptp(field)
    odd = np.ascontiguousarray(field[:511, :1023])  # not to be halved: done directly
    np.testing.assert_array_equal(
        blur(odd, sigma, wrap=wrap), filter_spectrum(odd, gaussian_response(sigma), wrap=wrap)
    )


@pytest.mark.parametrize("kernel", ["accurate", "central", "scharr", "sobel"])
def test_normals_up_to_60_degrees_steep(kernel: str) -> None:
    side, cycles = 1024, 8
    r, c = np.mgrid[0:side, 0:side] / side
    a = 2 * np.pi * cycles
    steepest = np.tan(np.radians(60))
    depth = steepest / (0.25 * a) / np.sqrt(2)  # both slopes at their highest give 60 degrees
    height = 0.5 + 0.25 * np.sin(a * c) + 0.25 * np.cos(a * r)
    dx, dr = depth * 0.25 * a * np.cos(a * c), -depth * 0.25 * a * np.sin(a * r)
    truth = np.stack([-dx, dr, np.ones_like(dx)], axis=2)
    truth /= np.linalg.norm(truth, axis=2, keepdims=True)
    assert np.degrees(np.arccos(truth[:, :, 2].min())) == pytest.approx(60, abs=0.1)
    source = height[:, :, None].astype(np.float32)
    found = run(
        "normal_from_height", source, SurfaceContext.of(1.0, depth, wrap=True), kernel=kernel
    )
    error = angles(found, truth)
    assert error.mean() <= 0.5
    assert np.percentile(error, 99) <= 2
    border = np.concatenate([error[:2].ravel(), error[-2:].ravel(), error[:, :2].ravel()])
    assert border.mean() <= error.mean() * 1.5 + 1e-3


def test_five_points_are_more_accurate_than_three() -> None:
    side, a = 128, 2 * np.pi * 8  # a period of 16 texels
    r, c = np.mgrid[0:side, 0:side] / side
    height = (0.5 + 0.5 * np.sin(a * c) * np.cos(a * r))[:, :, None].astype(np.float32)
    dx = TILE.depth * 0.5 * a * np.cos(a * c) * np.cos(a * r)
    dr = -TILE.depth * 0.5 * a * np.sin(a * c) * np.sin(a * r)
    truth = np.stack([-dx, dr, np.ones_like(dx)], axis=2)
    truth /= np.linalg.norm(truth, axis=2, keepdims=True)
    error = {
        kernel: angles(run("normal_from_height", height, kernel=kernel), truth).mean()
        for kernel in ("accurate", "central", "scharr", "sobel")
    }
    assert error["accurate"] < error["central"] / 10
    assert error["central"] < error["scharr"] < error["sobel"]


def test_bands_add_up_to_the_whole() -> None:
    height = band_limited(1, 128)[:, :, None]
    whole = slopes(run("normal_from_height", height))
    crisp = slopes(run("normal_from_height", height, soft=0, split=0.03))
    soft = slopes(run("normal_from_height", height, crisp=0, split=0.03))
    np.testing.assert_allclose(crisp + soft, whole, atol=2e-4)
    assert crisp.std() > 0.1 * whole.std()
    assert soft.std() > 0.1 * whole.std()


def test_grain_is_small_even_and_always_the_same() -> None:
    flat = np.full((64, 64, 1), 0.5, np.float32)
    once = run("normal_from_height", flat, grain=0.03)
    np.testing.assert_array_equal(once, run("normal_from_height", flat, grain=0.03))
    assert slopes(once).std() == pytest.approx(0.03, rel=0.1)
    assert abs(slopes(once).mean()) < 0.002


@pytest.mark.parametrize(("wrap", "bound"), [(True, 0.999), (False, 0.995)])
@pytest.mark.parametrize("kernel", ["accurate", "central"])
@pytest.mark.parametrize("shape", [(256, 256), (96, 200)])
def test_height_to_normal_and_back(
    wrap: bool, bound: float, kernel: str, shape: tuple[int, int]
) -> None:
    height = band_limited(4, 256, wrap=wrap)
    if shape != (256, 256):
        height = np.ascontiguousarray(height[: shape[0], : shape[1]])
        wrap, bound = False, 0.995
    surface = SurfaceContext.of(1.0, 0.05, wrap=wrap)
    normals = run("normal_from_height", height[:, :, None], surface, kernel=kernel)
    again = run("height_from_normal", normals, surface, level=False)[:, :, 0]
    assert np.corrcoef(again.ravel(), height.ravel())[0, 1] >= bound
    exact = run("height_from_normal", normals, surface, fit=False, level=False)[:, :, 0]
    middle = exact - exact.mean() + height.mean()
    assert np.abs(middle - height).max() < 0.02  # true in metres, not only in shape
    upside = run("height_from_normal", normals, surface, invert=True, level=False)[:, :, 0]
    np.testing.assert_allclose(upside, 1 - again, atol=1e-4)


def test_five_point_differences_are_inverted_exactly() -> None:
    height = band_limited(5, 128) * np.float32(0.4) + np.float32(0.3)
    normals = run("normal_from_height", height[:, :, None], TILE)
    exact = run("height_from_normal", normals, TILE, fit=False)[:, :, 0]
    np.testing.assert_allclose(exact - exact.mean(), height - height.mean(), atol=2e-4)


def test_a_slope_up_to_the_right_leans_left_and_up_rows_lean_up() -> None:
    ramp = np.tile(np.linspace(0, 1, 32, dtype=np.float32), (32, 1))[:, :, None]
    flat = SurfaceContext.of(1.0, 0.5, wrap=False)
    right = run("normal_from_height", ramp, flat)[16, 16]
    assert right[0] < -0.2
    assert right[1] == pytest.approx(0, abs=1e-6)
    # Height grows downwards, so the surface faces the top of the picture: green up is positive.
    down = run("normal_from_height", np.swapaxes(ramp, 0, 1).copy(), flat)[16, 16]
    assert down[1] > 0.2


def test_strength_is_a_factor_on_the_physical_slope() -> None:
    height, _ = waves()
    plain = run("normal_from_height", height)
    doubled = run("normal_from_height", height, strength=2)
    deeper = run("normal_from_height", height, SurfaceContext.of(1.0, 0.1, wrap=True))
    np.testing.assert_allclose(doubled, deeper, atol=1e-6)
    slope = plain[:, :, 0] / plain[:, :, 2]
    np.testing.assert_allclose(doubled[:, :, 0] / doubled[:, :, 2], 2 * slope, atol=1e-5)
    inverted = run("normal_from_height", height, invert=True)
    np.testing.assert_allclose(inverted * [-1, -1, 1], plain, atol=1e-6)


def test_flat_surfaces_are_open_and_a_pit_is_darker_than_its_rim() -> None:
    flat = np.full((32, 32, 1), 0.3, np.float32)
    np.testing.assert_allclose(run("ambient_occlusion_from_height", flat), 1, atol=1e-6)
    pit = np.ones((64, 64, 1), np.float32)
    pit[24:40, 24:40] = 0
    shade = run("ambient_occlusion_from_height", pit, SurfaceContext(1.0, 0.2), radius=0.2)
    assert shade[32, 32, 0] < 0.8 < shade[4, 4, 0]


def _photo(side: int = 128) -> np.ndarray:
    r, c = (np.mgrid[0:side, 0:side] + 0.5) / side
    light = 0.2 + 0.6 * c  # uneven, three times as bright on the right
    detail = 1 + 0.4 * np.sin(2 * np.pi * 12 * c) * np.sin(2 * np.pi * 12 * r)
    return np.repeat((light * detail)[:, :, None], 3, axis=2).astype(np.float32) * 0.8


def test_height_follows_detail_and_not_the_light() -> None:
    side = 128
    height = run("height_from_color", _photo(side), SurfaceContext.of(wrap=False))[:, :, 0]
    assert height.min() >= 0
    assert height.max() <= 1
    r, c = (np.mgrid[0:side, 0:side] + 0.5) / side
    detail = np.sin(2 * np.pi * 12 * c) * np.sin(2 * np.pi * 12 * r)
    assert np.corrcoef(height.ravel(), detail.ravel())[0, 1] > 0.9
    halves = height[:, : side // 2].mean(), height[:, side // 2 :].mean()
    assert abs(halves[0] - halves[1]) < 0.05
    upside = run("height_from_color", _photo(side), SurfaceContext(), invert=True)[:, :, 0]
    np.testing.assert_allclose(upside, 1 - height, atol=1e-5)


def test_a_constant_picture_gives_a_flat_middle() -> None:
    even = np.full((16, 16, 3), 0.3, np.float32)
    np.testing.assert_array_equal(run("height_from_color", even), 0.5)
    np.testing.assert_allclose(run("roughness_from_color", even, middle=0.4), 0.4, atol=1e-3)


def test_roughness_goes_about_its_middle() -> None:
    rough = run("roughness_from_color", _photo(), SurfaceContext(), middle=0.7)
    assert rough.mean() == pytest.approx(0.7, abs=0.02)
    even = run("roughness_from_color", _photo(), SurfaceContext(), lightness=0, variation=0)
    np.testing.assert_allclose(even, 0.65)


def test_glossiness_inverts_exactly_on_codes() -> None:
    codes = np.arange(256, dtype=np.float32).reshape(16, 16, 1) / 255
    rough = run("roughness_from_glossiness", codes)
    np.testing.assert_array_equal(np.floor(rough * 255 + 0.5), 255 - np.round(codes * 255))


@pytest.mark.parametrize("name", sorted(OPERATIONS))
@pytest.mark.parametrize("shape", [(1, 1), (7, 13), (64, 16)])
@pytest.mark.parametrize("wrap", [True, False])
def test_every_operation_bears_odd_sizes_and_stays_in_range(
    name: str, shape: tuple[int, int], wrap: bool
) -> None:
    one = OPERATIONS[name]
    kind = one.kinds[0]
    surface, settled = on_ball(SurfaceContext.of(0.5, 0.05, wrap=wrap), shape), one.resolve({})
    inputs = any_inputs(one, shape)
    kept = {key: pixels.copy() for key, pixels in inputs.items()}
    out = one.compute(inputs, settled, surface)
    for key, pixels in inputs.items():
        np.testing.assert_array_equal(pixels, kept[key])  # inputs are not touched
    assert out.dtype == np.float32
    assert out.shape == (*shape, len(kind.facts.components))
    assert np.isfinite(out).all()
    if kind.facts.meaning is Meaning.NORMAL:
        np.testing.assert_allclose(np.linalg.norm(out, axis=2), 1, atol=1e-5)
        assert out[:, :, 2].min() >= 0
    else:
        assert out.min() >= 0
        assert out.max() <= 1
    np.testing.assert_array_equal(one.compute(inputs, settled, surface), out)
    # What is not required may be left out.
    needed = {slot.name for slot in one.slots if not slot.required}
    fewer = {key: pixels for key, pixels in inputs.items() if key not in needed}
    assert one.compute(fewer, settled, surface).shape == out.shape


_GROUPS = {
    KindGroup.VALUES: "value", KindGroup.RANGES: "value", KindGroup.VECTORS: "normal",
    KindGroup.MASKS: "mask",
}  # fmt: skip


@pytest.mark.parametrize("name", sorted(OPERATIONS))
def test_declarations_are_whole(name: str) -> None:
    one = OPERATIONS[name]
    made = one.output if isinstance(one.output, MapKind) else _GROUPS[one.output]
    assert name.startswith(f"{made}_from_")
    assert one.inputs or any(slot.required for slot in one.slots) or one.takes_from
    assert not {slot.name for slot in one.slots} & set(MapKind)
    for parameter in one.parameters:
        assert parameter.meaning
        assert parameter.label
        assert parameter.check(parameter.default, name) == parameter.default


@pytest.mark.parametrize(
    ("given", "says"),
    [
        ({"strength": 9}, r"Use a number from 0 to 8"),
        ({"strength": "much"}, "'much' is invalid. Use"),
        ({"strength": float("nan")}, "nan is invalid. Use"),
        ({"invert": "perhaps"}, "true or false"),
        ({"power": 1}, "has no parameter power. It has strength, kernel, invert"),
    ],
)
def test_parameters_are_checked_with_a_useful_answer(given: dict, says: str) -> None:
    with pytest.raises(ParameterError, match=says):
        get_operation("normal_from_height").resolve(given)


def test_words_from_a_command_line_become_values() -> None:
    settled = get_operation("normal_from_height").resolve({"strength": "2.5", "invert": "yes"})
    assert (settled["strength"], settled["invert"], settled["smoothing"]) == (2.5, True, 0.0)
    with pytest.raises(ParameterError, match="one of draft, good, best"):
        get_operation("ambient_occlusion_from_height").resolve({"quality": "superb"})


def _operation(**more: Any) -> None:
    taken = {"version": 1, "title": "x", "output": MapKind.MASK_1, "inputs": (MapKind.HEIGHT,)}
    operation("mask_1_from_height", **{**taken, **more})(lambda inputs, parameters, surface: inputs)


def test_there_is_one_default_for_what_is_made_from_what(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(declaration, "OPERATIONS", dict(OPERATIONS))
    _operation()  # another way, whatever its name: nothing changes for new sets
    assert default_operation(MapKind.MASK_1, MapKind.HEIGHT) is None
    with pytest.raises(ValueError, match="already"):
        _operation()
    with pytest.raises(ValueError, match="both the default"):
        operation("a_normal", version=1, title="x", output=MapKind.NORMAL,
                  inputs=(MapKind.HEIGHT,), default=True)(lambda *_: np.zeros(1))  # fmt: skip
    with pytest.raises(ValueError, match="requires a slot"):
        slot = OperationInput("map", "Map", "any", MapKind.MASK_2, required=True)
        operation("another", version=1, title="x", output=MapKind.MASK_2, inputs=(),
                  slots=(slot,), default=True)(lambda *_: np.zeros(1))  # fmt: skip


@pytest.mark.parametrize("one", OPERATIONS.values(), ids=lambda one: one.name)
def test_what_makes_a_map_from_maps_alone_is_the_default_or_has_one(one: Operation) -> None:
    if one.inputs and not any(slot.required for slot in one.slots):
        assert default_operation(one.kinds[0], *one.inputs)


@pytest.mark.parametrize(
    ("form", "default"),
    [("number", "1"), ("number", True), ("switch", 1), ("choice", "c"), ("colors", "red"),
     ("colors", 1), ("number", 2.0)],
)  # fmt: skip
def test_a_default_is_one_of_a_parameter_s_values(form: Any, default: Any) -> None:
    with pytest.raises(ValueError, match=f"isn't a valid {form}"):
        Parameter("p", "P", default, "words", choices=("a", "b"), form=form)


def test_operations_are_found_by_name_and_by_what_they_do() -> None:
    assert default_operation(MapKind.NORMAL, MapKind.HEIGHT) is OPERATIONS["normal_from_height"]
    assert default_operation(MapKind.HEIGHT, MapKind.METALLIC) is None
    with pytest.raises(UnknownOperationError, match="Available: ambient_occlusion_from_height"):
        get_operation("nonsense")


def test_a_new_operation_is_one_module(tmp_path: Path) -> None:
    """Tried in a copy of the package: it is found, and changes no default."""
    root = Path(__file__).parents[2]
    shutil.copytree(root / "src", tmp_path / "src", ignore=shutil.ignore_patterns("__pycache__"))
    (tmp_path / "src/copper_sieve/core/operations/height/aaa_height.py").write_text("""
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.operations.declaration import operation

@operation("height_from_a_trial", version=1, title="Trial", output=MapKind.HEIGHT,
           inputs=(MapKind.BASE_COLOR,))
def trial(inputs, parameters, surface):
    return inputs[MapKind.BASE_COLOR][:, :, :1]
""")
    tried = subprocess.run(
        [sys.executable, "-c", (
            "from copper_sieve.core.image.map_kind import MapKind\n"
            "from copper_sieve.core.operations import default_operation, get_operation\n"
            "print(get_operation('height_from_a_trial').title,\n"
            "      default_operation(MapKind.HEIGHT, MapKind.BASE_COLOR).name)\n"
        )],
        env={"PYTHONPATH": str(tmp_path / "src")}, capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert tried.stdout.split() == ["Trial", "height_from_color"], tried.stderr
