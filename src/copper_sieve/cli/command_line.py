"""Parse the command line, run one command, turn errors into one line and an exit status."""

from __future__ import annotations

import argparse
import contextlib
import gc
import importlib
import signal
import sys
from collections.abc import Callable, Sequence
from typing import Any, NoReturn

from copper_sieve.cli import options
from copper_sieve.cli.options import path
from copper_sieve.cli.stopping import SERVERS, stopping
from copper_sieve.core.codecs.registry import exact_formats
from copper_sieve.core.errors import SieveError

Command = Callable[[str, str], argparse.ArgumentParser]  # adds one by its name and its text


class _Parser(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        sys.stderr.write(f"sieve: {message}; see {self.prog} --help\n")
        raise SystemExit(2)


def _parser() -> argparse.ArgumentParser:
    parser = _Parser(prog="sieve", description="Derive, convert, pack, deliver and verify maps.")
    commands = parser.add_subparsers(
        dest="command", required=True, metavar="COMMAND", parser_class=_Parser
    )

    def command(name: str, text: str) -> argparse.ArgumentParser:
        return commands.add_parser(name, help=text, description=text)

    _add_make(command)
    _add_derive(command)
    _add_conversions(command)
    _add_bake(command)
    _add_attach(command)
    _add_measure(command)
    _add_remote(command)

    inspect = command("inspect", "print what pictures are, and models with their UVs")
    inspect.add_argument("files", type=path, nargs="+", metavar="FILE")
    inspect.add_argument("--json", action="store_true")

    assay = command("assay", "verify a delivered folder")
    assay.add_argument("folder", type=path, metavar="DIR")
    assay.add_argument("--json", action="store_true")

    targets = command("targets", "list the target presets")
    targets.add_argument("--json", action="store_true")
    targets.add_argument("--table", action="store_true", help="as docs/targets.md has them")

    for name, text in (
        ("demo", "start everything with the Lantern Row demo"),
        ("serve", "start everything without demo data"),
    ):
        server = command(name, text)
        server.add_argument("--port", type=int)
    backup = command("backup", "write everything that must not be lost into one file")
    backup.add_argument("file", type=path, metavar="FILE")
    backup.add_argument(
        "--with-deliveries", action="store_true", help="delivered files as well, as a tar file"
    )
    restore = command("restore", "restore a backup into an empty database")
    restore.add_argument("file", type=path, metavar="FILE")
    restore.add_argument(
        "--check", action="store_true",
        help="prove the backup in a database of its own; nothing else is touched",
    )  # fmt: skip
    token = command("token", "print the access token of this machine's server")
    token.add_argument(
        "--rotate", action="store_true",
        help="replace it by a new one; the old one and all sessions end at once",
    )  # fmt: skip
    command("work", "run one more worker against DATABASE_URL")
    command("openapi", "print the API's OpenAPI document")
    shots = command("shots", "refresh the pictures in docs/screenshots")
    shots.add_argument("--out", type=path)
    return parser


def _add_make(command: Command) -> None:
    make = command("make", "from a photo (and further maps) to verified folders, one per target")
    make.add_argument(
        "photo", type=path, nargs="?",
        help="a photo; or a folder, whose pictures are sorted into sets by their names",
    )  # fmt: skip
    make.add_argument("maps", type=path, nargs="*", help="further maps, told by their names")
    make.add_argument("--sets", action="store_true",
                      help="the files are of several sets, sorted by their names")  # fmt: skip
    make.add_argument("--list", type=path, metavar="FILE", dest="listed",
                      help="the same of the files and folders in FILE, one a line")  # fmt: skip
    make.add_argument("--jobs", type=int, default=1, metavar="N", help="sets at once")
    make.add_argument("--set", dest="set_name", metavar="NAME")
    make.add_argument("--material", metavar="NAME", help="of the model; default: the set's name")
    _add_making(make)
    make.add_argument("--json", action="store_true")

    watch = command("watch", "make and deliver what comes into a folder, until it is stopped")
    watch.add_argument("folder", type=path, metavar="FOLDER")
    watch.add_argument("--jobs", type=int, default=1, metavar="N", help="sets at once")
    watch.add_argument("--once", action="store_true", help="only what is there now")
    _add_making(watch)
    watch.add_argument("--json", action="store_true", help="a line of JSON for each set")


def _add_making(make: argparse.ArgumentParser) -> None:
    """What `make` and `watch` say alike: to which targets, where, and how."""
    make.add_argument("--target", action="append", required=True, metavar="ID",
                      help="a built-in target, or a JSON file that was exported")  # fmt: skip
    make.add_argument("--out", type=path, required=True, metavar="DIR")
    make.add_argument(
        "--card", type=path, action="append", default=[], metavar="FILE",
        help="a source card: what its files' names stand for (of several sets)",
    )  # fmt: skip
    make.add_argument("--recipe", type=path, metavar="FILE", help="how the maps are derived")
    make.add_argument(
        "--prepare", type=path, metavar="FILE",
        help="what is done to the pictures first: a preparation, or the manifest of a delivery",
    )  # fmt: skip
    make.add_argument("--size", type=int, metavar="N", help="texels of the longer side")
    make.add_argument(
        "--normal-y", choices=("up", "down"), help="default: measured, told as a guess"
    )
    make.add_argument(
        "--model", type=path, metavar="FILE",
        help="what the textures are for: they are padded beyond the islands of its UVs",
    )  # fmt: skip
    make.add_argument("--uv", type=int, default=0, metavar="N", help="UV set of the model")
    options.add_surface(make)


def _add_derive(command: Command) -> None:
    derive = command("derive", "compute a single map")
    derive.add_argument("file", type=path, nargs="?")
    derive.add_argument(
        "--from", dest="origin", metavar="KIND", help="what FILE is: color, height, normal …"
    )
    derive.add_argument("--to", metavar="KIND")
    derive.add_argument("--by", metavar="OPERATION", help="default: the usual one")
    derive.add_argument(
        "--with", dest="further", action="append", default=[], metavar="NAME=FILE",
        help="a further map by its kind, or a picture for a slot of the operation",
    )  # fmt: skip
    derive.add_argument("--param", action="append", default=[], metavar="NAME=VALUE")
    derive.add_argument("--bits", type=int, choices=(8, 16, 32))
    derive.add_argument("--size", type=int, metavar="N")
    derive.add_argument(
        "--normal-y", choices=("up", "down"),
        help="green of normal maps, in and out; default: in as measured, out up",
    )  # fmt: skip
    options.add_surface(derive)
    derive.add_argument("--out", type=path, metavar="FILE")
    derive.add_argument("--list", action="store_true", help="print every operation's declaration")
    derive.add_argument("--json", action="store_true", help="of the list, or of what was done")


def _add_conversions(command: Command) -> None:
    pack = command("pack", "channels of files into one file")
    pack.add_argument(
        "--slot", action="append", required=True, metavar="R=FILE[#CHANNEL][:CHANGE]…",
        help="or a number from 0 to 1; changes: invert, range=, power=, threshold=, clamp=",
    )  # fmt: skip
    pack.add_argument("--bits", type=int, choices=(8, 16), help="default: as the deepest file")
    pack.add_argument("--out", type=path, required=True, metavar="FILE")
    pack.add_argument("--json", action="store_true")

    split = command("split", "one file into its channels")
    split.add_argument("file", type=path, metavar="FILE")
    split.add_argument("--out", type=path, required=True, metavar="DIR")
    split.add_argument("--format", choices=exact_formats(), default="png")
    split.add_argument("--json", action="store_true")

    convert = command("convert", "maps of one convention into those of another, by a rule")
    convert.add_argument("files", type=path, nargs="*", metavar="FILE", help="told by their names")
    convert.add_argument("--rule", metavar="RULE", help="see --list")
    convert.add_argument("--out", type=path, metavar="DIR")
    convert.add_argument("--set", dest="set_name", metavar="NAME")
    convert.add_argument("--param", action="append", default=[], metavar="NAME=VALUE")
    convert.add_argument(
        "--format",
        choices=exact_formats(floats=True),
        help="default: png, or tiff where a rule gives floating point",
    )
    convert.add_argument("--list", action="store_true", help="print the rules")
    convert.add_argument("--json", action="store_true")


def _add_bake(command: Command) -> None:
    bake = command("bake", "maps from a model: what is around each texel, or a detailed version")
    bake.add_argument("model", type=path, nargs="?", metavar="MODEL", help="glTF, OBJ, PLY or STL")
    bake.add_argument("--maps", action="append", metavar="NAME,NAME…", help="see --list")
    bake.add_argument("--detailed", type=path, metavar="FILE",
                      help="a detailed version, from which all is taken")  # fmt: skip
    bake.add_argument("--cage", metavar="FILE|METRES",
                      help="where rays to it start: the model with its corners moved out, or how "
                      "far; default: measured")  # fmt: skip
    bake.add_argument("--by-name", action="store_true",
                      help="parts of both models with the same name belong together")  # fmt: skip
    bake.add_argument(
        "--same-uvs",
        action="store_true",
        help="the detailed model is this one subdivided: found by UVs, without rays",
    )
    bake.add_argument("--material", metavar="NAME", help="only its triangles are drawn")
    bake.add_argument("--uv", type=int, default=0, metavar="N", help="UV set; default 0")
    bake.add_argument("--size", type=int, default=1024, metavar="N", help="texels a side")
    bake.add_argument("--tiles", metavar="all|N,N…", help="a file for each tile of the UVs (UDIM)")
    bake.add_argument("--samples", type=int, default=4, choices=(1, 4, 9, 16),
                      help="places in each texel; default 4")  # fmt: skip
    bake.add_argument("--rays", type=int, default=64, metavar="N", help="from each; default 64")
    bake.add_argument("--reach", type=float, metavar="METRES", help="beyond it nothing shades")
    bake.add_argument("--ground", action="store_true", help="a floor under the model shades it")
    bake.add_argument("--alone", action="store_true", help="each part is shaded by itself only")
    bake.add_argument("--thick", type=float, metavar="METRES", help="the thickness that is white")
    bake.add_argument("--edge", type=float, metavar="METRES",
                      help="how far a hard edge counts as curved")  # fmt: skip
    bake.add_argument("--height-range", type=float, metavar="METRES",
                      help="of height, black to white; default: all there is")  # fmt: skip
    bake.add_argument("--normal-y", choices=("up", "down"), default="up", help="green; default up")
    bake.add_argument("--out", type=path, metavar="DIR")
    bake.add_argument("--list", action="store_true", help="print the maps and what they mean")
    bake.add_argument("--json", action="store_true", help="figures of what was done, or the list")


def _add_attach(command: Command) -> None:
    attach = command("attach", "delivered textures in a model, as glTF, USD or MaterialX")
    attach.add_argument(
        "model",
        type=path,
        metavar="MODEL",
        help="a .glb or .gltf; for USD and MaterialX any model",
    )
    attach.add_argument(
        "deliveries", nargs="*", metavar="[MATERIAL=]DIR",
        help="delivered with a document of that kind; default: for the material of the set's name",
    )  # fmt: skip
    attach.add_argument("--uv", type=int, default=0, metavar="N", help="UV set; default 0")
    attach.add_argument("--tangents", action="store_true", help="write MikkTSpace tangents too")
    attach.add_argument(
        "--out", type=path, required=True, metavar="FILE",
        help="a .glb or .usdz with all inside, a .gltf or .usda with files beside it, or a .mtlx",
    )  # fmt: skip
    attach.add_argument("--json", action="store_true")


def _add_measure(command: Command) -> None:
    measure = command("measure", "a surface from pictures under light from different sides")
    measure.add_argument("pictures", type=path, nargs="+", metavar="PICTURE",
                         help="of one camera, one for each lamp")  # fmt: skip
    measure.add_argument(
        "--lamps", metavar="AROUND:UP[:DISTANCE],…|ring:UP|unknown",
        help="in degrees: around from the right over the top, up from the surface; distance in "
        "widths of the picture, which the pictures tell if it is not said; in the order of the "
        "pictures; or all in a ring at that height; or unknown: guessed from them alone",
    )  # fmt: skip
    measure.add_argument(
        "--far", action="store_true",
        help="lamps that say no distance are far away; default: the pictures are asked",
    )  # fmt: skip
    measure.add_argument(
        "--white", type=float, default=1.0, metavar="VALUE",
        help="what a white surface right below the lamp shows, in linear light; default 1",
    )  # fmt: skip
    measure.add_argument(
        "--normal-y", choices=("up", "down"), default="up", help="green; default up"
    )
    measure.add_argument(
        "--ball", metavar="find|X:Y:RADIUS[:shiny]",
        help="instead: a white or shiny ball in all pictures, in texels from the upper left corner",
    )  # fmt: skip
    measure.add_argument(
        "--paper",
        type=path,
        metavar="PICTURE",
        help="of plain paper, evenly lit: how the lens darkens corners",
    )
    measure.add_argument(
        "--still",
        action="store_true",
        help="the camera stood still; default: pictures are lined up",
    )
    measure.add_argument("--name", metavar="NAME", help="of the maps; default: the first picture's")
    measure.add_argument("--out", type=path, required=True, metavar="DIR")
    measure.add_argument("--json", action="store_true", help="figures of what was measured")


def _add_remote(command: Command) -> None:
    sets = command("sets", "list the sets of a project on a server, and how they stand")
    sets.add_argument("--find", metavar="WORDS", help="in names, tags and notes")
    deliver = command("deliver", "deliver sets of a project on a server, and wait for it")
    deliver.add_argument("--stale", action="store_true", help="what was delivered and has changed")
    deliver.add_argument("--target", action="append", default=[], metavar="ID")
    deliver.add_argument("--set", action="append", default=[], metavar="NAME",
                         help="default: every set")  # fmt: skip
    deliver.add_argument("--removes", action="store_true",
                         help="remove files that a delivery no longer has")  # fmt: skip
    deliver.add_argument("--anew", action="store_true",
                         help="write every file, also what would come out the same")  # fmt: skip
    deliver.add_argument("--no-wait", action="store_true", help="only ask for it")
    for one in (sets, deliver):
        one.add_argument("project", metavar="PROJECT")
        one.add_argument("--server", metavar="URL", help="default: SIEVE_SERVER, or this machine")
        one.add_argument("--token", help="default: SIEVE_TOKEN")
        one.add_argument("--json", action="store_true")


_MODULES = {
    "make": "make",
    "watch": "watch",
    "sets": "remote",
    "deliver": "remote",
    "derive": "derive",
    "pack": "channels",
    "split": "channels",
    "convert": "convert",
    "bake": "bake",
    "attach": "attach",
    "measure": "measure",
    "inspect": "inspect",
    "assay": "assay",
    "token": "access_token",
    "targets": "targets",
    "demo": "serve",
    "serve": "serve",
    "work": "serve",
    "backup": "backup",
    "restore": "backup",
    "openapi": "openapi",
    "shots": "shots",
}


def _run(arguments: argparse.Namespace) -> int:
    # Each command loads only what it needs.
    module = importlib.import_module(f"copper_sieve.cli.{_MODULES[arguments.command]}")
    gc.enable()  # see __main__
    return int(module.run(arguments))


def main(argv: Sequence[str] | None = None) -> int:
    """Run the command line; returns the exit status."""

    def interrupted(*_: Any) -> NoReturn:
        raise KeyboardInterrupt

    arguments = _parser().parse_args(argv)
    with contextlib.suppress(ValueError):  # only the main thread may set handlers
        if arguments.command in SERVERS:
            stopping.listen()
        else:
            signal.signal(signal.SIGTERM, interrupted)
    try:
        return _run(arguments)
    except SieveError as error:
        sys.stderr.write(f"sieve: {' '.join(error.message.split())}\n")
        return 2
    except MemoryError:
        sys.stderr.write("sieve: not enough memory for this size: give a smaller --size\n")
        return 2
    except KeyboardInterrupt:
        sys.stderr.write("sieve: stopped\n")
        return 130
    except BrokenPipeError:
        return 1
    except OSError as error:
        place = f"{error.filename}: " if error.filename else ""
        sys.stderr.write(f"sieve: {place}{error.strerror or error}\n")
        return 2
