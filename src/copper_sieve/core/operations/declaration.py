"""How an operation says what it is: name, version, inputs, parameters. Read by all the rest."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from copper_sieve.core.errors import ParameterError, UnknownOperationError
from copper_sieve.core.image.map_kind import MapKind
from copper_sieve.core.image.raster import Float

Value = float | bool | str


@dataclass(frozen=True, slots=True)
class Surface:
    """The physical side of a texture set, the same for every operation on it.

    tile_size : metres across the picture's width, > 0
    depth : metres between height 0 and 1, >= 0
    wrap : the borders meet (a tile); otherwise operations reflect there
    """

    tile_size: float = 1.0
    depth: float = 0.02
    wrap: bool = False


@dataclass(frozen=True, slots=True)
class Parameter:
    """One control of an operation.

    A number has `low` and `high`; a switch has a bool default; a choice has `choices`.
    `unit` is "" (a plain factor), "tile" (fraction of the tile's width), "m" or "deg".
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

    def check(self, value: Any, operation: str) -> Value:
        """The value in the declared type. Raises ParameterError that states the range."""
        try:
            if isinstance(self.default, bool):
                return _as_bool(value)
            if self.choices:
                if value not in self.choices:
                    raise ValueError
                return str(value)
            number = float(value)
            if isinstance(value, bool) or not self.low <= number <= self.high:
                raise ValueError
        except (TypeError, ValueError):
            raise ParameterError(
                f"{operation}: {self.name} = {value!r} is not allowed; give {self.allowed()}"
            ) from None
        return number

    def allowed(self) -> str:
        """The allowed values in words."""
        if isinstance(self.default, bool):
            return "true or false"
        if self.choices:
            return "one of " + ", ".join(self.choices)
        unit = {"tile": " (fraction of the tile's width)", "m": " metres", "deg": " degrees"}
        return f"a number from {self.low:g} to {self.high:g}{unit.get(self.unit, '')}"


def _as_bool(value: Any) -> bool:
    if isinstance(value, bool):
        return value
    words = {"true": True, "yes": True, "1": True, "false": False, "no": False, "0": False}
    if isinstance(value, str) and value.lower() in words:
        return words[value.lower()]
    raise ValueError


Compute = Callable[[Mapping[MapKind, Float], Mapping[str, Any], Surface], Float]


@dataclass(frozen=True, slots=True)
class Operation:
    """A way to compute one map from others.

    `compute(inputs, parameters, surface)` takes float32 arrays (H, W, C) as `Raster` has them
    and gives one of the output's kind. A change of its pixels needs a new `version`.
    `surface_reads` names the surface's fields the result depends on.
    """

    name: str
    version: int
    title: str
    output: MapKind
    inputs: tuple[MapKind, ...]
    parameters: tuple[Parameter, ...]
    compute: Compute
    surface_reads: tuple[str, ...] = ()

    def settle(self, given: Mapping[str, Any]) -> dict[str, Value]:
        """All parameters, checked, with defaults where none is given. Raises ParameterError."""
        known = {p.name: p for p in self.parameters}
        unknown = sorted(set(given) - set(known))
        if unknown:
            raise ParameterError(
                f"{self.name} has no parameter {unknown[0]}; it has "
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
    output: MapKind,
    inputs: tuple[MapKind, ...],
    parameters: tuple[Parameter, ...] = (),
    surface_reads: tuple[str, ...] = (),
) -> Callable[[Compute], Compute]:
    """Register the decorated function as the operation of that name."""

    def register(compute: Compute) -> Compute:
        OPERATIONS[name] = Operation(
            name, version, title, output, inputs, parameters, compute, surface_reads
        )
        return compute

    return register


def get_operation(name: str) -> Operation:
    """The operation of that name. Raises UnknownOperationError that lists what there is."""
    found = OPERATIONS.get(name)
    if found is None:
        raise UnknownOperationError(
            f"there is no operation {name}; there are {', '.join(sorted(OPERATIONS))}"
        )
    return found


def default_operation(output: MapKind, source: MapKind) -> Operation | None:
    """The operation that makes `output` from `source` alone, if there is one."""
    return next(
        (op for op in OPERATIONS.values() if op.output is output and op.inputs == (source,)), None
    )
