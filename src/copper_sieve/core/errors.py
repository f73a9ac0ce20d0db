"""The error tree of the program; an error's docstring is its default message.

Messages state what failed, why, and what to do. `code` is stable and becomes the `type` of API
problems.

    SieveError
        PictureError: NotAPicture, DamagedPicture, EmptyPicture, PictureTooLarge, Channel
        MeshError: NotAModel, DamagedModel, ModelTooLarge
        PlanError: UnknownOperation, MissingMap
        PresetError: UnknownTarget, NamePattern
        DeliveryError: PartlyPlaced, ForeignFile, Manifest, Cancelled
        and errors of parameters, recipes, names, storage, the database and the set-up
"""

from __future__ import annotations

import inspect
import re


class SieveError(Exception):
    """Something went wrong in Copper Sieve."""

    def __init__(self, message: str | None = None) -> None:
        self.message = message or inspect.cleandoc(self.__doc__ or "Unknown error.")
        super().__init__(self.message)

    @property
    def code(self) -> str:
        """Stable snake_case identifier of the kind of error."""
        name = type(self).__name__.removesuffix("Error")
        return re.sub(r"(?<=[a-z])(?=[A-Z])|(?<=[A-Z])(?=[A-Z][a-z])", "_", name).lower()


class PictureError(SieveError):
    """The picture cannot be used."""


class NotAPictureError(PictureError):
    """The file isn't a supported picture. Use PNG, JPEG, TIFF, TGA, WebP, EXR, HDR, DDS or JPEG
    2000.
    """


class DamagedPictureError(PictureError):
    """The picture file is truncated or corrupt. Export or copy it again."""


class EmptyPictureError(PictureError):
    """The picture has no pixels: export it again."""


class PictureTooLargeError(PictureError):
    """The picture is larger than the limits: reduce it, or raise the limit in the settings."""


class ChannelError(PictureError):
    """The picture lacks the wanted channel."""


class MeshError(SieveError):
    """The model cannot be used."""


class NotAModelError(MeshError):
    """The file isn't a supported model. Use glTF (.glb or .gltf), OBJ, PLY or STL."""


class DamagedModelError(MeshError):
    """The model file is truncated or corrupt. Export it again."""


class ModelTooLargeError(MeshError):
    """The model is larger than the limits: export less of it, or raise the limit in the
    settings."""


class MeasureError(SieveError):
    """Pictures that a surface cannot be measured from."""


class WriteError(SieveError):
    """The file could not be written."""


class ShapeError(SieveError):
    """An array has the wrong shape."""


class RangeError(SieveError):
    """A value is out of range."""


class ParameterError(SieveError):
    """A parameter is unknown, or its value is outside its range."""


class PlanError(SieveError):
    """The texture set can't be computed from its definition."""


class UnknownOperationError(PlanError):
    """There is no operation of that name."""


class MissingMapError(PlanError):
    """A map is needed that the set does not have and that cannot be derived."""


class PresetError(SieveError):
    """The target preset cannot be used."""


class UnknownTargetError(PresetError):
    """There is no target of that id: `sieve targets` lists them."""


class NamePatternError(PresetError):
    """A name pattern gives a name that cannot be used."""


class RecipeError(SieveError):
    """The recipe cannot be used."""


class UnsafeNameError(SieveError):
    """A name or path from outside leads to another place: use plain file names."""


class DeliveryError(SieveError):
    """The delivery could not be written."""


class PartialDeliveryError(DeliveryError):
    """A delivery failed while its folders were put in place, and some could not be taken back."""


class ForeignFileError(DeliveryError):
    """A file of that name is already there and was not written by Copper Sieve."""


class ManifestError(DeliveryError):
    """The folder has no manifest that can be read."""


class CancelledError(SieveError):
    """Cancelled."""


class NotFoundError(SieveError):
    """There is no such thing."""


class ConflictError(SieveError):
    """Somebody else changed this in the meantime: reload and try again."""


class ReviewRequiredError(ConflictError):
    """A picture of this kind begins no set: sort it to its set in Intake."""


class ReplacedError(ConflictError):
    """Delivered files were overwritten, modified or deleted."""


class UnreadableError(SieveError):
    """Stored data can't be read by this version."""


class NotStorableError(SieveError):
    """A text or number in the request cannot be kept: leave out characters of no meaning (NUL)
    and numbers that are out of all range."""


class DatabaseUnavailableError(SieveError):
    """The database is being started again: wait a moment, nothing that was saved is lost."""


class DiskFullError(SieveError):
    """The disk is full. Free space and try again."""


class SetupError(SieveError):
    """The machine lacks something that is needed."""
