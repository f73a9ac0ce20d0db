"""The error tree of the program; an error's docstring is its default message.

Messages state what failed, why, and what to do. `code` is stable and becomes the `type` of API
problems.

    SieveError
    ├── PictureError
    │   ├── NotAPictureError, DamagedPictureError, EmptyPictureError
    │   └── PictureTooLargeError, ChannelError
    ├── MeshError
    │   └── NotAModelError, DamagedModelError, ModelTooLargeError
    ├── MeasureError, WriteError, ShapeError, RangeError, ParameterError
    ├── PlanError
    │   └── UnknownOperationError, MissingMapError
    ├── PresetError
    │   └── UnknownTargetError, NamePatternError
    ├── RecipeError, UnsafeNameError
    ├── DeliveryError
    │   └── PartialDeliveryError, ForeignFileError, ManifestError
    ├── ConflictError
    │   └── ReviewRequiredError, ReplacedError
    └── CancelledError, NotFoundError, UnreadableError, NotStorableError,
        DatabaseUnavailableError, DiskFullError, SetupError
"""

from __future__ import annotations

import inspect
import re


class SieveError(Exception):
    """Base of all errors of Copper Sieve."""

    def __init__(self, message: str | None = None) -> None:
        self.message = message or inspect.cleandoc(self.__doc__ or "Unknown error.")
        super().__init__(self.message)

    @property
    def code(self) -> str:
        """Stable snake_case identifier of the kind of error."""
        name = type(self).__name__.removesuffix("Error")
        return re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "_", name).lower()


class PictureError(SieveError):
    """The picture can't be used. Choose another file."""


class NotAPictureError(PictureError):
    """The file isn't a supported picture. Use PNG, JPEG, TIFF, TGA, WebP, EXR, HDR, DDS or JPEG
    2000.
    """


class DamagedPictureError(PictureError):
    """The picture file is truncated or corrupt. Export or copy it again."""


class EmptyPictureError(PictureError):
    """The picture has no texels. Export it again."""


class PictureTooLargeError(PictureError):
    """The picture exceeds the limits. Reduce it, or raise the limit in the settings."""


class ChannelError(PictureError):
    """The picture lacks the channel. Choose another one."""


class MeshError(SieveError):
    """The model can't be used. Choose another file."""


class NotAModelError(MeshError):
    """The file isn't a supported model. Use glTF (.glb or .gltf), OBJ, PLY or STL."""


class DamagedModelError(MeshError):
    """The model file is truncated or corrupt. Export it again."""


class ModelTooLargeError(MeshError):
    """The model exceeds the limits. Export fewer parts, or raise the limit in the settings."""


class MeasureError(SieveError):
    """The surface can't be measured from these pictures. See the manual page about measuring."""


class WriteError(SieveError):
    """The file couldn't be written. Check free space and permissions."""


class ShapeError(SieveError):
    """An array has the wrong shape."""


class RangeError(SieveError):
    """A value is out of range."""


class ParameterError(SieveError):
    """A parameter is unknown, or its value is outside its range."""


class PlanError(SieveError):
    """The texture set can't be computed from its definition."""


class UnknownOperationError(PlanError):
    """There is no operation with this name."""


class MissingMapError(PlanError):
    """A required map is missing and can't be derived. Import it, or set a constant."""


class PresetError(SieveError):
    """The target preset isn't valid."""


class UnknownTargetError(PresetError):
    """There is no target with this id. `sieve targets` lists all targets."""


class NamePatternError(PresetError):
    """A name pattern results in a name that isn't allowed. Change the pattern."""


class RecipeError(SieveError):
    """The recipe isn't valid."""


class UnsafeNameError(SieveError):
    """A name or path points outside its folder. Use plain file names."""


class DeliveryError(SieveError):
    """The delivery couldn't be written."""


class PartialDeliveryError(DeliveryError):
    """A delivery failed while its folders were swapped in, and some swaps couldn't be reverted."""


class ForeignFileError(DeliveryError):
    """A file with this name exists and wasn't written by Copper Sieve. Move or rename it."""


class ManifestError(DeliveryError):
    """The folder contains no readable manifest."""


class CancelledError(SieveError):
    """Cancelled."""


class NotFoundError(SieveError):
    """The requested item doesn't exist."""


class ConflictError(SieveError):
    """Someone else changed this. Reload and try again."""


class ReviewRequiredError(ConflictError):
    """A picture of this type can't start a set. Import it through Intake."""


class ReplacedError(ConflictError):
    """Delivered files were overwritten, modified or deleted."""


class UnreadableError(SieveError):
    """Stored data can't be read by this version."""


class NotStorableError(SieveError):
    """The request contains a text or number that can't be stored. Remove NUL characters and numbers
    that are out of range."""


class DatabaseUnavailableError(SieveError):
    """The database is restarting. Wait a moment; saved data is safe."""


class DiskFullError(SieveError):
    """The disk is full. Free space and try again."""


class SetupError(SieveError):
    """The installation is incomplete."""
