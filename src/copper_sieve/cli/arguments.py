"""The commands of ./sieve with their options: names, help texts and examples."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Callable
from typing import Any, NoReturn

from copper_sieve.cli import options
from copper_sieve.cli.options import path
from copper_sieve.core.codecs.registry import exact_formats

Command = Callable[..., argparse.ArgumentParser]  # adds a command: name, help, two examples

_SET_EXAMPLES = (
    "sieve make bark.jpg --target gltf-metal-rough --out textures",
    "sieve make downloads/ --target orm-y-down --target gltf-metal-rough --out textures --jobs 2",
)


class Parser(argparse.ArgumentParser):
    """Reports a wrong argument in one line, with exit status 2."""

    def error(self, message: str) -> NoReturn:
        sys.stderr.write(f"sieve: {message}; see {self.prog} --help\n")
        raise SystemExit(2)


class _Formatter(argparse.RawDescriptionHelpFormatter):
    def __init__(self, prog: str) -> None:
        super().__init__(prog, max_help_position=34, width=100)


def build_parser() -> argparse.ArgumentParser:
    """Return the parser of the whole command line."""
    parser = Parser(
        prog="sieve", formatter_class=_Formatter,
        description="Derive, convert, pack, deliver and verify texture maps.",
    )  # fmt: skip
    commands = parser.add_subparsers(
        dest="command", required=True, metavar="COMMAND", parser_class=Parser
    )

    def command(name: str, text: str, *examples: str) -> argparse.ArgumentParser:
        shown = "".join(f"\n  {example}" for example in examples)
        return commands.add_parser(
            name, help=text, description=text[:1].upper() + text[1:] + ".",
            epilog=f"examples:{shown}" if examples else None, formatter_class=_Formatter,
        )  # fmt: skip

    for add in (
        _add_make, _add_watch, _add_derive, _add_pack, _add_split, _add_convert, _add_bake,
        _add_attach, _add_measure, _add_remote, _add_verification, _add_server, _add_project,
    ):  # fmt: skip
        add(command)
    return parser


def _add(
    parser: argparse.ArgumentParser, name: str, *old: str, dest: str | None = None, **facts: Any
) -> None:
    """Add an option; `old` are spellings of the previous version, which the help doesn't list."""
    if dest:
        facts["dest"] = dest
    action = parser.add_argument(name, **facts)
    if old:
        hidden = {
            key: value for key, value in facts.items() if key not in {"help", "default", "dest"}
        }
        parser.add_argument(
            *old, dest=action.dest, help=argparse.SUPPRESS, default=argparse.SUPPRESS, **hidden
        )


def _add_json(parser: argparse.ArgumentParser, text: str = "print the result as JSON") -> None:
    parser.add_argument("--json", action="store_true", help=text)


def _add_make(command: Command) -> None:
    make = command("make", "create texture sets from photos and maps, and deliver them to targets",
                   *_SET_EXAMPLES)  # fmt: skip
    make.add_argument("photo", type=path, nargs="?",
                      help="photo, or a folder: its pictures are grouped by file name")  # fmt: skip
    make.add_argument("maps", type=path, nargs="*",
                      help="more maps; the file names determine the map types")  # fmt: skip
    make.add_argument("--sets", action="store_true",
                      help="group the given files into several sets by file name")  # fmt: skip
    make.add_argument("--list", type=path, metavar="FILE", dest="listed",
                      help="text file with more files and folders, one per line")  # fmt: skip
    make.add_argument("--jobs", type=int, default=1, metavar="N", help="sets processed in parallel")
    make.add_argument("--set", dest="set_name", metavar="NAME", help="name of the set")
    make.add_argument("--material", metavar="NAME",
                      help="material of the model; default: the set's name")  # fmt: skip
    _add_making(make)
    _add_json(make)


def _add_watch(command: Command) -> None:
    watch = command(
        "watch", "create and deliver sets from files that appear in a folder",
        "sieve watch incoming --target gltf-metal-rough --out textures",
        "sieve watch incoming --once --json --target orm-y-down --out textures",
    )  # fmt: skip
    watch.add_argument("folder", type=path, metavar="FOLDER", help="folder to watch")
    watch.add_argument(
        "--jobs", type=int, default=1, metavar="N", help="sets processed in parallel"
    )
    watch.add_argument("--once", action="store_true", help="process existing files, then exit")
    _add_making(watch)
    _add_json(watch, "print one line of JSON per set")


def _add_making(make: argparse.ArgumentParser) -> None:
    """Add the options that `make` and `watch` share."""
    make.add_argument("--target", action="append", required=True, metavar="ID",
                      help="built-in target, or a target exported as JSON; repeatable")  # fmt: skip
    make.add_argument("--out", type=path, required=True, metavar="DIR", help="output folder")
    make.add_argument("--card", type=path, action="append", default=[], metavar="FILE",
                      help="source card: meaning of the file names of one source")  # fmt: skip
    make.add_argument("--recipe", type=path, metavar="FILE", help="settings of derived maps")
    make.add_argument("--prepare", type=path, metavar="FILE",
                      help="preparation, or a delivery's manifest that contains one")  # fmt: skip
    make.add_argument("--size", type=int, metavar="N", help="texels along the longer side")
    make.add_argument("--normal-y", choices=("up", "down"),
                      help="green direction of normal maps; default: measured")  # fmt: skip
    make.add_argument("--model", type=path, metavar="FILE",
                      help="model whose UV islands the textures are padded around")  # fmt: skip
    _add_uv_set(make)
    options.add_surface(make)


def _add_uv_set(parser: argparse.ArgumentParser) -> None:
    _add(parser, "--uv-set", "--uv", dest="uv", type=int, default=0, metavar="N",
         help="UV set of the model; default 0")  # fmt: skip


def _add_derive(command: Command) -> None:
    derive = command(
        "derive", "derive one map from another",
        "sieve derive bark.png --from color --to normal --out bark_normal.png",
        "sieve derive bark_normal.png --from normal --to height --bits 16 --out bark_height.png",
    )  # fmt: skip
    derive.add_argument("file", type=path, nargs="?", help="input picture")
    derive.add_argument("--from", dest="origin", metavar="TYPE",
                        help="map type of the input: color, height, normal …")  # fmt: skip
    derive.add_argument("--to", metavar="TYPE", help="map type of the output")
    _add(derive, "--operation", "--by", dest="by", metavar="NAME",
         help="operation; default: the standard one for these types")  # fmt: skip
    derive.add_argument("--with", dest="further", action="append", default=[], metavar="NAME=FILE",
                        help="additional input by map type or slot; repeatable")  # fmt: skip
    derive.add_argument("--param", action="append", default=[], metavar="NAME=VALUE",
                        help="parameter of the operation; repeatable")  # fmt: skip
    derive.add_argument("--bits", type=int, choices=(8, 16, 32), help="bits per channel")
    derive.add_argument("--size", type=int, metavar="N", help="texels along the longer side")
    derive.add_argument("--normal-y", choices=("up", "down"),
                        help="green direction; default: in measured, out up")  # fmt: skip
    options.add_surface(derive)
    derive.add_argument("--out", type=path, metavar="FILE", help="output file")
    derive.add_argument("--list", action="store_true", help="list operations and parameters")
    _add_json(derive, "print the result or the list as JSON")


def _add_pack(command: Command) -> None:
    pack = command(
        "pack", "pack channels of several files into one file",
        "sieve pack --slot R=ao.png --slot G=rough.png --slot B=metal.png --out orm.png",
        "sieve pack --slot R=orm.tga#G:invert --slot G=0 --slot B=0.5 --out mask.png",
    )  # fmt: skip
    pack.add_argument("--slot", action="append", required=True,
                      metavar="R=FILE[#CHANNEL][:CHANGE]…",
                      help="source of a channel, or a constant from 0 to 1; changes: invert, "
                      "range=, gamma=, threshold=, clamp=")  # fmt: skip
    pack.add_argument("--bits", type=int, choices=(8, 16),
                      help="bits per channel; default: as the deepest input")  # fmt: skip
    pack.add_argument("--out", type=path, required=True, metavar="FILE", help="output file")
    _add_json(pack)


def _add_split(command: Command) -> None:
    split = command(
        "split", "split a file into its channels",
        "sieve split orm.png --out channels",
        "sieve split mask.tga --out channels --format tiff",
    )  # fmt: skip
    split.add_argument("file", type=path, metavar="FILE", help="input picture")
    split.add_argument("--out", type=path, required=True, metavar="DIR", help="output folder")
    split.add_argument("--format", choices=exact_formats(), default="png", help="default png")
    _add_json(split)


def _add_convert(command: Command) -> None:
    convert = command(
        "convert", "convert maps between conventions",
        "sieve convert bark_normal.png --rule normal-flip-y --out converted",
        "sieve convert bark_*.png --rule spec-gloss-to-metal-rough --out converted",
    )  # fmt: skip
    convert.add_argument("files", type=path, nargs="*", metavar="FILE",
                         help="maps; the file names determine the map types")  # fmt: skip
    convert.add_argument("--rule", metavar="RULE", help="conversion; see --list")
    convert.add_argument("--out", type=path, metavar="DIR", help="output folder")
    convert.add_argument("--set", dest="set_name", metavar="NAME", help="name of the output files")
    convert.add_argument("--param", action="append", default=[], metavar="NAME=VALUE",
                         help="parameter of the rule; repeatable")  # fmt: skip
    convert.add_argument("--format", choices=exact_formats(floats=True),
                         help="default: png, or tiff for floating point")  # fmt: skip
    convert.add_argument("--list", action="store_true", help="list all rules")
    _add_json(convert, "print the result or the list as JSON")


def _add_bake(command: Command) -> None:
    bake = command(
        "bake", "bake maps from a model, or from a high-poly model",
        "sieve bake crate.glb --maps occlusion,curvature --size 2048 --out baked",
        "sieve bake crate.glb --high-poly crate_high.glb --maps normal --out baked",
    )  # fmt: skip
    bake.add_argument("model", type=path, nargs="?", metavar="MODEL", help="glTF, OBJ, PLY or STL")
    bake.add_argument("--maps", action="append", metavar="NAME,NAME…", help="see --list")
    _add(bake, "--high-poly", "--detailed", dest="high_poly", type=path, metavar="FILE",
         help="high-poly model to bake from")  # fmt: skip
    bake.add_argument("--cage", metavar="FILE|METERS",
                      help="cage model, or ray start distance; default: measured")  # fmt: skip
    _add(bake, "--match-by-name", "--by-name", dest="match_by_name", action="store_true",
         help="match parts of both models by name")  # fmt: skip
    _add(bake, "--match-by-uvs", "--same-uvs", dest="match_by_uvs", action="store_true",
         help="the high-poly model is a subdivision: match by UVs")  # fmt: skip
    bake.add_argument("--material", metavar="NAME", help="bake only this material")
    _add_uv_set(bake)
    bake.add_argument("--size", type=int, default=1024, metavar="N", help="texels per side")
    bake.add_argument("--tiles", metavar="all|N,N…", help="write one file per UV tile (UDIM)")
    bake.add_argument("--samples", type=int, default=4, choices=(1, 4, 9, 16),
                      help="sample points per texel; default 4")  # fmt: skip
    bake.add_argument("--rays", type=int, default=64, metavar="N",
                      help="rays per sample; default 64")  # fmt: skip
    _add(bake, "--max-distance", "--reach", dest="max_distance", type=float, metavar="METERS",
         help="occlusion distance; default: unlimited")  # fmt: skip
    _add(bake, "--ground-plane", "--ground", dest="ground_plane", action="store_true",
         help="a plane below the model occludes it")  # fmt: skip
    _add(bake, "--isolate-parts", "--alone", dest="isolate_parts", action="store_true",
         help="parts don't occlude each other")  # fmt: skip
    _add(bake, "--max-thickness", "--thick", dest="max_thickness", type=float, metavar="METERS",
         help="thickness that is white")  # fmt: skip
    _add(bake, "--edge-radius", "--edge", dest="edge", type=float, metavar="METERS",
         help="curvature radius of hard edges")  # fmt: skip
    bake.add_argument("--height-range", type=float, metavar="METERS",
                      help="height between black and white; default: full range")  # fmt: skip
    bake.add_argument("--normal-y", choices=("up", "down"), default="up",
                      help="green direction; default up")  # fmt: skip
    bake.add_argument("--out", type=path, metavar="DIR", help="output folder")
    bake.add_argument("--list", action="store_true", help="list all maps")
    _add_json(bake, "print the result or the list as JSON")


def _add_attach(command: Command) -> None:
    attach = command(
        "attach", "embed delivered textures in a model as glTF, USD or MaterialX",
        "sieve attach crate.glb textures/crate --out crate_textured.glb",
        "sieve attach room.glb Floor=textures/oak Wall=textures/plaster --out room.usdz",
    )  # fmt: skip
    attach.add_argument("model", type=path, metavar="MODEL",
                        help=".glb or .gltf; any model for USD and MaterialX")  # fmt: skip
    attach.add_argument("deliveries", nargs="*", metavar="[MATERIAL=]DIR",
                        help="delivered folder; default material: the set's name")  # fmt: skip
    _add_uv_set(attach)
    attach.add_argument("--tangents", action="store_true", help="write MikkTSpace tangents")
    attach.add_argument("--out", type=path, required=True, metavar="FILE",
                        help=".glb or .usdz (embedded), .gltf, .usda or .mtlx")  # fmt: skip
    _add_json(attach)


def _add_measure(command: Command) -> None:
    measure = command(
        "measure", "measure a surface from photos with different light directions",
        "sieve measure tile_*.jpg --ball auto --out measured",
        "sieve measure a.png b.png c.png d.png --lights 0:45,90:45,180:45,270:45 --out measured",
    )  # fmt: skip
    measure.add_argument("pictures", type=path, nargs="+", metavar="PICTURE",
                         help="photos from one fixed camera, one per light direction")  # fmt: skip
    _add(measure, "--lights", "--lamps", dest="lamps", metavar="A:E[:D],…|ring:E|unknown",
         help="azimuth and elevation in degrees and optional distance in picture widths per "
         "photo; or a ring at one elevation; or estimated from the photos")  # fmt: skip
    _add(measure, "--distant", "--far", dest="distant", action="store_true",
         help="lights without a distance are infinitely far; default: estimated")  # fmt: skip
    _add(measure, "--white-level", "--white", dest="white", type=float, default=1.0,
         metavar="VALUE",
         help="linear value of a white surface directly below the light; default 1")  # fmt: skip
    measure.add_argument("--normal-y", choices=("up", "down"), default="up",
                         help="green direction; default up")  # fmt: skip
    measure.add_argument("--ball", metavar="auto|X:Y:RADIUS[:mirror]",
                         help="ball in all photos, in px from the upper left")  # fmt: skip
    _add(measure, "--flat-field", "--paper", dest="flat_field", type=path, metavar="PICTURE",
         help="photo of evenly lit plain paper, to correct vignetting")  # fmt: skip
    _add(measure, "--static-camera", "--still", dest="static_camera", action="store_true",
         help="don't align the photos")  # fmt: skip
    measure.add_argument("--name", metavar="NAME",
                         help="name of the output files; default: as the first photo")  # fmt: skip
    measure.add_argument("--out", type=path, required=True, metavar="DIR", help="output folder")
    _add_json(measure)


def _add_remote(command: Command) -> None:
    sets = command(
        "sets", "list the sets of a project on a server with their delivery states",
        "sieve sets lantern-row",
        "sieve sets lantern-row --filter wood --server http://textures.example.org:8420",
    )  # fmt: skip
    _add(sets, "--filter", "--find", dest="find", metavar="WORDS",
         help="only sets with these words in name, tags or note")  # fmt: skip
    deliver = command(
        "deliver", "deliver sets of a project on a server and wait for the result",
        "sieve deliver lantern-row --stale",
        "sieve deliver lantern-row --set oak --target gltf-metal-rough --no-wait",
    )  # fmt: skip
    deliver.add_argument("--stale", action="store_true",
                         help="deliver everything that is stale")  # fmt: skip
    deliver.add_argument("--target", action="append", default=[], metavar="ID", help="repeatable")
    deliver.add_argument("--set", action="append", default=[], metavar="NAME",
                         help="repeatable; default: all sets")  # fmt: skip
    _add(deliver, "--delete-obsolete", "--removes", dest="delete_obsolete", action="store_true",
         help="delete files of earlier deliveries that this one no longer contains")  # fmt: skip
    _add(deliver, "--rewrite", "--anew", dest="rewrite", action="store_true",
         help="rewrite unchanged files")  # fmt: skip
    deliver.add_argument("--no-wait", action="store_true", help="don't wait for the result")
    for one in (sets, deliver):
        one.add_argument("project", metavar="PROJECT", help="project, as in its URL")
        one.add_argument("--server", metavar="URL",
                         help="default: SIEVE_SERVER, or the local server")  # fmt: skip
        one.add_argument("--token", help="access token; default: SIEVE_TOKEN")
        _add_json(one)


def _add_verification(command: Command) -> None:
    inspect = command(
        "inspect", "show facts about pictures, and about models and their UVs",
        "sieve inspect bark_normal.png",
        "sieve inspect crate.glb --json",
    )  # fmt: skip
    inspect.add_argument("files", type=path, nargs="+", metavar="FILE", help="picture or model")
    _add_json(inspect)
    assay = command(
        "assay", "verify a delivered folder against its manifest",
        "sieve assay textures/crate",
        "sieve assay textures/crate --json",
    )  # fmt: skip
    assay.add_argument("folder", type=path, metavar="DIR", help="folder of one set and target")
    _add_json(assay)
    targets = command(
        "targets", "list the built-in targets",
        "sieve targets",
        "sieve targets --json",
    )  # fmt: skip
    _add_json(targets)
    targets.add_argument("--table", action="store_true", help="print docs/targets.md")


def _add_server(command: Command) -> None:
    demo = command("demo", "start the server with the Lantern Row demo project",
                   "sieve demo", "sieve demo --port 8500")  # fmt: skip
    serve = command("serve", "start the server", "sieve serve", "sieve serve --port 8500")
    for server in (demo, serve):
        server.add_argument("--port", type=int, help="default 8420")
    backup = command(
        "backup", "back up the database and all originals to one file",
        "sieve backup backup.tar",
        "sieve backup backup.tar --with-deliveries",
    )  # fmt: skip
    backup.add_argument("file", type=path, metavar="FILE", help="tar file to create")
    backup.add_argument("--with-deliveries", action="store_true", help="include delivered files")
    restore = command(
        "restore", "restore a backup into an empty database",
        "sieve restore backup.tar --check",
        "SIEVE_HOME=/srv/sieve ./sieve restore backup.tar",
    )  # fmt: skip
    restore.add_argument("file", type=path, metavar="FILE", help="file written by sieve backup")
    restore.add_argument("--check", action="store_true",
                         help="verify the backup without changing anything")  # fmt: skip
    token = command("token", "print the access token of the local server",
                    "sieve token", "sieve token --rotate")  # fmt: skip
    token.add_argument("--rotate", action="store_true",
                       help="replace the token and end all sessions")  # fmt: skip
    command("work", "start another worker for DATABASE_URL",
            "DATABASE_URL=postgresql://host/sieve ./sieve work",
            "SIEVE_STORAGE=s3://maps DATABASE_URL=postgresql://host/db ./sieve work")  # fmt: skip


def _add_project(command: Command) -> None:
    command("openapi", "print the OpenAPI document of the API")
    shots = command("shots", "update the screenshots of the documentation")
    shots.add_argument("--out", type=path, help="default: docs/screenshots")
    texts = command("texts", "list all user-visible texts by screen",
                    "sieve texts", "sieve texts web/src/places/tray")  # fmt: skip
    texts.add_argument("paths", nargs="*", metavar="PATH", help="only files that contain this")
    _add_json(texts)
