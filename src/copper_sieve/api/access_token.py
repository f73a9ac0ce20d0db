"""The access token: generated once and stored in a file, or set with SIEVE_TOKEN."""

from __future__ import annotations

import hmac
import os
import secrets
import stat
import tempfile
from contextlib import suppress
from pathlib import Path

from copper_sieve.core.errors import SetupError

TOKEN_FILE = "access-token"
SHORTEST = 16  # characters
_LONGEST = 1024  # bytes of the file
_GENERATED = 24  # random bytes: 192 bits


class AccessToken:
    """The access token that the server currently accepts.

    A token file is read again when it changes, so that a rotated token takes effect immediately.
    While the file is missing or invalid, no token is accepted.
    """

    def __init__(self, value: str, file: Path | None = None) -> None:
        self._value: str | None = value
        self._file = file
        self._signature = _file_signature(file) if file else None

    @classmethod
    def chosen(cls, value: str) -> AccessToken:
        """Use the token of SIEVE_TOKEN.

        Raises
        ------
        SetupError
            The token is too short or contains characters that a header can't carry.
        """
        if problem := _problem(value):
            raise SetupError(
                f"SIEVE_TOKEN: {problem}. Set a token of at least {SHORTEST} printable ASCII "
                "characters without spaces, or unset it to generate one"
            )
        return cls(value)

    @classmethod
    def of_home(cls, home: Path) -> AccessToken:
        """Read the token of a data folder; generate it at the first start.

        Raises
        ------
        SetupError
            The token file can't be read or written, or doesn't contain a valid token.
        """
        path = home / TOKEN_FILE
        if not os.path.lexists(path):
            _write(path, secrets.token_urlsafe(_GENERATED), replace=False)
        signature = _file_signature(path)
        token = cls(_read(path), path)
        token._signature = signature  # a change during the read is noticed at the next check
        return token

    def current(self) -> str | None:
        """Return the token, or None while there is no valid one."""
        if self._file is not None and (signature := _file_signature(self._file)) != self._signature:
            self._signature = signature
            self._value = None
            with suppress(SetupError):
                self._value = _read(self._file)
        return self._value

    def matches(self, given: str) -> bool:
        """Compare a token in constant time."""
        value = self.current()
        return value is not None and hmac.compare_digest(
            given.encode("utf-8", "replace"), value.encode()
        )


def rotate(home: Path) -> str:
    """Replace the token of a data folder by a new one and return it.

    Raises
    ------
    SetupError
        The token file can't be written.
    """
    token = secrets.token_urlsafe(_GENERATED)
    _write(home / TOKEN_FILE, token, replace=True)
    return token


def _problem(value: str) -> str | None:
    if not value:
        return "the token is empty"
    if len(value) < SHORTEST:
        return f"the token has only {len(value)} characters"
    if not all("!" <= character <= "~" for character in value):
        return "the token contains spaces or characters outside ASCII"
    return None


def _file_signature(path: Path) -> tuple[int, int, int] | None:
    try:
        found = os.lstat(path)
    except OSError:
        return None
    return found.st_ino, found.st_mtime_ns, found.st_size


def _read(path: Path) -> str:
    try:
        descriptor = os.open(path, os.O_RDONLY | os.O_NOFOLLOW | os.O_NONBLOCK | os.O_CLOEXEC)
        with os.fdopen(descriptor, "rb") as file:
            mode = os.fstat(descriptor).st_mode
            if not stat.S_ISREG(mode):
                raise SetupError(f"{path} isn't a regular file. Delete it and start again")
            if mode & 0o077:
                os.fchmod(descriptor, 0o600)
            text = file.read(_LONGEST + 1).decode("utf-8", "replace").strip()
    except OSError as error:
        raise SetupError(
            f"couldn't read the access token in {path} ({error.strerror}). Make the file readable "
            "for the user of the server, or delete it to generate a new token"
        ) from error
    if problem := _problem(text) or ("the token is too long" if len(text) > _LONGEST else None):
        raise SetupError(
            f"{path}: {problem}. Delete the file to generate a new token, or run "
            "./sieve token --rotate"
        )
    return text


def _write(path: Path, token: str, *, replace: bool) -> None:
    """Write the file completely or not at all, readable only by its owner."""
    partial: Path | None = None
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        descriptor, name = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent)
        partial = Path(name)
        with os.fdopen(descriptor, "wb") as file:
            file.write(token.encode() + b"\n")
            file.flush()
            os.fsync(descriptor)
        if replace:
            partial.replace(path)
        else:
            with suppress(FileExistsError):  # another start was faster: its token is used
                os.link(partial, path)
        _sync_folder(path.parent)
    except OSError as error:
        raise SetupError(
            f"couldn't write the access token to {path} ({error.strerror}). Free disk space or "
            "correct the permissions of the folder, then start again"
        ) from error
    finally:
        if partial is not None:
            partial.unlink(missing_ok=True)


def _sync_folder(folder: Path) -> None:
    descriptor = os.open(folder, os.O_RDONLY | os.O_DIRECTORY)
    try:
        os.fsync(descriptor)
    finally:
        os.close(descriptor)
