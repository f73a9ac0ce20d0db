"""What seems wrong in the UVs that a set lies on: the same figures as on Models, as findings."""

from __future__ import annotations

from typing import cast

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.uv_facts import look_at_uvs
from copper_sieve.core.models.finding import Finding, Rule
from copper_sieve.core.models.texture_set import SetDefinition


def look_at_islands(texture_set: SetDefinition, model: Mesh, side: int) -> list[Finding]:
    """Overlaps, islands that are mirrored, outside or too near, hard edges that are not split.

    model : that the set is made for; side : texels of the longer side of the set or of its tiles
    Nothing of a set mends UVs, so none has a mend. Raises MeshError for an unknown material.
    """
    tie = texture_set.model
    if tie is None or not texture_set.maps:
        return []
    drawn = model if tie.material is None else model.of_material(tie.material)
    about = MapKind.BASE_COLOR if MapKind.BASE_COLOR in texture_set.maps else None
    kind = about or next(iter(texture_set.maps))
    return [
        Finding(rule=cast(Rule, f"uv_{fact.rule}"), kind=kind, weight=fact.weight,
                text=fact.text, evidence=fact.evidence)
        for fact in look_at_uvs(drawn, tie.uv_set, side, sheet=texture_set.sheet)[1]
    ]  # fmt: skip
