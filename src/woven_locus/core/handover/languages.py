"""The languages in which the rules of a plan are handed over, one table."""

from __future__ import annotations

from woven_locus.core.phrase import phrase
from woven_locus.core.value import Value

# The parts that every language has, with what they are for.
PARTS = {
    "grid": "world points to cells and back, snapping",
    "footprint": "cells and doors of a kind, turned and mirrored",
    "plan": "the reader, and what stands while a game goes on",
    "placement": "may it stand there, and why not?",
    "roads": "the shape of a road cell, which structures a road joins",
    "routes": "A* over roads and ground",
    "lanes": "the lane graph, the quickest way through it",
}


class Language(Value):
    """One language.

    key : as it is asked for.  name : in words.  files : all that is written, by place in the folder.
    build : how the runner is built, empty where it need not be.  run : how it is called.
    needs : what has to be there.
    """

    key: str
    name: str
    files: tuple[str, ...]
    build: str
    run: str
    needs: str

    @property
    def templates(self) -> dict[str, str]:
        """The template of each file, by its place beside this module."""
        found = {name: f"templates/{self.key}/{name}.j2" for name in self.files}
        return found | {"README.md": "templates/README.md.j2"}


def _in(folder: str, *names: str) -> tuple[str, ...]:
    return tuple(f"{folder}/{name}" for name in names)


LANGUAGES: dict[str, Language] = {
    item.key: item
    for item in (
        Language(
            "python",
            "Python",
            ("run.py", *_in("locus", "__init__.py", *(f"{part}.py" for part in PARTS))),
            "",
            "python3 run.py",
            phrase("Python 3.10 or later, and nothing besides"),
        ),
        Language(
            "javascript",
            "JavaScript",
            ("run.mjs", *_in("locus", *(f"{part}.mjs" for part in (*PARTS, "queue")))),
            "",
            "node run.mjs",
            phrase(
                "Node 18 or later; in a browser `plan.mjs` has to read and inflate in another way"
            ),
        ),
        Language(
            "csharp",
            "C#",
            (
                *("run.csproj", "Run.cs"),
                *_in("Locus", "Json.cs", "Grid.cs", "Footprint.cs", "Kind.cs", "Plan.cs"),
                *_in("Locus", "Placement.cs", "Roads.cs", "Queue.cs", "Routes.cs"),
                *_in("Locus", "CellLanes.cs", "LaneGraph.cs"),
            ),
            "dotnet build -c Release -o out",
            "out/run",
            phrase(
                "C# 7.2 or later: .NET 6 and later, or Mono (`mcs -out:run.exe Run.cs Locus/*.cs`)"
            ),
        ),
        Language(
            "cpp",
            "C++",
            (
                *("Makefile", "run.cpp"),
                *_in("locus", *(f"{part}.{end}" for part in PARTS for end in ("hpp", "cpp"))),
                *_in("locus", "json.hpp", "json.cpp", "inflate.hpp", "inflate.cpp"),
            ),
            "make",
            "./run",
            phrase("a compiler for C++17 and make"),
        ),
        Language(
            "lua",
            "Lua",
            (
                "run.lua",
                *_in("locus", *(f"{part}.lua" for part in (*PARTS, "queue", "json", "inflate"))),
            ),
            "",
            "lua5.4 run.lua",
            phrase("Lua 5.3 or 5.4"),
        ),
    )
}
