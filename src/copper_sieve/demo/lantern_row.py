"""Fill the Lantern Row project: draw its pictures and take them in as anybody would."""

from __future__ import annotations

from copper_sieve.core.codecs import write_picture
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.presets.texture_set import SurfaceSpec
from copper_sieve.demo.tatami_weave import draw_tatami_weave
from copper_sieve.services.context import Context
from copper_sieve.services.intake import take_in
from copper_sieve.store.projects import ensure_project
from copper_sieve.store.texture_sets import list_sets

_SURFACES = {"tatami_weave": SurfaceSpec(tile_size=0.9, depth=0.006)}


def _draw(name: str) -> Picture:
    return {"tatami_weave": draw_tatami_weave}[name]()


def fill_demo(context: Context, *, with_pictures: bool) -> None:
    """Make sure that there is a project; with pictures, that it holds the demo's sets.

    A set that is there already stays as people left it.
    """
    slug, title = ("lantern-row", "Lantern Row") if with_pictures else ("first", "First project")
    with context.database.transaction() as connection:
        project = ensure_project(connection, slug, title)
        there = {row["name"] for row in list_sets(connection, project["id"])}
    if not with_pictures:
        return
    for name, surface in _SURFACES.items():
        if name not in there:
            with context.incoming() as folder:
                path = folder / f"{name}.png"
                write_picture(path, _draw(name), "png")
                take_in(context, slug, path, path.name, surface=surface)
