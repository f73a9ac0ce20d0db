"""UV problems of a set's model as findings, with the same measurements as on Models."""

from __future__ import annotations

from typing import cast

from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.mesh.mesh import Mesh
from copper_sieve.core.mesh.uv_facts import check_uvs
from copper_sieve.core.models.finding import Finding, Rule
from copper_sieve.core.models.texture_set import SetDefinition


def check_islands(texture_set: SetDefinition, model: Mesh, side: int) -> list[Finding]:
    """Return problems of UV islands: overlaps, mirrored, outside, too close, missing seams.

    There are no fixes, because a set can't change UVs.

    Parameters
    ----------
    texture_set : the set
    model : linked to the set
    side : texels of the longer side of the set or its tiles

    Raises
    ------
    MeshError : if the material is unknown
    """
    link = texture_set.model
    if link is None or not texture_set.maps:
        return []
    drawn = model if link.material is None else model.of_material(link.material)
    about = MapKind.BASE_COLOR if MapKind.BASE_COLOR in texture_set.maps else None
    kind = about or next(iter(texture_set.maps))
    return [
        Finding(rule=cast(Rule, f"uv_{fact.rule}"), kind=kind, weight=fact.weight,
                text=fact.text, evidence=fact.evidence)
        for fact in check_uvs(drawn, link.uv_set, side, sheet=texture_set.sheet)[1]
    ]  # fmt: skip
