"""Whatever a file holds, the answer is one line: no traceback, no hang, no memory without end.

`make test` tries some inputs of each reader, `make fuzz` a hundred thousand (FUZZ_INPUTS).
"""

import os
import shutil
from pathlib import Path

import numpy as np
import pytest

from tests.helpers.fuzzing import (
    CORPUS,
    MEMORY,
    READERS,
    broken,
    limited,
    make_journal,
    peak,
    read,
    tamper,
)
from tests.helpers.state import recorded
from woven_locus.core.errors import FileProblem
from woven_locus.document import Document
from woven_locus.files import plan_json
from woven_locus.files.left_over import left_over

INPUTS = int(os.environ.get("FUZZ_INPUTS", "400"))
SEED = int(os.environ.get("FUZZ_SEED", "1"))


@pytest.mark.parametrize("name", READERS)
def test_a_broken_file_is_refused_in_one_line(name: str, tmp_path: Path) -> None:
    good, before = 0, peak()
    for count, data in enumerate(broken(name, INPUTS, SEED)):
        # What breaks it stays there for a look, and for the corpus.
        kept = tmp_path / f"{name}-{count}"
        kept.write_bytes(data)
        good += read(name, data)
        kept.unlink()
    assert good > 0  # some of them are whole
    assert peak() - before < MEMORY


def test_a_plan_that_was_read_can_be_written_and_read_again() -> None:
    for data in broken("plan", INPUTS // 4, SEED + 1):
        try:
            plan = plan_json.parse(data)
        except FileProblem:
            continue
        again = plan_json.parse(plan_json.dump(plan))
        assert recorded(again) == recorded(plan)


def test_a_journal_that_was_tampered_with_is_refused_in_one_line(tmp_path: Path) -> None:
    rng = np.random.default_rng(SEED)
    whole = tmp_path / "whole"
    make_journal(whole)
    restored = refused = 0
    for count in range(INPUTS):
        folder = tmp_path / "at"
        shutil.copytree(whole, folder)
        (journal,) = left_over(folder)
        for _ in range(int(rng.integers(1, 3))):
            tamper(journal, rng)
        before = restored + refused
        with limited():
            for found in left_over(folder):
                try:
                    document = Document.restore(found)
                except FileProblem as err:
                    refused += "\n" not in str(err)
                else:
                    # Whatever came of it passes the reader.
                    plan_json.parse(plan_json.dump(document.plan))
                    restored += 1
            # None that one could restore: cleared away, or left for a person to look at.
            refused += restored + refused == before
        shutil.rmtree(folder)
        assert restored + refused > before, count
    assert restored > 0
    assert refused > 0


def test_the_corpus_is_there() -> None:
    names = {file.name.partition("-")[0] for file in CORPUS.iterdir()}
    assert names <= set(READERS)
    assert len(names) >= 3
