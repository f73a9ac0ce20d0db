"""Local files as sources of sets, and notes about guesses."""

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
    """Something that was guessed or measured, in words.

    stated_by : the argument that says otherwise (`normal_y`, `wrap`); "" where there is none
    """

    text: str
    stated_by: str = ""

    def __str__(self) -> str:
        return f"{self.text}; {self.stated_by}= overrides this" if self.stated_by else self.text


class LocalSources:
    """Files as sources, known by their SHA-256. Their codes are read again whenever needed."""

    def __init__(self, limits: Limits | None = None) -> None:
        self._limits = limits or Limits()
        self._paths: dict[str, Path] = {}
        self.facts: dict[str, SourceFacts] = {}
        self.notes: list[Note] = []

    def add(self, path: Path) -> SourceFacts:
        """Read a file. Raises PictureError naming it and what to do."""
        return self._examined(path)[0]

    def recognize(self, path: Path) -> Recognition:
        """Read a file and detect its map kind. Raises PictureError with file name and remedy."""
        facts, picture = self._examined(path)
        loss = compression_loss(path, facts.spec.format)
        return recognize_picture(path.stem, picture, loss=loss)

    def facts_of(self, path: Path) -> SourceFacts:
        """Of a file that was read."""
        return next(self.facts[sha] for sha, one in self._paths.items() if one == path)

    def add_map(
        self, path: Path, kind: MapKind, stated: NormalY | None = None
    ) -> dict[MapKind, Imported]:
        """Read a file as a map; returns its maps. Guesses are noted.

        stated : green direction of a normal map; None: measured, else from the name, else the
        dominant one
        Raises PictureError with file name and remedy.
        """
        facts, picture = self._examined(path)
        green = stated
        if kind is MapKind.NORMAL and stated is None:
            green = self.green_of(facts)
        self.notes += [Note(f"{path.name}: {text}") for text in _about(path, facts, picture, kind)]
        return imported_maps(facts, kind, green)

    def green_of(self, facts: SourceFacts) -> NormalY:
        """The direction of green of a file that was added; a guess is noted."""
        path = self._paths[facts.sha256]
        green, guess = likely_green(path, facts, self.load(facts.sha256))
        if guess:
            self.notes.append(Note(f"{path.name}: {guess}", "normal_y"))
        return green

    def _examined(self, path: Path) -> tuple[SourceFacts, Picture]:
        facts, picture = examine(path, self._limits)
        self.facts[facts.sha256] = facts
        self._paths[facts.sha256] = path
        return facts, picture

    @property
    def sizes(self) -> dict[str, tuple[int, int]]:
        """Width and height of every source."""
        return {sha: facts.size for sha, facts in self.facts.items()}

    def load(self, source: str) -> Picture:
        """The codes of a source."""
        return read_picture(self._paths[source], self._limits)[1]


def _about(path: Path, facts: SourceFacts, picture: Picture, kind: MapKind) -> tuple[str, ...]:
    """Return remarks about a specular picture."""
    if kind is not MapKind.SPECULAR_COLOR:
        return ()
    loss = compression_loss(path, facts.spec.format)
    found = recognize_picture(path.stem, picture, loss=loss)
    return found.remarks if found.kind is kind else ()
