"""Whatever a file, an argument or the output is: one line and exit 2, never a traceback, never a hang, never
memory without end; a crash is 70."""

import os
import resource
import struct
import subprocess
import sys
import zlib
from pathlib import Path

import pytest

from tests.helpers import patience
from woven_locus.cli import main as main_module
from woven_locus.core.names import name_problem
from woven_locus.files import plan_json

# What a process of the command line may take: the program itself and a reader with its answer.
_MEMORY = 3 << 30


def command(
    *args: object, stdout: int | None = subprocess.PIPE, data: bytes = b""
) -> subprocess.CompletedProcess[bytes]:
    """The command in a process of its own, with a limit on time and memory."""
    code = "from woven_locus.cli.main import run; run()"
    return subprocess.run(
        [
            sys.executable,
            "-c",
            code,
            *[os.fsencode(a) if isinstance(a, str) else str(a) for a in args],
        ],
        stdout=stdout,
        stderr=subprocess.PIPE,
        input=data,
        timeout=patience.SECONDS,
        preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_AS, (_MEMORY, _MEMORY)),
        check=False,
    )


def assert_refused(done: subprocess.CompletedProcess[bytes], words: str) -> None:
    said = done.stderr.decode("utf-8", "backslashreplace")
    assert done.returncode == 2, said
    assert len(said.splitlines()) == 1, said
    assert words in said


def test_a_pipe_and_a_device_are_no_plans(tmp_path: Path) -> None:
    pipe = tmp_path / "pipe.plan.json"
    os.mkfifo(pipe)
    assert_refused(command("links", pipe), "is a pipe; expected a file")
    assert_refused(command("links", "/dev/zero"), "is a device; expected a file")


def test_files_far_too_large_are_refused_at_once(plan: Path, tmp_path: Path) -> None:
    sparse = tmp_path / "register.csv"
    with sparse.open("wb") as file:
        file.truncate(1 << 30)
    done = command("import", plan, sparse, "--as", "register-csv")
    assert_refused(done, "is 1,073,741,824 bytes long; the most that is read is 67,108,864")
    whole = tmp_path / "large.plan.json"
    with whole.open("wb") as file:
        file.truncate((1 << 30) + 1)
    assert_refused(command("links", whole), "bytes long")


def _png(wide: int, tall: int, sort: int, row: bytes) -> bytes:
    def chunk(name: bytes, body: bytes) -> bytes:
        return (
            struct.pack(">I", len(body)) + name + body + struct.pack(">I", zlib.crc32(name + body))
        )

    packer = zlib.compressobj(1)
    body = b"".join(packer.compress(row) for _ in range(tall)) + packer.flush()
    head = struct.pack(">IIBBBBB", wide, tall, 8, sort, 0, 0, 0)
    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", body) + chunk(b"IEND", b"")


def test_a_large_picture_takes_no_more_than_its_share_of_memory(plan: Path, tmp_path: Path) -> None:
    """RGBA, 4096 by 4096: 64 MB of pixels, 64 MB of answer."""
    picture = tmp_path / "terrain.png"
    picture.write_bytes(_png(4096, 4096, 6, b"\0" + b"\xa9\xb0\x7a\xff" * 4096))
    code = f"""
import resource, sys
from pathlib import Path
from woven_locus.files import pictures
before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
found = pictures.load_picture(Path({str(picture)!r}))
after = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
assert found.colours == ((0xA9, 0xB0, 0x7A),)
print((after - before) * 1024 / found.codes.nbytes)
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert float(done.stdout) < 8


def test_a_tall_picture_is_read_by_bands_not_by_rows(tmp_path: Path) -> None:
    from woven_locus.files import pictures, rasters

    tall = _png(1, 300_000, 0, b"\0\x07")
    calls = 0

    def stopped() -> bool:
        nonlocal calls
        calls += 1
        return False

    found = pictures.parse_picture(tall, stopped=stopped)
    assert found.counts == (300_000,)
    assert calls < 5
    assert rasters.Spread(pictures.parse_grey(tall)).scaled(1, 0) == (7, 7, 0)


def test_standard_input_is_read_to_its_end(plan: Path) -> None:
    done = command("links", "-", data=plan.read_bytes())
    assert done.returncode == 0
    assert done.stdout.startswith(b'{"groups"')
    assert_refused(
        command(
            "links",
            "-",
            data=b'{"format": "woven-locus/plan", "version": 4, "name": ' + b"[" * 100_000,
        ),
        "nested too deeply",
    )
    # What goes through a pipe comes out whole, or not at all.
    assert_refused(
        command("place", "-", "--kind", "none", "--cell", "3,1", data=plan.read_bytes()), "none"
    )


def test_names_that_are_no_utf8_are_escaped_or_refused_before_anything_is_written(
    tmp_path: Path,
) -> None:
    folder = os.fsencode(tmp_path)
    done = command("new", os.fsdecode(folder + b"/\xff\xfe.plan.json"), "--size", "4x4")
    assert done.returncode == 0, done.stderr
    assert b"\\udcff" in done.stdout
    assert len(os.listdir(folder)) == 1
    assert plan_json.load(Path(os.fsdecode(folder + b"/\xff\xfe.plan.json"))).name == "??"
    done = command("new", tmp_path / "b.plan.json", "--size", "4x4", "--name", os.fsdecode(b"\xff"))
    assert_refused(done, "control character")
    assert not (tmp_path / "b.plan.json").exists()
    done = command("new", tmp_path / "b.plan.json", "--size", "4x4", "--name", "a\u202eb")
    assert_refused(done, "U+202E")


def test_what_a_file_or_an_argument_says_is_no_command_to_the_terminal(
    run,
    plan: Path,
    tmp_path: Path,  # type: ignore[no-untyped-def]
) -> None:
    field = '"\\u001b[2J\\n' + "x" * 100_000 + '": 1, '
    plan.write_text(plan.read_text().replace("{", "{" + field, 1))
    for args in (
        ("place", plan, "--kind", "hut", "--cell", "1,1"),
        ("place", tmp_path / "\x1b[2J\n\u202e", "--kind", "hut", "--cell", "1,1"),
        ("\x1b[2J\n",),
    ):
        answer = run(*args)
        said = answer.err
        assert answer.code == 2
        assert "\\x1b[2J" in said
        assert said.endswith("\n")
        assert name_problem(said[:-1]) == ""
        assert len(said) < 2_100


def test_output_that_cannot_be_written_is_told(plan: Path) -> None:
    with open("/dev/full", "wb") as full:
        done = command("links", plan, stdout=full.fileno())
    assert_refused(done, "standard output cannot be written: No space left on device")


def test_a_bug_is_exit_70(
    plan: Path, monkeypatch: pytest.MonkeyPatch, capsys: pytest.CaptureFixture[str]
) -> None:
    def broken(_path: object) -> None:
        raise ZeroDivisionError("a bug")

    monkeypatch.setattr(plan_json, "load", broken)
    assert main_module.main(["links", str(plan)]) == 70
    said = capsys.readouterr().err
    assert "ZeroDivisionError: a bug" in said
    assert len(said.splitlines()) == 1


@pytest.mark.parametrize(
    "args",
    [
        ["probe", "PLAN", "--kind", "hut", "--cell", f"{10**400},1"],
        ["probe", "PLAN", "--kind", "hut", "--cell", "1_0,1"],
        ["probe", "PLAN", "--kind", "hut", "--cell", "\u0663,1"],
        ["snap", "PLAN", "--rule", "corner", "nan,1"],
        ["snap", "PLAN", "--rule", "corner", f"1e{'9' * 5000},1"],
        ["route", "PLAN", "--from", f"S{'9' * 6000}", "--to", "S1"],
        ["import", "PLAN", "PLAN", "--as", "heights-png", "--nodata", str(10**30)],
    ],
)
def test_numbers_beyond_all_measure_are_refused(run, plan: Path, args: list[str]) -> None:  # type: ignore[no-untyped-def]
    assert run(*[str(plan) if arg == "PLAN" else arg for arg in args]).code == 2


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ('"next_number": 0', "next_number: must be at least 1, not 0"),
        ('"next_number": -1', "next_number: must be at least 1, not -1"),
        ('"next_number": 4, "next_number": 4', "key 'next_number' is there twice"),
        ('"nextNumber": 4', "nextNumber"),
    ],
)
def test_what_a_plan_may_not_say(run, plan: Path, change: str, words: str) -> None:  # type: ignore[no-untyped-def]
    plan.write_text(plan.read_text().replace('"next_number": 4', change))
    refused = run("links", plan)
    assert refused.code == 2
    assert words in refused.err


def test_whole_numbers_may_have_a_point_and_a_schema_may_be_named(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    text = plan.read_text().replace(
        '"next_number": 4', '"$schema": "plan.schema.json",\n"next_number": 4.0'
    )
    plan.write_text(text.replace('"turn": 0', '"turn": 0.0'))
    assert run("links", plan).code == 0
    assert plan_json.load(plan).register.next_number == 4
    plan.write_text(plan.read_text().replace('"next_number": 4.0', '"next_number": 4.5'))
    assert run("links", plan).code == 2


def test_an_obstacle_stands_somewhere(run, plan: Path) -> None:  # type: ignore[no-untyped-def]
    rock = '"obstacles": [{"number": 1, "name": "Rock", "look": "boulder", "cells": []}]'
    plan.write_text(plan.read_text().replace('"obstacles": []', rock))
    assert "stands on one cell or more" in run("links", plan).err


def test_a_plan_that_changed_between_reading_and_writing_is_not_written_over(
    run,  # type: ignore[no-untyped-def]
    plan: Path,
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    from woven_locus.document import Document

    real = Document.open

    def meddled(path: Path) -> Document:
        document = real(path)
        other = real(path)
        other.plan.name = "Another program"
        other.save(over=True)
        return document

    monkeypatch.setattr(Document, "open", meddled)
    refused = run("place", plan, "--kind", "hut", "--cell", "3,1")
    assert refused.code == 2
    assert "another program or window wrote it" in refused.err
    assert plan_json.load(plan).name == "Another program"


def test_formulas_in_tables_are_written_as_text_and_read_back(
    run, plan: Path, tmp_path: Path
) -> None:  # type: ignore[no-untyped-def]
    from woven_locus.core.value import replace
    from woven_locus.document import Document

    names = ["=1+1", "+x", "-y", "@z", "'quoted", "plain", "-5"]
    document = Document.open(plan)
    kinds = document.plan.kinds
    hut = kinds["hut"]
    for at, name in enumerate(names):
        kinds = kinds.with_kind(replace(hut, key=f"k{at}", name=name))
    document.plan.kinds = kinds
    document.save(over=True)
    out = tmp_path / "kinds.csv"
    assert run("export", plan, "--as", "kinds-csv", "--out", out).code == 0
    cells = [line.split(",")[1] for line in out.read_text().splitlines() if line.startswith("k")][
        1:
    ]
    assert cells == ["'=1+1", "'+x", "'-y", "'@z", "''quoted", "plain", "-5"]
    fresh = tmp_path / "fresh.plan.json"
    assert run("new", fresh, "--size", "4x4").code == 0
    assert run("import", fresh, out, "--as", "kinds", "--over").code == 0
    told = plan_json.load(fresh).kinds
    assert [told[f"k{at}"].name for at in range(len(names))] == names
