"""Lights of a measured set: estimation from a ball, and comparison with the pictures."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from copper_sieve.core.codecs.encoders.png import encode_png
from copper_sieve.core.errors import PlanError
from copper_sieve.core.graph.evaluate import evaluate
from copper_sieve.core.graph.fair_lock import computing
from copper_sieve.core.graph.geometry import Sizes
from copper_sieve.core.graph.plan import plan
from copper_sieve.core.image.color_difference import delta_e_2000, to_lab
from copper_sieve.core.image.map_kind import MapKind, Meaning
from copper_sieve.core.image.raster import Float, Raster
from copper_sieve.core.image.resize import fit_size
from copper_sieve.core.ingest.light_captures import with_refined_lights
from copper_sieve.core.lighting.shading import Material, shade
from copper_sieve.core.measuring.calibration import f0_remarks
from copper_sieve.core.measuring.simd_batch import F0
from copper_sieve.core.measuring.stack import Capture, CaptureStack, codes_of, reduce_light
from copper_sieve.core.models.light_captures import (
    BallSpec,
    CaptureSpec,
    CapturesSpec,
    GrayCardSpec,
    LightOrigin,
    TintSpec,
)
from copper_sieve.core.models.preparation import Preparation
from copper_sieve.core.models.texture_set import Derived, SetDefinition
from copper_sieve.services.context import Context
from copper_sieve.services.display import displayed
from copper_sieve.services.drafts import draft_for_preview
from copper_sieve.services.jobs.requests import ask
from copper_sieve.services.jobs.running import Running
from copper_sieve.store.jobs import NewJob, StoredJob
from copper_sieve.store.texture_sets import get_set

_SIDE = 384  # texels of the longer side of the comparison
_BRIGHT = 0.85  # of the 99th percentile, in linear light
_CARDS = 2  # looks at a grey card
_DARKER = -4.0  # stops, so that nothing is clipped that is taken for brighter than it is
_LEAST_WHITE = 1e-3  # of the light and its assumed value
_DISC, _FEWEST_ACROSS = 0.012, 2.0  # its radius: of the width, and texels
_MOST_OFF = 10.0  # of the difference that is drawn white
_COMPARED = (MapKind.BASE_COLOR, MapKind.NORMAL, MapKind.ROUGHNESS)


@dataclass(frozen=True, slots=True)
class CaptureComparison:
    """A picture and the measured surface under the same light.

    photo, ours, difference : PNG bytes; the difference is white at 10 ΔE2000
    delta_e : mean of the difference; shaded : share of the picture that isn't compared because it
    is overexposed or in cast shadow
    """

    photo: bytes
    ours: bytes
    difference: bytes
    delta_e: float
    shaded: float


def ask_lights(  # noqa: PLR0917
    context: Context, set_id: int, how: LightOrigin, ball: BallSpec | None = None,
    elevation: float | None = None, draft: SetDefinition | None = None,
) -> StoredJob:  # fmt: skip
    """Create a job that estimates the lights of a set's pictures; the set isn't changed.

    how, ball, elevation : see `with_refined_lights`
    Raises NotFoundError, PlanError for a set that isn't measured.
    """
    texture_set, _ = draft_for_preview(context, set_id, draft)
    arguments = {
        "captures": _shots_of(texture_set).model_dump(mode="json"),
        "how": how,
        "ball": ball and ball.model_dump(mode="json"),
        "elevation": elevation,
    }
    text = json.dumps(arguments, sort_keys=True).encode()
    key = f"relight {hashlib.sha256(text).hexdigest()}"
    with context.database.transaction() as connection:
        kept = get_set(connection, set_id)
        wanted = NewJob("light_fit", kept.name, kept.project_id, key, arguments, "small")
        return ask(context, connection, wanted)


def fit_lights(context: Context, running: Running) -> None:
    """Estimate the lights of pictures; the result is the data that a set stores."""
    asked = running.arguments
    captures = CapturesSpec.model_validate(asked["captures"])
    running.report(0, "Reading the pictures")
    pictures = {one.source: context.load_source(one.source) for one in captures.used}
    running.report(0.2, f"Estimating the lights of {len(pictures)} pictures")
    ball = BallSpec.model_validate(asked["ball"]) if asked["ball"] else None
    with computing:
        found = with_refined_lights(captures, pictures, asked["how"], ball, asked["elevation"])
    with context.database.transaction() as connection:
        running.finish(connection, {"captures": found.model_dump(mode="json")})


def compare_capture(
    context: Context, set_id: int, source: str, draft: SetDefinition | None = None
) -> CaptureComparison:
    """Compare a picture of a set with the measured surface under that picture's light.

    Raises NotFoundError, PlanError for a set without such a picture, MeasureError.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    captures = _shots_of(texture_set)
    capture = next((one for one in captures.captures if one.source == source), None)
    if capture is None:
        raise PlanError(f"{texture_set.name} isn't measured from that picture. Reload the page")
    maps = _measured(context, texture_set, sizes)
    height, width = maps[MapKind.NORMAL].shape[:2]
    picture = context.load_source(source)
    with computing:
        light = reduce_light(codes_of(picture, capture.encoding), width, height)
        return _compared(_placed(light, capture, captures), maps, capture, captures.f0 or F0)


def white_by(
    context: Context, set_id: int, card: GrayCardSpec, draft: SetDefinition | None = None
) -> CapturesSpec:
    """Return the pictures of a set with light strength and tint from a gray card.

    Nothing is stored.

    Raises NotFoundError, PlanError for a set that isn't measured, or if the card is unlit.
    """
    texture_set, sizes = draft_for_preview(context, set_id, draft)
    captures = _shots_of(texture_set)
    for _ in range(_CARDS):  # the reflectance scales with the assumed brightness
        now = texture_set.model_copy(update={"captures": captures})
        shown = _of_disc(_measured(context, now, sizes, _DARKER)[MapKind.BASE_COLOR], card)
        factor = shown * 2.0**-_DARKER / card.reflectance
        if not _LEAST_WHITE < factor.min() <= factor.max() < 1 / _LEAST_WHITE:
            raise PlanError(
                "almost no light comes from there, or it is overexposed. Move the circle "
                "onto the gray card, in an area lit by most lights"
            )
        light = np.array(captures.light) * factor
        white, tint = float(light.mean()), light / light.mean()
        red, green, blue = (round(float(one), 5) for one in tint)
        captures = captures.model_copy(update={
            "white": round(white, 6),
            # Highlights keep their absolute strength relative to the new white level.
            "f0": captures.f0 and min(1.0, float(captures.f0 * captures.white / white)),
            "tint": TintSpec(red=red, green=green, blue=blue),
            "gray_card": card,
        })  # fmt: skip
    before = f0_remarks(_shots_of(texture_set).f0, bool(_shots_of(texture_set).gray_card))
    kept = tuple(one for one in captures.light_remarks if one not in before)
    lit_texels = f0_remarks(captures.f0, white_is_told=True)
    return captures.model_copy(update={"light_remarks": kept + lit_texels})


def _of_disc(color: Float, card: GrayCardSpec) -> NDArray[np.float64]:
    """Return the median color of a small disk, (3,)."""
    height, width = color.shape[:2]
    y, x = np.mgrid[:height, :width] + 0.5
    reach = max(_DISC * width, _FEWEST_ACROSS)
    inside = np.hypot(x - card.x * width, y - card.y * width) <= reach
    if not inside.any():
        raise PlanError("the gray card is outside the picture. Move the circle onto it")
    return np.asarray(np.median(color[inside], axis=0), np.float64)


def _shots_of(texture_set: SetDefinition) -> CapturesSpec:
    if texture_set.captures is None:
        raise PlanError(f"{texture_set.name} isn't measured from light captures")
    return texture_set.captures


def _measured(
    context: Context, texture_set: SetDefinition, sizes: Sizes, exposure: float = 0.0
) -> dict[MapKind, Float]:
    """Return the measured surface as seen in the pictures, reduced, before cropping and settings.

    exposure : of the color, in stops
    """
    ways = {kind: Derived(operation=f"{kind.value}_from_captures") for kind in _COMPARED}
    parameters = {"exposure": exposure}
    color = Derived(operation="base_color_from_captures", parameters=parameters)
    ways[MapKind.BASE_COLOR] = color
    plain = texture_set.model_copy(
        update={"maps": ways, "shelf": {}, "prepare": Preparation(), "model": None}
    )
    size = sizes[_shots_of(texture_set).captures[0].source]
    side = max(fit_size(*size, min(_SIDE, max(size))))
    graph = plan(plain, sizes, longer_side=side, compute_side=side)
    rasters = evaluate(graph, context.load_source, cache=context.cache)
    return {kind: one.pixels for kind, one in rasters.items()}


def _placed(light: Float, capture: CaptureSpec, captures: CapturesSpec) -> Float:
    """Return a picture aligned to the surface, for light strength 1; negative where clipped."""
    height, width = light.shape[:2]
    place = capture.placement.placement(width)
    stack = CaptureStack(
        [Capture(light, capture.lamp.lamp(), capture.exposure, place)], captures.light
    )
    return np.asarray(stack.light(range(height), range(width))[0])


def _compared(
    light: Float, maps: dict[MapKind, Float], capture: CaptureSpec, f0: float
) -> CaptureComparison:
    height, width = light.shape[:2]
    places = CaptureStack([Capture(light)]).places(range(height), range(width))
    towards, _ = capture.lamp.lamp().ways(places)  # light is evened already
    material = Material.of({**maps, MapKind.METALLIC: np.zeros_like(maps[MapKind.ROUGHNESS])}, f0)
    ours = shade(material, ((towards, np.pi),), sky=0.0)
    seen = (light >= 0).all(-1)
    level = float(np.percentile(light[seen], 99)) if seen.any() else 1.0
    scale = np.float32(_BRIGHT / max(level, 1e-6))
    photo, ours = np.where(light < 0, level, light) * scale, ours * scale
    off = delta_e_2000(to_lab(photo), to_lab(ours))
    # Cast shadows are excluded, because the shader doesn't cast any.
    dark = photo.mean(-1) < 0.35 * ours.mean(-1)
    lit_texels = seen & ~dark
    mean = float(off[lit_texels].mean()) if lit_texels.any() else 0.0
    drawn = np.clip(off / _MOST_OFF, 0, 1).astype(np.float32)[..., None]
    return CaptureComparison(
        _png(photo), _png(ours), encode_png(displayed(Raster(drawn, Meaning.DATA))), mean,
        float(1 - lit_texels.mean()),
    )  # fmt: skip


def _png(light: Float) -> bytes:
    held = np.ascontiguousarray(np.clip(light, 0, 1), np.float32)
    return encode_png(displayed(Raster(held, Meaning.COLOR)))
