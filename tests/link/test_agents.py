"""Agents of a game, as clients report them."""

import math

import numpy.testing as npt
import pytest

from woven_locus.core.errors import Refused
from woven_locus.link.agents import MOST_AGENTS, NOBODY, AgentRow, reported, together


def test_what_is_reported_is_kept_as_arrays() -> None:
    found = reported([AgentRow("a", 1, 2, 90, "guard"), AgentRow("b", -3, 4.5)])
    assert (found.names, found.kinds) == (("a", "b"), ("guard", ""))
    npt.assert_array_equal(found.places, [[1, 2], [-3, 4.5]])
    npt.assert_array_equal(found.headings, [90, math.nan])
    both = together([found, NOBODY, reported([AgentRow("c", 0, 0)])])
    assert both.names == ("a", "b", "c")
    assert both.places.shape == (3, 2)
    assert together([NOBODY]) is NOBODY
    assert reported([]).places.shape == (0, 2)


@pytest.mark.parametrize(
    ("rows", "why"),
    [
        ([AgentRow("a", math.nan, 0)], "at no place"),
        ([AgentRow("a", 0, 0, math.inf)], "at no place"),
        ([AgentRow("a" * 100, 0, 0)], "at most 80"),
        ([AgentRow("a", 0, 0)] * (MOST_AGENTS + 1), "too many"),
    ],
)
def test_what_is_no_agent_is_refused(rows: list[AgentRow], why: str) -> None:
    with pytest.raises(Refused, match=why):
        reported(rows)
