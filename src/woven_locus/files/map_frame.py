"""What stands around a picture of the map: scales along its upper and left edges, and a legend below it. It is laid out
here once, in the picture's own units, and drawn as pixels and as vectors elsewhere."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from woven_locus.core.geometry import Box
from woven_locus.core.grid.snapping import number
from woven_locus.core.phrase import phrase
from woven_locus.core.plan import Plan
from woven_locus.core.render import DARK, LIGHT, Palette
from woven_locus.core.render.palette import Rgb
from woven_locus.core.render.scale import stride
from woven_locus.core.value import Record, Value, field
from woven_locus.core.ways.roads import CLASS_BITS
from woven_locus.files.pictures import hex_of

# What of a map can be left out.
HIDEABLE = ("reserved", "obstacles", "barriers", "roads", "structures")
# The size of its words as a part of the picture's longer side, and how wide a letter is as a part of that.
_TEXT, _LETTER = 1 / 80, 0.6


class MapLook(Value):
    """How a map is shown.  dark : in the dark theme's colours.  hidden : of HIDEABLE.  area : rows of the screen and columns
    that are shown, None for all.  scales, legend : whether they stand around it."""

    dark: bool = False
    hidden: tuple[str, ...] = ()
    area: Box | None = None
    scales: bool = False
    legend: bool = False

    @property
    def palette(self) -> Palette:
        """The colours of its theme."""
        return DARK if self.dark else LIGHT

    def box(self, plan: Plan) -> Box:
        """What is shown, within the grid."""
        whole = plan.spec.box
        return whole if self.area is None else self.area.clipped(plan.spec.shape)


PLAIN_LOOK = MapLook()


class Words(Value):
    """One line. y : of its middle.  anchor : where x is in it, "start", "middle" or "end"."""

    x: float
    y: float
    text: str
    colour: str
    anchor: str = "start"
    bold: bool = False


class Swatch(Value):
    """A filled rectangle; a scale's tick is a thin one."""

    x: float
    y: float
    wide: float
    tall: float
    colour: str


class Frame(Record):
    """left, top, right, bottom : room around the map.  text : height of the words."""

    text: float
    left: float = 0.0
    top: float = 0.0
    right: float = 0.0
    bottom: float = 0.0
    marks: list[Words | Swatch] = field(default_factory=list)

    def around(self, wide: int, tall: int) -> tuple[int, int]:
        """Pixels, wide and tall, of a picture of so many with this around it."""
        return (
            wide + math.ceil(self.left) + math.ceil(self.right),
            tall + math.ceil(self.top) + math.ceil(self.bottom),
        )


def hex_text(colour: Rgb) -> str:
    """A colour of a palette as "#RRGGBB"."""
    red, green, blue = (round(part) for part in colour.tolist())
    return hex_of((red, green, blue))


def frame_of(plan: Plan, look: MapLook, wide: float, tall: float, least: float = 0.0) -> Frame:
    """wide, tall : of a cell.  least : height of the words at least; its units are the picture's."""
    box = look.box(plan)
    rows, cols = box.shape
    frame = Frame(max(least, _TEXT * max(cols * wide, rows * tall)))
    if look.scales:
        _scales(plan, look, frame, wide, tall)
    if look.legend:
        _legend(plan, look, frame, cols * wide, rows * tall)
    return frame


def _width(text: str, size: float) -> float:
    return len(text) * _LETTER * size


def _labelled(first: int, count: int, size: float, room: float) -> list[int]:
    """Which of some cells in a row get a label; at least one. first : the index of the first."""
    every = stride(size, room)
    return [at for at in range(count) if (first + at) % every == 0] or [0]


def _scales(plan: Plan, look: MapLook, frame: Frame, wide: float, tall: float) -> None:
    """Cell indices at the middle of cells, and world units at their low edges."""
    spec, box, text = plan.spec, look.box(plan), frame.text
    palette = look.palette
    columns = [(number(col + spec.first_col), number(spec.origin_x + col * spec.cell_w)) for col in range(box.c0, box.c1)]  # fmt: skip
    # Rows of the screen; where y grows up the lowest row is at the foot.
    slots = [spec.rows - 1 - row if spec.y_up else row for row in range(box.r0, box.r1)]
    rows = [
        (number(row + spec.first_row), number(spec.origin_y + row * spec.cell_h)) for row in slots
    ]
    widest = max(_width(words, text) for pair in rows for words in pair)
    frame.left, frame.top, frame.right, frame.bottom = widest + text, 3.2 * text, text, text
    room = max(_width(words, text) for pair in columns for words in pair) + text
    for at in _labelled(box.c0 + spec.first_col, len(columns), wide, room):
        index, place = columns[at]
        x = frame.left + at * wide
        frame.marks += [
            Words(x + wide / 2, 0.9 * text, index, palette.ink, "middle"),
            Words(x + text / 4, 2.2 * text, place, palette.muted),
            Swatch(x, 2.8 * text, text / 10, 0.4 * text, palette.muted),
        ]
    lowest = min(slots)
    for above in _labelled(lowest + spec.first_row, len(rows), tall, 2.6 * text):
        at = slots.index(lowest + above)
        index, place = rows[at]
        y = frame.top + at * tall
        low = y + tall if spec.y_up else y
        middle = max(y + 0.6 * text, y + tall / 2 - 0.6 * text)
        x = frame.left - 0.6 * text
        frame.marks += [
            Words(x, middle, index, palette.ink, "end"),
            Words(x, middle + 1.2 * text, place, palette.muted, "end"),
            Swatch(frame.left - 0.4 * text, low, 0.4 * text, text / 10, palette.muted),
        ]


def _legend(plan: Plan, look: MapLook, frame: Frame, wide: float, tall: float) -> None:
    """The plan's name, and what is there, in columns below the map. wide, tall : of the map."""
    text, palette = frame.text, look.palette
    entries = list(_entries(plan, look))
    column = max((_width(words, text) for _colour, words in entries), default=0.0) + 3.4 * text
    total = frame.left + wide + frame.right
    across = max(1, int((total - text) // column))
    down = -(-len(entries) // across)
    y = frame.top + tall + 1.8 * text
    frame.marks.append(Words(text, y, plan.name, palette.ink, bold=True))
    for at, (colour, words) in enumerate(entries):
        x = text + at // down * column
        line = y + (at % down + 1) * 1.7 * text
        frame.marks += [
            Swatch(x, line - 0.6 * text, 1.6 * text, 1.2 * text, palette.muted),
            Swatch(x + text / 12, line - 0.6 * text + text / 12, 1.6 * text - text / 6, 1.2 * text - text / 6, colour),
            Words(x + 2.2 * text, line, words, palette.ink),
        ]  # fmt: skip
    frame.bottom = (2.8 + 1.7 * (down + 0.3)) * text


def _entries(plan: Plan, look: MapLook) -> Iterator[tuple[str, str]]:
    """Colour and words of everything that is there."""
    spec, palette = plan.spec, look.palette
    part = spec.mirrored(look.box(plan)).slices
    there = np.bincount(plan.terrain[part].ravel(), minlength=len(plan.terrain_table))
    for code, item in enumerate(plan.terrain_table):
        if there[code]:
            yield hex_text(palette.ground(item.dye)), item.name
    if "reserved" not in look.hidden and plan.reserved[part].any():
        yield palette.heather, phrase("Reserved ground")
    if "roads" not in look.hidden:
        classes = set(np.unique(plan.road[part] & np.uint8(CLASS_BITS)).tolist())
        for code, road in enumerate(plan.road_table, 1):
            if code in classes:
                yield hex_text(palette.way(road.dye)), road.name
    if "barriers" not in look.hidden and plan.barrier[part].any():
        yield palette.walnut, phrase("Barrier")
    occupants = np.unique(plan.occupant[part])
    if "obstacles" not in look.hidden:
        for look_of in sorted(
            {plan.obstacles[-each].look for each in occupants.tolist() if each < 0}
        ):
            yield palette.walnut, look_of.capitalize()
    if "structures" not in look.hidden:
        counts: dict[str, int] = {}
        for each in occupants[occupants > 0].tolist():
            key = plan.register[each].kind
            counts[key] = counts.get(key, 0) + 1
        for kind in plan.kinds:
            if count := counts.get(kind.key):
                yield kind.dye, f"{kind.code} {kind.name} ({count})"
