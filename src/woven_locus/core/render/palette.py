"""Linen and natural dyes. Colours are "#RRGGBB" text or float RGB arrays 0..255."""

from __future__ import annotations

import numpy as np
import numpy.typing as npt

from woven_locus.core.value import Value

Rgb = npt.NDArray[np.float64]


def rgb(text: str) -> Rgb:
    """ "#RRGGBB" -> (3,) float64."""
    return np.array([int(text[k : k + 2], 16) for k in (1, 3, 5)], np.float64)


def mix(a: Rgb, b: Rgb, share: float) -> Rgb:
    """`share` of b, the rest a."""
    return a * (1 - share) + b * share


class Palette(Value):
    """The colours of one theme. edge : around controls, 3 : 1 at least
    against what they lie on.  ground_share : how much of a dye shows on terrain."""

    name: str
    paper: str
    ink: str
    muted: str
    line: str
    edge: str
    panel: str
    raised: str
    indigo: str
    madder: str
    weld: str
    woad: str
    walnut: str
    lichen: str
    heather: str
    ground_share: float
    dark: bool

    def ground(self, dye: str) -> Rgb:
        """A dye as a flat tint on this theme's paper."""
        return mix(rgb(self.paper), rgb(dye), self.ground_share)

    def way(self, dye: str) -> Rgb:
        """The dye of a road, darkened for the dark theme."""
        return mix(rgb(dye), rgb("#1F2128"), 0.3) if self.dark else rgb(dye)

    def engraving(self, dye: str) -> Rgb:
        """The colour of a pattern engraved on that tint."""
        tint = self.ground(dye)
        return mix(tint, rgb("#E9E2D3" if self.dark else "#2B2A33"), 0.3 if self.dark else 0.42)


LIGHT = Palette(
    name="light",
    paper="#F3EDE2",
    ink="#2B2A33",
    muted="#645E5A",
    line="#CFC5B4",
    edge="#887E6E",
    panel="#FAF6EE",
    raised="#E9E1D2",
    indigo="#2F4B7C",
    madder="#A5383F",
    weld="#C99A1E",
    woad="#5B86A8",
    walnut="#5C4636",
    lichen="#7C8A5A",
    heather="#8A6A93",
    ground_share=0.62,
    dark=False,
)
DARK = Palette(
    name="dark",
    paper="#1F2128",
    ink="#E9E2D3",
    muted="#A9A296",
    line="#43454F",
    edge="#868077",
    panel="#262932",
    raised="#31343F",
    indigo="#8FAEE0",
    madder="#E4848A",
    weld="#E3BD58",
    woad="#8DB6D6",
    walnut="#B59A84",
    lichen="#AEBC8A",
    heather="#C0A0C9",
    ground_share=0.42,
    dark=True,
)
