"""Base class of all exchanged data."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Annotated, Any, ClassVar

from pydantic import AfterValidator, BaseModel, ConfigDict, WithJsonSchema, model_validator

from copper_sieve.core.errors import UnsafeNameError
from copper_sieve.core.untrusted_paths import check_inside_folder


def _inside_folder(name: str) -> str:
    try:
        return check_inside_folder(name)
    except UnsafeNameError as error:
        raise ValueError(error.message) from error


FileName = Annotated[str, AfterValidator(_inside_folder)]
"""The name of a file in the same folder."""


class Model(BaseModel):
    """Unknown fields are rejected, so that misspelled ones aren't ignored.

    former_names : former names of fields in stored data and files of older versions
    """

    model_config = ConfigDict(extra="forbid", frozen=True)
    former_names: ClassVar[Mapping[str, str]] = {}

    @model_validator(mode="before")
    @classmethod
    def _present_names(cls, given: Any) -> Any:
        if not cls.former_names or not isinstance(given, Mapping):
            return given
        return {cls.former_names.get(name, name): value for name, value in given.items()}


def list_of(items: dict[str, Any], count: int) -> WithJsonSchema:
    """Return a tuple type with a list schema of fixed length."""
    return WithJsonSchema({"type": "array", "items": items, "minItems": count, "maxItems": count})
