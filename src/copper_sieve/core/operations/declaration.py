"""Declaration of operations: name, version, inputs, parameters."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any, Literal

from copper_sieve.core.baking.on_model import OnModel
from copper_sieve.core.errors import MeshError, ParameterError, UnknownOperationError
from copper_sieve.core.image.map_kind import KindGroup, MapKind
from copper_sieve.core.image.raster import Float
from copper_sieve.core.image.wrap import NO_WRAP, Wrap, WrapSpec, as_wrap
from copper_sieve.core.operations.former_names import current_operation, current_parameters

Value = float | bool | str
Form = Literal["number", "switch", "choice", "colors", "names"]
TakesFrom = Literal["model", "high_poly", "captures"]

_MOST_COLORS = 8
_LONGEST_NAMES = 1000


@dataclass(frozen=True, slots=True)
class SurfaceContext:
    """Physical properties of a texture set, common to all operations on it.

    tile_size : meters across the picture's width, > 0
    depth : meters between height 0 and 1; 0 if unknown (only operations that derive heights see
        this)
    relief : mean slope in degrees that determines an unknown depth; None if it is known
    wrap : tileable directions; operations mirror at other borders
    model : linked model, for operations that bake
    """

    tile_size: float = 1.0
    depth: float = 0.02
    wrap: Wrap = NO_WRAP
    relief: float | None = None
    model: OnModel | None = None

    @property
    def on_model(self) -> OnModel:
        """The model that the set is tied to. Raises MeshError where there is none."""
        if self.model is None:
            raise MeshError(
                "this requires a linked model, but the set has none. Link a model to the set"
            )
        return self.model

    @classmethod
    def of(
        cls, tile_size: float = 1.0, depth: float = 0.02, *, wrap: Wrap | WrapSpec = False
    ) -> SurfaceContext:
        """Create a context from a stated tiling.

        Parameters
        ----------
        tile_size : meters across the picture's width, > 0
        depth : meters between height 0 and 1, >= 0
        wrap : tiling directions
        """
        return cls(tile_size, depth, as_wrap(wrap))


@dataclass(frozen=True, slots=True)
class Parameter:
    """One parameter of an operation.

    form : a number has `low` and `high`; a switch is true or false; a choice has `choices`; colors
        are at most `most` comma-separated #rrggbb (sRGB); names are comma-separated words in which
        * matches anything
    unit : of a number: "" (a factor), "tile" (fraction of the tile's width), "m", "deg" or "stops"

    Raises ValueError if the default isn't a valid value.
    """

    name: str
    label: str
    default: Value
    meaning: str
    low: float = 0.0
    high: float = 1.0
    unit: str = ""
    group: str = ""
    choices: tuple[str, ...] = ()
    most: int = _MOST_COLORS
    form: Form = "number"

    def __post_init__(self) -> None:
        kinds: dict[Form, tuple[type, ...]] = {"number": (int, float), "switch": (bool,)}
        kind = kinds.get(self.form, (str,))
        try:
            fits = isinstance(self.default, kind) and self.check(self.default, "") is not None
        except ParameterError:
            fits = False
        if not fits:
            raise ValueError(f"{self.name}: the default {self.default!r} isn't a valid {self.form}")

    def check(self, value: Any, operation: str) -> Value:
        """Convert a value to the declared type and check its range.

        Raises
        ------
        ParameterError : if the value is invalid; with the allowed range
        """
        try:
            if self.form == "switch":
                return _as_bool(value)
            if self.form == "choice":
                if value not in self.choices:
                    raise ValueError
                return str(value)
            if self.form == "colors":
                return _as_colors(value, self.most)
            if self.form == "names":
                return _as_names(value)
            number = float(value)
            if isinstance(value, bool) or not self.low <= number <= self.high:
                raise ValueError
        except (TypeError, ValueError):
            raise ParameterError(
                f"{operation}: {self.name} = {value!r} is invalid. Use {self.allowed()}"
            ) from None
        return number

    def allowed(self) -> str:
        """Describe the allowed values in words."""
        if self.form == "switch":
            return "true or false"
        if self.form == "choice":
            return "one of " + ", ".join(self.choices)
        if self.form == "colors":
            return f"at most {self.most} color(s) as #rrggbb (sRGB), separated by commas"
        if self.form == "names":
            return f"names separated by commas, at most {_LONGEST_NAMES} characters"
        unit = {"tile": " (share of the tile's width)", "m": " metres", "deg": " degrees",
                "stops": " stops"}  # fmt: skip
        return f"a number from {self.low:g} to {self.high:g}{unit.get(self.unit, '')}"


def _as_bool(value: Any) -> bool:
    if isinstance(value, bool):
        return value
    words = {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False}
    if isinstance(value, str) and value.lower() in words:
        return words[value.lower()]
    raise ValueError


def _as_names(value: Any) -> str:
    if not isinstance(value, str) or len(value) > _LONGEST_NAMES or not value.isprintable():
        raise ValueError
    return ", ".join(word for part in value.split(",") if (word := part.strip()))


def _as_colors(value: Any, most: int) -> str:
    colors = [one.strip().lower() for one in str(value).split(",") if one.strip()]
    if len(colors) > most or not all(re.fullmatch("#[0-9a-f]{6}", one) for one in colors):
        raise ValueError
    return ",".join(colors)


@dataclass(frozen=True, slots=True)
class OperationInput:
    """A further input that the user chooses: a picture, or any map of the set.

    `takes` is the kind as which a picture is read, or with `as_output` the kind that is made; a map
    of another meaning is converted if possible (`image.meaning.as_meaning`). `prefers` are the maps
    to try first; if there are none for ranges, those of the kind that is made. `laid_over`: its
    picture doesn't show the surface itself, so it isn't framed or retouched with the set's
    pictures.
    """

    name: str
    label: str
    meaning: str
    takes: MapKind = MapKind.DETAIL_MASK
    required: bool = False
    prefers: tuple[MapKind, ...] = ()
    group: str = ""
    laid_over: bool = False
    as_output: bool = False


# By map type for the set's maps, by slot name for slots.
Inputs = Mapping[str, Float]
Compute = Callable[[Inputs, Mapping[str, Any], SurfaceContext], Float]


@dataclass(frozen=True, slots=True)
class Operation:
    """Computes one map from others, of one kind or of any kind of a group.

    `compute(inputs, parameters, surface)` takes float32 arrays (H, W, C) like `Raster` and returns
    one of the output's map type. Changed pixels need a new `version`. `surface_reads` lists the
    surface fields that the result depends on. Unfilled slots are missing from the inputs.
    Operations that `blends` read maps of blended sets. The `default` for its output and inputs is
    used for new sets; there is at most one. `states_depth` names the parameter that sets the meters
    between 0 and 1 of a resulting height. With `takes_from` model, it reads the linked model or its
    high-poly model; with captures, the measurement from light captures (`measured.from_captures`).
    """

    name: str
    version: int
    title: str
    output: MapKind | KindGroup
    inputs: tuple[MapKind, ...]
    parameters: tuple[Parameter, ...]
    compute: Compute
    surface_reads: tuple[str, ...] = ()
    slots: tuple[OperationInput, ...] = ()
    default: bool = False
    blends: bool = False
    states_depth: str | None = None
    takes_from: TakesFrom | None = None

    @property
    def by_pictures(self) -> bool:
        """It needs nothing but single pictures and maps of one set: no model, no other set."""
        return not self.blends and self.takes_from is None

    def makes(self, kind: MapKind) -> bool:
        """Return True if it can make maps of this kind."""
        if isinstance(self.output, KindGroup):
            return self.output.holds(kind)
        return self.output is kind

    @property
    def kinds(self) -> list[MapKind]:
        """The declared kinds of maps that it makes; the masks also with names of the user."""
        return [kind for kind in MapKind if self.makes(kind)]

    def making(self, kind: MapKind) -> Operation:
        """Return the operation for one of the kinds that it makes.

        Raises
        ------
        ParameterError : if it makes other kinds
        """
        if not self.makes(kind):
            raise ParameterError(f"{self.name} makes {self.output}, not {kind}")
        if self.output is kind:
            return self
        ranged = kind.facts.ranged_from if self.output is KindGroup.RANGES else ()
        slots = tuple(
            replace(
                slot,
                takes=kind if slot.as_output else slot.takes,
                prefers=slot.prefers or tuple(map(MapKind, ranged)),
            )
            for slot in self.slots
        )
        return replace(self, output=kind, slots=slots)

    def slot(self, name: str) -> OperationInput:
        """Return the input of a name.

        Raises
        ------
        ParameterError : if there is no such input; with the available ones
        """
        found = next((one for one in self.slots if one.name == name), None)
        if found is None:
            has = ", ".join(one.name for one in self.slots) or "none"
            raise ParameterError(f"{self.name} has no input named {name}. It has {has}")
        return found

    def resolve(self, given: Mapping[str, Any]) -> dict[str, Value]:
        """Return all parameters, with defaults for missing ones.

        Raises
        ------
        ParameterError : if a name is unknown or a value is out of range
        """
        known = {p.name: p for p in self.parameters}
        given = current_parameters(given)
        unknown = sorted(set(given) - set(known))
        if unknown:
            raise ParameterError(
                f"{self.name} has no parameter {unknown[0]}. It has "
                + (", ".join(known) or "no parameters")
            )
        return {
            name: p.check(given[name], self.name) if name in given else p.default
            for name, p in known.items()
        }


OPERATIONS: dict[str, Operation] = {}


def operation(
    name: str,
    *,
    version: int,
    title: str,
    output: MapKind | KindGroup,
    inputs: tuple[MapKind, ...],
    parameters: tuple[Parameter, ...] = (),
    surface_reads: tuple[str, ...] = (),
    slots: tuple[OperationInput, ...] = (),
    default: bool = False,
    blends: bool = False,
    states_depth: str | None = None,
    takes_from: TakesFrom | None = None,
) -> Callable[[Compute], Compute]:
    """Register the decorated function as an operation.

    Parameters
    ----------
    name : stable identifier in sets, recipes and manifests
    version : increased when the same input gives different output
    title : label in the interface
    output : kind of the derived map, or a group of kinds with one derivation
    inputs : kinds of the required maps
    parameters : declared parameters
    surface_reads : fields of the surface that the result depends on
    slots : further inputs that are filled with a map or a file
    default : used for new sets among operations with the same inputs and output
    blends : combines two sets
    states_depth : parameter with the meters between 0 and 1 of a resulting height
    takes_from : "model" or "captures", if it reads the linked model or light captures

    Raises
    ------
    ValueError : for a duplicate name or default, or a default with a required slot
    """

    def register(compute: Compute) -> Compute:
        made = Operation(
            name, version, title, output, inputs, parameters, compute, surface_reads, slots,
            default, blends, states_depth, takes_from,
        )  # fmt: skip
        if name in OPERATIONS:
            raise ValueError(f"the operation {name} already exists")
        if default and any(slot.required for slot in slots):
            raise ValueError(f"{name} can't be the default, because it requires a slot")
        if (
            default
            and isinstance(output, MapKind)
            and (other := default_operation(output, *inputs))
        ):
            raise ValueError(f"{name} and {other.name} are both the default for {output}")
        OPERATIONS[name] = made
        return compute

    return register


def get_operation(name: str, kind: MapKind | None = None) -> Operation:
    """Return the operation of a name, also of a former name.

    Parameters
    ----------
    name : of the operation
    kind : kind of map that it has to make; None: any

    Raises
    ------
    UnknownOperationError : if there is none; with the available ones
    ParameterError : if it makes other kinds
    """
    found = OPERATIONS.get(current_operation(name))
    if found is None:
        raise UnknownOperationError(
            f"there is no operation {name}. Available: {', '.join(sorted(OPERATIONS))}"
        )
    return found.making(kind) if kind else found


def default_operation(output: MapKind, *sources: MapKind) -> Operation | None:
    """Return the standard operation that derives `output` from these maps alone, or None."""
    return next(
        (
            one
            for one in OPERATIONS.values()
            if one.default and one.output is output and one.inputs == sources
        ),
        None,
    )
