"""Parts of a plan: nodes, each a map to compute with a content key."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Any

from copper_sieve.core.graph.geometry import Size
from copper_sieve.core.graph.preparing import PreparationStep
from copper_sieve.core.graph.tiled_resample import TiledResample
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.reduction import Reduction
from copper_sieve.core.image.tile_layout import TileLayout
from copper_sieve.core.models.light_captures import CaptureSpec, CapturesSpec
from copper_sieve.core.models.model_tie import ModelLink
from copper_sieve.core.models.texture_set import Constant, Derived, Imported
from copper_sieve.core.operations import SurfaceContext

DEPTH = "depth"  # the name of the input that is the measured depth of a height


@dataclass(frozen=True, slots=True)
class Node:
    """A map to compute: operation, inputs and size.

    reduction : method by which its input `whole`, the same map at a larger size, is reduced;
        roughness may have the `normal` at that size as a second input
    step : a picture of the set after this preparation step, or a plan for the step
    passing : only needed by further steps
    nearest : read from its file at another size without interpolation
    measures : depth of a map, (1, 1, 1), as a fraction of the picture's width
    link : for baked maps: the model and its link
    quick : bake with one sample, for a preview
    sheet : layout of a set with UV tiles
    captures : the measurement from light captures, (H, W, 9), from which maps are taken
    capture : one of these pictures in linear light, reduced for it
    """

    key: str
    kind: MapKind
    definition: Imported | Derived | Constant
    inputs: dict[str, str]
    size: Size
    surface: SurfaceContext
    parameters: dict[str, Any] = field(default_factory=dict)
    reduction: Reduction | None = None
    step: PreparationStep | TiledResample | None = None
    passing: bool = False
    nearest: bool = False
    measures: bool = False
    link: ModelLink | None = None
    quick: bool = False
    sheet: TileLayout | None = None
    captures: CapturesSpec | None = None
    capture: CaptureSpec | None = None

    @property
    def is_read(self) -> bool:
        """Whether it is an imported picture, read from its file."""
        return self.capture is not None or (
            isinstance(self.definition, Imported)
            and self.reduction is None
            and self.step is None
            and not self.measures
        )

    @property
    def files(self) -> Collection[str]:
        """SHA-256 of the files that are read for it."""
        if self.captures is not None:
            pictures = () if self.inputs else (one.source for one in self.captures.used)
            return (*pictures, *([self.captures.flat_field] if self.captures.flat_field else []))
        if self.capture is not None:
            return (self.capture.source,)
        if self.is_read and isinstance(self.definition, Imported):
            return self.definition.files
        return ()

    @property
    def words(self) -> str:
        """Description of the step for users."""
        title = self.kind.facts.title.lower()
        if self.measures:
            return "measuring the relief"
        if self.captures is not None:
            return "measuring the surface"
        if self.capture is not None:
            return "reading pictures"
        if self.reduction:
            return f"reducing {title}"
        if self.step is not None:
            return (
                f"preparing {title}"
                if isinstance(self.step, PreparationStep)
                else f"laying {title}"
            )
        if self.link is not None:
            return f"baking {title} from the model"
        return f"deriving {title}" if isinstance(self.definition, Derived) else f"reading {title}"


@dataclass(frozen=True, slots=True)
class Plan:
    """Nodes in an order in which inputs come first, and the requested keys.

    depth : key of the measured depth of the set's height, if it is measured and needed
    """

    nodes: dict[str, Node]
    outputs: dict[MapKind, str]
    depth: str | None = None
