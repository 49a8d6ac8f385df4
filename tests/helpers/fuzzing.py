"""Broken inputs for every reader: bytes, tokens, JSON values, PNG chunks, CSV cells and journal rows changed,
seeded, so that each can be made again."""

from __future__ import annotations

import io
import json
import resource
import signal
import sqlite3
import struct
import zlib
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from tests.helpers.builders import WHEN, draw, put
from woven_locus.core import edits
from woven_locus.core.editing import Keep, Regrid
from woven_locus.core.edits import heights, kinds, money, roads
from woven_locus.core.edits.grid import regrid
from woven_locus.core.errors import FileProblem
from woven_locus.core.geometry import Cell, Point
from woven_locus.core.lanes import KeepSide
from woven_locus.core.names import name_problem
from woven_locus.document import Document
from woven_locus.files import ascii_grid, catalogue, pictures, plan_json, register_csv
from woven_locus.files.left_over import LeftOver, left_over

CORPUS = Path(__file__).parent.parent / "corpus"
SECONDS, MEMORY = 5, 1 << 30

Random = np.random.Generator
_TOKENS = [
    *(b"0", b"-1", b"5.0", b"1e400", b"99999999999999999999", b"NaN", b"null", b"true", b'""'),
    *(b"[]", b"{}", b"[[[[", b'"\\u0000"', b'"\\ud800"', b"\xff\xfe", b"\x00", b",", b"\n", b"1_0"),
    *("\u0663".encode(), "\u202e".encode(), b"=1+1", b"'", b'"', b"-9999", b"nan", b"inf"),
]
_VALUES: list[Any] = [
    *(None, True, 0, -1, 1, 2**31, 2**63, 10**30, 0.5, 5.0, 1e308, "", "x", "\x00", "A" * 5000),
    *([], {}, [[]], [None], ["1"], {"a": 1}, [[1, 2], [3]], "#12", "../x", "\u202e"),
]


def some_bytes(data: bytes, rng: Random) -> bytes:
    """A few places changed, without a look at what they mean."""
    out = bytearray(data)
    for _ in range(int(rng.integers(1, 6))):
        at = int(rng.integers(0, len(out) + 1))
        what = rng.integers(6)
        if what == 0 and out:
            out[min(at, len(out) - 1)] = int(rng.integers(256))
        elif what == 1:
            del out[at : at + int(rng.integers(1, 40))]
        elif what == 2:
            out[at:at] = _TOKENS[rng.integers(len(_TOKENS))]
        elif what == 3:
            piece = bytes(out[at : at + int(rng.integers(1, 200))])
            out[at:at] = piece * int(rng.integers(1, 20))
        elif what == 4:
            out[at:] = b""
        else:
            out[at : at + 8] = struct.pack(
                ">d", float(rng.normal()) * 10.0 ** rng.integers(-9, 300)
            )
    return bytes(out)


def json_values(data: bytes, rng: Random) -> bytes:
    """A value, somewhere, is another one, is gone, or is there twice."""
    document = json.loads(data)
    for _ in range(int(rng.integers(1, 4))):
        here: Any = document
        while True:
            if isinstance(here, dict) and here:
                key: Any = list(here)[rng.integers(len(here))]
            elif isinstance(here, list) and here:
                key = int(rng.integers(len(here)))
            else:
                break
            deeper = isinstance(here[key], dict | list) and here[key] and rng.random() < 0.7
            if deeper:
                here = here[key]
                continue
            what = rng.integers(4)
            if what == 0 and isinstance(here, dict):
                del here[key]
            elif what == 1 and isinstance(here, list):
                here.append(here[key])
            elif what == 2 and isinstance(here[key], str) and here[key]:
                text = here[key]
                at = int(rng.integers(len(text)))
                here[key] = text[:at] + str(rng.integers(10**6)) + text[at:]
            else:
                here[key] = _VALUES[rng.integers(len(_VALUES))]
            break
    return json.dumps(document).encode()


def png_chunks(data: bytes, rng: Random) -> bytes:
    """Chunks changed, moved, copied or dropped, with checksums that are right again."""
    chunks, at = [], 8
    while at + 8 <= len(data):
        (length,) = struct.unpack(">I", data[at : at + 4])
        chunks.append((data[at + 4 : at + 8], data[at + 8 : at + 8 + length]))
        at += 12 + length
    for _ in range(int(rng.integers(1, 4))):
        k = int(rng.integers(len(chunks)))
        name, body = chunks[k]
        what = rng.integers(6)
        if what == 0:
            chunks[k] = name, some_bytes(body, rng)
        elif what == 1:
            chunks.insert(int(rng.integers(len(chunks) + 1)), (name, body))
        elif what == 2 and len(chunks) > 1:
            del chunks[k]
        elif what == 3:
            names = [
                b"iCCP",
                b"tRNS",
                b"PLTE",
                b"zTXt",
                b"tEXt",
                b"iTXt",
                b"pHYs",
                b"eXIf",
                b"acTL",
            ]
            fresh = names[rng.integers(len(names))], rng.bytes(int(rng.integers(0, 800)))
            chunks.insert(int(rng.integers(len(chunks) + 1)), fresh)
        elif what == 4 and name == b"IHDR" and len(body) == 13:
            wide, tall, depth, sort, *rest = struct.unpack(">IIBBBBB", body)
            wide = int(rng.choice([0, 1, wide, 5000, 2**31]))
            depth, sort = int(rng.choice([1, 2, 4, 8, 16, 3])), int(rng.integers(7))
            chunks[k] = name, struct.pack(">IIBBBBB", wide, tall, depth, sort, *rest)
        else:
            chunks[k] = name, body[: int(rng.integers(len(body) + 1))]
    out = data[:8]
    for name, body in chunks:
        out += struct.pack(">I", len(body)) + name + body
        out += struct.pack(">I", zlib.crc32(name + body))
    return out


def _png(mode: str, shape: tuple[int, int]) -> bytes:
    out = io.BytesIO()
    rng = np.random.default_rng(3)
    channels = {"RGB": 3, "RGBA": 4, "LA": 2}.get(mode, 1)
    dtype = np.uint16 if mode == "I;16" else np.uint8
    size = (*shape, channels) if channels > 1 else shape
    pixels = rng.integers(0, 250, size).astype(dtype)
    picture = Image.fromarray(pixels) if mode != "P" else Image.fromarray(pixels).convert("P")
    if mode == "P":
        picture.putpalette([int(n) for n in rng.integers(0, 256, 768)])
    picture.save(out, "PNG")
    return out.getvalue()


def _plan() -> bytes:
    plan = draw("..sk==\nob.r==\n......", cell=(2.5, 3))
    put(plan, "hut", 0, 2)
    put(plan, "ell", 3, 1) if plan.spec.cols > 6 else None
    plan.heights = np.arange(18, dtype=np.float32).reshape(3, 6)
    return plan_json.dump(plan)


Reader = Callable[[bytes], object]
Mutator = Callable[[bytes, Random], bytes]


def seeds(name: str) -> list[bytes]:
    """What a reader takes, and what once broke it."""
    plan = plan_json.parse(_plan())
    made: dict[str, list[bytes]] = {
        "plan": [_plan()],
        "kinds_json": [catalogue.to_json(plan.kinds, "coins").encode()],
        "kinds_csv": [catalogue.to_csv(plan.kinds).encode()],
        "register": [register_csv.dump(plan, lambda _number: True).encode()],
        "ascii": [ascii_grid.dump(plan.heights, plan.spec)],  # type: ignore[arg-type]
        "picture": [_png(mode, (7, 5)) for mode in ("RGB", "RGBA", "P", "L", "LA")],
        "grey": [_png("L", (7, 5)), _png("I;16", (7, 5))],
    }
    deep = b"[" * 100_000
    made["plan"] += [deep, b'{"format": "woven-locus/plan", "version": 4, "name": ' + deep]
    made["kinds_json"] += [deep, b'{"kinds": ' + deep]
    kept = sorted(CORPUS.glob(f"{name}-*"))
    return [*made[name], *(file.read_bytes() for file in kept)]


READERS: dict[str, tuple[Reader, tuple[Mutator, ...]]] = {
    "plan": (plan_json.parse, (some_bytes, json_values)),
    "kinds_json": (catalogue.from_json, (some_bytes, json_values)),
    "kinds_csv": (catalogue.from_csv, (some_bytes,)),
    "register": (register_csv.parse, (some_bytes,)),
    "ascii": (ascii_grid.parse, (some_bytes,)),
    "picture": (pictures.parse_picture, (some_bytes, png_chunks)),
    "grey": (pictures.parse_grey, (some_bytes, png_chunks)),
}


def broken(name: str, count: int, seed: int) -> Iterator[bytes]:
    """So many broken inputs of a reader, what once broke it first."""
    rng = np.random.default_rng(seed)
    start = seeds(name)
    yield from start
    mutators = READERS[name][1]
    for _ in range(count):
        data = start[rng.integers(len(start))]
        for _more in range(int(rng.integers(1, 3))):
            mutate = mutators[rng.integers(len(mutators))]
            try:
                data = mutate(data, rng)
            except (ValueError, struct.error, RecursionError):
                data = some_bytes(data, rng)
        yield data


class TooSlow(BaseException):
    """A reader that hangs."""


@contextmanager
def limited() -> Iterator[None]:
    """Raises TooSlow after SECONDS, and sees to it that no more than MEMORY is taken beyond what there is."""

    def late(_signal: int, _frame: object) -> None:
        raise TooSlow(f"took more than {SECONDS} seconds")

    before = signal.signal(signal.SIGALRM, late)
    signal.alarm(SECONDS)
    try:
        yield
    finally:
        signal.alarm(0)
        signal.signal(signal.SIGALRM, before)


def peak() -> int:
    """Bytes that this process has taken at most."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


def read(name: str, data: bytes) -> bool:
    """Whether it was read; refusals are one line."""
    reader = READERS[name][0]
    with limited():
        try:
            reader(data)
        except FileProblem as err:
            if name_problem(str(err)):
                raise AssertionError(f"no plain line: {str(err)!r}") from err
            return False
    return True


# --- journals --------------------------------------------------------------------------------------------


def make_journal(folder: Path) -> LeftOver:
    """One with steps of every sort."""
    plan = draw(".....\n=====\n.....")
    document = Document(plan)
    document.keep_journal(folder)
    history = document.history
    history.do(edits.place(plan, "hut", Cell(1, 0), 0, WHEN))
    history.do(money.set_funds(plan, 100, 50))
    history.do(money.place_actor(plan, Point(1, 1)))
    history.do(roads.keep_to(plan, KeepSide.LEFT))
    history.do(kinds.copy_kind(plan, "hut"))
    history.do(heights.set_heights(plan, np.ones(plan.spec.shape, np.float32), "Heights"))
    history.do(regrid(plan, Regrid(plan.spec.__class__(7, 4), Keep.INDEX)))
    history.undo()
    history.redo()
    history.begin("Stroke")
    history.do(edits.lay_road(plan, [Cell(0, 2), Cell(1, 2)]))
    history.commit()
    assert document.journal is not None
    document.journal.abandon()
    (found,) = left_over(folder)
    return found


_CELLS: list[Any] = [
    *(None, 0, -1, 2**62, 1.5, "", "x", "\x00", "do", "undo", "cancel", "back", "../../etc/passwd"),
    *(b"", b"\xff\xff", b"\x80", b"\x93\x01", "A" * 3000),
]


def tamper(journal: LeftOver, rng: Random) -> None:
    """Change a journal: a value of a row, its order, its tables, a pack beside it, or bytes of the file."""
    what = rng.integers(6)
    packs = sorted(journal.path.parent.glob("*.pack"))
    if what == 0 and packs:
        pack = packs[rng.integers(len(packs))]
        data = pack.read_bytes()
        if rng.random() < 0.5:
            pack.write_bytes(some_bytes(data, rng))
        else:
            with suppress(zlib.error, ValueError, RecursionError):
                document = zlib.decompress(data)
                pack.write_bytes(zlib.compress(READERS["plan"][1][rng.integers(2)](document, rng)))
        return
    if what == 1:
        journal.path.write_bytes(some_bytes(journal.path.read_bytes(), rng))
        return
    database = sqlite3.connect(journal.path)
    try:
        value = _CELLS[rng.integers(len(_CELLS))]
        if what == 2:
            column = str(rng.choice(["name", "path", "digest", "pack", "unsaved", "follows"]))
            database.execute(f"update base set {column} = ?", (value,))
        elif what == 3:
            row = int(rng.integers(1, 12))
            column = str(rng.choice(["action", "edit", "pack"]))
            database.execute(f"update steps set {column} = ? where seq = ?", (value, row))
        elif what == 4:
            row = int(rng.integers(1, 12))
            held = database.execute("select edit from steps where seq = ?", (row,)).fetchone()
            if held and isinstance(held[0], bytes) and held[0]:
                fresh = some_bytes(bytes(held[0]), rng)
                database.execute("update steps set edit = ? where seq = ?", (fresh, row))
        else:
            command = str(
                rng.choice(
                    [
                        "drop table steps",
                        "drop table base",
                        "delete from base",
                        "delete from steps where seq % 2",
                        "update steps set action = 'undo'",
                        "insert into base select * from base",
                    ]
                )
            )
            database.execute(command)
        database.commit()
    except (sqlite3.Error, ValueError, OverflowError):
        pass  # what was tampered with before can no longer be read
    finally:
        database.close()
