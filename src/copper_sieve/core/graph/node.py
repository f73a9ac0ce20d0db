"""What a plan is made of: nodes, each one map to compute, with a key for its content."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import dataclass, field
from typing import Any

from copper_sieve.core.graph.geometry import Size
from copper_sieve.core.graph.preparing import Step
from copper_sieve.core.graph.tiled_resample import Laid
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.reduction import Reduction
from copper_sieve.core.image.tile_layout import Sheet
from copper_sieve.core.models.light_captures import ShotSpec, ShotsSpec
from copper_sieve.core.models.model_tie import ModelTie
from copper_sieve.core.models.texture_set import Constant, Derived, Imported
from copper_sieve.core.operations import Surface

DEPTH = "depth"  # the name of the input that is the measured depth of a height


@dataclass(frozen=True, slots=True)
class Node:
    """One map to compute: how, from which other nodes, at which size.

    reduction : how its input `whole`, which is the same map at a larger size, is made smaller, if
        it is; a roughness may have the `normal` at that size as a second input
    step : it is a picture of the set after this step of preparing, or a plan for such a step
    passing : only further steps need it
    nearest : read from its file at another size, no texels are mixed
    measures : it is no map but the depth of one, (1, 1, 1), as a share of the picture's width
    tie : of a map that is taken from a model: which model, and how the set lies on it
    quick : of such a map: with one sample, for a preview
    sheet : of a set with tiles: how they lie on the picture
    shots : it is all that pictures under several lights tell, (H, W, 9), from which maps are taken
    shot : or one of these pictures in linear light, made smaller for that
    """

    key: str
    kind: MapKind
    definition: Imported | Derived | Constant
    inputs: dict[str, str]
    size: Size
    surface: Surface
    parameters: dict[str, Any] = field(default_factory=dict)
    reduction: Reduction | None = None
    step: Step | Laid | None = None
    passing: bool = False
    nearest: bool = False
    measures: bool = False
    tie: ModelTie | None = None
    quick: bool = False
    sheet: Sheet | None = None
    shots: ShotsSpec | None = None
    shot: ShotSpec | None = None

    @property
    def is_read(self) -> bool:
        """It is a picture as it came in, read from its file."""
        return self.shot is not None or (
            isinstance(self.definition, Imported)
            and self.reduction is None
            and self.step is None
            and not self.measures
        )

    @property
    def files(self) -> Collection[str]:
        """SHA-256 of the files that are read for it."""
        if self.shots is not None:
            pictures = () if self.inputs else (one.source for one in self.shots.used)
            return (*pictures, *([self.shots.paper] if self.shots.paper else []))
        if self.shot is not None:
            return (self.shot.source,)
        if self.is_read and isinstance(self.definition, Imported):
            return self.definition.files
        return ()

    @property
    def words(self) -> str:
        """What is done to make it, for people."""
        title = self.kind.facts.title.lower()
        if self.measures:
            return "measuring the relief"
        if self.shots is not None:
            return "measuring the surface"
        if self.shot is not None:
            return "reading pictures"
        if self.reduction:
            return f"reducing {title}"
        if self.step is not None:
            return f"preparing {title}" if isinstance(self.step, Step) else f"laying {title}"
        if self.tie is not None:
            return f"baking {title} from the model"
        return f"deriving {title}" if isinstance(self.definition, Derived) else f"reading {title}"


@dataclass(frozen=True, slots=True)
class Plan:
    """Nodes in an order in which each comes after its inputs, and the keys that are wanted.

    depth : the key of the measured depth of the set's height, where it is measured and needed
    """

    nodes: dict[str, Node]
    outputs: dict[MapKind, str]
    depth: str | None = None
