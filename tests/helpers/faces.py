"""Faces of other shapes, made by scaling one: narrow, wide and tall."""

from __future__ import annotations

from pathlib import Path

from fontTools.subset import Options, Subsetter
from fontTools.ttLib import TTFont
from PyQt6.QtGui import QFontDatabase

# Across and up, by what they are called.
SHAPES = {"narrow": (0.8, 1.0), "wide": (1.25, 1.0), "tall": (1.0, 1.35)}
_SOURCES = {"text": "DejaVuSans.ttf", "fixed": "DejaVuSansMono.ttf"}


def _source(name: str) -> Path:
    found = [*Path("/usr/share/fonts").rglob(name), *Path.home().glob(f".fonts/**/{name}")]
    assert found, f"{name} is not installed; make setup brings it (fonts-dejavu-core)"
    return found[0]


def make_face(kind: str, shape: str, folder: Path) -> str:
    """Make a face known to Qt; returns its family.  kind : "text" or "fixed"."""
    across, up = SHAPES[shape]
    font = TTFont(_source(_SOURCES[kind]))
    options = Options(layout_features=[], hinting=False, notdef_outline=True, name_IDs=["*"])
    subset = Subsetter(options)
    subset.populate(unicodes=[*range(0x20, 0x250), *range(0x2010, 0x2220)])
    subset.subset(font)
    for glyph in font["glyf"].glyphs.values():
        glyph.expand(font["glyf"])
        if glyph.isComposite():
            for part in glyph.components:
                part.x, part.y = round(part.x * across), round(part.y * up)
        elif glyph.numberOfContours > 0:
            glyph.coordinates.scale((across, up))
            glyph.coordinates.toInt()
            glyph.recalcBounds(font["glyf"])
    metrics = font["hmtx"].metrics
    for name, (advance, bearing) in list(metrics.items()):
        metrics[name] = round(advance * across), round(bearing * across)
    for table, fields in (
        ("hhea", ("ascent", "descent", "lineGap")),
        ("OS/2", ("sTypoAscender", "sTypoDescender", "usWinAscent", "usWinDescent")),
    ):
        for field in fields:
            setattr(font[table], field, round(getattr(font[table], field) * up))
    family = f"Test {kind} {shape}"
    for record in font["name"].names:
        if record.nameID in (1, 3, 4, 6, 16):
            record.string = family if record.nameID != 6 else family.replace(" ", "")
    file = folder / f"{kind}-{shape}.ttf"
    font.save(file)
    assert QFontDatabase.addApplicationFont(str(file)) >= 0
    return family
