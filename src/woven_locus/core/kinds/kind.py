"""A kind of structure, and the catalogue that holds a plan's kinds."""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from woven_locus.core.errors import BadKind, Unknown
from woven_locus.core.kinds.footprint import Footprint


@dataclass(frozen=True, slots=True)
class Kind:
    """A kind of structure.

    key : short name used in files and on the command line.  code : one to three letters drawn on
    the map.  dye : "#RRGGBB".  price : whole money units (exact, never a float).
    """

    key: str
    name: str
    code: str
    dye: str
    price: int
    footprint: Footprint

    def __post_init__(self) -> None:
        if not self.key or any(ch.isspace() for ch in self.key):
            raise BadKind(f"a kind's key is a word without spaces, not {self.key!r}")
        if not 1 <= len(self.code) <= 3:
            raise BadKind(f"kind {self.key}: the letter code has 1 to 3 letters, not {self.code!r}")
        if self.price < 0:
            raise BadKind(f"kind {self.key}: the price must not be negative, it is {self.price}")


# One byte in the map's keys tells kinds apart.
MOST_KINDS = 255


class Catalogue:
    """The kinds of a plan, in the order of the shelf."""

    def __init__(self, kinds: Iterable[Kind] = ()) -> None:
        self._kinds: dict[str, Kind] = {}
        for kind in kinds:
            if kind.key in self._kinds:
                raise BadKind(f"kind {kind.key!r} is there twice")
            self._kinds[kind.key] = kind
        if len(self._kinds) > MOST_KINDS:
            raise BadKind(f"a catalogue holds at most {MOST_KINDS} kinds, not {len(self._kinds)}")

    def __iter__(self) -> Iterator[Kind]:
        return iter(self._kinds.values())

    def __len__(self) -> int:
        return len(self._kinds)

    def __contains__(self, key: object) -> bool:
        return key in self._kinds

    def __getitem__(self, key: str) -> Kind:
        """Raises Unknown, naming the kinds that there are."""
        try:
            return self._kinds[key]
        except KeyError:
            have = ", ".join(self._kinds) or "no kinds yet"
            raise Unknown(f"no kind {key!r}; the plan has {have}") from None
