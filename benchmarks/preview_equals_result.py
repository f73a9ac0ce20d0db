"""Compare previews with deliveries: each map computed at 512 with that at full size, reduced.

Three previews: the reduced picture alone; the preview while dragging (derived at 1024); the final
preview (derived at 2048). A delivery of 512 is derived at full size and reduced, so it is the
reference. SSIM is that of Wang et al. 2004 (Gaussian window of 1.5 texels), the mean over channels.
"""

from __future__ import annotations

import numpy as np
from scipy.ndimage import gaussian_filter

from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.encoding import linear_to_srgb, quantize
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Encoding, Picture, Raster
from copper_sieve.core.models.texture_set import Derived, FromMap, Imported, SetDefinition, compose
from copper_sieve.core.operations import OPERATIONS
from copper_sieve.demo.hammered_copper import draw_hammered_copper
from copper_sieve.demo.tatami_weave import draw_tatami_weave

QUICK = (256, 64, 1)

SHA = "0" * 64
# Size at which the maps of each preview are derived, divided by the displayed size.
WAYS = {"alone": 1, "moving": 2, "at rest": 4}


def noise_photo(side: int) -> Picture:
    """A picture with as much fine detail as a sharp photo of gravel has: 1/f down to the texel."""
    rng = np.random.default_rng(1)
    spectrum = np.fft.rfft2(rng.standard_normal((side, side)).astype(np.float32))
    f = np.hypot(np.fft.fftfreq(side, 1 / side)[:, None], np.fft.rfftfreq(side, 1 / side)[None])
    f[0, 0] = 1
    field = np.fft.irfft2(spectrum / f * np.exp(-10 * (f / side) ** 2), s=(side, side))
    light = 0.2 * np.exp(0.45 * field / field.std())
    color = np.stack([light * 1.1, light, light * 0.8], axis=2)
    return Picture(quantize(linear_to_srgb(np.clip(color, 0, 1)), 8), tuple("RGB"), Encoding.SRGB)


def ssim(a: np.ndarray, b: np.ndarray) -> float:
    """Mean structural similarity of two pictures in [0, 1], (H, W, C)."""
    found = []
    for i in range(a.shape[2]):
        x, y = a[:, :, i].astype(np.float64), b[:, :, i].astype(np.float64)
        mx, my, xx, yy, xy = (gaussian_filter(v, 1.5) for v in (x, y, x * x, y * y, x * y))
        vx, vy, cov = xx - mx * mx, yy - my * my, xy - mx * my
        above = (2 * mx * my + 0.01**2) * (2 * cov + 0.03**2)
        found.append((above / ((mx * mx + my * my + 0.01**2) * (vx + vy + 0.03**2))).mean())
    return float(np.mean(found))


def seen(raster: Raster) -> np.ndarray:
    """Return a map as displayed, in [0, 1]."""
    if raster.meaning is Meaning.COLOR:
        return linear_to_srgb(np.clip(raster.pixels, 0, 1))
    return raster.pixels * 0.5 + 0.5 if raster.meaning is Meaning.NORMAL else raster.pixels


def sets() -> dict[str, tuple[MapKind, SetDefinition]]:
    """A set for each operation: the usual one of a photo with that operation's map in it."""
    usual = compose("one", {MapKind.BASE_COLOR: Imported(source=SHA)})
    lit = Derived(operation="base_color_from_photo", slots={"photo": Imported(source=SHA)})
    usual = usual.with_map(MapKind.BASE_COLOR, lit)
    found = {}
    for each in OPERATIONS.values():
        output = each.kinds[-1]
        one = each.making(output)
        kinds = {k: usual.maps[k] for k in usual.maps}
        if one.takes_from or not set(one.inputs) <= set(kinds) or one.name == "height_from_normal":
            continue
        slots = {}
        for slot in one.slots:
            prefers = [k for k in slot.prefers if k in kinds and k is not output]
            filled = FromMap(kind=prefers[0]) if prefers else Imported(source=SHA)
            if slot.required:
                slots[slot.name] = filled
        colors = {p.name: "#8a6d50" for p in one.parameters if p.form == "colors"}
        made = Derived(operation=one.name, slots=slots, parameters=colors)
        found[one.name] = (output, usual.with_map(output, made))
    return found


def main(side: int = 4096, shown: int = 512, count: int = 3) -> None:
    """Print a line per operation, with the first of the pictures."""
    pictures = {
        "tatami": draw_tatami_weave(side),
        "copper": draw_hammered_copper(side)["base_color"],
        "gravel": noise_photo(side),
    }
    pictures = dict(list(pictures.items())[:count])
    print(f"{side} reduced to {shown}: SSIM of a preview derived at {WAYS} times the size")
    lowest: dict[str, float] = dict.fromkeys(WAYS, 1.0)
    for name, (kind, texture_set) in sets().items():
        line = []
        for word, picture in pictures.items():

            def at(working: int, texture_set=texture_set, kind=kind, picture=picture) -> np.ndarray:  # type: ignore[no-untyped-def]
                graph = plan(texture_set, {SHA: picture.size}, wanted=[kind],
                             longer_side=shown, compute_side=working)  # fmt: skip
                return seen(evaluate(graph, lambda _: picture)[kind])

            truth = at(side)
            values = {way: ssim(at(shown * times), truth) for way, times in WAYS.items()}
            lowest = {way: min(lowest[way], values[way]) for way in WAYS}
            line.append(word + " " + " ".join(f"{v:.3f}" for v in values.values()))
        print(f"{name:32} " + "   ".join(line), flush=True)
    print("lowest: " + ", ".join(f"{way} {value:.3f}" for way, value in lowest.items()))
