"""Local files as the sources of a set, and notes about guesses."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from copper_sieve.core.codecs import Limits, compression_loss, read_picture
from copper_sieve.core.detection.classify import Recognition, recognize_picture
from copper_sieve.core.image.map_kind import MapKind, NormalY
from copper_sieve.core.image.raster import Picture
from copper_sieve.core.ingest.sources import SourceFacts, examine, imported_maps, likely_green
from copper_sieve.core.models.texture_set import Imported


@dataclass(frozen=True, slots=True)
class Note:
    """A guess or a measurement, as a sentence.

    Attributes
    ----------
    text : the sentence
    stated_by : argument that overrides it ("normal_y", "wrap"), or ""
    """

    text: str
    stated_by: str = ""

    def __str__(self) -> str:
        return f"{self.text}; {self.stated_by}= overrides this" if self.stated_by else self.text


class LocalSources:
    """Files identified by their SHA-256. Pixels aren't kept in memory: `load` reads them again.

    Attributes
    ----------
    facts : facts of each file, by SHA-256
    notes : guesses about the files
    """

    def __init__(self, limits: Limits | None = None) -> None:
        self._limits = limits or Limits()
        self._paths: dict[str, Path] = {}
        self._hashes: dict[Path, str] = {}  # several files may have the same content
        self.facts: dict[str, SourceFacts] = {}
        self.notes: list[Note] = []

    def add(self, path: Path) -> SourceFacts:
        """Read a file and return its facts.

        Raises
        ------
        PictureError : if the file can't be read; with its name and a remedy
        """
        return self._examined(path)[0]

    def recognize(self, path: Path) -> Recognition:
        """Read a file and detect its map kind.

        Raises
        ------
        PictureError : if the file can't be read; with its name and a remedy
        """
        facts, picture = self._examined(path)
        loss = compression_loss(path, facts.spec.format)
        return recognize_picture(path.stem, picture, loss=loss)

    def facts_of(self, path: Path) -> SourceFacts:
        """Return the facts of a file that was read before."""
        return self.facts[self._hashes[path]]

    def add_map(
        self, path: Path, kind: MapKind, stated: NormalY | None = None
    ) -> dict[MapKind, Imported]:
        """Read a file as a map of a stated kind. Guesses are added to `notes`.

        Parameters
        ----------
        path : Path, picture file
        kind : MapKind, kind of the map
        stated : NormalY, optional, green direction of a normal map. Default: measured, else from
            the file name, else up

        Returns
        -------
        dict of MapKind to Imported
            The map, and others that the file contains, such as opacity in its alpha channel.

        Raises
        ------
        PictureError : if the file can't be read; with its name and a remedy
        """
        facts, picture = self._examined(path)
        green = stated
        if kind is MapKind.NORMAL and stated is None:
            green = self.green_of(facts)
        self.notes += [Note(f"{path.name}: {text}") for text in _about(path, facts, picture, kind)]
        return imported_maps(facts, kind, green)

    def green_of(self, facts: SourceFacts) -> NormalY:
        """Return the green direction of an added normal map; a guess is added to `notes`."""
        path = self._paths[facts.sha256]
        green, guess = likely_green(path, facts, self.load(facts.sha256))
        if guess:
            self.notes.append(Note(f"{path.name}: {guess}", "normal_y"))
        return green

    def _examined(self, path: Path) -> tuple[SourceFacts, Picture]:
        facts, picture = examine(path, self._limits)
        self.facts[facts.sha256] = facts
        self._paths[facts.sha256] = path
        self._hashes[path] = facts.sha256
        return facts, picture

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        """Width and height of every file in texels, by SHA-256."""
        return {sha: facts.size for sha, facts in self.facts.items()}

    def load(self, source: str) -> Picture:
        """Read the pixels of a file.

        Parameters
        ----------
        source : str, SHA-256 of a file that was added

        Returns
        -------
        Picture
            Codes (H, W, C) as stored.
        """
        return read_picture(self._paths[source], self._limits)[1]


def _about(path: Path, facts: SourceFacts, picture: Picture, kind: MapKind) -> tuple[str, ...]:
    """Return remarks about a specular picture."""
    if kind is not MapKind.SPECULAR_COLOR:
        return ()
    loss = compression_loss(path, facts.spec.format)
    found = recognize_picture(path.stem, picture, loss=loss)
    return found.remarks if found.kind is kind else ()
