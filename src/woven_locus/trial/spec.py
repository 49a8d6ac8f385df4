"""What a trial asks: a TOML file, read and checked, and the runs that follow from it."""

from __future__ import annotations

import itertools
import os
import re
import tomllib
from collections.abc import Iterator
from pathlib import Path
from typing import Any

from woven_locus.core.errors import FileProblem
from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value
from woven_locus.core.vehicles import LONGEST_RUN
from woven_locus.files.atomic import read_bytes

RUNS = ("traffic", "waves", "proof")
MOST_RUNS = 1_000_000
LARGEST = 1 << 20
# What is noted when nothing is said.
NOTES = {
    "traffic": (
        "wanted",
        "arrived",
        "mean_trip",
        "p95_trip",
        "mean_delay",
        "mean_speed",
        "stuck",
        "digest",
    ),
    "waves": (
        "outcome.held",
        "outcome.lives",
        "outcome.funds",
        "outcome.seconds",
        "outcome.digest",
    ),
    "proof": ("counts.error", "counts.warning", "counts.note"),
}
_RANGE = re.compile(r"(-?\d+)\.\.(-?\d+)")


class Varied(Value):
    """What can be varied. check : says what is wrong with a value, or nothing.  runs : of which runs it can be."""

    what: str
    check: Any
    runs: tuple[str, ...] = RUNS


def _number(least: float, most: float, whole: bool = False) -> Any:
    def check(value: Any) -> str:
        kind = int if whole else int | float
        if isinstance(value, bool) or not isinstance(value, kind) or not least <= value <= most:
            return phrase(
                "{value} from {least:g} to {most:g}",
                value="a whole number" if whole else "a number",
                least=least,
                most=most,
            )
        return ""

    return check


def _one_of(*words: str) -> Any:
    return lambda value: "" if value in words else phrase("one of {names}", names=", ".join(words))


VARIED = {
    "seed": Varied(phrase("of chance"), _number(0, 2**63 - 1, whole=True)),
    "seconds": Varied(
        phrase("how long traffic runs"), _number(0.1, LONGEST_RUN), ("traffic", "proof")
    ),
    "vehicles": Varied(
        phrase("how many times as many as the trips say"), _number(0, 1000), ("traffic", "proof")
    ),
    "junctions": Varied(
        phrase("who goes first at all junctions"), _one_of("first", "larger"), ("traffic", "proof")
    ),
    "keep": Varied(phrase("the side of the road"), _one_of("right", "left")),
    "attackers": Varied(
        phrase("how many times as many as the waves say"), _number(0, 1000), ("waves",)
    ),
    "health": Varied(
        phrase("how many times the health of attackers"), _number(0.001, 1000), ("waves",)
    ),
    "lives": Varied(phrase("at the beginning"), _number(1, 1_000_000, whole=True), ("waves",)),
    "prices": Varied(phrase("how many times the prices of kinds"), _number(0, 1000)),
    "opening": Varied(phrase("the opening funds"), _number(0, 10**12, whole=True)),
}


class Spec(Value):
    """plans : their files.  run : traffic, waves or proof.  seconds : of traffic, unless varied.  vary : names with their
    values, in the file's order.  note : keys of the answer, with points between them."""

    plans: tuple[Path, ...]
    run: str
    seconds: float
    vary: tuple[tuple[str, tuple[Any, ...]], ...]
    note: tuple[str, ...]

    @property
    def columns(self) -> list[str]:
        """Of the table: what is varied, what is noted, what it was noted of, and what went wrong."""
        several = ["plan"] if len(self.plans) > 1 else []
        return [*several, *(name for name, _ in self.vary), *self.note, "plan_digest", "problem"]

    def name_of(self, plan: Path) -> str:
        """Which of its plans that is, from the folder on in which they all are."""
        around = os.path.commonpath([os.path.abspath(each.parent) for each in self.plans])
        return os.path.relpath(plan, around)

    @property
    def count(self) -> int:
        """How many runs it asks for."""
        found = len(self.plans)
        for _name, values in self.vary:
            found *= len(values)
        return found

    def seconds_of(self, settings: dict[str, Any]) -> float:
        """Of traffic, in a run with these settings."""
        seconds: float = settings.get("seconds", self.seconds)
        return seconds

    def jobs(self, first: int = 0) -> Iterator[tuple[Path, bytes, dict[str, Any]]]:
        """`runs` from one on, with the plan's bytes, which are read once and when they are needed. Raises FileProblem."""
        of, data = None, b""
        for plan, settings in itertools.islice(self.runs(), first, None):
            if plan != of:
                of, data = plan, read_bytes(plan)
            yield plan, data, settings

    def runs(self) -> Iterator[tuple[Path, dict[str, Any]]]:
        """The plan and the settings of each run, the last name varying fastest."""
        names = [name for name, _ in self.vary]
        for plan in self.plans:
            for values in itertools.product(*(values for _name, values in self.vary)):
                yield plan, dict(zip(names, values, strict=True))


def load(path: Path) -> Spec:
    """Read a trial; plans are looked for beside it. Raises FileProblem: file, place, what was expected."""
    try:
        found = tomllib.loads(read_bytes(path, LARGEST).decode("utf-8"))
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as err:
        raise FileProblem(path, "", phrase("is no TOML: {err}", err=err)) from err

    def wrong(place: str, what: str) -> FileProblem:
        return FileProblem(path, place, what)

    known = ("plan", "run", "seconds", "vary", "note")
    for key in found:
        if key not in known:
            raise wrong(key, phrase("is unknown; expected {names}", names=", ".join(known)))
    run = found.get("run")
    if run not in RUNS:
        raise wrong(
            "run", phrase("expected one of {names}, not {run!r}", names=", ".join(RUNS), run=run)
        )
    seconds = found.get("seconds", 60.0 if run == "traffic" else 0.0)
    if (problem := _number(0, LONGEST_RUN)(seconds)) or (run == "traffic" and not seconds):
        raise wrong(
            "seconds",
            phrase(
                "expected {problem}, not {seconds!r}",
                problem=problem or "more than 0",
                seconds=seconds,
            ),
        )
    vary = tuple(_vary(found.get("vary", {}), run, wrong))
    note = found.get("note", list(NOTES[run]))
    if (
        not isinstance(note, list)
        or not note
        or not all(isinstance(key, str) and key for key in note)
    ):
        raise wrong(
            "note",
            phrase("expected a list of keys, for instance {list}", list=list(NOTES[run])[:2]),
        )
    spec = Spec(
        _plans(found.get("plan"), path, wrong),
        run,
        float(seconds),
        vary,
        tuple(dict.fromkeys(note)),
    )
    if spec.count > MOST_RUNS:
        raise wrong(
            "vary",
            phrase(
                "{count:,} runs are too many; at most {most_runs:,}",
                count=spec.count,
                most_runs=MOST_RUNS,
            ),
        )
    return spec


def _plans(given: Any, path: Path, wrong: Any) -> tuple[Path, ...]:
    names = [given] if isinstance(given, str) else given
    if (
        not isinstance(names, list)
        or not names
        or not all(isinstance(name, str) and name for name in names)
    ):
        raise wrong("plan", phrase("expected the file of a plan, a folder, or a list of them"))
    found: dict[Path, None] = {}
    for name in names:
        place = path.parent / name
        if place.is_dir():
            inside = sorted(place.rglob("*.plan.json"))
            if not inside:
                raise wrong("plan", phrase("there is no *.plan.json in {place}", place=place))
            found.update(dict.fromkeys(inside))
        elif place.is_file():
            found[place] = None
        else:
            raise wrong("plan", phrase("there is no {place}", place=place))
    return tuple(found)


def _vary(given: Any, run: str, wrong: Any) -> Iterator[tuple[str, tuple[Any, ...]]]:
    if not isinstance(given, dict):
        raise wrong("vary", phrase("expected a table of names with their values"))
    for name, values in given.items():
        varied = VARIED.get(name)
        if varied is None or run not in varied.runs:
            names = [key for key, item in VARIED.items() if run in item.runs]
            raise wrong(
                f"vary.{name}",
                phrase("cannot be varied of {run}; {names} can", run=run, names=", ".join(names)),
            )
        if isinstance(values, str) and (ends := _RANGE.fullmatch(values)):
            first, last = int(ends[1]), int(ends[2])
            if not 0 <= last - first < MOST_RUNS:
                raise wrong(
                    f"vary.{name}",
                    phrase(
                        "{values!r} is no range of at most {most_runs:,}, like 0..99",
                        values=values,
                        most_runs=MOST_RUNS,
                    ),
                )
            values = list(range(first, last + 1))
        if not isinstance(values, list) or not values:
            raise wrong(
                f"vary.{name}", phrase("expected a list of values, or whole numbers as 0..99")
            )
        for value in values:
            if problem := varied.check(value):
                raise wrong(
                    f"vary.{name}",
                    phrase("expected {problem}, not {value!r}", problem=problem, value=value),
                )
        yield name, tuple(values)
